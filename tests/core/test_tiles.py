"""A large grid triangulated as tiles beside each other."""

import threading
from itertools import pairwise

import numpy as np
import pytest

from nebrel.core.height import HeightField
from nebrel.core.heightfield import tiles as tiling
from nebrel.core.heightfield.greedy import GridSurface, triangulate_grid
from nebrel.core.heightfield.slab import build_slab
from nebrel.core.proof.soundness import check_soundness

TOLERANCE = 0.02


@pytest.fixture(params=[(1, 300_000), (2, 40_000), (5, 15_000)], ids=["two", "a few", "many"])
def in_tiles(request, monkeypatch):
    """Small grids are made of as many tiles as large ones are."""
    least, samples = request.param
    monkeypatch.setattr(tiling, "LEAST_SAMPLES", least)
    monkeypatch.setattr(tiling, "TILE_SAMPLES", samples)


def ground(rows: int, columns: int) -> np.ndarray:
    y, x = np.mgrid[0 : 1 : rows * 1j, 0 : 1 : columns * 1j]
    rough = np.random.default_rng(4).normal(0, 0.03, (rows, columns))
    return (1 + np.sin(9 * x + 4 * y) * np.cos(7 * y) + rough).astype(np.float32)


def places(surface: GridSurface, shape: tuple[int, ...]) -> np.ndarray:
    return surface.rows.astype(np.int64) * shape[1] + surface.columns


@pytest.mark.usefixtures("in_tiles")
class TestTiles:
    def test_they_fit_corner_for_corner(self):
        heights = ground(211, 333)
        surface = triangulate_grid(heights, np.ones(heights.shape, bool), TOLERANCE)
        assert len(np.unique(places(surface, heights.shape))) == len(surface.rows)
        # Every edge has two faces, but for those round the grid.
        sides = np.sort(surface.faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
        edges, faces = np.unique(sides, axis=0, return_counts=True)
        once = edges[faces == 1]
        assert faces.max() == 2
        rows, columns = surface.rows[once], surface.columns[once]
        outside = (rows == 0).all(axis=1) | (rows == 210).all(axis=1)
        outside |= (columns == 0).all(axis=1) | (columns == 332).all(axis=1)
        assert outside.all()
        a, b, c = np.column_stack([surface.columns, surface.rows]).astype(np.int64)[surface.faces].transpose(1, 2, 0)
        area = (b - a)[0] * (c - a)[1] - (b - a)[1] * (c - a)[0]
        assert (area > 0).all()
        assert area.sum() == 2 * 210 * 332

    def test_no_sample_is_further_than_the_tolerance(self):
        heights = ground(211, 333)
        material = np.hypot(*np.mgrid[-1:1:211j, -1:1:333j]) < 0.9
        slab = build_slab(HeightField(heights, material.astype(np.float32), 0.1), 1.0, TOLERANCE)
        assert slab.deviation.max <= TOLERANCE
        assert check_soundness(slab.mesh).sound

    def test_it_takes_hardly_more_triangles_than_one_tile(self, monkeypatch):
        heights = ground(420, 420)
        everywhere = np.ones(heights.shape, bool)
        made = len(triangulate_grid(heights, everywhere, 4 * TOLERANCE).faces)
        monkeypatch.setattr(tiling, "LEAST_SAMPLES", heights.size + 1)
        assert made <= 1.06 * len(triangulate_grid(heights, everywhere, 4 * TOLERANCE).faces)

    def test_the_same_comes_out_on_one_core_as_on_many(self, monkeypatch):
        heights = ground(211, 333)
        made = []
        for count in (1, 4):
            monkeypatch.setattr(tiling, "cores", lambda count=count: count)
            made.append(triangulate_grid(heights, np.ones(heights.shape, bool), TOLERANCE))
        for name in ("rows", "columns", "levels", "faces"):
            assert np.array_equal(getattr(made[0], name), getattr(made[1], name)), name

    def test_progress_never_falls_and_what_it_raises_ends_the_work(self):
        heights = ground(500, 500)
        seen: list[float] = []
        triangulate_grid(heights, np.ones(heights.shape, bool), TOLERANCE, seen.append)
        assert seen[-1] == 1.0
        assert all(0 <= before <= after for before, after in pairwise(seen))

        def leave(_: float) -> None:
            raise KeyboardInterrupt

        before = threading.active_count()
        with pytest.raises(KeyboardInterrupt):
            triangulate_grid(heights, np.ones(heights.shape, bool), TOLERANCE, leave)
        assert threading.active_count() == before


def test_small_grids_are_one_tile():
    heights = ground(100, 100)
    (tile,) = tiling.tiles_of(heights, np.ones(heights.shape, bool), TOLERANCE)
    assert (tile.rows, tile.columns, len(tile.border)) == ((0, 99), (0, 99), 0)


def test_narrow_grids_are_cut_across(monkeypatch):
    monkeypatch.setattr(tiling, "LEAST_SAMPLES", 1)
    for shape in ((3, 4000), (4000, 3)):
        heights = np.zeros(shape, np.float32)
        tiles = tiling.tiles_of(heights, np.ones(heights.shape, bool), TOLERANCE)
        surface = triangulate_grid(heights, np.ones(shape, bool), TOLERANCE)
        assert [max(tile.rows[1] - tile.rows[0], tile.columns[1] - tile.columns[0]) for tile in tiles] == [2000, 1999]
        assert len(surface.faces) == 4


def test_a_border_keeps_what_a_straight_line_would_miss():
    profile = np.zeros(50, np.float32)
    profile[20], profile[21] = 1.0, 0.5
    kept = tiling._kept(profile, profile, 0, 49, 0.01)
    assert kept.tolist() == [19, 20, 22]
    free = profile.copy()
    free[15:30] = np.nan
    assert len(tiling._kept(free, profile, 0, 49, 0.01)) == 0
