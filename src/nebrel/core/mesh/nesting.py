"""How the closed shells of a mesh lie within each other, and what room they hold."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.shells import Shell
from nebrel.core.mesh.trimesh import TriMesh
from nebrel.core.mesh.winding import windings

# At how many places of a shell others are looked for round it, where there are few shells.
PLACES_OF_FEW, FEW_SHELLS = 12, 60
# How far under a shell's surface those places lie, of the largest coordinate: a shell that only touches is not within.
UNDER_SHARE = 1e-6
_Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Nesting:
    """Shells within shells. There is material where outward shells wind round a place more often than inward ones do.

    Attributes:
        outside, inside: int64 (S,), how often closed shells wind round what lies just outside and just inside of each;
            0 for open shells.
        partly: int64 (K, 2), closed shells of which the first lies partly within the second.
    """

    outside: _Ints
    inside: _Ints
    partly: _Ints

    @property
    def bounds(self) -> NDArray[np.int64]:
        """1 for shells with material inside only, -1 with material outside only, 0 where both sides are alike."""
        return (self.inside > 0).astype(np.int64) - (self.outside > 0).astype(np.int64)

    def volume(self, shells: list[Shell]) -> float:
        """What shells that pass through no other hold, mm³; open ones by the sum of their signed parts."""
        held = sum(
            abs(shell.volume_mm3) * int(by) for shell, by in zip(shells, self.bounds, strict=True) if shell.closed
        )
        return float(held + sum(shell.volume_mm3 for shell in shells if not shell.closed))


def shell_numbers(mesh: TriMesh, shells: list[Shell]) -> _Ints:
    """The shell that every face belongs to, int64 (M,)."""
    found = np.empty(len(mesh.faces), dtype=np.int64)
    for number, shell in enumerate(shells):
        found[shell.faces] = number
    return found


def nesting_of(mesh: TriMesh, shells: list[Shell]) -> Nesting:
    """How the shells of a mesh lie within each other; those whose boxes are apart are not asked."""
    low, high = np.array([shell.low for shell in shells]), np.array([shell.high for shell in shells])
    every = PLACES_OF_FEW if len(shells) <= FEW_SHELLS else 1
    under = UNDER_SHARE * float(np.abs([low, high]).max())
    points, own = [np.empty((0, 3))], []
    for number, shell in enumerate(shells):
        near = ((low <= high[number]) & (high >= low[number])).all(axis=1)
        if not shell.closed or near.sum() < 2:
            continue
        at = shell.faces[np.linspace(0, len(shell.faces) - 1, min(every, len(shell.faces))).astype(np.int64)]
        corners = mesh.vertices[mesh.faces[at]]
        normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
        points.append(corners.mean(axis=1) - under * normals)
        own += [number] * len(at)
    answers = windings(mesh, shell_numbers(mesh, shells), np.vstack(points), np.array(own, dtype=np.int64))
    around: dict[int, list[dict[int, int]]] = {}
    for number, answer in zip(own, answers, strict=True):
        closed_ones = {holder: often for holder, often in answer.items() if shells[holder].closed}
        around.setdefault(number, []).append(closed_ones)
    outside = np.zeros(len(shells), dtype=np.int64)
    partly = []
    for number, found in around.items():
        outside[number] = sum(found[0].values())
        holders = {holder for answer in found for holder in answer}
        partly += [(number, one) for one in holders if len({answer.get(one, 0) for answer in found}) > 1]
    own_way = np.array([(1 if shell.volume_mm3 > 0 else -1) if shell.closed else 0 for shell in shells])
    return Nesting(outside, outside + own_way, np.array(partly, dtype=np.int64).reshape(-1, 2))
