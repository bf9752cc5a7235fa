"""Whether each object of a file of several is a proper solid, and whether they keep apart."""

from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from nebrel.core.csg.boolean import solid_of
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.shells import part_of
from nebrel.core.proof.finding import Finding
from nebrel.core.proof.soundness import Soundness, check_soundness

MOST_OBJECTS, MOST_PAIRS = 200, 400
# Of the smaller object's volume: what two may share and still only touch.
TOUCHING = 1e-5


@dataclass(frozen=True)
class CheckedObject:
    """An object of a file and what was found on it."""

    name: str
    found: Soundness


def check_objects(
    mesh: TriMesh, objects: tuple[tuple[str, int], ...], whole: Soundness
) -> tuple[Soundness, list[CheckedObject]]:
    """Judge a file of several objects by each of them: bodies of different materials touch, and are no worse for it.

    Args:
        mesh: all of them.
        objects: names, and how many of the faces each has, in their order.
        whole: what was found on all of them as one mesh; it stands where there is one object, or very many.

    Returns:
        What was found, and that on each object.
    """
    if not 1 < len(objects) <= MOST_OBJECTS:
        return whole, []
    ends = np.cumsum([0, *(count for _, count in objects)])
    parts = [part_of(mesh, np.arange(ends[at], ends[at + 1])) for at in range(len(objects))]
    checked = [CheckedObject(name, check_soundness(part)) for (name, _), part in zip(objects, parts, strict=True)]
    near = _near_each_other(parts) if all(each.found.sound for each in checked) else []
    sharing, passed_over = _sharing(near[:MOST_PAIRS], parts, checked), _passed_over(len(near))
    if whole.sound and not sharing:
        return replace(whole, findings=(*whole.findings, *passed_over)), checked
    every = [each.found for each in checked]
    faults = tuple(
        replace(fault, what=f"“{each.name}”: {fault.what}")
        for each in checked
        for fault in each.found.findings
        if fault.severity == "fault"
    )
    note = Finding(
        "note",
        f"Each of its {len(checked)} objects is sound: closed, every face looking outwards, none crossing another.",
        "Objects that touch are bodies of different materials; as one mesh they would have to be joined.",
        "sound",
    )
    return (
        replace(
            whole,
            vertices=sum(found.vertices for found in every),
            shells=sum(found.shells for found in every),
            volume_mm3=sum(found.volume_mm3 for found in every),
            closed=all(found.closed for found in every),
            manifold=all(found.manifold for found in every),
            outward=all(found.outward for found in every),
            degenerate_faces=sum(found.degenerate_faces for found in every),
            duplicate_faces=sum(found.duplicate_faces for found in every),
            self_crossings=sum(found.self_crossings for found in every),
            self_crossings_capped=any(found.self_crossings_capped for found in every),
            overlapping_shells=sum(found.overlapping_shells for found in every),
            inner_shells=sum(found.inner_shells for found in every),
            debris_shells=sum(found.debris_shells for found in every),
            findings=(*(faults or sharing or (note,)), *passed_over),
        ),
        checked,
    )


def _near_each_other(parts: list[TriMesh]) -> list[tuple[int, int]]:
    """Pairs of parts whose boxes share room."""
    lows, highs = (np.array([getattr(part.vertices, end)(axis=0) for part in parts]) for end in ("min", "max"))
    return [
        (one, other)
        for one, other in combinations(range(len(parts)), 2)
        if (lows[one] < highs[other]).all() and (lows[other] < highs[one]).all()
    ]


def _passed_over(pairs: int) -> tuple[Finding, ...]:
    """That not all pairs were looked at, where they were not."""
    if pairs <= MOST_PAIRS:
        return ()
    return (
        Finding(
            "note",
            f"Of {pairs:,} pairs of objects near each other, {MOST_PAIRS:,} were looked at for room that they share.",
            "A file of fewer objects would be looked at whole.",
            "pairs_passed_over",
            value=float(pairs - MOST_PAIRS),
        ),
    )


def _sharing(near: list[tuple[int, int]], parts: list[TriMesh], checked: list[CheckedObject]) -> tuple[Finding, ...]:
    """Pairs of sound objects that lie in the same room, one wholly within the other or not."""
    solids = {at: solid_of(parts[at]) for at in {at for pair in near for at in pair}}
    found = []
    for one, other in near:
        shared = float((solids[one] ^ solids[other]).volume())
        least = min(checked[one].found.volume_mm3, checked[other].found.volume_mm3)
        if shared > TOUCHING * least:
            found.append(
                Finding(
                    "fault",
                    f"“{checked[one].name}” and “{checked[other].name}” share {shared:.3g} mm³ of room.",
                    "A printer lays the material of both there; one of them must be cut by the other.",
                    "objects_share", value=round(shared, 4), unit="mm³",
                )
            )  # fmt: skip
    return tuple(found)
