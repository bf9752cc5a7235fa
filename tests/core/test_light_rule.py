"""Thickness from light, and a material from readings."""

import numpy as np
import pytest
from scipy import stats

from nebrel.core.bent.wedge import make_wedge
from nebrel.core.errors import BadValueError
from nebrel.core.height.calibrate import (
    light_box,
    read_photograph,
    read_readings,
    wedge_steps,
)
from nebrel.core.height.transmission import TranslucentMaterial, TransmissionRule, close_seam
from nebrel.core.height.wedge_fit import fit_material
from nebrel.core.picture import Picture, SourceFacts
from nebrel.core.picture.srgb import by_luminance, decode_srgb, encode_srgb
from nebrel.core.proof import check_soundness
from nebrel.core.proof.lit import Lamp, likeness, lit_picture, shown_contrast, shown_tones

WHITE = TranslucentMaterial(1.05, 0.12, (1.0, 0.9, 0.8))
TONES = np.linspace(0, 1, 101, dtype=np.float32)


class TestRule:
    def test_lit_tones_are_the_wanted_ones_within_reach(self):
        rule = TransmissionRule(0.8, 3.5, WHITE, beyond="clip")
        shown = shown_tones(rule.thickness(TONES), WHITE, rule.thinnest)
        reached = rule.darkest_tone <= TONES
        assert shown[reached] == pytest.approx(TONES[reached], abs=1e-4)
        assert shown[~reached] == pytest.approx(rule.darkest_tone, abs=1e-4)

    def test_compressed_tones_fill_the_whole_reach(self):
        rule = TransmissionRule(0.8, 3.5, WHITE)
        shown = shown_tones(rule.thickness(TONES), WHITE, rule.thinnest)
        assert shown == pytest.approx(rule.darkest_tone + (1 - rule.darkest_tone) * TONES, abs=1e-4)

    def test_thickness_follows_beer_and_lambert(self):
        rule = TransmissionRule(1.0, 5.0, TranslucentMaterial(0.7), beyond="clip")
        half = encode_srgb(np.array([0.5]))
        assert rule.thickness(half)[0] == pytest.approx(1.0 + np.log(2) / 0.7, abs=1e-5)
        assert rule.contrast == pytest.approx(np.exp(0.7 * 4))

    @pytest.mark.parametrize("strength", [0.0, 0.5, 1.0])
    def test_strength_goes_from_the_straight_rule_to_the_light_rule(self, strength):
        made = TransmissionRule(0.8, 3.5, WHITE, strength=strength).thickness(TONES)
        light = TransmissionRule(0.8, 3.5, WHITE).thickness(TONES)
        straight = TransmissionRule(0.8, 3.5, WHITE, kind="straight").thickness(TONES)
        assert straight == pytest.approx(3.5 - 2.7 * TONES, abs=1e-6)
        assert made == pytest.approx(strength * light + (1 - strength) * straight, abs=1e-5)

    @pytest.mark.parametrize("kind", ["light", "straight"])
    def test_white_is_thinnest_and_nothing_passes_the_limits(self, kind):
        made = TransmissionRule(0.6, 2.0, TranslucentMaterial(3.0), kind=kind).thickness(TONES)
        assert made[-1] == pytest.approx(0.6, abs=1e-6)
        assert made.min() >= np.float32(0.6)
        assert made.max() <= np.float32(2.0)
        assert (np.diff(made) <= 1e-6).all()

    def test_a_thickest_wall_below_the_thinnest_is_refused(self):
        with pytest.raises(BadValueError, match=r"thickest wall is 2 mm and the thinnest 3 mm"):
            TransmissionRule(3.0, 2.0, WHITE)

    def test_srgb_and_back(self):
        assert encode_srgb(decode_srgb(TONES)) == pytest.approx(TONES, abs=1e-5)
        assert decode_srgb(np.array([0.5]))[0] == pytest.approx(0.21404, abs=1e-4)


class TestSeam:
    def test_ends_meet_and_the_middle_stays(self):
        tones = np.tile(np.linspace(0.2, 0.8, 200, dtype=np.float32), (5, 1))
        closed = close_seam(tones, 40)
        assert closed[:, 0] == pytest.approx(closed[:, -1], abs=1e-6)
        assert closed[:, 0] == pytest.approx(0.5, abs=0.01)
        assert np.array_equal(closed[:, 25:175], tones[:, 25:175])


