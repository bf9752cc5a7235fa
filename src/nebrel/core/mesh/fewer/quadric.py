"""What the collapse of an edge costs, and where its vertex goes.

Sums of squared distances to the planes of faces, weighed by their areas (Garland and Heckbert, "Surface Simplification
Using Quadric Error Metrics", 1997): x Ax + 2 bx + c, kept as the six numbers of A, the three of b, and c. They are
taken anew from the faces at every halving (`levels.py`): carried along from the first faces to the last they measure
planes that are long gone, and the surface ends 10 to 20 % further off.
"""

from nebrel.core.jit import compiled, inlined
from nebrel.core.mesh.fewer.net import FREE
from nebrel.core.mesh.fewer.vectors import cross, dot, minus

# A line across the plane of a border face, so that borders keep their course.
BORDER_WEIGHT = 1.0
# Of its quadric, what holds a new vertex to the middle of its edge where planes say nothing.
_HOLD = 1e-5
# In parts of the extent.
_FAR = 3.0
# Where all collapses are free, short edges go first.
_SHORT_FIRST = 1e-13
_ABOVE_ZERO = 1e-36


@inlined
def add_plane(quadrics, vertex, normal, through, weight):
    """Add the squared distance from a plane of unit `normal` `through` a point."""
    x, y, z = normal
    off = -(x * through[0] + y * through[1] + z * through[2])
    for k, value in enumerate((x * x, x * y, x * z, y * y, y * z, z * z, x * off, y * off, z * off, off * off)):
        quadrics[vertex, k] += weight * value


@compiled
def fill_quadrics(net, lines):
    """The quadrics of all vertices from the faces, and from the half-edges that are `lines`, bool (3 M,)."""
    for face in range(len(net.gone)):
        start = 3 * face
        a = _place(net, net.corners[start])
        b, c = _place(net, net.corners[start + 1]), _place(net, net.corners[start + 2])
        normal, doubled = _unit(cross(minus(b, a), minus(c, a)))
        if doubled == 0:
            continue
        for k in range(3):
            add_plane(net.quadrics, net.corners[start + k], normal, a, doubled / 2)
        for k in range(3):
            if lines[start + k]:
                _add_line(net, start + k, start + (k + 1) % 3, normal)


@inlined
def _add_line(net, start, end, normal):
    at, to = _place(net, net.corners[start]), _place(net, net.corners[end])
    along = minus(to, at)
    across, length = _unit(cross(along, normal))
    for corner in (start, end):
        add_plane(net.quadrics, net.corners[corner], across, at, BORDER_WEIGHT * length * length)


@inlined
def best_place(net, u, v):
    """Where the vertex of a collapsed edge goes, (x, y, z), and what that costs, above 0."""
    of = net.quadrics
    both = (
        of[u, 0] + of[v, 0], of[u, 1] + of[v, 1], of[u, 2] + of[v, 2], of[u, 3] + of[v, 3], of[u, 4] + of[v, 4],
        of[u, 5] + of[v, 5], of[u, 6] + of[v, 6], of[u, 7] + of[v, 7], of[u, 8] + of[v, 8], of[u, 9] + of[v, 9],
    )  # fmt: skip
    at, to = _place(net, u), _place(net, v)
    if net.kinds[u] == FREE and net.kinds[v] == FREE:
        place = _lowest(both, ((at[0] + to[0]) / 2, (at[1] + to[1]) / 2, (at[2] + to[2]) / 2))
    elif net.kinds[u] == net.kinds[v]:
        place = at if _value(both, at) <= _value(both, to) else to
    else:
        place = at if net.kinds[u] > net.kinds[v] else to
    along = minus(to, at)
    length = dot(along, along)
    tie = _SHORT_FIRST * (both[0] + both[3] + both[5] + length) * length + _ABOVE_ZERO
    return place, max(_value(both, place), 0.0) + tie


@inlined
def _lowest(quadric, middle):
    """The place of least value, held to the middle where it says little."""
    a, b, c, d, e, f, x, y, z, _ = quadric
    hold = _HOLD * (a + d + f)
    xx, xy, xz = (d + hold) * (f + hold) - e * e, c * e - b * (f + hold), b * e - c * (d + hold)
    whole = (a + hold) * xx + b * xy + c * xz
    if whole <= 0:
        return middle
    yy, yz, zz = (a + hold) * (f + hold) - c * c, b * c - (a + hold) * e, (a + hold) * (d + hold) - b * b
    px, py, pz = middle
    # Twice: what the hold takes off the first step is made good by the second, so that flat stays flat.
    for _ in range(2):
        gx = (a * px + b * py + c * pz + x) / whole
        gy = (b * px + d * py + e * pz + y) / whole
        gz = (c * px + e * py + f * pz + z) / whole
        px -= xx * gx + xy * gy + xz * gz
        py -= xy * gx + yy * gy + yz * gz
        pz -= xz * gx + yz * gy + zz * gz
    # Far beyond the mesh, or no number: its planes say next to nothing.
    near = abs(px - middle[0]) + abs(py - middle[1]) + abs(pz - middle[2]) < _FAR
    return (px, py, pz) if near else middle


@inlined
def _value(quadric, place):
    a, b, c, d, e, f, x, y, z, rest = quadric
    px, py, pz = place
    return px * (a * px + 2 * (b * py + c * pz + x)) + py * (d * py + 2 * (e * pz + y)) + pz * (f * pz + 2 * z) + rest


@inlined
def _place(net, vertex):
    places = net.places
    return places[vertex, 0], places[vertex, 1], places[vertex, 2]


@inlined
def _unit(a):
    length = dot(a, a) ** 0.5
    scale = 1.0 / length if length > 0 else 0.0
    return (a[0] * scale, a[1] * scale, a[2] * scale), length
