"""Options of `nebrel make relief` whose heights follow depth."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from nebrel.cli.depths import COMPUTED, depth_of, fine_of, strokes_of
from nebrel.cli.idle import was_given
from nebrel.cli.spellings import choice, share
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

# Options that say how depth is used, which need it; and those of tones, which it leaves without effect.
OF_FORM = ("hold_back", "step", "fine", "strokes", "ground", "span", "near")
TEXTURES = ("noise", "hammered", "leather", "wood", "hatching")
OF_TONES = ("rule", "raise_", "curve", "steps", "strength")


def refuse_idle_form(given: Mapping[str, Any], command: Callable[..., int]) -> None:
    """Refuse options of a depth that is not asked for, and options of tones where heights follow depth.

    Raises:
        BadValueError: an option would have no effect.
    """
    form = given.get("form")
    for name in OF_FORM if form is None else OF_TONES:
        if was_given(given, name, command):
            spelled = f"--{name.strip('_').replace('_', '-')}"
            if form is None:
                raise BadValueError(f"{spelled} has no effect without --form; leave it out, or add --form learned.")
            raise BadValueError(f"{spelled} is for heights that follow tones; leave it out, or leave out --form.")
    for name in ("span", "near") if form in COMPUTED else ():
        if was_given(given, name, command):
            raise BadValueError(
                f"--{name} has no effect without a depth picture; leave it out, or add --form depths.png."
            )


def form_of(asked: Any) -> tuple[dict[str, object], dict[str, bytes]]:
    """The part that says what heights follow, and the files that it names."""
    if asked.form is None:
        return {}, {}
    near = choice("--near", asked.near, ("bright", "dark"))
    depth, files = depth_of("--form", asked.form, parse_length(asked.span), near)
    part: dict[str, object] = {
        "of": "depth" if asked.fine is None else "both",
        "depth": depth,
        "relief_mm": parse_length(asked.relief),
        "strength": share("--hold-back", asked.hold_back),
        "step_mm": parse_length(asked.step),
        "ground": asked.ground,
        **({} if asked.fine is None else {"fine": fine_of(asked.fine)}),
        **({} if asked.strokes is None else strokes_of(asked.strokes)),
    }
    return part, files


def texture_of(given: str) -> dict[str, object]:
    """The texture that an option asks for, as in hammered:2.5x0.3."""
    where, _, rest = given.partition(":") if given.startswith("all:") else ("ground", "", given)
    kind, _, measures = rest.partition(":")
    size, _, depth = measures.partition("x")
    if kind not in TEXTURES or (measures and not depth):
        raise BadValueError(
            f"--texture is “{given}”; hammered:2.5x0.3, with {', '.join(TEXTURES)} and a size by a depth, would be "
            "accepted."
        )
    sizes = {"size_mm": parse_length(size), "depth_mm": parse_length(depth)} if measures else {}
    return {"on": True, "kind": kind, "where": where, **sizes}
