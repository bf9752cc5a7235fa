"""Faces of a skin cut into pieces: the loops that insert points and keep every piece within one face.

Pieces are triangles that know their neighbours. Sides of faces, and lines that were drawn, are never turned; the sides
between them are, so that pieces are Delaunay triangles of the plane of the decoration (Lawson 1977). `lines.py`
draws outlines through them, `refine.py` adds points where depths ask for them.

All functions take the same arrays, in the order of `Carving.arrays`:

    tv  int64 (T, 3)      vertices, counter-clockwise
    tn  int64 (T, 3)      piece beyond the side that starts at each corner, -1 for none
    tk  int8 (T, 3)       what that side is: FREE, SIDE (of a face), LINE (drawn now) or KEPT (drawn before)
    tb  float64 (T, 3, 2) shares of the face's second and third corner
    tu  float64 (T, 3, 2) place in the plane, mm; NaN outside the chart
    tp  float64 (T, 3)    depth that was there before, mm
    tf  int64 (T,)        face that the piece belongs to
    ti  int32 (T,)        odd where the decoration is; its half counts the one that was there last, 1 the first
    vt  int64 (V,)        one piece of every vertex, -1 for none
    size int64 (2,)       pieces and vertices in use
"""

import numpy as np

from nebrel.core.jit import compiled

FREE, SIDE, LINE, KEPT = 0, 1, 2, 3
DONE, FULL = 0, 1
SPARE = 64


@compiled
def corner_of(tv, t, v):
    """Which corner of `t` is vertex `v`; the third where none is."""
    return 0 if tv[t, 0] == v else (1 if tv[t, 1] == v else 2)


@compiled
def side_to(tn, t, other, tv, a):
    """Which side of `t` leads to `other` and starts at vertex `a`."""
    for i in range(3):
        if tn[t, i] == other and tv[t, i] == a:
            return i
    return -1


@compiled
def _point_to(tn, tv, t, old, new, a):
    """The side of `t` that starts at vertex `a` and led to `old` leads to `new` now."""
    if t < 0:
        return
    for i in range(3):
        if tn[t, i] == old and tv[t, i] == a:
            tn[t, i] = new
            return


@compiled
def _copy_corner(tv, tb, tu, tp, to, i, src, j):
    tv[to, i] = tv[src, j]
    tb[to, i, 0], tb[to, i, 1] = tb[src, j, 0], tb[src, j, 1]
    tu[to, i, 0], tu[to, i, 1] = tu[src, j, 0], tu[src, j, 1]
    tp[to, i] = tp[src, j]


@compiled
def split_inside(t, w1, w2, tv, tn, tk, tb, tu, tp, tf, ti, vt, size):
    """A new vertex inside piece `t`, at shares `w1`, `w2` of its second and third corner; gives its number."""
    v, n1, n2 = size[1], size[0], size[0] + 1
    size[0] += 2
    size[1] += 1
    w0 = 1.0 - w1 - w2
    b0 = w0 * tb[t, 0, 0] + w1 * tb[t, 1, 0] + w2 * tb[t, 2, 0]
    b1 = w0 * tb[t, 0, 1] + w1 * tb[t, 1, 1] + w2 * tb[t, 2, 1]
    u0 = w0 * tu[t, 0, 0] + w1 * tu[t, 1, 0] + w2 * tu[t, 2, 0]
    u1 = w0 * tu[t, 0, 1] + w1 * tu[t, 1, 1] + w2 * tu[t, 2, 1]
    depth = w0 * tp[t, 0] + w1 * tp[t, 1] + w2 * tp[t, 2]
    a, b, c = tv[t, 0], tv[t, 1], tv[t, 2]
    over_bc, over_ca = tn[t, 1], tn[t, 2]
    kind_bc, kind_ca = tk[t, 1], tk[t, 2]
    # t becomes (a, b, v), n1 (b, c, v), n2 (c, a, v).
    _copy_corner(tv, tb, tu, tp, n1, 0, t, 1)
    _copy_corner(tv, tb, tu, tp, n1, 1, t, 2)
    _copy_corner(tv, tb, tu, tp, n2, 0, t, 2)
    _copy_corner(tv, tb, tu, tp, n2, 1, t, 0)
    for piece in (t, n1, n2):
        tv[piece, 2] = v
        tb[piece, 2, 0], tb[piece, 2, 1] = b0, b1
        tu[piece, 2, 0], tu[piece, 2, 1] = u0, u1
        tp[piece, 2] = depth
        tf[piece], ti[piece] = tf[t], ti[t]
    tn[n1, 0], tn[n1, 1], tn[n1, 2] = over_bc, n2, t
    tn[n2, 0], tn[n2, 1], tn[n2, 2] = over_ca, t, n1
    tn[t, 1], tn[t, 2] = n1, n2
    tk[n1, 0], tk[n1, 1], tk[n1, 2] = kind_bc, FREE, FREE
    tk[n2, 0], tk[n2, 1], tk[n2, 2] = kind_ca, FREE, FREE
    tk[t, 1], tk[t, 2] = FREE, FREE
    _point_to(tn, tv, over_bc, t, n1, c)
    _point_to(tn, tv, over_ca, t, n2, a)
    vt[v], vt[a], vt[b], vt[c] = t, t, t, n1
    return v


