"""Light that spreads in a wall: measured on an edge, blurred as measured, made up for within reach."""

import numpy as np
import pytest
from scipy.special import erf

from nebrel.core.errors import BadValueError
from nebrel.core.height.calibrate import read_edge
from nebrel.core.height.spread import sharpened, spread_light, spread_of_edge
from nebrel.core.height.transmission import TranslucentMaterial, TransmissionRule
from nebrel.core.picture.srgb import decode_srgb, encode_srgb


def edge(places, radius, low=0.1, high=0.9, middle=0.0):
    return low + (high - low) * (1 + erf((places - middle) / (np.sqrt(2) * radius))) / 2


class TestMeasured:
    @pytest.mark.parametrize("radius", [0.15, 0.4, 1.2])
    @pytest.mark.parametrize("turned", [1, -1])
    def test_the_radius_of_a_known_edge(self, radius, turned):
        places = np.linspace(-4, 4, 41)
        found, error = spread_of_edge(places, edge(turned * places, radius, middle=0.3))
        assert found == pytest.approx(radius, rel=1e-4)
        assert error < 1e-3

    def test_its_error_holds_the_truth(self):
        places, within = np.linspace(-3, 3, 25), 0
        for seed in range(60):
            noise = 1 + 0.02 * np.random.default_rng(seed).standard_normal(len(places))
            found, error = spread_of_edge(places, edge(places, 0.5) * noise)
            within += abs(found - 0.5) < 2.1 * error
        assert within >= 52

    def test_without_an_edge_it_is_refused(self):
        with pytest.raises(BadValueError, match="the same on both sides"):
            spread_of_edge(np.linspace(0, 1, 9), np.full(9, 0.5))
        with pytest.raises(BadValueError, match="6 or more"):
            spread_of_edge(np.linspace(0, 1, 4), np.linspace(0, 1, 4))

    def test_lines_of_the_edge_are_told_from_steps(self):
        rest, found = read_edge("mm,light\n0.4,0.8\nedge,-1,0.9\nedge,1,0.2\n0.8,0.5")
        assert rest.splitlines() == ["mm,light", "0.4,0.8", "0.8,0.5"]
        assert found[0].tolist() == [-1, 1] and found[1].tolist() == [0.9, 0.2]
        assert read_edge("0.4,0.8") == ("0.4,0.8", None)
        with pytest.raises(BadValueError, match="Line 2"):
            read_edge("0.4,0.8\nedge,there,0.2")


class TestSpread:
    def test_an_edge_goes_over_as_the_error_function(self):
        light = np.tile(np.where(np.arange(200) < 100, 0.1, 0.9).astype(np.float32), (20, 1))
        found = spread_light(light, (6.0, 3.0), np.ones(light.shape, bool))[10]
        assert found == pytest.approx(edge(np.arange(200) - 99.5, 6.0), abs=0.004)

    def test_no_light_comes_from_where_no_wall_is(self):
        light = np.ones((20, 60), np.float32)
        there = np.ones(light.shape, bool)
        there[:, 30:], light[:, 30:] = False, 0.0
        found = spread_light(light, (5.0, 5.0), there)
        assert found[:, :30] == pytest.approx(1)
        assert (found[:, 30:] == 0).all()

    def test_round_a_form_it_goes_over_the_seam(self):
        light = np.zeros((8, 80), np.float32)
        light[:, 0] = 1
        there = np.ones(light.shape, bool)
        assert spread_light(light, (4.0, 4.0), there, around=True)[4, -1] > 0.05
        assert spread_light(light, (4.0, 4.0), there)[4, -1] < 1e-6


def test_a_sharpened_wall_shows_what_is_wanted_better_and_stays_within_reach():
    x = np.linspace(0, 6 * np.pi, 240)
    tones = np.tile(encode_srgb((0.5 + 0.25 * np.sin(x)).astype(np.float32)), (30, 1))
    material = TranslucentMaterial(1.0)
    rule = TransmissionRule(0.8, 4.0, material, beyond="clip")
    wanted, there = decode_srgb(tones), np.ones(tones.shape, bool)

    def shown(spread_px):
        wall = rule.thickness(tones, spread_px)
        assert wall.min() >= 0.8 and wall.max() <= 4.0
        light = np.exp(-material.attenuation * (wall - 0.8)).astype(np.float32)
        return spread_light(light, (5.0, 5.0), there)

    plain, sharp = (float(np.sqrt(((shown(px) - wanted) ** 2).mean())) for px in (0.0, 5.0))
    assert sharp < 0.15 * plain
    assert np.array_equal(sharpened(wanted, 1e-3, 0.01), wanted)
