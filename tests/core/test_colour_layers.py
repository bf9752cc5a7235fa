"""Tinted layers behind a wall: the table, the mixture, where layers lie, and the bodies that they become."""

import itertools
import math

import numpy as np
import pytest
import shapely

from nebrel.core.colour.oklab import oklab_of_light
from nebrel.core.csg.boolean import mesh_of, solid_of, upright
from nebrel.core.errors import BadValueError
from nebrel.core.mesh.measure import volume
from nebrel.core.proof import check_soundness
from nebrel.core.proof.colour_match import colour_match
from nebrel.core.proof.lamp_colour import lamp_of_temperature
from nebrel.core.tinted.filters import ColourFilter, read_filters
from nebrel.core.tinted.layers import lay_filters, split_bodies
from nebrel.core.tinted.mix import PRICE, FilterBands, choose_mixtures

TABLE = """name,mm,red,green,blue
Cyan,0.1,0.5,0.9,0.95
Cyan,0.4,0.1,0.6,0.8
Rose,0.2,90%,30%,80%   # read twice
Straw,0.1,0.95,0.9,0.5
"""
ATTENUATION = 1.1


@pytest.fixture
def bands() -> FilterBands:
    return FilterBands(read_filters(TABLE), 4, 0.1, ATTENUATION)


class TestTable:
    def test_keeps_the_order_of_its_colours_and_reads_shares_and_per_cent(self):
        cyan, rose, straw = read_filters(TABLE)
        assert (cyan.name, rose.name, straw.name) == ("Cyan", "Rose", "Straw")
        assert cyan.thickness == (0.1, 0.4)
        assert rose.passed == ((0.9, 0.3, 0.8),)

    def test_what_passes_is_what_was_measured_and_falls_evenly_between_and_beyond(self):
        cyan = read_filters(TABLE)[0]
        passed = np.exp(-cyan.density(np.array([0.0, 0.1, 0.25, 0.4, 0.7])))
        assert passed[0] == pytest.approx([1, 1, 1])
        assert passed[1] == pytest.approx([0.5, 0.9, 0.95])
        assert passed[2] == pytest.approx(np.sqrt([0.5 * 0.1, 0.9 * 0.6, 0.95 * 0.8]))
        assert passed[4] == pytest.approx([0.1 * 0.2, 0.6 * 2 / 3, 0.8 * 0.8 / 0.95])

    @pytest.mark.parametrize(
        ("text", "words"),
        [
            ("", "has 0 layers"),
            ("Cyan,0.1,0.5,0.9", "Line 1"),
            ("Cyan,0.1,0.5,0.9,blue", "Line 1"),
            ("Cyan,0.1,0.5,0.9,0.9\nCyan,zero,1,1,1", "Line 2"),
            ("Cyan,0.1,0.5,0.9,1.2", "shares of the light"),
            ("Cyan,0.1,0,0.9,0.9", "shares of the light"),
            ("Cyan,0,0.5,0.9,0.9", "rising"),
            ("Cyan,0.1,0.5,0.9,0.9\nCyan,0.1,0.4,0.9,0.9", "rising"),
            ("Cyan,nan,0.5,0.9,0.9", "Line 1"),
            ("\n".join(f"C{at},0.1,0.5,0.9,0.9" for at in range(5)), "5 colours"),
            ("\n".join(f"C,{at + 1},0.5,0.9,0.9" for at in range(41)), "41 layers"),
        ],
    )
    def test_what_is_no_table_is_refused_with_what_would_be(self, text, words):
        with pytest.raises(BadValueError, match=words):
            read_filters(text)

    def test_too_many_mixtures_are_refused(self):
        four = tuple(ColourFilter(name, (0.1,), ((0.5, 0.6, 0.7),)) for name in "abcd")
        with pytest.raises(BadValueError, match="14641 mixtures"):
            FilterBands(four, 10, 0.1, 1.0)


class TestMixture:
    def test_light_is_the_product_of_all_that_it_passes(self, bands):
        thickness = np.array([0.2, 0.0, 0.3])
        shown = bands.light(thickness)
        cyan, _, straw = bands.filters
        per_mm = ATTENUATION
        for part in range(3):
            kept = math.exp(-cyan.density(np.array(0.2))[part] - straw.density(np.array(0.3))[part])
            assert shown[part] == pytest.approx(kept * math.exp(per_mm * 0.5))

    def test_is_the_nearest_of_all_by_trying_every_one_at_every_brightness(self, bands):
        rng = np.random.default_rng(4)
        wanted = rng.uniform(0.02, 1, (3, 4, 3))
        contrast = 9.0
        found = choose_mixtures(wanted, bands, contrast)
        shares = np.linspace(1 / contrast, 1, 400)
        for row, column in itertools.product(range(3), range(4)):
            aim = oklab_of_light(wanted[row, column])
            best = math.inf
            for counts in itertools.product(range(5), repeat=3):
                light = bands.light(np.array(counts) * 0.1)
                away = ((oklab_of_light(shares[:, None] * light) - aim) ** 2).sum(axis=1).min()
                best = min(best, away + PRICE * sum(counts))
            light = bands.light(found[row, column] * 0.1)
            own = ((oklab_of_light(shares[:, None] * light) - aim) ** 2).sum(axis=1).min()
            assert own + PRICE * found[row, column].sum() <= best + 1e-6

    def test_white_and_grays_take_no_layer(self, bands):
        grays = np.repeat(np.linspace(0.15, 1, 12)[:, None, None], 3, axis=2)
        assert not choose_mixtures(grays, bands, 10.0).any()
        assert not choose_mixtures(grays, bands, 10.0, spread=True).any()

    def test_dots_bring_the_mean_light_nearer_than_one_mixture_does(self, bands):
        between = (bands.light(np.array([0.1, 0, 0])) + bands.light(np.zeros(3))) / 2.3
        wanted = np.tile(between, (40, 40, 1))

        def mean_off(spread: bool) -> float:
            counts = choose_mixtures(wanted, bands, 10.0, spread)
            light = bands.light(counts * 0.1)
            light *= (between.sum() / light.sum(axis=-1))[..., None]
            return float(np.abs(light.mean(axis=(0, 1)) / between - 1).max())

        assert mean_off(True) < 0.02 < mean_off(False)