@compiled
def _halve(t, i, s, v, new, tv, tn, tk, tb, tu, tp, tf, ti, vt):
    """Piece `t` cut from its corner opposite to side `i` to vertex `v` on that side; `new` takes the far half."""
    j, k = (i + 1) % 3, (i + 2) % 3
    b0 = (1 - s) * tb[t, i, 0] + s * tb[t, j, 0]
    b1 = (1 - s) * tb[t, i, 1] + s * tb[t, j, 1]
    u0 = (1 - s) * tu[t, i, 0] + s * tu[t, j, 0]
    u1 = (1 - s) * tu[t, i, 1] + s * tu[t, j, 1]
    depth = (1 - s) * tp[t, i] + s * tp[t, j]
    over, kind_over, kind = tn[t, j], tk[t, j], tk[t, i]
    b, c = tv[t, j], tv[t, k]
    # new is (v, b, c); t becomes (a, v, c).
    _copy_corner(tv, tb, tu, tp, new, 1, t, j)
    _copy_corner(tv, tb, tu, tp, new, 2, t, k)
    for piece, at in ((new, 0), (t, j)):
        tv[piece, at] = v
        tb[piece, at, 0], tb[piece, at, 1] = b0, b1
        tu[piece, at, 0], tu[piece, at, 1] = u0, u1
        tp[piece, at] = depth
    tf[new], ti[new] = tf[t], ti[t]
    tn[new, 1], tn[new, 2] = over, t
    tk[new, 0], tk[new, 1], tk[new, 2] = kind, kind_over, FREE
    tn[t, j], tk[t, j] = new, FREE
    _point_to(tn, tv, over, t, new, c)
    vt[b], vt[c], vt[v], vt[tv[t, i]] = new, new, new, t


@compiled
def split_side(t, i, s, tv, tn, tk, tb, tu, tp, tf, ti, vt, size):
    """A new vertex on side `i` of piece `t`, at share `s` from its start; gives its number."""
    v = size[1]
    size[1] += 1
    other = tn[t, i]
    a = tv[t, i]
    j = (i + 1) % 3
    b = tv[t, j]
    side = -1 if other < 0 else side_to(tn, other, t, tv, b)
    new = size[0]
    size[0] += 1
    _halve(t, i, s, v, new, tv, tn, tk, tb, tu, tp, tf, ti, vt)
    if other < 0:
        tn[new, 0] = -1
        return v
    far = size[0]
    size[0] += 1
    # The other piece runs from b to a: its near half keeps b, the far half gets a.
    _halve(other, side, 1 - s, v, far, tv, tn, tk, tb, tu, tp, tf, ti, vt)
    tn[t, i], tn[far, 0] = far, t
    tn[new, 0], tn[other, side] = other, new
    vt[a] = t
    return v


@compiled
def cross(ax, ay, bx, by):
    """Twice the signed area between two vectors of the plane."""
    return ax * by - ay * bx


@compiled
def flip(t, i, tv, tn, tk, tb, tu, tp, vt):
    """Turn side `i` of `t`, inside one face, to the other diagonal; False where the four corners are not convex."""
    o = tn[t, i]
    j, k = (i + 1) % 3, (i + 2) % 3
    a, b = tv[t, i], tv[t, j]
    p = side_to(tn, o, t, tv, b)
    q, r = (p + 1) % 3, (p + 2) % 3
    # o is (b, a, d): corner p is b, q is a, r is d.
    ax, ay, bx, by = tu[t, i, 0], tu[t, i, 1], tu[t, j, 0], tu[t, j, 1]
    cx, cy, dx, dy = tu[t, k, 0], tu[t, k, 1], tu[o, r, 0], tu[o, r, 1]
    one = cross(dx - ax, dy - ay, cx - ax, cy - ay)
    two = cross(cx - bx, cy - by, dx - bx, dy - by)
    whole = cross(bx - ax, by - ay, cx - ax, cy - ay) + cross(ax - bx, ay - by, dx - bx, dy - by)
    if one <= 1e-7 * whole or two <= 1e-7 * whole:
        return False
    d = tv[o, r]
    over_bc, kind_bc = tn[t, j], tk[t, j]
    over_ad, kind_ad = tn[o, q], tk[o, q]
    # t becomes (a, d, c), o becomes (d, b, c) in the places of their corners.
    _copy_corner(tv, tb, tu, tp, t, j, o, r)
    _copy_corner(tv, tb, tu, tp, o, q, t, k)
    # o now has corners p: b, q: c, r: d.
    tn[t, i], tk[t, i] = over_ad, kind_ad
    tn[t, j], tk[t, j] = o, FREE
    tn[o, p], tk[o, p] = over_bc, kind_bc
    tn[o, q], tk[o, q] = t, FREE
    _point_to(tn, tv, over_ad, o, t, d)
    _point_to(tn, tv, over_bc, t, o, tv[t, k])
    vt[a], vt[b], vt[d], vt[tv[t, k]] = t, o, o, t
    return True


