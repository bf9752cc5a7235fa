"""Faces of a skin cut into pieces: the loops that insert points and keep every piece within one face.

Pieces are triangles that know their neighbours. Sides of faces, and lines that were drawn, are never turned; the sides
between them are, so that pieces are Delaunay triangles of the plane of the decoration (Lawson 1977). `lines.py`
draws outlines through them, `refine.py` adds points where depths ask for them.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled

FREE, SIDE, LINE, KEPT = 0, 1, 2, 3
DONE, FULL = 0, 1
SPARE = 64


class Pieces(NamedTuple):
    """Pieces of faces, with room for more.

    Attributes:
        corner_vertex: int64 (T, 3), vertices, counter-clockwise.
        neighbour: int64 (T, 3), the piece beyond the side that starts at each corner, -1 for none.
        side_kind: int8 (T, 3), what that side is: FREE, SIDE (of a face), LINE (drawn now) or KEPT (drawn before).
        corner_share: float64 (T, 3, 2), shares of the face's second and third corner.
        corner_place: float64 (T, 3, 2), place in the plane, mm; NaN outside the chart.
        corner_depth: float64 (T, 3), depth that was there before, mm.
        face_of: int64 (T,), the face that the piece belongs to.
        flags: int32 (T,), odd where the decoration is; its half counts the one that was there last, 1 the first.
        piece_at: int64 (V,), one piece of every vertex, -1 for none.
        size: int64 (2,), pieces and vertices in use.
    """

    corner_vertex: NDArray[np.int64]
    neighbour: NDArray[np.int64]
    side_kind: NDArray[np.int8]
    corner_share: NDArray[np.float64]
    corner_place: NDArray[np.float64]
    corner_depth: NDArray[np.float64]
    face_of: NDArray[np.int64]
    flags: NDArray[np.int32]
    piece_at: NDArray[np.int64]
    size: NDArray[np.int64]


@compiled
def corner_of(corner_vertex, t, v):
    """Which corner of `t` is vertex `v`; the third where none is."""
    return 0 if corner_vertex[t, 0] == v else (1 if corner_vertex[t, 1] == v else 2)


@compiled
def side_to(neighbour, t, other, corner_vertex, a):
    """Which side of `t` leads to `other` and starts at vertex `a`."""
    for i in range(3):
        if neighbour[t, i] == other and corner_vertex[t, i] == a:
            return i
    return -1


@compiled
def _point_to(neighbour, corner_vertex, t, old, new, a):
    """The side of `t` that starts at vertex `a` and led to `old` leads to `new` now."""
    if t < 0:
        return
    for i in range(3):
        if neighbour[t, i] == old and corner_vertex[t, i] == a:
            neighbour[t, i] = new
            return


@compiled
def _copy_corner(pieces, to, i, src, j):
    corner_vertex, _, _, corner_share, corner_place, corner_depth, _, _, _, _ = pieces
    corner_vertex[to, i] = corner_vertex[src, j]
    corner_share[to, i, 0], corner_share[to, i, 1] = corner_share[src, j, 0], corner_share[src, j, 1]
    corner_place[to, i, 0], corner_place[to, i, 1] = corner_place[src, j, 0], corner_place[src, j, 1]
    corner_depth[to, i] = corner_depth[src, j]


@compiled
def split_inside(t, w1, w2, pieces):
    """A new vertex inside piece `t`, at shares `w1`, `w2` of its second and third corner; gives its number."""
    corner_vertex, neighbour, side_kind, corner_share, corner_place, corner_depth, face_of, flags, piece_at, size = (
        pieces
    )
    v, n1, n2 = size[1], size[0], size[0] + 1
    size[0] += 2
    size[1] += 1
    w0 = 1.0 - w1 - w2
    b0 = w0 * corner_share[t, 0, 0] + w1 * corner_share[t, 1, 0] + w2 * corner_share[t, 2, 0]
    b1 = w0 * corner_share[t, 0, 1] + w1 * corner_share[t, 1, 1] + w2 * corner_share[t, 2, 1]
    u0 = w0 * corner_place[t, 0, 0] + w1 * corner_place[t, 1, 0] + w2 * corner_place[t, 2, 0]
    u1 = w0 * corner_place[t, 0, 1] + w1 * corner_place[t, 1, 1] + w2 * corner_place[t, 2, 1]
    depth = w0 * corner_depth[t, 0] + w1 * corner_depth[t, 1] + w2 * corner_depth[t, 2]
    a, b, c = corner_vertex[t, 0], corner_vertex[t, 1], corner_vertex[t, 2]
    over_bc, over_ca = neighbour[t, 1], neighbour[t, 2]
    kind_bc, kind_ca = side_kind[t, 1], side_kind[t, 2]
    # t becomes (a, b, v), n1 (b, c, v), n2 (c, a, v).
    _copy_corner(pieces, n1, 0, t, 1)
    _copy_corner(pieces, n1, 1, t, 2)
    _copy_corner(pieces, n2, 0, t, 2)
    _copy_corner(pieces, n2, 1, t, 0)
    for piece in (t, n1, n2):
        corner_vertex[piece, 2] = v
        corner_share[piece, 2, 0], corner_share[piece, 2, 1] = b0, b1
        corner_place[piece, 2, 0], corner_place[piece, 2, 1] = u0, u1
        corner_depth[piece, 2] = depth
        face_of[piece], flags[piece] = face_of[t], flags[t]
    neighbour[n1, 0], neighbour[n1, 1], neighbour[n1, 2] = over_bc, n2, t
    neighbour[n2, 0], neighbour[n2, 1], neighbour[n2, 2] = over_ca, t, n1
    neighbour[t, 1], neighbour[t, 2] = n1, n2
    side_kind[n1, 0], side_kind[n1, 1], side_kind[n1, 2] = kind_bc, FREE, FREE
    side_kind[n2, 0], side_kind[n2, 1], side_kind[n2, 2] = kind_ca, FREE, FREE
    side_kind[t, 1], side_kind[t, 2] = FREE, FREE
    _point_to(neighbour, corner_vertex, over_bc, t, n1, c)
    _point_to(neighbour, corner_vertex, over_ca, t, n2, a)
    piece_at[v], piece_at[a], piece_at[b], piece_at[c] = t, t, t, n1
    return v


@compiled
def _halve(t, i, s, v, new, pieces):
    """Piece `t` cut from its corner opposite to side `i` to vertex `v` on that side; `new` takes the far half."""
    corner_vertex, neighbour, side_kind, corner_share, corner_place, corner_depth, face_of, flags, piece_at, _ = pieces
    j, k = (i + 1) % 3, (i + 2) % 3
    b0 = (1 - s) * corner_share[t, i, 0] + s * corner_share[t, j, 0]
    b1 = (1 - s) * corner_share[t, i, 1] + s * corner_share[t, j, 1]
    u0 = (1 - s) * corner_place[t, i, 0] + s * corner_place[t, j, 0]
    u1 = (1 - s) * corner_place[t, i, 1] + s * corner_place[t, j, 1]
    depth = (1 - s) * corner_depth[t, i] + s * corner_depth[t, j]
    over, kind_over, kind = neighbour[t, j], side_kind[t, j], side_kind[t, i]
    b, c = corner_vertex[t, j], corner_vertex[t, k]
    # new is (v, b, c); t becomes (a, v, c).
    _copy_corner(pieces, new, 1, t, j)
    _copy_corner(pieces, new, 2, t, k)
    for piece, at in ((new, 0), (t, j)):
        corner_vertex[piece, at] = v
        corner_share[piece, at, 0], corner_share[piece, at, 1] = b0, b1
        corner_place[piece, at, 0], corner_place[piece, at, 1] = u0, u1
        corner_depth[piece, at] = depth
    face_of[new], flags[new] = face_of[t], flags[t]
    neighbour[new, 1], neighbour[new, 2] = over, t
    side_kind[new, 0], side_kind[new, 1], side_kind[new, 2] = kind, kind_over, FREE
    neighbour[t, j], side_kind[t, j] = new, FREE
    _point_to(neighbour, corner_vertex, over, t, new, c)
    piece_at[b], piece_at[c], piece_at[v], piece_at[corner_vertex[t, i]] = new, new, new, t


@compiled
def split_side(t, i, s, pieces):
    """A new vertex on side `i` of piece `t`, at share `s` from its start; gives its number."""
    corner_vertex, neighbour, piece_at, size = pieces.corner_vertex, pieces.neighbour, pieces.piece_at, pieces.size
    v = size[1]
    size[1] += 1
    other = neighbour[t, i]
    a = corner_vertex[t, i]
    j = (i + 1) % 3
    b = corner_vertex[t, j]
    side = -1 if other < 0 else side_to(neighbour, other, t, corner_vertex, b)
    new = size[0]
    size[0] += 1
    _halve(t, i, s, v, new, pieces)
    if other < 0:
        neighbour[new, 0] = -1
        return v
    far = size[0]
    size[0] += 1
    # The other piece runs from b to a: its near half keeps b, the far half gets a.
    _halve(other, side, 1 - s, v, far, pieces)
    neighbour[t, i], neighbour[far, 0] = far, t
    neighbour[new, 0], neighbour[other, side] = other, new
    piece_at[a] = t
    return v


@compiled
def cross(ax, ay, bx, by):
    """Twice the signed area between two vectors of the plane."""
    return ax * by - ay * bx


@compiled
def flip(t, i, pieces):
    """Turn side `i` of `t`, inside one face, to the other diagonal; False where the four corners are not convex."""
    corner_vertex, neighbour, side_kind, _, corner_place, _, _, _, piece_at, _ = pieces
    o = neighbour[t, i]
    j, k = (i + 1) % 3, (i + 2) % 3
    a, b = corner_vertex[t, i], corner_vertex[t, j]
    p = side_to(neighbour, o, t, corner_vertex, b)
    q, r = (p + 1) % 3, (p + 2) % 3
    # o is (b, a, d): corner p is b, q is a, r is d.
    ax, ay, bx, by = corner_place[t, i, 0], corner_place[t, i, 1], corner_place[t, j, 0], corner_place[t, j, 1]
    cx, cy, dx, dy = corner_place[t, k, 0], corner_place[t, k, 1], corner_place[o, r, 0], corner_place[o, r, 1]
    one = cross(dx - ax, dy - ay, cx - ax, cy - ay)
    two = cross(cx - bx, cy - by, dx - bx, dy - by)
    whole = cross(bx - ax, by - ay, cx - ax, cy - ay) + cross(ax - bx, ay - by, dx - bx, dy - by)
    if one <= 1e-7 * whole or two <= 1e-7 * whole:
        return False
    d = corner_vertex[o, r]
    over_bc, kind_bc = neighbour[t, j], side_kind[t, j]
    over_ad, kind_ad = neighbour[o, q], side_kind[o, q]
    # t becomes (a, d, c), o becomes (d, b, c) in the places of their corners.
    _copy_corner(pieces, t, j, o, r)
    _copy_corner(pieces, o, q, t, k)
    # o now has corners p: b, q: c, r: d.
    neighbour[t, i], side_kind[t, i] = over_ad, kind_ad
    neighbour[t, j], side_kind[t, j] = o, FREE
    neighbour[o, p], side_kind[o, p] = over_bc, kind_bc
    neighbour[o, q], side_kind[o, q] = t, FREE
    _point_to(neighbour, corner_vertex, over_ad, o, t, d)
    _point_to(neighbour, corner_vertex, over_bc, t, o, corner_vertex[t, k])
    piece_at[a], piece_at[b], piece_at[d], piece_at[corner_vertex[t, k]] = t, o, o, t
    return True


@compiled
def _in_circle(a, b, c, d):
    """Whether d lies inside the circle through a, b, c (counter-clockwise), by more than rounding."""
    ax, ay, bx, by, cx, cy = a[0] - d[0], a[1] - d[1], b[0] - d[0], b[1] - d[1], c[0] - d[0], c[1] - d[1]
    aa, bb, cc = ax * ax + ay * ay, bx * bx + by * by, cx * cx + cy * cy
    found = aa * (bx * cy - cx * by) - bb * (ax * cy - cx * ay) + cc * (ax * by - bx * ay)
    return found > 1e-10 * (aa + bb + cc) ** 2


@compiled
def legalise(stack, top, touched, pieces):
    """Turn free sides until every piece round those on the stack is Delaunay; pieces that change are noted."""
    corner_vertex, neighbour, side_kind, _, corner_place, _, _, _, _, _ = pieces
    count = 0
    turns = 0
    while top > 0 and turns < 100_000:
        top -= 1
        t = stack[top]
        i = 0
        while i < 3:
            o = neighbour[t, i]
            if side_kind[t, i] != FREE or o < 0:
                i += 1
                continue
            j = (i + 1) % 3
            r = (side_to(neighbour, o, t, corner_vertex, corner_vertex[t, j]) + 2) % 3
            if _in_circle(
                (corner_place[t, 0, 0], corner_place[t, 0, 1]),
                (corner_place[t, 1, 0], corner_place[t, 1, 1]),
                (corner_place[t, 2, 0], corner_place[t, 2, 1]),
                (corner_place[o, r, 0], corner_place[o, r, 1]),
            ) and flip(t, i, pieces):
                turns += 1
                if count < len(touched) - 2:
                    touched[count], touched[count + 1] = t, o
                    count += 2
                if top < len(stack) - 1:
                    stack[top] = o
                    top += 1
                i = 0
                continue
            i += 1
    return count


@compiled
def find_piece(u, v, start, corner_place, count):
    """A piece that holds a place of the plane, or -1; `start` is tried first."""
    for at in range(-1, count):
        t = start if at < 0 else at
        if t < 0 or np.isnan(corner_place[t, 0, 0]):
            continue
        ax, ay = corner_place[t, 0, 0] - u, corner_place[t, 0, 1] - v
        bx, by = corner_place[t, 1, 0] - u, corner_place[t, 1, 1] - v
        cx, cy = corner_place[t, 2, 0] - u, corner_place[t, 2, 1] - v
        if ax * by - ay * bx >= -1e-12 and bx * cy - by * cx >= -1e-12 and cx * ay - cy * ax >= -1e-12:
            return t
    return -1


@compiled
def put_point(t, u, v, near, pieces):
    """The vertex at a place inside piece `t`: one that is there within `near` mm, or a new one."""
    corner_vertex, corner_place = pieces.corner_vertex, pieces.corner_place
    for i in range(3):
        if (corner_place[t, i, 0] - u) ** 2 + (corner_place[t, i, 1] - v) ** 2 <= near * near:
            return corner_vertex[t, i]
    for i in range(3):
        j = (i + 1) % 3
        ex, ey = corner_place[t, j, 0] - corner_place[t, i, 0], corner_place[t, j, 1] - corner_place[t, i, 1]
        length = np.sqrt(ex * ex + ey * ey)
        gone = cross(ex, ey, u - corner_place[t, i, 0], v - corner_place[t, i, 1]) / max(length, 1e-300)
        if gone <= near:
            s = ((u - corner_place[t, i, 0]) * ex + (v - corner_place[t, i, 1]) * ey) / max(length * length, 1e-300)
            if length * s <= near:
                return corner_vertex[t, i]
            if length * (1 - s) <= near:
                return corner_vertex[t, j]
            return split_side(t, i, s, pieces)
    x, y = corner_place[t, 0, 0], corner_place[t, 0, 1]
    bx, by = corner_place[t, 1, 0] - x, corner_place[t, 1, 1] - y
    cx, cy = corner_place[t, 2, 0] - x, corner_place[t, 2, 1] - y
    whole = cross(bx, by, cx, cy)
    w1, w2 = cross(u - x, v - y, cx, cy) / whole, cross(bx, by, u - x, v - y) / whole
    return split_inside(t, w1, w2, pieces)
