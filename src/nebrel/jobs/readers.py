"""The process that reads files from elsewhere, which may be made to harm: it has so much memory and time, no more."""

import logging
import pickle
import signal
import traceback
from collections.abc import Callable
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from nebrel.core.errors import NebrelError
from nebrel.core.mesh.formats import MM_PER, MeshFile, mesh_unit, read_mesh
from nebrel.core.outline_files.read import read_drawing
from nebrel.core.picture import ReadLimits, read_picture
from nebrel.core.region.drawing import Drawing
from nebrel.jobs.motif_pack import PackedMotif, read_pack
from nebrel.jobs.processes import end_with_parent

try:
    import resource
except ImportError:  # There are no such limits on this system.
    resource = None  # type: ignore[assignment]

LOG = logging.getLogger("nebrel.readers")


def _picture(data: bytes, name: str, limits: ReadLimits) -> None:
    # Its samples are not handed over: reading them again is sooner done.
    read_picture(data, name, limits)


def _mesh(data: bytes, name: str, unit: str | None) -> MeshFile:
    return read_mesh(data, name, unit)


def _drawing(data: bytes, name: str, unit: str | None) -> Drawing:
    return read_drawing(data, name, None if unit is None else MM_PER[mesh_unit(unit)])


def _pack(data: bytes, name: str, limits: ReadLimits) -> list[PackedMotif]:
    return read_pack(data, name, limits)


KINDS: dict[str, Callable[..., Any]] = {"picture": _picture, "mesh": _mesh, "drawing": _drawing, "pack": _pack}


def reader_main(connection: Connection) -> None:
    """Answer `(kind, name, options, seconds, bytes)`, followed by the file, with `("read", what)`, `("refused",
    error)`, `("memory", None)` or, for a mistake of ours, `("broken", traceback)`, until the other end closes.

    More seconds of work than those, and the process is ended by the system.
    """
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    end_with_parent()
    try:
        while True:
            kind, name, options, seconds, most = connection.recv()
            answer = _answer(KINDS[kind], connection.recv_bytes(), name, options, seconds, most)
            connection.send_bytes(pickle.dumps(answer, pickle.HIGHEST_PROTOCOL))
            del answer
    except (EOFError, BrokenPipeError, ConnectionResetError):
        return


def _answer(
    read: Callable[..., Any], data: bytes, name: str, options: tuple[Any, ...], seconds: float, most: int
) -> tuple[str, Any]:
    _limit(seconds, most)
    try:
        return "read", read(data, name, *options)
    except NebrelError as refusal:
        return "refused", refusal
    except (MemoryError, RecursionError):
        return "memory", None
    except Exception:
        return "broken", traceback.format_exc()
    finally:
        _limit(None, None)


def _limit(seconds: float | None, most: int | None) -> None:
    """Let this process work for so many seconds more, and take so many bytes more; None for as many as it likes."""
    if resource is None:
        return
    used = resource.getrusage(resource.RUSAGE_SELF)
    worked = used.ru_utime + used.ru_stime
    for kind, bound in (
        (resource.RLIMIT_CPU, None if seconds is None else int(worked + seconds) + 1),
        (resource.RLIMIT_AS, None if most is None else _taken() + most),
    ):
        _, highest = resource.getrlimit(kind)
        resource.setrlimit(kind, (highest if bound is None else bound, highest))


def _taken() -> int:
    """Bytes of addresses that this process has."""
    try:
        pages = int(Path("/proc/self/statm").read_text().split()[0])
    except (OSError, ValueError):
        return 2**34
    return pages * resource.getpagesize()