@compiled
def _in_circle(ax, ay, bx, by, cx, cy, dx, dy):
    """Whether d lies inside the circle through a, b, c (counter-clockwise), by more than rounding."""
    ax, ay, bx, by, cx, cy = ax - dx, ay - dy, bx - dx, by - dy, cx - dx, cy - dy
    aa, bb, cc = ax * ax + ay * ay, bx * bx + by * by, cx * cx + cy * cy
    found = aa * (bx * cy - cx * by) - bb * (ax * cy - cx * ay) + cc * (ax * by - bx * ay)
    return found > 1e-10 * (aa + bb + cc) ** 2


@compiled
def legalise(stack, top, touched, tv, tn, tk, tb, tu, tp, vt):
    """Turn free sides until every piece round those on the stack is Delaunay; pieces that change are noted."""
    count = 0
    turns = 0
    while top > 0 and turns < 100_000:
        top -= 1
        t = stack[top]
        i = 0
        while i < 3:
            o = tn[t, i]
            if tk[t, i] != FREE or o < 0:
                i += 1
                continue
            j = (i + 1) % 3
            r = (side_to(tn, o, t, tv, tv[t, j]) + 2) % 3
            if _in_circle(
                tu[t, 0, 0], tu[t, 0, 1], tu[t, 1, 0], tu[t, 1, 1], tu[t, 2, 0], tu[t, 2, 1], tu[o, r, 0], tu[o, r, 1]
            ) and flip(t, i, tv, tn, tk, tb, tu, tp, vt):
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
def find_piece(u, v, start, tu, count):
    """A piece that holds a place of the plane, or -1; `start` is tried first."""
    for at in range(-1, count):
        t = start if at < 0 else at
        if t < 0 or np.isnan(tu[t, 0, 0]):
            continue
        ax, ay = tu[t, 0, 0] - u, tu[t, 0, 1] - v
        bx, by = tu[t, 1, 0] - u, tu[t, 1, 1] - v
        cx, cy = tu[t, 2, 0] - u, tu[t, 2, 1] - v
        if ax * by - ay * bx >= -1e-12 and bx * cy - by * cx >= -1e-12 and cx * ay - cy * ax >= -1e-12:
            return t
    return -1


@compiled
def put_point(t, u, v, near, tv, tn, tk, tb, tu, tp, tf, ti, vt, size):
    """The vertex at a place inside piece `t`: one that is there within `near` mm, or a new one."""
    for i in range(3):
        if (tu[t, i, 0] - u) ** 2 + (tu[t, i, 1] - v) ** 2 <= near * near:
            return tv[t, i]
    for i in range(3):
        j = (i + 1) % 3
        ex, ey = tu[t, j, 0] - tu[t, i, 0], tu[t, j, 1] - tu[t, i, 1]
        length = np.sqrt(ex * ex + ey * ey)
        gone = cross(ex, ey, u - tu[t, i, 0], v - tu[t, i, 1]) / max(length, 1e-300)
        if gone <= near:
            s = ((u - tu[t, i, 0]) * ex + (v - tu[t, i, 1]) * ey) / max(length * length, 1e-300)
            if length * s <= near:
                return tv[t, i]
            if length * (1 - s) <= near:
                return tv[t, j]
            return split_side(t, i, s, tv, tn, tk, tb, tu, tp, tf, ti, vt, size)
    whole = cross(
        tu[t, 1, 0] - tu[t, 0, 0], tu[t, 1, 1] - tu[t, 0, 1], tu[t, 2, 0] - tu[t, 0, 0], tu[t, 2, 1] - tu[t, 0, 1]
    )
    w1 = cross(u - tu[t, 0, 0], v - tu[t, 0, 1], tu[t, 2, 0] - tu[t, 0, 0], tu[t, 2, 1] - tu[t, 0, 1]) / whole
    w2 = cross(tu[t, 1, 0] - tu[t, 0, 0], tu[t, 1, 1] - tu[t, 0, 1], u - tu[t, 0, 0], v - tu[t, 0, 1]) / whole
    return split_inside(t, w1, w2, tv, tn, tk, tb, tu, tp, tf, ti, vt, size)
