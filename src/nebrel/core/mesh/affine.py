"""The affine map between two states of a mesh that has the same points in the same order."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.trimesh import TriMesh

LOOKED_AT = 2000
ALIKE_SHARE = 1e-6


@dataclass(frozen=True)
class Affine:
    """x ↦ linear · x + moved, mm.

    Attributes:
        linear: float64 (3, 3).
        moved: float64 (3,).
    """

    linear: NDArray[np.float64]
    moved: NDArray[np.float64]

    @property
    def scale(self) -> float:
        """How many times as long lengths become, on average."""
        return float(abs(np.linalg.det(self.linear)) ** (1 / 3))

    @property
    def mirrors(self) -> bool:
        """Whether left and right change places."""
        return float(np.linalg.det(self.linear)) < 0

    def place(self, spot: tuple[float, ...]) -> tuple[float, float, float]:
        """Where a place comes to lie."""
        x, y, z = (self.linear @ np.array(spot) + self.moved).tolist()
        return x, y, z

    def direction(self, along: tuple[float, ...]) -> tuple[float, float, float]:
        """Where a direction comes to point, of length 1."""
        turned = self.linear @ np.array(along)
        x, y, z = (turned / max(float(np.linalg.norm(turned)), 1e-12)).tolist()
        return x, y, z


def affine_between(before: TriMesh, after: TriMesh) -> Affine | None:
    """The map from one state to the other; None where they are not the same points, or it is no affine one.

    By least squares over up to `LOOKED_AT` points, and taken only where it fits all of them to `ALIKE_SHARE` of the
    size.
    """
    if len(before.vertices) != len(after.vertices) or len(before.faces) != len(after.faces):
        return None
    chosen = np.unique(np.linspace(0, len(before.vertices) - 1, LOOKED_AT).astype(np.int64))
    points, there = before.vertices[chosen], after.vertices[chosen]
    middle = points.mean(axis=0)
    terms = np.column_stack([points - middle, np.ones(len(points))])
    if np.linalg.matrix_rank(terms) < terms.shape[1]:
        return None
    fitted = np.linalg.lstsq(terms, there, rcond=None)[0]
    if np.abs(terms @ fitted - there).max() > ALIKE_SHARE * float(np.ptp(there, axis=0).max()):
        return None
    linear = fitted[:3].T
    return Affine(linear, fitted[3] - linear @ middle)
