"""A skin laid flat all over for what repeats: neighbours agree up to whole tiles, so no seam shows.

A direction for every face that turns as little as can be from face to face (Knöppel et al., "Globally Optimal Direction
Fields", 2013, here on faces), then for both ways of the tile a phase for every vertex that grows along them by one turn
a tile (Knöppel et al., "Stripe Patterns on Surfaces", 2015). Where a skin narrows, rows must end: at a face round which
phases do not close. Over sharp edges directions go on where they can; where they cannot, the edge stays bare.
"""

from dataclasses import dataclass
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.cotangents import cotangents_beyond
from nebrel.core.surface.parameterize.chart import Chart, doubled_areas, flattened_alone, stretches
from nebrel.core.surface.parameterize.smoothest import smoothest
from nebrel.core.surface.skin.patch import RIM_DEG
from nebrel.core.surface.skin.skin import Skin, SkinPlace, over_faces, place_on

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix

WORDS = "skin all over"
LEAST_WEIGHT = 0.02
# How strongly faces hold each other over a sharp edge, and how far directions may differ there for rows to go on.
OVER_EDGE, SAME_WAY_DEG = 1e-4, 5.0
# How strongly strokes hold the direction under them, and within what share of the skin the way up wins where nothing
# else is said.
HELD, SWAYED_SHARE = 10.0, 0.4
# Faces beyond this stretch carry nothing.
MOST_STRETCH = 0.7
# How far rows fade out towards their ends, and towards edges that they cannot go on over, of a tile.
FADE_OF_TILE, EDGE_FADE_OF_TILE = 0.35, 0.1
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]
_Complex = NDArray[np.complex128]


@dataclass(frozen=True)
class Grain:
    """Which way what repeats points, all over a skin.

    Attributes:
        up: float64 (3,), as far as the skin allows and no stroke says otherwise.
        turn: radians by which the tile is turned from that, counter-clockwise seen from outside.
        strokes: float64 (K, 3) mm each, along which it points up: from each place to the one after it.
    """

    up: _Reals
    turn: float = 0.0
    strokes: tuple[_Reals, ...] = ()


@dataclass(frozen=True)
class AllOver:
    """A skin laid flat all over.

    Attributes:
        chart: its faces; neighbours agree on the edge they share up to whole tiles.
        share: float64 (K, 3), how much of the depth their corners carry: 0 where a row ends, else 1.
        ends: how many places there are where rows end.
        covered: the share of the area that carries all of its depth.
        stretch: what 95 % of the area is stretched by at the most.
    """

    chart: Chart
    share: _Reals
    ends: int
    covered: float
    stretch: float


class _Sides(NamedTuple):
    """Sides that two of the faces share: both faces, and where on each it begins; whether it is sharp; the turn that
    takes a direction from the first to the second, complex128 of length 1; and how strongly it binds both."""

    one: _Ints
    side: _Ints
    two: _Ints
    other_side: _Ints
    sharp: NDArray[np.bool_]
    turn: _Complex
    weight: _Reals


