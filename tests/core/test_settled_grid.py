"""Vertices of a triangulated grid that are moved so that fewer triangles do."""

from itertools import pairwise

import numpy as np
import pytest

from nebrel.core.height import HeightField
from nebrel.core.heightfield import greedy, tiles
from nebrel.core.heightfield.greedy import triangulate_grid
from nebrel.core.heightfield.slab import build_slab

TOLERANCE = 0.02


def made(heights: np.ndarray, material: np.ndarray | None = None):
    everywhere = np.ones(heights.shape, bool) if material is None else material
    return triangulate_grid(heights.astype(np.float32), everywhere, TOLERANCE)


def waves() -> np.ndarray:
    y, x = np.mgrid[0:1:300j, 0:1:400j]
    return 2 + np.sin(9 * x + 2 * y) * np.cos(7 * y)


@pytest.fixture(params=["one tile", "tiles"], autouse=True)
def in_tiles_or_not(request, monkeypatch):
    monkeypatch.setattr(tiles, "LEAST_SAMPLES", 10_000 if request.param == "tiles" else 10**9)
    monkeypatch.setattr(tiles, "TILE_SAMPLES", 30_000)


def test_round_forms_take_fewer_triangles_within_the_same_tolerance(monkeypatch):
    heights = waves()
    settled = made(heights)
    slab = build_slab(HeightField(heights.astype(np.float32), np.ones(heights.shape, np.float32), 0.1), 1.0, TOLERANCE)
    assert slab.deviation.max <= TOLERANCE
    monkeypatch.setattr(greedy, "settle", lambda *_: None)
    monkeypatch.setattr(greedy, "LOOSER", 1.0)
    assert len(settled.faces) < 0.9 * len(made(heights).faces)


def test_vertices_stay_near_their_samples_and_between_the_lowest_and_the_highest():
    heights = waves().astype(np.float32)
    surface = made(heights)
    off = surface.levels - heights[surface.rows, surface.columns]
    assert 0.1 * TOLERANCE < np.abs(off).max() <= TOLERANCE
    assert (surface.levels.min(), surface.levels.max()) == (heights.min(), heights.max())


def test_what_is_flat_stays_flat_beside_what_is_not():
    heights = waves()
    heights[:, :150] = 2.5
    heights[60:90, 200:260] = np.linspace(0, 1, 60)
    surface = made(heights)
    flat = surface.levels[surface.columns < 150]
    assert np.array_equal(flat, np.full(len(flat), 2.5, np.float32))
    # So does a slope, but for its edge, which belongs to what is beside it, too.
    slope = (surface.rows > 60) & (surface.rows < 89) & (surface.columns > 200) & (surface.columns < 259)
    asked = heights[surface.rows, surface.columns].astype(np.float32)
    assert np.array_equal(surface.levels[slope], asked[slope])


def test_free_samples_pull_nothing():
    heights = waves().astype(np.float32)
    material = np.ones(heights.shape, bool)
    material[20:80, 20:120] = False
    other = heights.copy()
    other[~material] = np.random.default_rng(2).uniform(heights.min(), heights.max(), int((~material).sum()))
    one, two = made(heights, material), made(other, material)
    for name in ("rows", "columns", "levels", "faces"):
        assert np.array_equal(getattr(one, name), getattr(two, name)), name


def test_progress_never_falls():
    seen: list[float] = []
    triangulate_grid(waves().astype(np.float32), np.ones((300, 400), bool), TOLERANCE / 10, seen.append)
    assert seen[-1] == 1.0 and all(before <= after for before, after in pairwise(seen))
