"""Shorthands of `nebrel prepare` for common ops, in the order in which they are given."""

import re
from collections.abc import Callable

from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length

OpData = dict[str, object]
TONES = {"black": 0.0, "white": 1.0}


def ops_in_order(words: list[str]) -> list[OpData]:
    """The ops that `--name value` words ask for.

    Raises:
        BadValueError: a word is no shorthand, or its value cannot be read.
    """
    ops: list[OpData] = []
    rest = [part for word in words for part in (word.split("=", 1) if word.startswith("--") else [word])]
    while rest:
        name = rest.pop(0)
        if name in ALONE:
            ops.append(ALONE[name])
        elif name in WITH_VALUE:
            if not rest:
                raise BadValueError(f"{name} needs a value; `nebrel prepare --help` tells what is accepted.")
            ops.append(WITH_VALUE[name](rest.pop(0)))
        else:
            accepted = ", ".join([*ALONE, *WITH_VALUE])
            raise BadValueError(f"{name} is not known to `nebrel prepare`; {accepted} are.")
    return ops


def _number(name: str, text: str, low: float, high: float) -> float:
    try:
        value = float(text)
    except ValueError:
        value = float("nan")
    if not low <= value <= high:
        raise BadValueError(f"{name} is “{text}”; a number from {low:g} to {high:g} would be accepted.")
    return value


def _snap(text: str) -> OpData:
    share = _number("--snap", text, 0, 0.5)
    return {"kind": "snap", "black": share, "white": share}


def _threshold(text: str) -> OpData:
    if text == "auto":
        return {"kind": "threshold", "by": "auto"}
    return {"kind": "threshold", "by": "hand", "level": _number("--threshold", text, 0, 1)}


def _tones(text: str) -> OpData:
    return {"kind": "reduce", "count": int(_number("--tones", text, 2, 32))}


def _border(text: str) -> OpData:
    match = re.fullmatch(r"([0-9.]+)\s*(mm|px|%)?(?::(black|white|blank|[0-9.]+))?", text)
    if match is None:
        raise BadValueError(f"--border is “{text}”; something like 4mm:black, 20px:white or 5%:blank is accepted.")
    width, unit, tone = _number("--border", match[1], 0, 4000), match[2] or "mm", match[3] or "white"
    sides: OpData = dict.fromkeys(("left", "right", "top", "bottom"), width)
    if tone == "blank":
        return {"kind": "border", "unit": unit, **sides, "blank": True}
    value = TONES[tone] if tone in TONES else _number("--border", tone, 0, 1)
    return {"kind": "border", "unit": unit, **sides, "tone": value}


def _cut_out(text: str) -> OpData:
    if text not in ("auto", "alpha"):
        raise BadValueError(f"--cut-out is “{text}”; auto or alpha would be accepted.")
    return {"kind": "cut-out", "by": text}


def _denoise(text: str) -> OpData:
    return {"kind": "keep-edges", "radius_mm": parse_length(text.removesuffix("mm"))}


def _resize(text: str) -> OpData:
    match = re.fullmatch(r"([0-9]+)x?", text)
    if match is None:
        raise BadValueError(f"--resize is “{text}”; a width in pixels such as 600x would be accepted.")
    return {"kind": "resample", "to": "width", "width_px": int(_number("--resize", match[1], 2, 16_384))}


ALONE: dict[str, OpData] = {"--auto-level": {"kind": "auto-levels"}, "--invert": {"kind": "invert"}}
WITH_VALUE: dict[str, Callable[[str], OpData]] = {
    "--snap": _snap,
    "--threshold": _threshold,
    "--tones": _tones,
    "--border": _border,
    "--cut-out": _cut_out,
    "--denoise": _denoise,
    "--resize": _resize,
}
