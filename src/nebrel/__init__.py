"""Nebrel: pictures become true-size, closed solids for printing and carving.

>>> import numpy as np, nebrel
>>> dome = np.clip(1 - np.hypot(*np.mgrid[-1:1:64j, -1:1:64j]), 0, 1)
>>> nebrel.relief(dome, width_mm=40, relief_mm=3).build().report.sound
True
"""

import os
from typing import TYPE_CHECKING

# What is solved here are many small blocks: threads gain nothing on them, and wait on each other where work runs beside
# work. Said before numpy is loaded, which looks once.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

if TYPE_CHECKING:
    from nebrel.core.errors import NebrelError as NebrelError
    from nebrel.interface.files import read_drawing as read_drawing
    from nebrel.interface.files import read_mesh as read_mesh
    from nebrel.interface.files import read_picture as read_picture
    from nebrel.interface.meshes import check as check
    from nebrel.interface.meshes import decorate as decorate
    from nebrel.interface.meshes import simplify as simplify
    from nebrel.interface.meshes import write as write
    from nebrel.interface.pieces import cutter as cutter
    from nebrel.interface.pieces import lithophane as lithophane
    from nebrel.interface.pieces import relief as relief
    from nebrel.interface.pieces import trace as trace

# Loaded once they are asked for: commands that refuse something load next to nothing.
_HOMES = {
    "NebrelError": "nebrel.core.errors",
    **dict.fromkeys(("read_drawing", "read_mesh", "read_picture"), "nebrel.interface.files"),
    **dict.fromkeys(("check", "decorate", "simplify", "write"), "nebrel.interface.meshes"),
    **dict.fromkeys(("cutter", "lithophane", "relief", "trace"), "nebrel.interface.pieces"),
}
__all__ = sorted(_HOMES)  # noqa: PLE0605


def __getattr__(name: str) -> object:
    if name not in _HOMES:
        raise AttributeError(f"nebrel has no {name}; {', '.join(__all__)} are there.")
    from importlib import import_module

    found = getattr(import_module(_HOMES[name]), name)
    globals()[name] = found
    return found


def __dir__() -> list[str]:
    return sorted({*globals(), *__all__})
