"""What is said of reliefs laid on a panel."""

from nebrel.core.proof.finding import Finding, Fix
from nebrel.piece.kinds.panel.laying import LaidOutcome

MOST_OUTSIDE, COARSER = 0.02, 1.8
MOST_SAMPLES = 16_000_000


def laid_findings(outcomes: tuple[LaidOutcome, ...], pitch: float, samples: int) -> tuple[Finding, ...]:
    """What to know of reliefs that lie beside the piece, cut too deep, or are finer than the piece.

    Args:
        outcomes: of all that are switched on.
        pitch: mm between the samples of the piece at full resolution.
        samples: how many these are.
    """
    found = []
    for each in outcomes:
        name = each.part.name
        if each.outside > MOST_OUTSIDE:
            found.append(
                Finding(
                    "caution" if each.outside < 1 else "fault",
                    f"{each.outside:.0%} of “{name}” lies beside the piece and is left away.",
                    "What is laid on stays within the outline of the piece; move it, or make it smaller.",
                    "laid_outside",
                    value=round(each.outside, 3),
                )
            )
        if each.held_mm > 0:
            found.append(
                Finding(
                    "caution",
                    f"“{name}” would cut {each.held_mm:.2f} mm deeper than the backing allows.",
                    "Half of the backing, or 0.4 mm of it, is left. A thicker backing or a shallower cut makes room.",
                    "laid_too_deep",
                    value=round(each.held_mm, 3),
                    unit="mm",
                )
            )
    fine = [each for each in outcomes if each.part.of_picture and COARSER * each.pitch < pitch]
    if fine:
        finest = min(fine, key=lambda each: each.pitch)
        more = "4x" if pitch / finest.pitch > 3 and 16 * samples <= MOST_SAMPLES else "2x"
        fits = samples * (16 if more == "4x" else 4) <= MOST_SAMPLES
        found.append(
            Finding(
                "note",
                f"“{finest.part.name}” is finer than the piece: {finest.pitch:.3g} mm from pixel to pixel, where the "
                f"piece has {pitch:.3g} mm.",
                "Detail that is finer than the piece's own pixels is lost. More pixels of its picture make room.",
                "laid_finer",
                value=round(finest.pitch, 5),
                unit="mm",
                fix=Fix("resample", {"to": more}, "Make the piece finer") if fits else None,
            )
        )
    return tuple(found)
