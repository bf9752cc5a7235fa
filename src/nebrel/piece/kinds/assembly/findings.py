"""What is said about parts that only touch, float or coincide, and about objects that cannot be told apart."""

from nebrel.core.csg.put_together import PlacedSolid, PutTogether
from nebrel.core.proof import Finding
from nebrel.core.proof.finding import Fix
from nebrel.piece.evaluation.shown import Size, three

OVERLAP_MM = 0.05


def meeting_findings(whole: PutTogether, solids: list[PlacedSolid], ids: list[str], low: Size) -> tuple[Finding, ...]:
    """Findings about how parts meet; those that would hold once sunk in a little get that as their fix.

    Args:
        whole: what was put together.
        solids: its parts and copies.
        ids: of the part that each of them belongs to.
        low: lowest corner of everything, which places are told from.
    """
    found = []
    for (one, other), meeting in whole.meetings.items():
        ways = {solids[one].how, solids[other].how}
        if meeting == "overlap" and "apart" in ways and "cut" not in ways:
            found.append(
                Finding(
                    "caution",
                    f"“{solids[other].name}” is kept apart and passes through “{solids[one].name}”.",
                    "A file of objects that share room is printed with both at once there; move one, or join them.",
                    "parts_pass",
                    _middle(solids[other], low),
                    fix=Fix("join-part", {"id": ids[other]}, "Join it"),
                )
            )
        if {solids[one].how, solids[other].how} != {"join"}:
            continue
        if meeting == "touch":
            found.append(
                Finding(
                    "caution",
                    f"“{solids[other].name}” only touches “{solids[one].name}”.",
                    "Faces that coincide hold nothing, and other programs make cracks of them; let one reach into the "
                    f"other by {OVERLAP_MM:g} mm.",
                    "parts_touch",
                    _middle(solids[other], low),
                    fix=Fix("sink", {"id": ids[other], "mm": OVERLAP_MM}, f"Overlap by {OVERLAP_MM:g} mm"),
                )
            )
    first = next((solid.name for solid in solids if solid.how == "join"), "")
    touched = {at for pair, meeting in whole.meetings.items() if meeting == "touch" for at in pair}
    for at in whole.loose:
        if at in touched:
            continue
        found.append(
            Finding(
                "caution",
                f"“{solids[at].name}” floats: nothing holds it to “{first}”.",
                "It would come off as a part of its own. Set it on top of what is under it, or keep it apart.",
                "part_floats",
                _middle(solids[at], low),
                fix=Fix("stand-on", {"id": ids[at], "mm": OVERLAP_MM}, "Set it on top"),
            )
        )
    return tuple(found)


def objects_lost() -> Finding:
    """Said where parts were asked for as objects, and steps or decorations made one mesh of them."""
    return Finding(
        "caution",
        "The file will hold one object: steps and decorations are laid on the whole.",
        "Switch them off here and do them on the pieces themselves, or deliver it as one solid.",
        "objects_lost",
    )


def _middle(solid: PlacedSolid, low: Size) -> Size:
    points = solid.mesh.vertices
    return three((points.min(axis=0) + points.max(axis=0)) / 2 - low)
