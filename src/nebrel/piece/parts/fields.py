"""How parameters of parts are declared: limits, starting value, unit, words, and the slider of their control.

The unit of a parameter follows from the end of its name (`_mm`, `_mm2`, `_deg`) unless it is given. `label` is what a
page writes beside the control where that is other than the title, which refusals use. `shown` says with which values of
other parameters of the same part this one counts: `{name: values}`.
"""

from typing import Any, cast

from pydantic import Field

Span = tuple[float, float]


def measure(
    title: str,
    default: Any,
    lowest: float,
    highest: float,
    *,
    unit: str | None = None,
    slider: Span | None = None,
    step: float = 0.01,
    **more: Any,
) -> Any:
    """A number."""
    extra: dict[str, Any] = {"slider": list(slider) if slider else None, "step": step, **more}
    if unit is not None:
        extra["unit"] = unit
    return Field(default, ge=lowest, le=highest, title=title, json_schema_extra=extra)


def length(title: str, default: Any, lowest: float, highest: float, *, step: float = 0.05, **more: Any) -> Any:
    """A length on the finished piece, mm."""
    return measure(title, default, lowest, highest, **{"unit": "mm", "step": step, **more})


def angle(title: str, default: float, lowest: float, highest: float, *, step: float = 1.0, **more: Any) -> Any:
    """An angle in degrees."""
    return measure(title, default, lowest, highest, unit="°", step=step, **more)


def whole(title: str, default: int, lowest: int, highest: int, *, step: int = 1, **more: Any) -> Any:
    """A whole number."""
    return measure(title, default, lowest, highest, unit="", step=step, **more)


def share(title: str, default: float, lowest: float = 0.0, highest: float = 1.0, **more: Any) -> Any:
    """A share, shown in per cent."""
    return measure(title, default, lowest, highest, **{"unit": "%", "slider": (lowest, highest), "step": 0.01, **more})


def tone(title: str, default: Any, **more: Any) -> Any:
    """A tone, 0 black to 1 white."""
    return measure(title, default, 0.0, 1.0, **{"unit": "tone", "slider": (0.0, 1.0), "step": 0.01, **more})


def tone_between(title: str, default: Any, **more: Any) -> Any:
    """A tone that is neither black nor white."""
    extra = {"unit": "tone", "slider": [0.02, 0.98], "step": 0.01, **more}
    return Field(default, gt=0, lt=1, title=title, json_schema_extra=extra)


def choice(title: str, default: str, choices: dict[str, str], **more: Any) -> Any:
    """One of several words; `hints` says more about each."""
    return Field(default, title=title, json_schema_extra=cast(Any, {"choices": choices, **more}))


def switch(title: str, default: bool, **more: Any) -> Any:
    """Yes or no."""
    return Field(default, title=title, json_schema_extra=more or None)


def colour(title: str, default: str, **more: Any) -> Any:
    """A colour, `#rrggbb`; its pattern stands with the type. `choices` names some, by their values."""
    return Field(default, title=title, json_schema_extra={"colour": True, **more})


def made_by_hand(title: str, default: Any, choices: dict[str, str] | None = None, **rules: Any) -> Any:
    """Something that is drawn on the Plan or has its own editor; `choices` where it is one of several words."""
    extra = {"by_hand": True, **({"choices": choices} if choices else {})}
    return Field(default, title=title, json_schema_extra=cast(Any, extra), **rules)
