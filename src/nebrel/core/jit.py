"""The one place where a loop is handed to numba: cached on disk, the interpreter lock released."""

from collections.abc import Callable
from typing import TypeVar, cast

import numba

Function = TypeVar("Function", bound=Callable[..., object])


def compiled(function: Function) -> Function:
    """Compile `function` at its first call, keep the result on disk, and run it without the GIL."""
    return cast(Function, numba.njit(cache=True, nogil=True, error_model="numpy")(function))
