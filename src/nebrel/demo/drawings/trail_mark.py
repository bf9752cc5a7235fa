"""The mark of trail 7: a ring with a leaf's notch, and the number in it, as an SVG drawing."""

import math

ARC_STEPS = 96


def draw_trail_mark() -> bytes:
    """An SVG in millimetres, 30 by 30."""
    outer, inner = _circle(15.0, True), _circle(12.6, False)
    # The number's bar, and its leg with a curved waist.
    seven = (
        "M -6.4 -7.6 L 6.6 -7.6 L 6.6 -4.9 C 3.4 -1.6 1.2 3.2 0.6 8.2 L -3.0 8.2 "
        "C -2.3 3.0 -0.4 -1.4 2.4 -4.5 L -6.4 -4.5 Z"
    )
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" width="30mm" height="30mm" viewBox="-15 -15 30 30">'
        f'<path fill-rule="evenodd" d="{outer} {inner}"/><path d="{seven}"/></svg>'
    ).encode()


def _circle(radius: float, notched: bool) -> str:
    """A circle; one that is notched dips in at its top, as a leaf does at its stalk."""
    places = []
    for step in range(ARC_STEPS):
        angle = 2 * math.pi * step / ARC_STEPS
        dip = 1.4 * math.exp(-((_from_top(angle) / 0.12) ** 2)) if notched else 0.0
        places.append(f"{(radius - dip) * math.sin(angle):.4f} {-(radius - dip) * math.cos(angle):.4f}")
    return "M " + " L ".join(places) + " Z"


def _from_top(angle: float) -> float:
    return min(angle, 2 * math.pi - angle)
