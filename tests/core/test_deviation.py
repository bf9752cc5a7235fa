"""How far a made surface is from its heights: at samples, and between them, beside brute force."""

import numpy as np
import pytest
from scipy import ndimage

from nebrel.core.height import HeightField
from nebrel.core.heightfield.deviation import measure_deviation
from nebrel.core.heightfield.slab import build_slab
from nebrel.core.mesh import TriMesh
from tests.core.skins import sound

PITCH = 0.2


@pytest.fixture(scope="module")
def rough() -> HeightField:
    noise = np.random.default_rng(2).normal(size=(90, 120))
    heights = ndimage.gaussian_filter(noise, 2).astype(np.float32) * 8
    return HeightField(heights - heights.min(), np.ones(heights.shape, np.float32), PITCH)


def sampled_between(mesh: TriMesh, levels: np.ndarray, places: int) -> float:
    """The largest vertical distance at random places of all upward faces."""
    corners = mesh.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    corners = corners[normals[:, 2] > 1e-9]
    shares = np.random.default_rng(1).dirichlet([0.4, 0.4, 0.4], places)
    largest = 0.0
    for part in np.array_split(corners, max(1, len(corners) // 500)):
        x, y, z = np.einsum("kb,mbd->dmk", shares, part)
        asked = ndimage.map_coordinates(levels, [len(levels) - 1 - y / PITCH, x / PITCH], order=1, mode="nearest")
        largest = max(largest, float(np.abs(z - asked).max()))
    return largest


@pytest.mark.deep
def test_between_samples_it_is_the_largest_error_of_all_places(rough):
    slab = build_slab(rough, 1.0, 0.05)
    levels = rough.heights.astype(np.float64) + 1.0
    found = slab.deviation.max_between
    brute = sampled_between(slab.mesh, levels, 600)
    assert slab.deviation.max <= 0.05
    assert found >= brute - 1e-6
    assert found == pytest.approx(brute, rel=0.03)
    assert found > 2 * slab.deviation.max


def two_faces(corner_height: float) -> tuple[TriMesh, np.ndarray]:
    """One cell whose four samples are 0, 0, 0 and one height, as two triangles along the falling diagonal."""
    heights = np.zeros((2, 2), np.float32)
    heights[0, 1] = corner_height
    vertices = np.array([(0, 1, 0), (1, 1, corner_height), (0, 0, 0), (1, 0, 0)], dtype=np.float64)
    return TriMesh(vertices, np.array([(0, 2, 3), (0, 3, 1)], dtype=np.uint32)), heights


def test_the_error_within_one_cell_is_that_of_the_saddle():
    """Along the diagonal the faces are at 0 and the bilinear height is h t (1 - t), a quarter of h in the middle."""
    mesh, heights = two_faces(2.0)
    found = measure_deviation(mesh, heights, np.ones((2, 2), bool), 1.0)
    assert found.max == pytest.approx(0.0, abs=1e-7)
    assert found.max_between == pytest.approx(0.5)


def test_where_steps_are_asked_nothing_is_told_between_samples():
    mesh, heights = two_faces(2.0)
    assert measure_deviation(mesh, heights, np.ones((2, 2), bool), 1.0, bilinear=False).max_between is None


def test_free_samples_do_not_count_between_either():
    mesh, heights = two_faces(2.0)
    material = np.ones((2, 2), bool)
    material[0, 1] = False
    assert measure_deviation(mesh, heights, material, 1.0).max_between == pytest.approx(0.0, abs=1e-7)


@pytest.fixture(scope="module")
def step() -> HeightField:
    """A disc with a steep edge."""
    row, column = np.mgrid[0:80, 0:100]
    disc = ndimage.gaussian_filter((np.hypot(row - 40, column - 50) < 30) * 3.0, 0.8).astype(np.float32)
    return HeightField(disc, np.ones(disc.shape, np.float32), PITCH)


class TestHeldBetween:
    """A tolerance that holds between samples, too."""

    def test_no_place_is_further_off(self, step):
        plain, held = build_slab(step, 1.0, 0.02), build_slab(step, 1.0, 0.02, between=True)
        assert plain.deviation.max_between > 0.1
        assert held.deviation.max_between <= 0.02
        assert sampled_between(held.mesh, step.heights.astype(np.float64) + 1.0, 40) <= 0.02
        assert sound(held.mesh)
        assert len(held.mesh.faces) < 8 * len(plain.mesh.faces)

    def test_what_is_true_already_stays(self):
        slope = np.tile(np.linspace(0, 2, 60, dtype=np.float32), (40, 1))
        field = HeightField(slope, np.ones(slope.shape, np.float32), PITCH)
        plain, held = build_slab(field, 1.0, 0.02), build_slab(field, 1.0, 0.02, between=True)
        assert np.array_equal(plain.mesh.faces, held.mesh.faces)
