"""Copies of a decoration: in a row, round an axis, on a grid, or scattered; and straight walks over a skin."""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.surface.parameterize.chart import Tangents, tangents_at
from nebrel.core.surface.parameterize.shapes import SMOOTH_DEG, Shape, round_at
from nebrel.core.surface.parameterize.turned import turned_at
from nebrel.core.surface.skin.patch import smooth_round
from nebrel.core.surface.skin.skin import Skin, SkinPlace, place_in, place_on

Spread = Literal["once", "row", "ring", "grid", "scatter"]
MOST_COPIES = 400
MOST_TRIES = 40
_Reals = NDArray[np.float64]


@dataclass(frozen=True)
class Copies:
    """How a decoration is repeated.

    Attributes:
        kind: `row` along its right, `ring` round the axis of the skin, `grid` right and up, `scatter` around it.
        count: copies in a row or round, columns of a grid, or how many are scattered.
        rows: of a grid.
        across, up: mm between the middles of neighbours; scattered copies keep `across` from each other and lie within
            `up` of the place.
        turn_deg: every copy is turned by so much more than the one before; scattered ones by up to so much.
        seed: of scattered copies.
    """

    kind: Spread = "once"
    count: int = 1
    rows: int = 1
    across: float = 10.0
    up: float = 10.0
    turn_deg: float = 0.0
    seed: int = 1

    @property
    def asked(self) -> int:
        """How many copies are asked for."""
        return {"once": 1, "grid": self.count * self.rows}.get(self.kind, self.count)


@dataclass(frozen=True)
class Copy:
    """One copy: where it is, which way is up, and how much it is turned beyond the first."""

    place: SkinPlace
    tangents: Tangents
    turn_deg: float


def copies_of(skin: Skin, place: SkinPlace, up: _Reals, copies: Copies) -> list[Copy]:
    """All copies, the first at the place itself or, of those that lie on both sides of it, where it belongs.

    Copies that would run off the skin are left out.
    """
    home = tangents_at(place, up)
    if copies.kind == "ring":
        return _ring(skin, place, up, copies)
    places: list[tuple[float, float, float]] = [(0.0, 0.0, 0.0)]
    if copies.kind == "row":
        places = [((i - (copies.count - 1) / 2) * copies.across, 0.0, i * copies.turn_deg) for i in range(copies.count)]
    elif copies.kind == "grid":
        places = [
            (
                (i - (copies.count - 1) / 2) * copies.across,
                (j - (copies.rows - 1) / 2) * copies.up,
                (j * copies.count + i) * copies.turn_deg,
            )
            for j in range(copies.rows)
            for i in range(copies.count)
        ]
    elif copies.kind == "scatter":
        places = _scatter(copies)
    found = []
    for right, high, turn in places[:MOST_COPIES]:
        walked = walk(skin, place, home, right, high)
        if walked is not None:
            there, tangents = walked
            found.append(Copy(there, tangents, turn))
    return found


def _scatter(copies: Copies) -> list[tuple[float, float, float]]:
    """Places within a circle that keep apart, by throwing darts (Cook 1986)."""
    rng = np.random.default_rng(copies.seed)
    kept: list[tuple[float, float, float]] = []
    for _ in range(MOST_TRIES * copies.count):
        if len(kept) == copies.count:
            break
        away, angle = copies.up * math.sqrt(rng.random()), 2 * math.pi * rng.random()
        x, y = away * math.cos(angle), away * math.sin(angle)
        turn = copies.turn_deg * (2 * rng.random() - 1)
        if all(math.hypot(x - other[0], y - other[1]) >= copies.across for other in kept):
            kept.append((x, y, turn))
    return kept


def axis_of(skin: Skin, place: SkinPlace, up: _Reals, fit: Shape | None = None) -> tuple[_Reals, _Reals]:
    """The axis that copies go round.

    That of the cylinder or cone that the skin is part of, or that it is turned on, else `up` through the middle.
    """
    found = fit or round_at(skin, place)
    if found is not None and found.kind != "sphere":
        return found.axis, found.centre
    turned = turned_at(skin, place, smooth_round(skin, place.face, SMOOTH_DEG)) if found is None else None
    if turned is not None:
        return turned.axis, turned.centre
    low, high = skin.mesh.vertices.min(axis=0), skin.mesh.vertices.max(axis=0)
    axis = np.asarray(up, dtype=np.float64)
    axis = axis / np.linalg.norm(axis)
    centre = found.centre if found is not None else (low + high) / 2
    return axis, centre