class TestLayers:
    @pytest.fixture(params=[0.0, 0.8], ids=["steps", "dots"])
    def laid(self, request, bands):
        """A picture 24 × 16 mm: white, a strip of cyan's own colour, a corner of straw's."""
        wanted = np.ones((81, 121, 3), dtype=np.float32)
        wanted[:, 40:80] = bands.light(np.array([0.4, 0, 0]))
        wanted[:30, 100:] = bands.light(np.array([0, 0, 0.4]))
        return lay_filters(wanted, 0.2, bands, 8.0, 0.4, request.param)

    def test_lie_where_the_colour_is_and_nowhere_else(self, laid):
        cyan, rose, straw = laid.regions
        assert all(region.is_empty for region in rose)
        top = cyan[3]
        strip = shapely.box(8, 0, 16, 16)
        inside = shapely.intersection(top, shapely.box(0, 0, 24, 16))
        # Along both long sides a layer ends up to a dot beside the strip.
        assert inside.symmetric_difference(strip).area < 2 * 0.8 * 16
        assert shapely.intersection(straw[3], shapely.box(20, 10, 24, 16)).area > 0.8 * 24

    def test_go_on_beyond_the_border_of_the_picture(self, laid):
        assert laid.regions[0][0].bounds[1] == pytest.approx(-1.5, abs=0.01)

    def test_higher_layers_lie_on_lower_ones(self, laid):
        for layers in laid.regions:
            for below, above in itertools.pairwise(layers):
                assert above.difference(below.buffer(0.02)).area < 1e-6

    def test_thickness_is_that_of_the_layers(self, laid):
        thick = laid.thickness((81, 121), 0.2)
        assert thick[40, 60].tolist() == pytest.approx([0.4, 0, 0])
        assert thick[40, 20].tolist() == pytest.approx([0, 0, 0])

    def test_bodies_are_sound_fill_the_wall_and_share_no_room(self, laid):
        wall = mesh_of(upright(shapely.MultiPolygon([shapely.box(0, 0, 28, 20)]), 0, 3.0))
        bodies = split_bodies(wall, laid, np.array([2.0, 2.0, 0.0]))
        assert [number for number, _ in bodies] == [-1, 0, 2]
        assert all(check_soundness(body).sound for _, body in bodies)
        assert sum(volume(body) for _, body in bodies) == pytest.approx(volume(wall), abs=0.01)
        for (_, one), (_, other) in itertools.combinations(bodies, 2):
            assert (solid_of(one) ^ solid_of(other)).volume() < 0.01
        cyan = dict(bodies)[0]
        assert cyan.vertices[:, 2].max() == pytest.approx(0.4)
        assert volume(cyan) == pytest.approx(sum(region.area for region in clipped(laid.regions[0])) * 0.1, rel=1e-3)
        straw = dict(bodies)[2]
        assert (straw.vertices[:, 2].min(), straw.vertices[:, 2].max()) == pytest.approx((0.8, 1.2))


def test_filters_that_end_where_others_begin_leave_a_sound_wall(bands):
    """What fills the bands lies beside one filter and under the next; it must not meet itself along their border."""
    colours = np.random.default_rng(1).uniform(0.05, 1, (10, 15, 3))
    wanted = np.kron(colours, np.ones((20, 20, 1))).astype(np.float32)
    laid = lay_filters(wanted, 0.2, bands, 8.0, 0.4, 0.8)
    wall = mesh_of(upright(shapely.MultiPolygon([shapely.box(0, 0, 59.8, 39.8)]), 0, 3.0))
    bodies = split_bodies(wall, laid, np.zeros(3))
    assert [number for number, _ in bodies] == [-1, 0, 1, 2]
    assert all(check_soundness(body).sound for _, body in bodies)


def clipped(regions):
    """Regions as far as the wall of the test reaches about the picture."""
    return [shapely.intersection(region, shapely.box(-2, -2, 26, 18)) for region in regions]


class TestMatch:
    def test_the_same_colours_are_not_off_and_a_far_one_is_told(self):
        wanted = np.full((100, 3), 0.4)
        assert colour_match(wanted, wanted).mean == 0
        shown = wanted.copy()
        shown[:25] = (0.5, 0.1, 0.1)
        match = colour_match(shown, wanted)
        assert match.far == 0.25
        assert match.tenth > 10

    def test_nothing_to_compare_is_no_difference(self):
        assert colour_match(np.empty((0, 3)), np.empty((0, 3))).far == 0


class TestLamps:
    def test_turn_from_red_to_blue_as_they_get_hotter(self):
        embers, warm, noon, sky = (lamp_of_temperature(kelvin) for kelvin in (1200, 2700, 6500, 15000))
        assert embers[0] == warm[0] == 1
        assert embers[2] < warm[2] < 0.2
        assert noon == pytest.approx((1, 1, 1), abs=0.06)
        assert sky[2] == 1
        assert sky[0] < 0.7

    @pytest.mark.parametrize("kelvin", [0, 999, 30000, math.nan])
    def test_out_of_range_is_refused(self, kelvin):
        with pytest.raises(BadValueError, match="K is asked for"):
            lamp_of_temperature(kelvin)
