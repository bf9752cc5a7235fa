"""Options of commands that follow outlines: what they say of tracing, and those that would change nothing."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from nebrel.cli.spellings import choice, from_0_to_1
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length

if TYPE_CHECKING:
    from collections.abc import Mapping

    from nebrel.core.region.curves import Figure

# Options that say how a picture is followed, and what they are where nobody asks.
OF_PICTURES = {
    "tones": None, "centre_line": False, "level": "auto", "ink": "auto", "smooth": 0.3, "smallest": 0.2,
    "tolerance": None,
}  # fmt: skip
TOGETHER_IDLE = (("cut", "inlay"), ("shell", "inlay"))


def refuse_idle(given: Mapping[str, Any], drawn: bool) -> None:
    """Refuse options that would change nothing of what is made.

    Raises:
        BadValueError: one of them is given.
    """
    if drawn:
        idle = [name for name, usual in OF_PICTURES.items() if given.get(name, usual) != usual]
        if idle:
            option = idle[0].replace("_", "-")
            raise BadValueError(f"--{option} is for pictures, and this is a drawing; leave it out.")
    if not 0 <= given["smallest"] < math.inf:
        raise BadValueError(f"--smallest is {given['smallest']:g}; 0 or more square millimetres would be accepted.")
    if given.get("level", "auto") != "auto" and given.get("tones") is not None:
        raise BadValueError("--level is for one edge, and --tones follows several; one of them would be accepted.")
    if given.get("ink", "auto") != "auto" and given.get("tones") is not None:
        raise BadValueError("--ink is for one edge, and --tones follows several; one of them would be accepted.")
    for one, other in TOGETHER_IDLE:
        if _is_asked(given, one) and _is_asked(given, other):
            raise BadValueError(f"--{one} changes nothing beside --{other}; leave one of them out.")
    if _is_asked(given, "both") and given["edge"] == "square":
        raise BadValueError("--both is for --edge bevel or round, and the edge is square; leave it out or choose one.")
    if given.get("imprint") is not None:
        if given["tones"] is None:
            raise BadValueError("--imprint presses in the other tones, so --tones is needed with it.")
        if parse_length(given["imprint"]) >= parse_length(given["height"]):
            raise BadValueError(
                f"--imprint is {given['imprint']} behind the edge of a cutter {given['height']} high; "
                "less than its height would be accepted."
            )


def _is_asked(given: Mapping[str, Any], name: str) -> bool:
    return given.get(name) not in (None, False, "none")


def refuse_heights(heights: tuple[float, ...], figure: Figure) -> None:
    """Refuse more heights than there is to give them to.

    Raises:
        BadValueError: there are fewer layers.
    """
    if len(heights) > len(figure.layers):
        layers = "1 layer" if len(figure.layers) == 1 else f"{len(figure.layers)} layers"
        raise BadValueError(f"--heights names {len(heights)} heights for {layers}; one for each would be accepted.")


def tracing_of(level: str, smooth: float, smallest: float, ink: str, tones: int | None = None) -> dict[str, Any]:
    if level == "auto":
        tone = None
    else:
        try:
            tone = from_0_to_1("--level", float(level))
        except ValueError as cause:
            raise BadValueError(f"--level is “{level}”; auto or a tone between 0 and 1 would be accepted.") from cause
    return {
        **({} if tones is None else {"by": "tones", "tones": tones}),
        "level": tone,
        "smooth": from_0_to_1("--smooth", smooth),
        "ink": choice("--ink", ink, ("auto", "dark", "bright")),
        "smallest_part_mm2": smallest,
        "smallest_hole_mm2": smallest,
    }
