"""Triangles in space."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class TriMesh:
    """A triangle mesh in millimetres.

    Attributes:
        vertices: float64 (N, 3) mm.
        faces: uint32 (M, 3), counter-clockwise seen from outside.
        colours: uint8 (N, 4), red, green, blue and opacity of every vertex, or None.
        corner_colours: uint8 (M, 3, 4), likewise of every corner of every face, where colours end sharply at edges, or
            None. A mesh has one kind at the most.
    """

    vertices: NDArray[np.float64]
    faces: NDArray[np.uint32]
    colours: NDArray[np.uint8] | None = None
    corner_colours: NDArray[np.uint8] | None = None

    def __post_init__(self) -> None:
        # Compiled loops are compiled anew for arrays that lie otherwise in memory, and run slower on them.
        for name in ("vertices", "faces"):
            object.__setattr__(self, name, np.ascontiguousarray(getattr(self, name)))

    @property
    def corners(self) -> NDArray[np.float64]:
        """Float64 (M, 3, 3) mm: the three corner positions of every face."""
        return self.vertices[self.faces]