class TestLitPicture:
    def test_the_lamp_and_the_room_are_added(self):
        through = np.array([[0.8, 3.0, 100.0]], dtype=np.float32)
        dark = lit_picture(through, WHITE, 0.8, Lamp((1.0, 1.0, 1.0), 1.0, 0.0))
        assert dark[0, 0].tolist() == [255, 243, 231]
        assert dark[0, 2].tolist() == [0, 0, 0]
        bright = lit_picture(through, WHITE, 0.8, Lamp((1.0, 1.0, 1.0), 0.0, 1.0))
        assert np.unique(bright).tolist() == [234]

    def test_a_lamp_twice_as_strong_gives_twice_the_light(self):
        through = np.array([[3.0]], dtype=np.float32)
        plain = TranslucentMaterial(1.0)
        lit = [
            decode_srgb(lit_picture(through, plain, 1.0, Lamp((1.0, 1.0, 1.0), power, 0.0)) / 255)[0, 0, 0]
            for power in (1.0, 2.0)
        ]
        assert lit[0] == pytest.approx(np.exp(-2.0), abs=0.005)
        assert lit[1] == pytest.approx(2 * lit[0], rel=0.03)


class TestLikeness:
    def test_the_same_is_1_and_narrow_strips_are_compared_too(self):
        strip = np.random.default_rng(2).uniform(0.3, 1, (2, 300)).astype(np.float32)
        alike = likeness(strip, strip, strip, 0.1)
        assert (alike.within_reach, alike.overall, alike.tones_lost) == (pytest.approx(1), pytest.approx(1), 0)
        other = np.clip(strip + 0.2 * (np.arange(300) % 2), 0, 1).astype(np.float32)
        assert likeness(other, strip, strip, 0.1).within_reach < 0.9

    def test_what_is_too_dark_counts_as_lost(self):
        tones = np.tile(np.linspace(0, 1, 100, dtype=np.float32), (20, 1))
        alike = likeness(np.maximum(tones, 0.4), np.maximum(tones, 0.4), tones, 0.4)
        assert alike.tones_lost == pytest.approx(0.4, abs=0.01)
        assert alike.overall < alike.within_reach == pytest.approx(1, abs=1e-3)


def test_contrast_is_of_what_is_seen_without_the_outermost_hundredth():
    light = np.full((100, 100), 0.5, dtype=np.float32)
    light[:50] = 0.05
    light[0, :50], light[-1, :50] = 1e-6, 1.0
    shown = encode_srgb(light)
    assert shown_contrast(shown) == pytest.approx(10, rel=1e-3)
    shown[20:30] = np.nan
    assert shown_contrast(shown) == pytest.approx(10, rel=1e-3)


