"""How options spell things that are more than a length."""

import math
import re

from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length

_ANGLE = re.compile(r"^\s*(\d+(?:\.\d*)?|\.\d+)\s*(?:deg|°)?\s*$")
MOST_TURN_DEG = 350
PROFILES = ("flat", "bevel", "round", "cove")


def choice(option: str, given: str, accepted: tuple[str, ...]) -> str:
    """One of the accepted words."""
    if given not in accepted:
        raise BadValueError(f"{option} is “{given}”; {', '.join(accepted[:-1])} or {accepted[-1]} would be accepted.")
    return given


def share(option: str, given: float) -> float:
    """A tone above 0 and below 1."""
    if not (math.isfinite(given) and 0 < given < 1):
        raise BadValueError(f"{option} is {given:g}; a tone above 0 and below 1 would be accepted.")
    return given


def from_0_to_1(option: str, given: float) -> float:
    """A number from 0 to 1, both included."""
    if not 0 <= given <= 1:
        raise BadValueError(f"{option} is {given:g}; a number from 0 to 1 would be accepted.")
    return given


def angle(option: str, given: str) -> float:
    """Degrees from `5deg`, `5°` or `5`."""
    match = _ANGLE.match(given)
    if match is None:
        raise BadValueError(f"{option} is “{given}”; an angle like 5deg would be accepted.")
    return float(match[1])


def signed_angle(option: str, given: str) -> float:
    """Degrees from `15deg`, `-15°` or `15`."""
    plain = given.strip()
    return -angle(option, plain[1:]) if plain.startswith("-") else angle(option, plain)


def place(option: str, given: str) -> tuple[float, ...]:
    """A place from three lengths like `10,0,1in`."""
    parts = given.split(",")
    if len(parts) != 3:
        raise BadValueError(f"{option} is “{given}”; three lengths like 10,0,25 would be accepted.")
    return tuple(parse_length(part) for part in parts)


def steps_of(given: str) -> list[tuple[float, float]]:
    """(tone, mm) pairs from `0:0,0.5:1,1:2`; heights are lengths."""
    return [(_number("--steps", tone), parse_length(mm)) for tone, mm in _pairs("--steps", given, "0:0,0.5:1,1:2")]


def points_of(given: str) -> list[tuple[float, float]]:
    """(tone, share of the relief) pairs from `0:0,0.3:0.6,1:1`."""
    pairs = _pairs("--curve", given, "0:0,0.3:0.6,1:1")
    return [(_number("--curve", tone), _number("--curve", part)) for tone, part in pairs]


def frame_of(given: str | None) -> dict[str, object]:
    """The frame part of a body from `4x2` or `4x2:round`; none from None."""
    if given is None:
        return {"on": False}
    size, _, profile = given.partition(":")
    sides = re.split(r"[x×]", size)
    if len(sides) != 2:
        raise BadValueError(f"--frame is “{given}”; width by height like 4x2, or 4x2:round, would be accepted.")
    return {
        "on": True,
        "width_mm": parse_length(sides[0]),
        "height_mm": parse_length(sides[1]),
        "profile": choice("The profile of --frame", profile or "flat", PROFILES),
    }


def opening_of(given: str) -> dict[str, object]:
    """An opening of a body from `hanging:4x6`, `corners:3.2x5`, `keyhole` or `stand`."""
    kind, _, size = given.partition(":")
    kind = choice("--hole", kind, ("hanging", "corners", "keyhole", "stand"))
    if kind in ("keyhole", "stand"):
        return {"kind": "keyhole" if kind == "keyhole" else "stand-slot"}
    sides = re.split(r"[x×]", size)
    if len(sides) != 2:
        raise BadValueError(f"--hole is “{given}”; diameter by distance, like {kind}:4x6, would be accepted.")
    diameter, away = parse_length(sides[0]), parse_length(sides[1])
    if kind == "hanging":
        return {"kind": "hanging-hole", "diameter_mm": diameter, "from_edge_mm": away}
    return {"kind": "corner-holes", "diameter_mm": diameter, "inset_mm": away}


def backing_of(given: str) -> dict[str, object]:
    """The back of a body from `1.2`, `follow:1.2` or `none`."""
    if given == "none":
        return {"back": "none"}
    kind, colon, thickness = given.partition(":")
    if not colon:
        return {"back": "flat", "backing_mm": parse_length(given)}
    return {"back": choice("--backing", kind, ("flat", "follow")), "backing_mm": parse_length(thickness)}


