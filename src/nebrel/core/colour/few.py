"""A mesh in few colours: one for every triangle, in patches that can be made."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.colour.oklab import oklab_of
from nebrel.core.colour.palette import Tint, lab_of
from nebrel.core.errors import BadMeshError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import face_areas
from nebrel.core.mesh.topology import opposite_halfedges

# A mm of border counts as much as this difference in OKLab over a square millimetre, so that borders run straight.
BORDER = 0.08**2
ROUNDS = 30
# A fringe is so many triangles wide at most and this share of the whole, between colours that are so far apart, off
# their mix by less than this share of that, and further from both than this one.
FRINGE, REACH, STEP, MIXED, PURE = 3, 0.025, 0.1, 0.15, 0.08
# Half of the triangles are asked at a time, so that two beside each other do not swap for ever.
SEED = 7

_Floats = NDArray[np.float64]
_Labels = NDArray[np.int64]
Progress = Callable[[float], None]


@dataclass(frozen=True)
class FewColours:
    """A mesh in few colours.

    Attributes:
        mesh: with one colour over every triangle, at its corners.
        before: float64 (M, 3), what the colour of every triangle was, in OKLab.
        least_error: mean distance from that, by area, if every triangle took its nearest colour whatever that gave.
    """

    mesh: TriMesh
    before: _Floats
    least_error: float


def face_lab(mesh: TriMesh) -> _Floats:
    """The colour of every triangle in OKLab, float64 (M, 3): the mean of its corners'.

    Raises:
        BadMeshError: the mesh has no colours.
    """
    if mesh.corner_colours is not None:
        return oklab_of(mesh.corner_colours[:, :, :3]).mean(axis=1)
    if mesh.colours is None:
        raise BadMeshError("The mesh has no colours; one with colours at its vertices, or a texture, is needed.")
    return oklab_of(mesh.colours[:, :3])[mesh.faces].mean(axis=1)


def in_few(mesh: TriMesh, tints: tuple[Tint, ...], smallest: float, progress: Progress = lambda _: None) -> FewColours:
    """The mesh in these colours, with borders along edges of triangles.

    Every triangle takes the colour that is nearest, but borders cost by their length (iterated conditional modes:
    Besag, "On the Statistical Analysis of Dirty Pictures", 1986). Then patches that are too small become what costs
    least of the colours beside them, the smallest first. A body that is smaller as a whole keeps one colour.

    Args:
        mesh: with colours.
        tints: at least one.
        smallest: mm² that no patch is below; 0 leaves all.
        progress: called with the fraction done.
    """
    lab, areas = face_lab(mesh), face_areas(mesh)
    beside, lengths = _neighbours(mesh)
    apart, sharp = (
        ((each[:, np.newaxis] - lab_of(tints)) ** 2).sum(axis=2) for each in (lab, _sharpened(mesh, lab, beside))
    )
    costs = sharp * areas[:, np.newaxis]
    labels = _straightened(costs, sharp.argmin(axis=1), beside, lengths, progress)
    labels = _merged(costs, labels, areas, beside, lengths, smallest)
    rgba = np.array([(*tint.rgb, 255) for tint in tints], dtype=np.uint8)[labels]
    painted = replace(mesh, colours=None, corner_colours=np.repeat(rgba[:, np.newaxis], 3, axis=1))
    progress(1.0)
    least = (np.sqrt(apart.min(axis=1)) * areas).sum() / max(float(areas.sum()), 1e-300)
    return FewColours(painted, lab, float(least))


def _patches_of(labels: _Labels, beside: _Labels) -> _Labels:
    """Which patch each triangle is of, int64 (M,): triangles of one colour that hang together by edges."""
    from scipy import sparse
    from scipy.sparse.csgraph import connected_components

    count = len(labels)
    one = np.repeat(np.arange(count), 3)
    other = beside.ravel()
    same = (other >= 0) & (labels[one] == labels[np.maximum(other, 0)])
    links = sparse.coo_matrix((np.ones(int(same.sum()), np.int8), (one[same], other[same])), shape=(count, count))
    return np.asarray(connected_components(links, directed=False)[1], dtype=np.int64)


def _neighbours(mesh: TriMesh) -> tuple[_Labels, _Floats]:
    """The triangle across every side, int64 (M, 3), -1 where there is none, and how long the side is, mm."""
    opposite, _ = opposite_halfedges(mesh.faces.astype(np.int64), len(mesh.vertices))
    beside = np.where(opposite >= 0, opposite // 3, -1).reshape(-1, 3)
    corners = mesh.corners
    return beside, np.linalg.norm(np.roll(corners, -1, axis=1) - corners, axis=2)


def _sharpened(mesh: TriMesh, lab: _Floats, beside: _Labels) -> _Floats:
    """Colours without fringes: between two that run into each other, every triangle takes the nearer of both.

    Both are the extremes, within a few triangles, of the channel that changes most there; what is no mix of them stays.
    """
    everyone = np.arange(len(lab))
    around = np.where(beside >= 0, beside, everyone[:, np.newaxis])
    best, low, high = np.zeros(len(lab)), everyone, everyone
    for channel in range(3):
        values = lab[:, channel]
        least, most = everyone, everyone
        for _ in range(FRINGE):
            least = _extreme(least, around, -values)
            most = _extreme(most, around, values)
        wide = values[most] - values[least]
        better = wide > best
        best, low, high = (
            np.where(better, new, old) for new, old in ((wide, best), (least, low), (most, high))
        )  # fmt: skip
    along = lab[high] - lab[low]
    long = np.maximum((along**2).sum(axis=1), 1e-12)
    share = np.clip(((lab - lab[low]) * along).sum(axis=1) / long, 0, 1)
    off = ((lab - lab[low] - share[:, np.newaxis] * along) ** 2).sum(axis=1)
    taken = np.where(share < 0.5, low, high)
    centres = mesh.corners.mean(axis=1)
    near = np.linalg.norm(centres[taken] - centres, axis=1) < REACH * float(np.ptp(centres, axis=0).max())
    mixed = (long > STEP**2) & (off < MIXED**2 * long) & (np.abs(share - 0.5) < 0.5 - PURE) & near
    return lab[np.where(mixed, taken, everyone)]


def _extreme(held: _Labels, around: _Labels, values: _Floats) -> _Labels:
    """Of what triangles and their neighbours hold, that with the largest value, int64 (M,)."""
    found = np.column_stack([held, held[around]])
    return found[np.arange(len(held)), values[found].argmax(axis=1)]


def _straightened(costs: _Floats, labels: _Labels, beside: _Labels, lengths: _Floats, progress: Progress) -> _Labels:
    """Labels after triangles have taken what is best for them beside what their neighbours have."""
    rng = np.random.default_rng(SEED)
    count = costs.shape[1]
    there = np.where(beside >= 0, lengths, 0.0) * BORDER
    total = there.sum(axis=1)
    rows = np.arange(len(labels))
    labels = labels.copy()
    for turn in range(ROUNDS):
        progress(0.8 * turn / ROUNDS)
        around = labels[np.maximum(beside, 0)]
        alike = np.zeros((len(labels), count))
        for side in range(3):
            alike[rows, around[:, side]] += there[:, side]
        wanted = (costs + total[:, np.newaxis] - alike).argmin(axis=1)
        changing = (wanted != labels) & (rng.random(len(labels)) < 0.5)
        if not changing.any() and (wanted == labels).all():
            break
        labels[changing] = wanted[changing]
    return labels


def _merged(
    costs: _Floats, labels: _Labels, areas: _Floats, beside: _Labels, long: _Floats, smallest: float
) -> _Labels:
    """Labels without patches below `smallest` mm²; what is too small becomes what costs least of what is beside it."""
    labels = labels.copy()
    one, other = np.repeat(np.arange(len(labels)), 3), beside.ravel()
    kinds = costs.shape[1]
    while True:
        found = _patches_of(labels, beside)
        sizes = np.bincount(found, areas)
        across = (other >= 0) & (found[one] != found[np.maximum(other, 0)])
        small = (sizes < smallest)[found[one]] & across
        if not small.any():
            return labels
        mine, its = found[one[small]], found[other[small]]
        # Those go that have no smaller one beside them, so that no two change places.
        rank = np.empty(len(sizes), dtype=np.int64)
        rank[np.argsort(sizes, kind="stable")] = np.arange(len(sizes))
        lowest = np.full(len(sizes), -1)
        lowest[mine] = len(sizes)
        np.minimum.at(lowest, mine, rank[its])
        going = rank < lowest
        shared = np.zeros((len(sizes), kinds))
        np.add.at(shared, (mine, labels[other[small]]), long.ravel()[small])
        asked = np.zeros((len(sizes), kinds))
        np.add.at(asked, found, costs)
        asked = np.where(shared > 0, asked - BORDER * shared, np.inf)
        labels = np.where(going[found], asked.argmin(axis=1)[found], labels)
