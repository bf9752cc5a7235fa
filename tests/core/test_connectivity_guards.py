"""What must never be done to a mesh to make it lighter or cleaner: pinch it, double it, or let it cross itself."""

import numpy as np
import pytest

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume
from nebrel.core.mesh.simplify import _patch
from nebrel.core.mesh.slivers import without_slivers
from nebrel.core.mesh.topology import analyse
from nebrel.core.mesh.trouble import troubled_vertices
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


class TestPatches:
    ball = sphere(240)

    def top(self, count: int = 1) -> np.ndarray:
        """The highest vertices."""
        chosen = np.zeros(len(self.ball.vertices), dtype=bool)
        chosen[np.argsort(-self.ball.vertices[:, 2])[:count]] = True
        return chosen

    def needle(self, depth: float) -> TriMesh:
        """A tetrahedron whose tip ends `depth` mm under the top of the ball."""
        tip = 30.0 - depth
        points = np.array([[0, 0, tip], [0.1, 0, tip - 5], [-0.1, 0.1, tip - 5], [-0.1, -0.1, tip - 5]])
        return TriMesh(points, np.array([[0, 1, 2], [0, 2, 3], [0, 3, 1], [1, 3, 2]], np.uint32))

    def test_what_is_cut_out_is_closed_again(self):
        patched = _patch(self.ball, self.top())
        assert patched is not None
        assert is_plain(patched)
        assert not troubled_vertices(patched).any()
        assert len(patched.vertices) == len(self.ball.vertices) - 1

    def test_a_patch_that_would_cross_something_is_none(self):
        """The tip of the needle stands above the flat patch, though below the dome."""
        free, caught = merged(self.ball, self.needle(1.0)), merged(self.ball, self.needle(0.001))
        assert not troubled_vertices(caught).any()
        chosen = np.concatenate([self.top(), np.zeros(4, dtype=bool)])
        assert _patch(free, chosen) is not None
        assert _patch(caught, chosen) is None

    def test_more_than_a_few_places_are_not_patched(self):
        assert _patch(self.ball, self.top(len(self.ball.vertices) // 100)) is None

    def test_holes_that_touch_in_a_point_are_closed_or_the_mesh_is_left(self):
        faces, first = self.ball.faces, int(np.argmax(self.ball.vertices[:, 2]))
        ring = set(faces[(faces == first).any(axis=1)].ravel().tolist()) - {first}
        found = []
        for beyond in np.unique(faces[np.isin(faces, list(ring)).any(axis=1)]).tolist():
            other = set(faces[(faces == beyond).any(axis=1)].ravel().tolist()) - {beyond}
            if beyond != first and beyond not in ring and len(ring & other) == 1:
                chosen = np.zeros(len(self.ball.vertices), dtype=bool)
                chosen[[first, beyond]] = True
                found.append(_patch(self.ball, chosen))
        assert found
        assert all(patched is None or is_plain(patched) for patched in found)
