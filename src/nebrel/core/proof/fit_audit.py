"""What is said about a fitted material before it is kept: what its readings seem to suffer from."""

from nebrel.core.height.wedge_fit import ENOUGH_STEPS, Fit
from nebrel.core.proof.finding import Finding


def fit_findings(fit: Fit) -> tuple[Finding, ...]:
    """Causes of doubt, each with what would mend it; none where the readings are as they should be."""
    return (*_light_findings(fit), *_reading_findings(fit))


def _doubt(measure: str, what: str, why: str, value: float | None = None, unit: str = "") -> Finding:
    return Finding("caution", what, why, measure, value=value, unit=unit)


def _light_findings(fit: Fit) -> list[Finding]:
    found = []
    if fit.offset is not None and fit.offset.low > 0:
        what = f"{fit.dark_offset:.1%} of the light is read though it never came through the wedge; it was taken off."
        why = (
            "Light of the room, or beside the wedge, does that; a darker room and a mask round the wedge read truer. "
            "A reading with the light covered says how much it is."
        )
        found.append(_doubt("stray-light", what, why, round(100 * fit.dark_offset, 2), "%"))
    if fit.decoded_attenuation is not None:
        what = "The readings fall as those of pictures do, which are coded (sRGB), and not as light does."
        why = (
            f"Decoded, they give {fit.decoded_attenuation:.3f} per mm. Give luminance, or open the photograph itself, "
            "which is decoded here."
        )
        found.append(_doubt("coded-values", what, why, round(fit.decoded_attenuation, 4), "per mm"))
    elif fit.whole_numbers:
        what = "All readings are whole numbers up to 255, as pictures hold them, and those are coded (sRGB, gamma)."
        why = (
            "Coded by a gamma alone they fall as evenly as light does, so the readings cannot tell; give luminance, or "
            "open the photograph itself."
        )
        found.append(_doubt("coded-values", what, why))
    return found


def _reading_findings(fit: Fit) -> list[Finding]:
    found = []
    if fit.saturated:
        what = "More than one thickness reads the largest value there is, so the reader was cut off there."
        why = "Only the thickest of them was taken; read again with less light or a shorter exposure."
        found.append(_doubt("saturated", what, why))
    if fit.clamped:
        what = f"The bare light fits no surface loss that there can be; {fit.material.surface_loss:.0%} was taken."
        why = "It was cut off at the top, or brighter or dimmer when it was read than behind the wedge; read it again."
        found.append(_doubt("clamped", what, why))
    if fit.steps < ENOUGH_STEPS:
        known = "was not looked for" if fit.offset is None else "rests on the dark reading alone"
        what = f"{fit.steps} steps are too few to tell faults of readings from the material; a dark offset {known}."
        why = f"A wedge of {ENOUGH_STEPS} steps or more, best of 10, tells them apart."
        found.append(_doubt("few-steps", what, why, float(fit.steps)))
    if fit.curved:
        what = "What is left over bends from the thinnest step to the thickest, so light does not fall evenly there."
        why = "A reader that is not proportional to light, or a wedge that is not solid, does that; look at both."
        found.append(_doubt("curved", what, why))
    return found
