"""The process that reads files from elsewhere, which may be made to harm: it has so much memory and time, no more."""

import io
import logging
import pickle
import signal
import traceback
from collections.abc import Callable
from functools import partial
from multiprocessing.connection import Connection
from typing import Any

import imagecodecs
import numpy as np

from nebrel.core.errors import NebrelError
from nebrel.core.picture import ReadLimits
from nebrel.jobs.beginnings import drawing_in, model_in, picture_in
from nebrel.jobs.processes import end_with_parent, limit_bytes, limit_seconds

# With what is clipped, painted over, stroked and filled.
READY_SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" width="9mm" height="9mm" viewBox="0 0 9 9"><clipPath id="c">
<circle cx="4" cy="4" r="3"/></clipPath><g clip-path="url(#c)"><path d="M0 0C3 9 6-3 9 9Z"/></g>
<path d="M1 1 8 8" fill="none" stroke="#000"/></svg>"""
LOG = logging.getLogger("nebrel.readers")


def reader_main(connection: Connection) -> None:
    """Answer `(read, name, options, named, seconds, bytes)`, followed by the file, with `("read", what)`, `("refused",
    error)`, `("memory", None)` or, for a mistake of ours, `("broken", traceback)`, until the other end closes. `read`
    is a function of a module, called with the file, its name and what follows.

    More seconds of work than those, and the process is ended by the system.
    """
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    end_with_parent()
    _get_ready()
    try:
        while True:
            read, name, options, named, seconds, most = connection.recv()
            answer = _answer(partial(read, connection.recv_bytes(), name, *options, **named), seconds, most)
            connection.send_bytes(pickle.dumps(answer, pickle.HIGHEST_PROTOCOL))
            del answer
    except (EOFError, BrokenPipeError, ConnectionResetError):
        return


def _get_ready() -> None:
    """Read a little of each kind, so that no file pays for what is loaded, or compiled, on the first one."""
    from nebrel.core.mesh import TriMesh
    from nebrel.core.mesh.formats import write_mesh

    picture = bytes(imagecodecs.png_encode(np.arange(12, dtype=np.uint16).reshape(2, 2, 3)))
    picture_in(picture, "ready.png", ReadLimits())
    drawing_in(READY_SVG, "ready.svg", None)
    corners = np.array([[0, 0, 0], [9, 0, 0], [0, 9, 0], [0, 0, 9]], dtype=np.float64)
    mesh, file = TriMesh(corners, np.array([[0, 2, 1], [0, 1, 3], [1, 2, 3], [0, 3, 2]], dtype=np.uint32)), io.BytesIO()
    write_mesh(mesh, file, "stl")
    model_in(file.getvalue(), "ready.stl", "mm")


def _answer(read: Callable[[], Any], seconds: float, most: int) -> tuple[str, Any]:
    limit_seconds(seconds)
    limit_bytes(most)
    try:
        return "read", read()
    except NebrelError as refusal:
        return "refused", refusal
    except (MemoryError, RecursionError):
        return "memory", None
    except Exception:
        return "broken", traceback.format_exc()
    finally:
        limit_seconds(None)
        limit_bytes(None)