def laid_all_over(
    skin: Skin,
    faces: _Ints,
    place: SkinPlace,
    grain: Grain,
    tile: tuple[float, float],
    avoided: NDArray[np.bool_] | None = None,
) -> AllOver:
    """Faces laid flat all over.

    Args:
        faces: int64 (K,), numbers of the faces; small beside the tile.
        place: where the direction is that of `grain.up`, unless strokes say otherwise.
        grain: which way what repeats points.
        tile: mm after which it repeats to the right and up.
        avoided: bool (K,), faces that stay bare.
    """
    flat = flattened_alone(skin.mesh.vertices[skin.faces[faces]])
    sides = _shared_sides(skin, faces, flat)
    up = _directions(skin, faces, flat, sides, place, grain)
    goes_on = ~sides.sharp | (
        (np.conj(up[sides.two]) * sides.turn * up[sides.one]).real > np.cos(np.radians(SAME_WAY_DEG))
    )
    local, count = _joined_corners(len(faces), sides, goes_on)
    bare = np.zeros(count, dtype=np.bool_)
    at_edge = bare.copy()
    for face, side in ((sides.one, sides.side), (sides.two, sides.other_side)):
        at_edge[local[face, side][~goes_on]] = at_edge[local[face, (side + 1) % 3][~goes_on]] = True
    steps = np.roll(flat, -1, axis=1) - flat
    along = steps[..., 0] + 1j * steps[..., 1]
    plane, ends = np.empty((len(faces), 3, 2)), np.zeros(len(faces), dtype=np.bool_)
    weights, area = _weights(flat)
    for axis, period in enumerate(tile):
        way = (up if axis else -1j * up) * np.exp(1j * grain.turn)
        grows = 2 * np.pi / period * (along * np.conj(way)[:, np.newaxis]).real
        phase, closed = _phases(local, count, grows, weights)
        plane[..., axis] = phase * period / (2 * np.pi)
        ends |= ~closed
    turned = doubled_areas(plane) <= 0
    stretch = stretches(skin, faces, plane)
    if avoided is not None:
        # All corners at a vertex of theirs, on whichever fan of faces.
        bare[local[np.isin(skin.faces[faces], skin.faces[faces[avoided]])]] = True
    bare[local[ends | turned | ~(stretch <= MOST_STRETCH)].ravel()] = True
    corners = skin.mesh.vertices[skin.faces[faces]]
    share = _faded(corners, local, bare, FADE_OF_TILE * min(tile))
    share = np.minimum(share, _faded(corners, local, at_edge, EDGE_FADE_OF_TILE * min(tile)))
    by_stretch = np.argsort(stretch)
    at = int(np.searchsorted(np.cumsum(area[by_stretch]), 0.95 * area.sum()))
    return AllOver(
        chart=Chart(faces[~turned], plane[~turned], 0.0, 0.0, WORDS),
        share=share[~turned],
        ends=int(ends.sum()),
        covered=float(area @ share.mean(axis=1) / area.sum()),
        stretch=float(stretch[by_stretch[min(at, len(area) - 1)]]),
    )


def _faded(corners: _Reals, local: _Ints, bare: NDArray[np.bool_], over: float) -> _Reals:
    """How much corners, (K, 3, 3) mm, carry: 0 at bare places, and softly more up to `over` mm away."""
    from scipy.spatial import cKDTree

    places = np.empty((len(bare), 3))
    places[local.ravel()] = corners.reshape(-1, 3)
    if not bare.any():
        return np.ones(local.shape)
    away, _ = cKDTree(places[bare]).query(places, distance_upper_bound=over, workers=-1)
    share = np.minimum(away / over, 1.0)
    return np.asarray((share * share * (3 - 2 * share))[local])


