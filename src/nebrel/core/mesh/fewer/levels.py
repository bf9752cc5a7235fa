"""Edges collapsed in halvings of the count, two parts of a large mesh at once."""

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.fewer.bound import Samples, no_samples, of_faces, samples_of
from nebrel.core.mesh.fewer.collapse import Hand, collapse_edges, hand_of, offer_all
from nebrel.core.mesh.fewer.flats import flats_of
from nebrel.core.mesh.fewer.net import ON_BORDER, TANGLED, Net, net_of
from nebrel.core.mesh.fewer.quadric import fill_quadrics
from nebrel.core.mesh.fewer.queue import BUCKETS, NOWHERE, OCTAVE, beside, empty_queue
from nebrel.core.mesh.trimesh import TriMesh

# Parts of a mesh that is smaller are not worth a second thread.
WORTH_HALVING = 60_000
# The seam between two parts has its turn when this share of the faces to go is left.
_LEFT_FOR_SEAM = 0.03
_AT_ONCE = 200_000
_ONE, _OTHER, _SEAM = 0, 1, 2

Progress = Callable[[int], None]


@dataclass(frozen=True)
class Level:
    """A mesh on its way to fewer faces.

    Attributes:
        places: float64 (N, 3), about the middle of the first mesh, in parts of its extent.
        faces: int64 (M, 3).
        samples: of the first mesh, when there is a bound.
        fixed: bool (N,), vertices that stay where they are.
        flats: int32 (M,), see `flats_of`.
        lines: bool (3 M,), half-edges along which the surface's colours end.
    """

    places: NDArray[np.float64]
    faces: NDArray[np.int64]
    samples: Samples
    fixed: NDArray[np.bool_]
    flats: NDArray[np.int32]
    lines: NDArray[np.bool_]


@dataclass(frozen=True)
class Scale:
    """Between millimetres and the places of a `Level`."""

    middle: NDArray[np.float64]
    extent: float

    def places(self, mesh: TriMesh) -> NDArray[np.float64]:
        """The vertices of a mesh."""
        return np.ascontiguousarray((mesh.vertices - self.middle) / self.extent)

    def mesh(self, level: Level) -> TriMesh:
        """The mesh of a level, of numbers that a file keeps."""
        vertices = (level.places * self.extent + self.middle).astype(np.float32).astype(np.float64)
        return TriMesh(vertices, level.faces.astype(np.uint32))


def first_level(
    mesh: TriMesh, bounded: bool, lines: NDArray[np.bool_], fixed: NDArray[np.bool_] | None = None
) -> tuple[Level, Scale]:
    """A mesh as it comes, with samples of its surface where they are to be `bounded`; see `Level`."""
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    scale = Scale((low + high) / 2, max(float((high - low).max()), 1e-300))
    places = scale.places(mesh)
    samples = samples_of(TriMesh(places, mesh.faces)) if bounded else no_samples()
    if fixed is None:
        fixed = np.zeros(len(places), dtype=np.bool_)
    faces, flats = mesh.faces.astype(np.int64), flats_of(mesh)
    if bounded:
        # Where faces are tangled the surface is so folded that between samples it is far from where they tell.
        fixed = fixed | (net_of(places, faces, flats, fixed).kinds == TANGLED)
    return Level(places, faces, samples, fixed, flats, lines), scale


def fewer_faces(
    level: Level, goal: int, bound: float, progress: Progress = lambda _: None
) -> tuple[Level, NDArray[np.int64]]:
    """Collapse edges down to `goal` faces, or until no edge can go.

    Args:
        level: what comes; it stays as it is.
        goal: faces.
        bound: how far old and new surface may be apart, in the units of the level; 0 for no bound.
        progress: called with the number of faces left, now and then.

    Returns:
        What is left, and which vertex of the level each of its vertices was, int64, rising; it may have moved.
    """
    samples = level.samples
    if bound:
        samples = samples._replace(heads=samples.heads.copy(), after=samples.after.copy(), near=samples.near.copy())
    net = net_of(level.places.copy(), level.faces, level.flats, level.fixed)
    fill_quadrics(net, level.lines | _borders(net))
    queue, left = empty_queue(len(net.corners)), len(level.faces)

    if left > WORTH_HALVING:
        hands = [hand_of(each, net, samples, zone) for zone, each in enumerate((queue, beside(queue)))]
        until = goal + int(_LEFT_FOR_SEAM * (left - goal))
        for now in _collapsing(net, samples, _zones(level), hands, bound * bound, left, until):
            left = now
            progress(left)
        queue.buckets[:] = NOWHERE
    everywhere = np.full(len(net.places), _ONE, np.int8)
    for now in _collapsing(
        net, samples, everywhere, [hand_of(beside(queue), net, samples, _ONE)], bound * bound, left, goal
    ):
        progress(now)
    return _what_is_left(net, level, samples)


def _collapsing(
    net: Net, samples: Samples, zones: NDArray[np.int8], hands: list[Hand], squared: float, left: int, goal: int
) -> Iterator[int]:
    """Let all hands work up to the same cost, step by step, until `goal` faces are left; gives how many are left."""
    if left <= goal:
        return
    with ThreadPoolExecutor(max_workers=len(hands)) as threads:
        list(threads.map(lambda hand: offer_all(net, zones, hand), hands))
        below = min(min(int(hand.queue.lowest[0]) for hand in hands) + OCTAVE, BUCKETS)
        while left > goal:
            most = -(-(left - goal) // len(hands))
            done = list(
                threads.map(
                    lambda hand: collapse_edges(net, samples, zones, hand, squared, below, most, _AT_ONCE),  # noqa: B023
                    hands,
                )
            )
            left -= sum(taken for taken, _ in done)
            yield left
            if max(tried for _, tried in done) < _AT_ONCE:
                if below >= BUCKETS:
                    return
                below = min(below + OCTAVE, BUCKETS)


def _zones(level: Level) -> NDArray[np.int8]:
    """Two halves of the vertices, and those so near the seam that a collapse could reach over it, int8 (N,)."""
    axis = int(np.ptp(level.places, axis=0).argmax())
    along = level.places[:, axis]
    zones = (along > np.median(along)).astype(np.int8)
    for _ in range(2):
        at_corners = zones[level.faces]
        over = (at_corners != at_corners[:, :1]).any(axis=1)
        zones[level.faces[over]] = _SEAM
    return zones


def _borders(net: Net) -> NDArray[np.bool_]:
    """Half-edges between two vertices of borders, bool (3 M,)."""
    on = net.kinds[net.corners].reshape(-1, 3) == ON_BORDER
    return np.asarray((on & np.roll(on, -1, axis=1)).ravel())


def _what_is_left(net: Net, level: Level, samples: Samples) -> tuple[Level, NDArray[np.int64]]:
    kept = np.flatnonzero(~net.gone)
    faces = net.corners.reshape(-1, 3)[kept]
    marked = np.zeros(len(net.places), dtype=bool)
    marked[faces] = True
    used = np.flatnonzero(marked)
    index = np.cumsum(marked) - 1
    left = replace(
        level,
        places=net.places[used],
        faces=index[faces],
        samples=of_faces(samples, kept),
        fixed=level.fixed[used],
        flats=level.flats[kept],
        lines=level.lines.reshape(-1, 3)[kept].ravel(),
    )
    return left, used
