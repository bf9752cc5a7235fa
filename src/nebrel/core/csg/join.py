"""Putting solids together: joined to one, cut away from the first, or kept apart in one file."""

from dataclasses import dataclass
from itertools import combinations, product
from typing import Literal

import manifold3d
import numpy as np
from numpy.typing import NDArray

from nebrel.core.csg.boolean import cleanup, solid_of
from nebrel.core.errors import BadMeshError, BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.colouring import colour_like
from nebrel.core.mesh.shells import together
from nebrel.core.mesh.topology import analyse

How = Literal["join", "cut", "apart"]
Meeting = Literal["overlap", "touch", "apart"]
MERGE_SHARE = 1e-6
TOUCHES = 1e-3
LEAST_OVERLAP = 1e-9
# Places of the box that two parts share, as shares of it, that are looked at first, and how deep they must lie, mm.
PROBES = np.array([(0.5, 0.5, 0.5), *product((0.3, 0.7), repeat=3), *product((0.1, 0.5, 0.9), repeat=3)])
DEEP = 0.01
MOST_PARTS = 200


@dataclass(frozen=True)
class Joined:
    """Solids put together.

    Attributes:
        mesh: the whole.
        meetings: of every two parts whose boxes meet, by number from 0, how they meet.
        loose: parts, by number from 0, that nothing holds to the first.
    """

    mesh: TriMesh
    meetings: dict[tuple[int, int], Meeting]
    loose: tuple[int, ...]


def join(parts: list[TriMesh], how: How = "join") -> Joined:
    """Put closed solids together where they stand.

    Args:
        parts: in their order.
        how: united; all others cut away from the first; or side by side in one mesh.

    Raises:
        BadMeshError: a part is not closed.
        BadValueError: there are none or far too many, or nothing is left.
    """
    if not 1 <= len(parts) <= MOST_PARTS:
        raise BadValueError(f"There are {len(parts)} parts; 1 to {MOST_PARTS} would be accepted.")
    for number, part in enumerate(parts, start=1):
        topology = analyse(part)
        if not (topology.closed and topology.manifold and topology.flipped_edges == 0):
            raise BadMeshError(f"Part {number} is not a closed solid, so it cannot be put together; repair it first.")
    solids = [solid_of(part) for part in parts]
    for number, solid in enumerate(solids, start=1):
        if solid.status() != manifold3d.Error.NoError or solid.is_empty():
            raise BadMeshError(f"Part {number} is no solid that could be put together; repair it first.")
    meetings = meetings_of(solids)
    loose = loose_parts(len(parts), meetings)
    everything = together(parts)
    if how == "apart" or len(parts) == 1:
        return Joined(everything, meetings, loose)
    if how == "join":
        whole = manifold3d.Manifold.batch_boolean(solids, manifold3d.OpType.Add)
    else:
        whole = manifold3d.Manifold.batch_boolean(solids, manifold3d.OpType.Subtract)
    if whole.is_empty():
        raise BadValueError("Nothing is left when the other parts are cut away from the first; move them.")
    extent = float(np.ptp(everything.vertices, axis=0).max())
    return Joined(colour_like(cleanup(whole, MERGE_SHARE * extent, parts), everything), meetings, loose)


def meetings_of(solids: list[manifold3d.Manifold]) -> dict[tuple[int, int], Meeting]:
    """How every two solids meet whose boxes come near each other."""
    boxes = np.array([solid.bounding_box() for solid in solids])
    found: dict[tuple[int, int], Meeting] = {}
    for one, other in combinations(range(len(solids)), 2):
        if not _near(boxes[one], boxes[other]):
            continue
        if _both_hold_a_place(solids[one], solids[other], boxes[[one, other]]):
            found[one, other] = "overlap"
            continue
        shared = (solids[one] ^ solids[other]).volume()
        if shared > LEAST_OVERLAP * min(solids[one].volume(), solids[other].volume()):
            found[one, other] = "overlap"
        else:
            found[one, other] = "touch" if solids[one].min_gap(solids[other], 2 * TOUCHES) <= TOUCHES else "apart"
    return found


def _both_hold_a_place(one: manifold3d.Manifold, other: manifold3d.Manifold, boxes: NDArray[np.float64]) -> bool:
    """Whether one of a few places lies deep in both, which rays tell sooner than their common solid."""
    low, high = boxes[:, :3].max(axis=0), boxes[:, 3:].min(axis=0)
    if (high - low).min() <= 2 * DEEP:
        return False
    far = 2 * np.ptp(np.vstack([boxes[:, :3], boxes[:, 3:]]), axis=0).max()
    return any(_holds(one, place, far) and _holds(other, place, far) for place in low + PROBES * (high - low))


def _holds(solid: manifold3d.Manifold, place: NDArray[np.float64], far: float) -> bool:
    """Whether every ray along the axes leaves the solid from a place, none of them at once."""
    for way in np.vstack([np.eye(3), -np.eye(3)]):
        hits = solid.ray_cast(tuple(place), tuple(place + far * way))
        if len(hits) % 2 == 0 or hits[0].distance * far < DEEP:
            return False
    return True


def moved(mesh: TriMesh, by: tuple[float, float, float]) -> TriMesh:
    """The mesh moved, mm."""
    return TriMesh(mesh.vertices + np.array(by), mesh.faces, mesh.colours, mesh.corner_colours)


def _near(one: NDArray[np.float64], other: NDArray[np.float64]) -> bool:
    return bool((one[:3] <= other[3:] + TOUCHES).all() and (other[:3] <= one[3:] + TOUCHES).all())


def loose_parts(count: int, meetings: dict[tuple[int, int], Meeting]) -> tuple[int, ...]:
    """Of so many parts those, by number from 0, that nothing holds to the first."""
    held, grown = {0}, True
    while grown:
        grown = False
        for (one, other), meeting in meetings.items():
            if meeting == "overlap" and (one in held) != (other in held):
                held |= {one, other}
                grown = True
    return tuple(number for number in range(count) if number not in held)