def _shared_sides(skin: Skin, faces: _Ints, flat: _Reals) -> _Sides:
    number = np.full(len(skin.faces), -1, dtype=np.int64)
    number[faces] = np.arange(len(faces))
    opposite = skin.opposite_halfedges.reshape(-1, 3)[faces]
    there = np.where(opposite >= 0, number[np.maximum(opposite, 0) // 3], -1)
    one, side = np.nonzero(there > np.arange(len(faces))[:, np.newaxis])
    two, other_side = there[one, side], opposite[one, side] % 3
    steps = np.roll(flat, -1, axis=1) - flat
    along = steps[..., 0] + 1j * steps[..., 1]
    here, beyond = along[one, side], -along[two, other_side]
    length = np.maximum(np.abs(here), 1e-300)
    # What points along the side that they share points along it on both faces.
    turn = beyond * np.conj(here)
    turn /= np.maximum(np.abs(turn), 1e-300)
    normals = skin.normals[faces]
    sharp = np.einsum("ij,ij->i", normals[one], normals[two]) < np.cos(np.radians(RIM_DEG))
    area = np.abs(doubled_areas(flat)) / 2
    apart = 2 / 3 * (area[one] + area[two]) / length
    weight = np.minimum(length / np.maximum(apart, 1e-300), 1 / LEAST_WEIGHT)
    return _Sides(one, side, two, other_side, sharp, turn, np.where(sharp, OVER_EDGE, 1.0) * weight)


def _directions(skin: Skin, faces: _Ints, flat: _Reals, sides: _Sides, place: SkinPlace, grain: Grain) -> _Complex:
    """Which way is up on every face, complex128 (K,) of length 1, in the plane in which it is laid flat alone."""
    count = len(faces)
    weight, turn = sides.weight, sides.turn
    matrix = _hermitian(sides.one, sides.two, weight, turn, count)
    area = np.abs(doubled_areas(flat)) / 2
    every = np.arange(count)
    wished = _in_faces(skin, faces, every, np.broadcast_to(grain.up, (count, 3)))
    pull = area / (SWAYED_SHARE * skin.extent) ** 2 * wished
    held = HELD * float(weight.mean())
    if grain.strokes:
        among, number = over_faces(skin, faces), np.full(len(skin.faces), -1, dtype=np.int64)
        number[faces] = every
        starts, ends = np.vstack([each[:-1] for each in grain.strokes]), np.vstack([each[1:] for each in grain.strokes])
        here = np.array([number[place_on(among, middle).face] for middle in (starts + ends) / 2], dtype=np.int64)
        pull = np.zeros_like(pull)
        np.add.at(pull, here, held * _of_one_length(_in_faces(skin, faces, here, ends - starts)))
    else:
        here = np.flatnonzero(faces == place.face)
        pull[here] += held * _of_one_length(wished[here])
    return smoothest(matrix, pull)


def _in_faces(skin: Skin, faces: _Ints, at: _Ints, ways: _Reals) -> _Complex:
    """Ways, float64 (K, 3), as they lie in the planes in which some faces are laid flat alone."""
    corners = skin.mesh.vertices[skin.faces[faces[at]]]
    first = corners[:, 1] - corners[:, 0]
    first /= np.maximum(np.linalg.norm(first, axis=1, keepdims=True), 1e-300)
    second = np.cross(skin.normals[faces[at]], first)
    found: _Complex = np.einsum("ij,ij->i", ways, first) + 1j * np.einsum("ij,ij->i", ways, second)
    return found


def _of_one_length(ways: _Complex) -> _Complex:
    size = np.abs(ways)
    return np.where(size > 1e-9, ways / np.maximum(size, 1e-300), 0.0)


def _joined_corners(count: int, sides: _Sides, goes_on: NDArray[np.bool_]) -> tuple[_Ints, int]:
    """Corners of faces as numbers of places, int64 (K, 3), one place where they meet over sides that rows go on over;
    and how many places there are."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    one, side, two, other = (each[goes_on] for each in (sides.one, sides.side, sides.two, sides.other_side))
    here = np.concatenate([3 * one + side, 3 * one + (side + 1) % 3])
    there = np.concatenate([3 * two + (other + 1) % 3, 3 * two + other])
    links = coo_array((np.ones(len(here), dtype=np.int8), (here, there)), shape=(3 * count, 3 * count))
    found, local = connected_components(links, directed=False)
    return np.asarray(local, dtype=np.int64).reshape(-1, 3), int(found)


def _weights(flat: _Reals) -> tuple[_Reals, _Reals]:
    """Half the cotangents opposite to every side, (K, 3), and areas (K,)."""
    return np.clip(cotangents_beyond(flat), LEAST_WEIGHT, 1 / LEAST_WEIGHT) / 2, np.abs(doubled_areas(flat)) / 2


def _phases(local: _Ints, count: int, grows: _Reals, weights: _Reals) -> tuple[_Reals, NDArray[np.bool_]]:
    """Phases at the corners of faces, (K, 3), and round which faces they close.

    Args:
        local: the places of corners.
        grows: (K, 3), by how much a phase should grow along the sides of a face, each from a corner to the next.
    """
    starts, ends = local.ravel(), np.roll(local, -1, axis=1).ravel()
    key, edge = np.unique(np.minimum(starts, ends) * count + np.maximum(starts, ends), return_inverse=True)
    sign = np.where(starts < ends, 1.0, -1.0)
    wish = np.bincount(edge, sign * grows.ravel()) / np.bincount(edge)
    weight = np.asarray(np.bincount(edge, weights.ravel()), dtype=np.float64)
    matrix = _hermitian(key // count, key % count, weight, np.exp(1j * wish), count)
    phase = np.angle(smoothest(matrix, np.zeros(count, dtype=np.complex128)))
    gone = (sign * wish[edge]).reshape(-1, 3)
    apart = (phase[ends] - phase[starts]).reshape(-1, 3)
    step = gone + (apart - gone + np.pi) % (2 * np.pi) - np.pi
    first = phase[local[:, 0]]
    at = np.stack([first, first + step[:, 0], first + step[:, 0] + step[:, 1]], axis=1)
    return at, np.abs(step.sum(axis=1)) < 1.0


def _hermitian(one: _Ints, two: _Ints, weight: _Reals, turn: _Complex, count: int) -> "csr_matrix":
    """The matrix of the sum of weight · |z_two - turn · z_one|²."""
    from scipy.sparse import coo_matrix

    rows, columns = np.concatenate([one, two, one, two]), np.concatenate([one, two, two, one])
    values = np.concatenate([weight, weight, -weight * np.conj(turn), -weight * turn])
    return coo_matrix((values, (rows, columns)), shape=(count, count)).tocsr()
