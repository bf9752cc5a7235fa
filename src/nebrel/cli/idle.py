"""Options that would have no effect are refused, so that no one waits for what does not come."""

import inspect
from collections.abc import Callable, Mapping
from typing import Any

from nebrel.core.errors import BadValueError

Need = tuple[str, str]


def was_given(given: Mapping[str, Any], name: str, command: Callable[..., int]) -> bool:
    """Whether an option was given by another value than it has by itself."""
    return name in given and bool(given[name] != inspect.signature(command).parameters[name].default)


def refuse_idle(given: Mapping[str, Any], needs: Mapping[str, Need], command: Callable[..., int]) -> None:
    """Refuse options that need what another one does not say.

    Args:
        given: options by name.
        needs: by name of an option, the other one and what that has to say; `> 0` for any length above 0.
        command: the function of the command; its defaults tell which options were left as they are.

    Raises:
        BadValueError: an option would have no effect.
    """
    for name, (other, value) in needs.items():
        if not was_given(given, name, command):
            continue
        idle = not was_given(given, other, command) if value == "> 0" else given[other] != value
        if idle:
            spelled, needed = (f"--{each.replace('_', '-')}" for each in (name, other))
            told = f"{needed} above 0" if value == "> 0" else f"{needed} {value}"
            raise BadValueError(f"{spelled} has no effect without {told}; leave it out, or add that.")