def lithophane_form_of(given: str, width_mm: float) -> dict[str, object]:
    """The form part of a lithophane from `flat`, `arc:120deg`, `cylinder:80`, `cone:30x50x80`, `prism:6` and so on."""
    kind, colon, size = given.partition(":")
    kind = choice("--form", kind, ("flat", "arc", "cylinder", "cone", "sphere", "dome", "heart", "prism"))
    form: dict[str, object] = {"kind": kind, "width_mm": width_mm}
    if kind in ("flat", "heart") and colon:
        raise BadValueError(f"--form is “{given}”; {kind} takes no size, for --width gives it.")
    if kind == "arc" and colon and re.search(r"(deg|°)\s*$", size):
        turn = angle("The angle of --form arc", size)
        if turn > MOST_TURN_DEG:
            raise BadValueError(
                f"The arc turns by {turn:g}°; up to {MOST_TURN_DEG}° is accepted, and a full turn is the cylinder."
            )
        return {**form, "arc_by": "angle", "angle_deg": turn}
    if kind == "arc" and colon:
        return {**form, "arc_by": "radius", "radius_mm": parse_length(size)}
    if kind == "cylinder" and colon:
        return {**form, "width_mm": math.pi * parse_length(size)}
    if kind in ("sphere", "dome") and colon:
        return {**form, "diameter_mm": parse_length(size)}
    if kind == "prism" and colon:
        if not size.isdecimal():
            raise BadValueError(f"--form is “{given}”; a number of sides like prism:6 would be accepted.")
        return {**form, "sides": int(size)}
    if kind == "cone" and colon:
        sides = re.split(r"[x×]", size)
        if len(sides) != 3:
            raise BadValueError(f"--form is “{given}”; top, bottom and height like cone:30x50x80 would be accepted.")
        top, bottom, rise = (parse_length(side) for side in sides)
        return {**form, "top_mm": top, "bottom_mm": bottom, "rise_mm": rise}
    return form


def part_numbers(given: str, count: int) -> list[int]:
    """Numbers of parts from `1,3`, each once."""
    try:
        numbers = sorted({int(part) for part in given.split(",")})
    except ValueError as cause:
        raise BadValueError(f"--parts is “{given}”; numbers like 1,3 would be accepted.") from cause
    if numbers[0] < 1 or numbers[-1] > count:
        raise BadValueError(f"--parts is “{given}”; the mesh has {count:,} parts, so 1 to {count:,} would be accepted.")
    return numbers


def direction(option: str, given: str) -> tuple[float, float, float]:
    """A direction from `x`, `y`, `z` or three numbers like `1,0,1`."""
    axes = {"x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "z": (0.0, 0.0, 1.0)}
    if given in axes:
        return axes[given]
    try:
        x, y, z = (float(part) for part in given.split(","))
    except ValueError as cause:
        raise BadValueError(f"{option} is “{given}”; x, y, z or three numbers like 1,0,1 would be accepted.") from cause
    return x, y, z


def _pairs(option: str, given: str, example: str) -> list[tuple[str, str]]:
    pairs = []
    for part in given.split(","):
        before, colon, after = part.partition(":")
        if not colon:
            raise BadValueError(f"{option} is “{given}”; pairs like {example} would be accepted.")
        pairs.append((before.strip(), after.strip()))
    return pairs


def _number(option: str, given: str) -> float:
    try:
        value = float(given)
    except ValueError as cause:
        raise BadValueError(f"{option} holds “{given}”; numbers from 0 to 1 would be accepted there.") from cause
    if not 0 <= value <= 1:
        raise BadValueError(f"{option} holds {value:g}; numbers from 0 to 1 would be accepted there.")
    return value


def edge_profile_of(given: str, rise: float) -> tuple[str, float | None]:
    """The profile from an edge and how far it reaches, mm, where it rises by `rise` mm; a pillow has no reach.

    Raises:
        BadValueError: neither roof by an angle, nor dome, cove or rope by a reach, nor pillow by itself.
    """
    kind, _, value = given.partition(":")
    if given == "pillow":
        return given, None
    if kind not in ("roof", "dome", "cove", "rope") or not value:
        raise BadValueError(
            f"--edge-profile is “{given}”; roof:45deg, dome:4, cove:4, rope:4 or pillow would be accepted."
        )
    if kind != "roof":
        return kind, parse_length(value)
    degrees = angle("--edge-profile", value)
    if not 1 <= degrees <= 89:
        raise BadValueError(f"--edge-profile is “{given}”; a roof of 1deg to 89deg would be accepted.")
    return kind, rise / math.tan(math.radians(degrees))