class TestFit:
    @pytest.mark.parametrize("attenuation", [0.7, 1.05, 2.0])
    @pytest.mark.parametrize("seed", range(6))
    def test_a_simulated_material_comes_back_within_a_percent(self, attenuation, seed):
        thickness = np.concatenate([[0.0], wedge_steps(10)])
        read = light_box(TranslucentMaterial(attenuation, 0.15), thickness, 0.01, seed)
        found = fit_material(thickness, read)
        assert found.material.attenuation == pytest.approx(attenuation, rel=0.01)
        assert found.material.surface_loss == pytest.approx(0.15, abs=0.04)
        assert 0 < found.rms < 0.03
        assert abs(found.material.attenuation - attenuation) < 5 * found.attenuation_error

    def test_of_few_steps_it_is_the_straight_line_through_logarithms(self):
        thickness = wedge_steps(4)
        read = light_box(TranslucentMaterial(1.05, 0.15), thickness, 0.005, 3)
        line = stats.linregress(thickness, np.log(read))
        found = fit_material(thickness, read)
        assert found.material.attenuation == pytest.approx(-line.slope, rel=1e-3)
        assert found.attenuation_error == pytest.approx(line.stderr, rel=0.05)

    def test_exact_readings_leave_no_residuals(self):
        thickness = np.array([3.0, 1.0, 0.0, 2.0])
        found = fit_material(thickness, np.where(thickness > 0, 0.8 * np.exp(-0.9 * thickness), 1.0))
        assert found.material.attenuation == pytest.approx(0.9)
        assert found.material.surface_loss == pytest.approx(0.2)
        assert found.residuals == pytest.approx(0, abs=1e-12)

    def test_without_bare_light_the_surface_loss_is_unknown(self):
        thickness = np.array([1.0, 2.0, 3.0])
        found = fit_material(thickness, 40 * np.exp(-0.9 * thickness))
        assert (found.bare, found.material.surface_loss) == (False, 0.0)
        assert found.material.attenuation == pytest.approx(0.9)

    @pytest.mark.parametrize(
        ("thickness", "brightness", "words"),
        [
            ([1, 2, 3], [0.5, 0.6, 0.1], "readings that fall as the steps get thicker"),
            ([1, 2, 3], [0.5, 0.5, 0.1], "The step of 2 mm reads as bright as or brighter than that of 1 mm"),
            ([1, 2], [0.5, 0.2], "at least 3"),
            ([1, 2, 3], [0.5, 0.2, 0.0], "brightness above 0"),
            ([1, 2, 3], [0.5, float("nan"), 0.1], "not a number"),
            ([-1, 2, 3], [0.5, 0.2, 0.1], "-1 mm thick"),
            ([1, 2, 3], [0.5, 0.2], "one thickness and one reading"),
        ],
    )
    def test_readings_of_nothing_are_refused(self, thickness, brightness, words):
        with pytest.raises(BadValueError, match=words):
            fit_material(np.array(thickness, dtype=float), np.array(brightness, dtype=float))

    def test_readings_are_read_with_commas_semicolons_and_names(self):
        plain = read_readings("mm,brightness\n0.4,0.6\n1,0.3\n\n# note\n2,0.1\n")
        other = read_readings("mm;Helligkeit\n0,4;0,6\n1;0,3\n2;0,1\n")
        for thickness, brightness in (plain, other):
            assert thickness.tolist() == [0.4, 1, 2]
            assert brightness.tolist() == [0.6, 0.3, 0.1]

    @pytest.mark.parametrize(("text", "words"), [("", "no readings"), ("0.4,0.6\nx,y\n", "Line 2 of the readings is")])
    def test_other_text_is_refused(self, text, words):
        with pytest.raises(BadValueError, match=words):
            read_readings(text)

    def test_a_photograph_tells_each_step(self):
        steps = wedge_steps(8)
        light = np.repeat(TranslucentMaterial(0.6).passed(steps), 30)
        photograph = np.tile(encode_srgb(light), (40, 1)).astype(np.float32)
        found = fit_material(steps, read_photograph(photograph, 8))
        assert found.material.attenuation == pytest.approx(0.6, rel=1e-3)
        with pytest.raises(BadValueError, match="8 steps need at least 64"):
            read_photograph(photograph[:, :50], 8)


class TestWedge:
    @pytest.mark.parametrize("steps", [3, 10, 25])
    def test_it_is_sound_and_has_every_thickness(self, steps):
        thicknesses = wedge_steps(steps)
        mesh = make_wedge(thicknesses)
        soundness = check_soundness(mesh)
        assert soundness.sound
        assert soundness.shells == 1
        assert soundness.size[2] == pytest.approx(thicknesses[-1], abs=1e-4)
        up = np.unique(mesh.vertices[:, 2].round(4))
        assert np.isin(thicknesses.round(4), up).all()

    @pytest.mark.parametrize(("steps", "span"), [(2, (0.4, 6.4)), (41, (0.4, 6.4)), (5, (3, 2)), (5, (0.0, 2))])
    def test_other_wedges_are_refused(self, steps, span):
        with pytest.raises(BadValueError, match="accepted"):
            wedge_steps(steps, *span)


class TestTonesOfColours:
    """A colour is as bright as the gray that sends out as much light."""

    def coloured(self, *colours):
        rgb = np.array([colours], dtype=np.float32)
        return Picture(rgb[..., 0], np.ones(rgb.shape[:2], np.float32), SourceFacts("PNG", 1, 1, 8, "colour"), rgb)

    def test_luminance_of_pure_colours(self):
        found = by_luminance(self.coloured((1, 0, 0), (0, 1, 0), (0, 0, 1), (1, 1, 0)))
        assert decode_srgb(found.tones[0]) == pytest.approx([0.2126, 0.7152, 0.0722, 0.9278], abs=1e-5)

    def test_grays_stay_to_the_last_bit(self):
        grays = np.linspace(0, 1, 7, dtype=np.float32)
        found = by_luminance(self.coloured(*np.stack([grays] * 3, axis=1)))
        assert np.array_equal(found.tones[0], grays)

    def test_a_gray_picture_is_left_alone(self):
        picture = Picture(np.ones((2, 2), np.float32), np.ones((2, 2), np.float32), SourceFacts("PNG", 2, 2, 8, "gray"))
        assert by_luminance(picture) is picture
