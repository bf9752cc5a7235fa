"""Faces turned so that they agree with each other and look out of the material."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.measure import volume
from nebrel.core.mesh.nesting import shell_numbers
from nebrel.core.mesh.shells import part_of, shells_of
from nebrel.core.mesh.topology import opposite_halfedges
from nebrel.core.mesh.trimesh import TriMesh
from nebrel.core.mesh.winding import windings

# Of its area to the power of 3/2: what an open part must hold for its inside to be told.
LEAST_HELD = 1e-3
MOST_SHELLS = 2000
_Ints = NDArray[np.int64]


def oriented(mesh: TriMesh, open_ones: bool = False) -> tuple[TriMesh, int]:
    """The mesh with faces of each shell agreeing, and shells looking outwards; how many faces were turned.

    A closed shell that looks inwards is a cavity where it lies within an odd number of others, and turned elsewhere;
    where all look inwards, all are turned first.

    Args:
        mesh: in any state.
        open_ones: whether open shells are turned as well; a bore without its ends looks inwards and is right.
    """
    faces = mesh.faces.astype(np.int64)
    mate, _ = opposite_halfedges(faces, len(mesh.vertices))
    flip = _disagreeing(faces, mate)
    agreed = _turned(mesh, flip)
    shells = shells_of(agreed)
    if len(shells) > MOST_SHELLS:
        return agreed, int(flip.sum())
    shell_of_face = shell_numbers(agreed, shells)
    closed = np.array([shell.closed for shell in shells])
    holding = np.array([shell.volume_mm3 for shell in shells])
    if closed.any() and (holding[closed] < 0).all():
        flip[closed[shell_of_face]] ^= True
        agreed = _turned(mesh, flip)
        shells = [replace(shell, volume_mm3=-shell.volume_mm3) if shell.closed else shell for shell in shells]
    inwards = [
        number
        for number, shell in enumerate(shells)
        if (shell.volume_mm3 < 0 if shell.closed else open_ones and _looks_inwards(agreed, shell.faces))
    ]
    points = np.array([agreed.vertices[agreed.faces[shells[number].faces[0]]].mean(axis=0) for number in inwards])
    around = windings(agreed, shell_of_face, points.reshape(-1, 3), np.array(inwards, dtype=np.int64))
    for number, holders in zip(inwards, around, strict=True):
        closed_ones = [holder for holder in holders if shells[holder].closed]
        if not (shells[number].closed and len(closed_ones) % 2):
            flip[shells[number].faces] ^= True
    return _turned(mesh, flip), int(flip.sum())


def _turned(mesh: TriMesh, flip: NDArray[np.bool_]) -> TriMesh:
    if not flip.any():
        return mesh
    faces = mesh.faces.copy()
    faces[flip] = faces[flip][:, [0, 2, 1]]
    return replace(mesh, faces=faces, corner_colours=None)


def _looks_inwards(mesh: TriMesh, faces: _Ints) -> bool:
    """Whether an open shell holds less than nothing about its own middle, where that is clear."""
    part = part_of(mesh, faces)
    held = volume(TriMesh(part.vertices - part.vertices.mean(axis=0), part.faces))
    corners = part.corners
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum() / 2
    return bool(held < -LEAST_HELD * area**1.5)


@compiled
def _disagreeing(faces, mate):
    """Faces to turn so that neighbours agree, the fewer of every shell; a surface with one side keeps its seam."""
    count = len(faces)
    flip = np.zeros(count, dtype=np.bool_)
    seen = np.zeros(count, dtype=np.bool_)
    queue = np.empty(count, dtype=np.int64)
    corners = faces.ravel()
    for start in range(count):
        if seen[start]:
            continue
        seen[start], queue[0], done, size, turned = True, start, 0, 1, 0
        while done < size:
            face = queue[done]
            done += 1
            for side in range(3):
                other = mate[3 * face + side]
                if other < 0 or seen[other // 3]:
                    continue
                alike = corners[3 * face + side] == corners[other]
                flip[other // 3] = flip[face] != alike
                turned += flip[other // 3]
                seen[other // 3] = True
                queue[size] = other // 3
                size += 1
        if 2 * turned > size:
            for i in range(size):
                flip[queue[i]] = not flip[queue[i]]
    return flip
