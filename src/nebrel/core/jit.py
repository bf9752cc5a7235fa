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
from typing import TypeVar, cast

import numba
from platformdirs import user_cache_path

Function = TypeVar("Function", bound=Callable[..., object])
CORE = Path(__file__).parent
MARK = "@compiled"
KEPT = 3
_HEX = 16


def sources_hash(folder: Path) -> str:
    """SHA-256 over numba's version and every file below `folder` that holds kernels, as 16 hex digits."""
    found = hashlib.sha256(numba.__version__.encode())
    for path in sorted(folder.rglob("*.py")):
        source = path.read_bytes()
        if MARK.encode() in source:
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
