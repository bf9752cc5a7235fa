"""A mesh laid flat in charts, side by side in one square: where every corner lies in a texture."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.collapse import collapse_in_halves
from nebrel.core.mesh.nearest import ANY_COSINE, ANY_WAY, empty_stack, nearest_triangle, triangle_tree
from nebrel.core.mesh.trimesh import TriMesh

# Charts are found on a mesh as light as this: they are fewer there, and found in a second in place of a minute.
CHARTED = 4_000
# A corner lies on a face of the lighter mesh that looks the same way, so a thin part's other side is not taken for it.
SAME_WAY = 0.2
# Room between charts, in texels.
PADDING = 6

_Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Atlas:
    """Where a mesh lies in a picture.

    Attributes:
        places: float64 (M, 3, 2), of every corner of every face: columns from the left and rows from the top, as shares
            of the picture's width and height.
        size_px: width and height of the picture that the room between charts is meant for.
        charts: how many there are.
    """

    places: _Floats
    size_px: tuple[int, int]
    charts: int


def unwrap(mesh: TriMesh, side_px: int) -> Atlas:
    """Lay a mesh flat.

    Charts and their places are xatlas's, over a lighter mesh; every corner of the mesh takes the place of the nearest
    face there, in the chart that its own face is in.

    Args:
        mesh: with at least one face.
        side_px: about how wide and high the picture is.
    """
    import xatlas

    light = mesh if len(mesh.faces) <= CHARTED else collapse_in_halves(mesh, CHARTED)
    laid_out, packed = xatlas.Atlas(), xatlas.PackOptions()
    packed.resolution, packed.padding, packed.bilinear = side_px, PADDING, True
    laid_out.add_mesh(light.vertices.astype(np.float32), light.faces)
    laid_out.generate(pack_options=packed)
    _, faces, places = laid_out[0]
    laid, chart = places.astype(np.float64)[faces], _charts(faces.astype(np.int64), len(places))

    tree = triangle_tree(light)
    normals = _normals(mesh)
    of_vertex = tree.order[_nearest_alike(mesh.vertices, _of_vertices(mesh, normals), SAME_WAY, tree)]
    of_face = tree.order[_nearest_alike(mesh.corners.mean(axis=1), normals, SAME_WAY, tree)]
    near = of_vertex[mesh.faces]
    beyond = chart[near] != chart[of_face][:, np.newaxis]
    for each in np.unique(chart[of_face][beyond.any(axis=1)]):
        # A corner beyond the rim of its face's chart lies on that rim.
        own = np.flatnonzero(chart == each)
        there = beyond & (chart[of_face] == each)[:, np.newaxis]
        found = triangle_tree(TriMesh(light.vertices, light.faces[own]))
        points = mesh.vertices[mesh.faces[there]]
        near[there] = own[found.order[_nearest_alike(points, np.zeros_like(points), SAME_WAY, found)]]
    corners = _carried(mesh.corners.reshape(-1, 3), light.corners[near.ravel()], laid[near.ravel()])
    scale = side_px / max(laid_out.width, laid_out.height)
    size = max(1, round(scale * laid_out.width)), max(1, round(scale * laid_out.height))
    return Atlas(np.clip(corners, 0, 1).reshape(-1, 3, 2), size, int(chart.max()) + 1)


def _charts(faces: NDArray[np.int64], vertices: int) -> NDArray[np.int64]:
    """Which chart each face is in, by the corners that faces share."""
    from scipy import sparse
    from scipy.sparse.csgraph import connected_components

    one, other = faces[:, [0, 1]].ravel(), faces[:, [1, 2]].ravel()
    links = sparse.coo_matrix((np.ones(len(one), dtype=np.int8), (one, other)), shape=(vertices, vertices))
    labels = connected_components(links, directed=False)[1]
    return np.unique(labels[faces[:, 0]], return_inverse=True)[1].ravel()


def _normals(mesh: TriMesh) -> _Floats:
    corners = mesh.corners
    return np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])


def _of_vertices(mesh: TriMesh, normals: _Floats) -> _Floats:
    total = np.zeros((len(mesh.vertices), 3))
    for corner in range(3):
        np.add.at(total, mesh.faces[:, corner], normals)
    return total


def _carried(points: _Floats, corners: _Floats, laid: _Floats) -> _Floats:
    """Where points (N, 3) on or near triangles (N, 3, 3) lie when these are laid out, (N, 2)."""
    one, other, out = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0], points - corners[:, 0]
    pairs = (one, one), (one, other), (other, other), (one, out), (other, out)
    first_first, first_second, second_second, first, second = ((a * b).sum(axis=1) for a, b in pairs)
    area = np.maximum(first_first * second_second - first_second**2, 1e-18)
    along = (second_second * first - first_second * second) / area
    across = (first_first * second - first_second * first) / area
    shares = np.maximum(np.column_stack([1 - along - across, along, across]), 0)
    shares /= np.maximum(shares.sum(axis=1, keepdims=True), 1e-18)
    return np.asarray((shares[:, :, np.newaxis] * laid).sum(axis=1))


@compiled
def _nearest_alike(points, ways, least, tree):
    """Index in the tree of the face nearest to every point that looks the same way, or of the nearest of all."""
    found = np.empty(len(points), dtype=np.int64)
    stack = empty_stack()
    for k in range(len(points)):
        point = (points[k, 0], points[k, 1], points[k, 2])
        long = np.sqrt(ways[k, 0] ** 2 + ways[k, 1] ** 2 + ways[k, 2] ** 2)
        at = -1
        if long > 0:
            way = (ways[k, 0] / long, ways[k, 1] / long, ways[k, 2] / long)
            at, _ = nearest_triangle(point, way, least, np.inf, tree, stack)
        if at < 0:
            at, _ = nearest_triangle(point, ANY_WAY, ANY_COSINE, np.inf, tree, stack)
        found[k] = at
    return found