def _ring(skin: Skin, place: SkinPlace, up: _Reals, copies: Copies) -> list[Copy]:
    axis, centre = axis_of(skin, place, up)
    found = []
    for i in range(min(copies.count, MOST_COPIES)):
        turn = _about(axis, 2 * math.pi * i / copies.count)
        there = place_on(skin, centre + turn @ (place.point - centre), turn @ place.normal)
        found.append(Copy(there, tangents_at(there, turn @ tangents_at(place, up).up), i * copies.turn_deg))
    return found


def _about(axis: _Reals, angle: float) -> _Reals:
    """The rotation by an angle about an axis through the origin (Rodrigues)."""
    cross = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    turned: _Reals = np.eye(3) + math.sin(angle) * cross + (1 - math.cos(angle)) * (cross @ cross)
    return turned


def walk(
    skin: Skin, place: SkinPlace, tangents: Tangents, right: float, up: float
) -> tuple[SkinPlace, Tangents] | None:
    """Go straight over the skin: `right` and `up` mm in the directions of the start, as the crow walks.

    The straightest geodesic (Polthier and Schmies 1998): unfolded across every edge it is a straight line. Directions
    are carried along, so that a row of copies stays a row.

    Returns:
        Where it ends, or None where the skin ends before.
    """
    length = math.hypot(right, up)
    if length < 1e-9:
        return place, tangents
    direction = (right * tangents.right + up * tangents.up) / length
    face, shares, along = _walk(
        skin.net,
        place.face,
        place.shares.copy(),
        direction,
        length,
    )
    if face < 0:
        return None
    there = place_in(skin, int(face), shares)
    out = there.normal
    ahead = along - (along @ out) * out
    ahead /= max(float(np.linalg.norm(ahead)), 1e-12)
    aside = np.cross(out, ahead)
    cosine, sine = right / length, up / length
    return there, Tangents(cosine * ahead - sine * aside, sine * ahead + cosine * aside, out)


@compiled
def _walk(net, face, shares, direction, length):
    """Walk over faces; gives the last face, the shares of its corners and the direction there."""
    vertices, faces, opposite_halfedges, normals = net
    point = (
        shares[0] * vertices[faces[face, 0]]
        + shares[1] * vertices[faces[face, 1]]
        + shares[2] * vertices[faces[face, 2]]
    )
    came = -1
    for _ in range(1_000_000):
        n = normals[face]
        direction = direction - (direction * n).sum() * n
        size = np.sqrt((direction * direction).sum())
        if size < 1e-12:
            return -1, shares, direction
        direction = direction / size
        best, leave = np.inf, -1
        for i in range(3):
            if i == came:
                continue
            a, b = vertices[faces[face, i]], vertices[faces[face, (i + 1) % 3]]
            inward = np.cross(n, b - a)
            speed = (inward * direction).sum()
            if speed >= -1e-14:
                continue
            s = max(0.0, -((point - a) * inward).sum() / speed)
            if s < best:
                best, leave = s, i
        if leave < 0 or best >= length:
            point = point + length * direction
            a, b, c = vertices[faces[face, 0]], vertices[faces[face, 1]], vertices[faces[face, 2]]
            whole = np.cross(b - a, c - a)
            square = (whole * whole).sum()
            shares = np.empty(3, dtype=np.float64)
            shares[1] = (np.cross(point - a, c - a) * whole).sum() / square
            shares[2] = (np.cross(b - a, point - a) * whole).sum() / square
            shares[1], shares[2] = max(0.0, shares[1]), max(0.0, shares[2])
            shares[0] = max(0.0, 1 - shares[1] - shares[2])
            return face, shares / shares.sum(), direction
        point = point + best * direction
        length -= best
        other = opposite_halfedges[3 * face + leave]
        if other < 0:
            return -1, shares, direction
        # Turned about the edge with the skin.
        a, b = vertices[faces[face, leave]], vertices[faces[face, (leave + 1) % 3]]
        edge = (b - a) / np.sqrt(((b - a) ** 2).sum())
        m = normals[other // 3]
        along = (direction * edge).sum()
        across = (direction * np.cross(n, edge)).sum()
        direction = along * edge + across * np.cross(m, edge)
        face, came = other // 3, other % 3
    return -1, shares, direction
