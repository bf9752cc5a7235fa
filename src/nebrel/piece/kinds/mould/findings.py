"""What is said of moulds: what they fill, where casts would catch."""

from nebrel.core.proof import Finding
from nebrel.core.proof.mould_audit import MouldFacts
from nebrel.piece.kinds.mould.document import MouldPart

# Of the piece's volume that undercuts take: what is not worth telling, and what is too much.
LITTLE, MUCH = 0.005, 0.1
SPARE_DEG = 0.25


def filled_finding(filled_mm3: float, share: float) -> tuple[Finding, ...]:
    """Said where a mould cannot follow undercuts and hollows, which take that share of the piece."""
    if share <= LITTLE:
        return ()
    told = Finding(
        "caution" if share > MUCH else "note",
        f"Undercuts and hollows take {share:.1%} of the piece; the mould fills them.",
        "From each side only what is seen along the way of the pull comes out. Another way of the pull, another height "
        "of the parting, or two halves may fill less.",
        "mould_filled",
        value=round(filled_mm3, 2),
        unit="mm³",
    )
    return (told,)


def found_plane(part: MouldPart, plane: float) -> tuple[Finding, ...]:
    """Said where the height of the parting was found and not typed."""
    if part.plane == "typed" or part.kind == "open":
        return ()
    least = "least of the piece is undercut" if part.kind == "halves" else "its lowest place begins"
    told = Finding(
        "note",
        f"It is parted {plane:.2f} mm over the lowest place of the piece, where {least}.",
        "Another height can be typed.",
        "mould_plane",
        value=round(plane, 3),
        unit="mm",
    )
    return (told,)


UNLINED = Finding(
    "note",
    "The walls of the cavity follow samples of the piece and not curves: with curves casts would have caught, or the "
    "piece would have reached in.",
    "A finer detail makes walls smoother.",
    "mould_unlined",
)


def catching(facts: MouldFacts, part: MouldPart) -> tuple[Finding, ...]:
    """Said where walls of a finished mould are steeper than asked."""
    if facts.least_draft_deg >= part.draft_deg - SPARE_DEG:
        return ()
    told = Finding(
        "caution",
        f"Some walls lean by {facts.least_draft_deg:.1f}° only; {part.draft_deg:g}° are asked for.",
        "Casts may catch there. A finer detail or a smaller tolerance brings walls nearer to what is asked; more draft "
        "gives room.",
        "mould_draft",
        value=round(facts.least_draft_deg, 2),
        unit="°",
    )
    return (told,)
