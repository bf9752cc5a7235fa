"""The one place where a loop is handed to numba: cached on disk, the interpreter lock released.

numba notices when the file of a kernel changes, but not when another file does whose kernels it calls. So the folder of
compiled kernels carries a hash of all of them: any change starts an empty folder, and none is ever stale.
"""

import hashlib
import os
import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar, cast

import numba
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic
from platformdirs import user_cache_path

Function = TypeVar("Function", bound=Callable[..., object])
Record = TypeVar("Record")
CORE = Path(__file__).parent
MARKS = (b"@compiled", b"@inlined")
KEPT = 3
_HEX = 16


def sources_hash(folder: Path) -> str:
    """SHA-256 over numba's version and every file below `folder` that holds kernels, as 16 hex digits."""
    found = hashlib.sha256(numba.__version__.encode())
    for path in sorted(folder.rglob("*.py")):
        source = path.read_bytes()
        if any(mark in source for mark in MARKS):
            found.update(str(path.relative_to(folder)).encode() + b"\0" + source)
    return found.hexdigest()[:_HEX]


def kernels_root() -> Path:
    """Where folders of compiled kernels are kept: `NUMBA_CACHE_DIR`, else the user's cache, else a temporary folder."""
    named = os.environ.get("NUMBA_CACHE_DIR")
    if named:
        return Path(named)
    home = user_cache_path("nebrel") / "kernels"
    try:
        home.mkdir(parents=True, exist_ok=True)
    except OSError:
        return Path(tempfile.gettempdir()) / "nebrel-kernels"
    return home if os.access(home, os.W_OK) else Path(tempfile.gettempdir()) / "nebrel-kernels"


def kernels_folder() -> Path:
    """The folder of the kernels as they are now."""
    return kernels_root() / sources_hash(CORE)


def drop_old_kernels() -> None:
    """Remove all folders of compiled kernels but the few used last."""
    folders = [path for path in kernels_root().iterdir() if path.is_dir() and len(path.name) == _HEX]
    for path in sorted(folders, key=lambda folder: folder.stat().st_mtime, reverse=True)[KEPT:]:
        shutil.rmtree(path, ignore_errors=True)


setattr(numba.config, "CACHE_DIR", str(kernels_folder()))  # noqa: B010


def compiled(function: Function) -> Function:
    """Compile `function` at its first call, keep the result on disk, and run it without the GIL."""
    return cast(Function, numba.njit(cache=True, nogil=True, error_model="numpy")(function))


def inlined(function: Function) -> Function:
    """Write `function` into the kernels that call it."""
    return cast(Function, numba.njit(inline="always", nogil=True, error_model="numpy")(function))


@intrinsic
def _uncounted(_typing: Any, record: Any) -> Any:
    """The record without the counters of its arrays, as numba's own array structures have them."""

    def of(context: Any, builder: Any, kind: Any, value: Any) -> Any:
        if isinstance(kind, types.Array):
            array = context.make_array(kind)(context, builder, value)
            array.meminfo = cgutils.get_null_value(array.meminfo.type)
            array.parent = cgutils.get_null_value(array.parent.type)
            return array._getvalue()
        if isinstance(kind, types.BaseTuple):
            parts = cgutils.unpack_tuple(builder, value, len(kind))
            kinds: list[Any] = [*cast(Any, kind)]
            of_parts = [of(context, builder, *one) for one in zip(kinds, parts, strict=True)]
            return context.make_tuple(builder, kind, of_parts)
        return value

    def write(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        return of(context, builder, signature.args[0], arguments[0])

    return record(record), write


@inlined
def lent(record: Record) -> Record:
    """In a kernel: a record of arrays, and of records of them, as it is, but not counted.

    numba counts who holds an array wherever one is taken out of a record or handed on. Two threads that work on the
    same arrays wait for each other's counting, and one alone takes twice as long. The caller holds the arrays.
    """
    return _uncounted(record)  # type: ignore[call-arg]


def get_ready() -> None:
    """Load what compiled loops stand on.

    Threads that come to it at the same moment would break it for each other, so a process does this before it begins
    any.
    """
    from numba.core.registry import cpu_target

    cpu_target.typing_context.refresh()
    cpu_target.target_context.refresh()
