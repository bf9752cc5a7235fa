"""What must never be done to a mesh to make it lighter or cleaner: pinch it, double it, or let it cross itself."""

import numpy as np
import pytest

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume
from nebrel.core.mesh.slivers import without_slivers
from nebrel.core.mesh.topology import analyse
from tests.core.skins import sphere


def merged(*meshes: TriMesh) -> TriMesh:
    """All of them as one mesh."""
    starts = np.cumsum([0, *(len(mesh.vertices) for mesh in meshes)])
    faces = [mesh.faces + start for mesh, start in zip(meshes, starts[:-1], strict=True)]
    return TriMesh(np.vstack([mesh.vertices for mesh in meshes]), np.vstack(faces).astype(np.uint32))


def bipyramid(x: list[float], y: list[float], z: list[float]) -> TriMesh:
    """Two pyramids over the triangle x, y, z, 1 mm up and down."""
    points = np.array([x, y, z, [0.3, 0.3, 1.0], [0.3, 0.3, -1.0]])
    faces = [[0, 1, 3], [1, 2, 3], [2, 0, 3], [1, 0, 4], [2, 1, 4], [0, 2, 4]]
    return TriMesh(points, np.array(faces, np.uint32))


def is_plain(mesh: TriMesh) -> bool:
    """Closed, 2-manifold, and no face is there twice."""
    found = analyse(mesh)
    once = len(np.unique(np.sort(mesh.faces, axis=1), axis=0)) == len(mesh.faces)
    return found.closed and found.manifold and once


class TestSlivers:
    def test_a_short_edge_that_holds_three_triangles_apart_stays(self):
        """Its ends have three common neighbours: joined, two faces would lie back to back."""
        mesh = bipyramid([0, 0, 0], [1e-5, 0, 0], [1, 1, 0])
        cleaned = without_slivers(mesh, 1e-3)
        assert is_plain(cleaned)
        assert volume(cleaned) == pytest.approx(volume(mesh), rel=1e-6)

    def test_a_short_edge_with_two_common_neighbours_is_joined(self):
        """A cube with one corner cut off by a hair loses the short edges and keeps its volume."""
        ball = sphere(48)
        points = ball.vertices.copy()
        a, b = ball.faces[0, :2]
        points[b] = points[a] + 1e-6 * (points[b] - points[a])
        cleaned = without_slivers(TriMesh(points, ball.faces), 1e-4)
        assert is_plain(cleaned)
        assert len(cleaned.vertices) == len(ball.vertices) - 1
        assert len(cleaned.faces) == len(ball.faces) - 2

    def test_short_edges_in_a_row_are_joined_into_one_place(self):
        ball = sphere(48)
        points = ball.vertices.copy()
        a, b, _ = ball.faces[0]
        around = set(ball.faces[(ball.faces == b).any(axis=1)].ravel().tolist())
        beyond = set(ball.faces[(ball.faces == a).any(axis=1)].ravel().tolist())
        d = min(around - beyond - {int(b)})
        for near in (b, d):
            points[near] = points[a] + 1e-6 * (points[near] - points[a])
        cleaned = without_slivers(TriMesh(points, ball.faces), 1e-4)
        assert is_plain(cleaned)
        assert len(cleaned.vertices) == len(ball.vertices) - 2

    def test_a_cap_is_not_turned_onto_an_edge_that_is_there(self):
        """In a tetrahedron every two corners are joined, so no side can be turned."""
        points = np.array([[0, 0, 0], [2, 0, 0], [1, 1e-6, 0], [1, 0.5, 1.0]])
        flat = TriMesh(points, np.array([[0, 2, 1], [0, 1, 3], [1, 2, 3], [2, 0, 3]], np.uint32))
        cleaned = without_slivers(flat, 1e-3)
        assert is_plain(cleaned)
        assert len(cleaned.faces) == 4

    def test_a_cap_gives_its_long_edge_to_the_face_behind_it(self):
        """A point in the middle of a long edge of a block's face is joined to the corner across."""
        points = np.array([[0, 0, 0], [2, 0, 0], [2, 1, 0], [0, 1, 0], [1, 1e-7, 0], [1, 0.5, 1.5]], dtype=np.float64)
        faces = [[0, 4, 1], [0, 2, 4], [4, 2, 1], [0, 3, 2], [0, 1, 5], [1, 2, 5], [2, 3, 5], [3, 0, 5]]
        mesh = TriMesh(points, np.array(faces, np.uint32)[:, ::-1])
        before = analyse(mesh)
        assert before.closed
        cleaned = without_slivers(mesh, 1e-4)
        assert is_plain(cleaned)
        assert abs(volume(cleaned)) == pytest.approx(abs(volume(mesh)), rel=1e-5)
        corners = cleaned.corners
        doubled = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
        assert doubled.min() > 0.1
