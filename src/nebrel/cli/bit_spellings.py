"""How options spell bits and stocks."""

from __future__ import annotations

from typing import TYPE_CHECKING

from nebrel.cli.spellings import angle
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length

if TYPE_CHECKING:
    from nebrel.core.carve.bits import Bit

EXAMPLES = "ball:6, flat:6, v:60deg:6, taper:0.5:5deg or drill:3"
POINT_DEG = 118.0
RUN = {"flute": "flute", "shank": "shank", "down": "step_down"}
SPEEDS = {"feed": "feed", "plunge": "plunge", "speed": "spindle"}
FLUTE, SHANK = 22.0, 6.0
MOST_TABS = 100


def bit_of(option: str, given: str) -> Bit:
    """A bit from `ball:6`, `flat:6`, `v:60deg:6`, `drill:3` or `taper:0.5:5deg`, the taper by the radius of its tip.

    Further words follow after commas: `ball:6,flute=20,shank=6,feed=1500,plunge=400,speed=16000,down=2`.

    Raises:
        BadValueError: it is not spelled like that, or there is no such bit.
    """
    from nebrel.core.carve.bits import Bit, taper_diameter

    first, *words = (part.strip() for part in given.split(","))
    kind, *sizes = first.split(":")
    run = _run_of(option, given, words)
    if kind in {"flat", "ball"} and len(sizes) == 1:
        return Bit("flat" if kind == "flat" else "ball", parse_length(sizes[0]), **run)
    if kind == "v" and len(sizes) in {1, 2}:
        wide = parse_length(sizes[1]) if len(sizes) == 2 else SHANK
        return Bit("v", wide, angle_deg=angle(option, sizes[0]), **run)
    if kind == "drill" and len(sizes) in {1, 2}:
        point = angle(option, sizes[1]) if len(sizes) == 2 else POINT_DEG
        return Bit("drill", parse_length(sizes[0]), angle_deg=point, **run)
    if kind == "taper" and len(sizes) in {2, 3}:
        tip, side = parse_length(sizes[0]), angle(option, sizes[1])
        if len(sizes) == 3:
            wide = parse_length(sizes[2])
        else:
            wide = taper_diameter(tip, min(max(side, 0.5), 60.0), run.get("flute", FLUTE), run.get("shank", SHANK))
        return Bit("taper", wide, tip, side, **run)
    raise BadValueError(f"{option} is “{given}”; a bit like {EXAMPLES} would be accepted.")


def _run_of(option: str, given: str, words: list[str]) -> dict[str, float]:
    run: dict[str, float] = {}
    for word in words:
        name, _, value = word.partition("=")
        if name in RUN:
            run[RUN[name]] = parse_length(value)
        elif name in SPEEDS:
            try:
                run[SPEEDS[name]] = float(value)
            except ValueError as cause:
                raise BadValueError(f"{option}: {name} is “{value}”; a number would be accepted.") from cause
        else:
            known = ", ".join((*RUN, *SPEEDS))
            raise BadValueError(f"{option} is “{given}”; after the bit, {known} with = and a number are accepted.")
    return run


def stock_of(given: str) -> tuple[float, float, float]:
    """Width, depth and thickness from `120x140x18`.

    Raises:
        BadValueError: it is not three lengths.
    """
    parts = given.lower().replace("×", "x").split("x")
    if len(parts) != 3:
        raise BadValueError(f"--stock is “{given}”; width, depth and thickness like 120x140x18 would be accepted.")
    width, depth, thickness = (parse_length(part) for part in parts)
    return width, depth, thickness


def tabs_of(given: str) -> tuple[int, float, float]:
    """Number, width and height of tabs from `4:6:1.5`, or `0`.

    Raises:
        BadValueError: it is not spelled like that.
    """
    count, *sizes = given.split(":")
    if not count.isdigit() or int(count) > MOST_TABS or len(sizes) not in {0, 2}:
        raise BadValueError(f"--tabs is “{given}”; number, width and height like 4:6:1.5, or 0, would be accepted.")
    wide, tall = (parse_length(part) for part in sizes) if sizes else (6.0, 1.5)
    return int(count), wide, tall
