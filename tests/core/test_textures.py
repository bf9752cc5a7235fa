"""Textures of grounds: in mm, without seams, the same at any resolution, only where they are asked for."""

from typing import get_args

import numpy as np
import pytest

from nebrel.core.height.field import HeightField
from nebrel.core.height.textures import Kind, Texture, texture, textured

KINDS = get_args(Kind)


def places(width: float, depth: float, pitch: float, left: float = 0.0):
    x = left + np.arange(0, width + pitch / 2, pitch)
    y = np.arange(0, depth + pitch / 2, pitch)
    return [each.astype(np.float32) for each in np.meshgrid(x, y[::-1])]


@pytest.mark.parametrize("kind", KINDS)
class TestEvery:
    def test_uses_its_depth_and_no_more(self, kind):
        made = texture(kind, *places(40, 30, 0.1), size=2.5)
        assert made.dtype == np.float32 and 0 <= made.min() < 0.12 and 0.88 < made.max() <= 1

    def test_is_the_same_at_every_resolution(self, kind):
        fine, coarse = (texture(kind, *places(20, 20, pitch), size=3.0) for pitch in (0.1, 0.4))
        assert np.allclose(fine[::4, ::4], coarse, atol=2e-3)

    def test_goes_on_over_any_border_without_a_seam(self, kind):
        whole = texture(kind, *places(40, 20, 0.2), size=3.0)
        right = texture(kind, *places(20, 20, 0.2, left=20.0), size=3.0)
        assert np.allclose(whole[:, 100:], right, atol=2e-3)

    def test_has_grains_as_large_as_asked(self, kind):
        # How far one goes until heights are as unlike as any two: it doubles with the size.
        def reach(size: float) -> float:
            made = texture(kind, *places(60, 60, 0.2), size=size, seed=3)
            made = made - made.mean()
            alike = [float((made[:-step] * made[step:]).mean() / made.var()) for step in range(1, 100)]
            return next(step for step, each in enumerate(alike, 1) if each < 0.3) * 0.2

        assert reach(4.0) / reach(2.0) == pytest.approx(2, rel=0.35)

    def test_another_number_is_another_one_of_its_kind(self, kind):
        one, other = (texture(kind, *places(30, 30, 0.2), size=2.5, seed=seed) for seed in (1, 2))
        assert np.abs(one - other).mean() > 0.05
        assert one.mean() == pytest.approx(other.mean(), abs=0.08)

    def test_is_turned(self, kind):
        x, y = places(30, 30, 0.2)
        turned = texture(kind, x, y, 2.5, angle_deg=90)
        assert np.allclose(turned, texture(kind, y, -x, 2.5), atol=5e-3)


def test_lines_and_grain_run_along_x():
    for kind in ("wood", "hatching"):
        made = texture(kind, *places(40, 40, 0.1), size=2.5)
        across, along = np.abs(np.diff(made, axis=0)).mean(), np.abs(np.diff(made, axis=1)).mean()
        assert across > 3 * along


class TestOnHeights:
    @staticmethod
    def field() -> HeightField:
        heights = np.zeros((151, 201), dtype=np.float32)
        heights[50:100, 60:140] = 2.0
        return HeightField(heights, np.ones_like(heights), 0.2)

    def test_lies_on_the_ground_only(self):
        plain = self.field()
        made = textured(plain, Texture("hammered", 2.0, 0.4, below=0.5))
        assert np.array_equal(made.heights[50:100, 60:140], plain.heights[50:100, 60:140])
        ground = made.heights[:40]
        assert 0 <= ground.min() < 0.05 and 0.3 < ground.max() <= 0.4

    def test_lies_everywhere(self):
        made = textured(self.field(), Texture("noise", 2.0, 0.4))
        assert np.ptp(made.heights[55:95, 65:135]) > 0.2 and made.heights.max() <= 2.4

    def test_fades_out_towards_what_is_no_ground(self):
        ramp = HeightField(
            np.tile(np.linspace(0, 1, 200, dtype=np.float32), (80, 1)), np.ones((80, 200), np.float32), 0.2
        )
        by = textured(ramp, Texture("leather", 2.0, 0.4, below=0.5)).heights - ramp.heights
        assert by[:, :20].max() > 0.3 and by[:, 105:].max() == 0
        assert by[:, 60:80].max() < 0.75 * by[:, :20].max()
