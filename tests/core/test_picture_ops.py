"""What each picture op does, against truths that can be written down."""

import io
from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image

from nebrel.core.errors import NebrelError
from nebrel.core.histogram import best_threshold
from nebrel.core.picture import Picture, SourceFacts, read_picture
from nebrel.core.picture.ink import automatic_threshold
from nebrel.core.picture.ops import compose, cutout, purify, retouch, soften, tile, tone
from nebrel.core.picture.ops import reframe as frame
from nebrel.core.picture.write import colour_png, write_picture

ROWS, COLUMNS = 120, 160
Y, X = np.mgrid[0:ROWS, 0:COLUMNS]


def picture_of(tones: np.ndarray, coverage: np.ndarray | None = None, rgb: np.ndarray | None = None) -> Picture:
    tones = np.asarray(tones, dtype=np.float32)
    cover = np.ones_like(tones) if coverage is None else np.asarray(coverage, dtype=np.float32)
    facts = SourceFacts("PNG", tones.shape[1], tones.shape[0], 16, "L")
    return Picture(tones, cover, facts, None if rgb is None else np.asarray(rgb, dtype=np.float32))


@pytest.fixture
def ramp() -> Picture:
    """Black at the left to white at the right."""
    return picture_of(X / (COLUMNS - 1))


@pytest.fixture
def disc() -> Picture:
    """White on black, radius 30, smooth edge."""
    return picture_of(np.clip(30.5 - np.hypot(X - 80, Y - 60), 0, 1))


def moved(result: frame.Reframed, column: float, row: float) -> tuple[float, float]:
    x, y, w = result.moved @ [column, row, 1]
    return x / w, y / w


class TestFrame:
    def test_crop_keeps_whole_pixels_and_says_where_they_went(self, ramp):
        result = frame.crop(ramp, frame.Box(0.25, 0.5, 0.75, 1.0))
        assert result.picture.tones[0, 0] == ramp.tones[0, 40]
        assert moved(result, 40, 0) == pytest.approx((0, 0))

    def test_a_crop_outside_is_refused(self, ramp):
        with pytest.raises(NebrelError, match=r"\.$"):
            frame.crop(ramp, frame.Box(1.2, 0, 1.6, 1))

    def test_content_is_found(self, disc):
        box = frame.content_box(disc)
        sides = np.array([box.left, box.right]) * (COLUMNS - 1), np.array([box.bottom, box.top]) * (ROWS - 1)
        assert sides[0] == pytest.approx([50, 110], abs=3)
        assert sides[1] == pytest.approx([29, 89], abs=3)

    def test_four_quarter_turns_change_nothing(self, ramp):
        turned = ramp
        for _ in range(4):
            turned = frame.turn(turned, 90).picture
        assert np.array_equal(turned.tones, ramp.tones)

    def test_a_quarter_turn_goes_counter_clockwise(self, ramp):
        turned = frame.turn(ramp, 90).picture
        assert turned.shape == (COLUMNS, ROWS)
        assert turned.tones[-1, 0] == 0
        assert turned.tones[0, 0] == 1

    def test_a_free_turn_grows_and_leaves_corners_blank(self, disc):
        result = frame.turn(disc, 30)
        rows, columns = result.picture.shape
        assert (rows, columns) == pytest.approx(
            (ROWS * np.cos(np.pi / 6) + COLUMNS / 2, COLUMNS * np.cos(np.pi / 6) + ROWS / 2), abs=2
        )
        assert result.picture.coverage[0, 0] == 0
        assert moved(result, 79.5, 59.5) == pytest.approx(((columns - 1) / 2, (rows - 1) / 2), abs=0.6)
        assert result.picture.tones.sum() == pytest.approx(disc.tones.sum(), rel=0.01)

    def test_mirrors_are_their_own_inverse(self, ramp):
        for across in (True, False):
            once = frame.flip(ramp, across).picture
            assert np.array_equal(frame.flip(once, across).picture.tones, ramp.tones)
        assert frame.flip(ramp, True).picture.tones[0, 0] == 1

    def test_a_photographed_sheet_comes_back_straight(self, disc):
        corners = np.array([[20, 104], [140, 112], [128, 12], [34, 6]], dtype=np.float32)
        flat = np.array([[0, 119], [159, 119], [159, 0], [0, 0]], dtype=np.float32)
        seen = cv2.warpPerspective(disc.tones, cv2.getPerspectiveTransform(flat, corners), (COLUMNS, ROWS))
        shares = np.column_stack([corners[:, 0] / 159, 1 - corners[:, 1] / 119])
        result = frame.straighten_sheet(picture_of(seen), shares)
        for corner, wanted in zip(corners, [(0, 1), (1, 1), (1, 0), (0, 0)], strict=True):
            rows, columns = result.picture.shape
            assert moved(result, *corner) == pytest.approx(
                (wanted[0] * (columns - 1), wanted[1] * (rows - 1)), abs=0.01
            )
        back = cv2.resize(result.picture.tones, (COLUMNS, ROWS), interpolation=cv2.INTER_LINEAR)
        assert np.abs(back - disc.tones).mean() < 0.02

    def test_a_border_has_its_tone_or_nothing(self, ramp):
        rim = frame.surround(ramp, 3, 4, 5, 6, 0.7).picture
        assert rim.shape == (ROWS + 10, COLUMNS + 8)
        assert rim.tones[0, 0] == np.float32(0.7)
        assert np.array_equal(rim.tones[6:-4, 3:-5], ramp.tones)
        blank = frame.surround(ramp, 3, 4, 5, 6, None).picture
        assert blank.coverage[:6].max() == 0

    def test_resampling_down_and_up_keeps_a_ramp(self, ramp):
        for columns, rows in ((53, 40), (320, 240)):
            small = frame.resample(ramp, columns, rows).picture
            assert small.shape == (rows, columns)
            wanted = np.linspace(0, 1, columns)
            assert np.abs(small.tones[rows // 2] - wanted).max() < 0.02


class TestTone:
    def test_levels_stretch_and_bend(self, ramp):
        stretched = tone.levels(ramp, 0.25, 0.75)
        wanted = np.clip((ramp.tones - 0.25) * 2, 0, 1)
        assert np.abs(stretched.tones - wanted).max() < 1e-5
        bent = tone.levels(ramp, 0, 1, 2.0)
        assert bent.tones[0, 80] == pytest.approx(ramp.tones[0, 80] ** 0.5, abs=1e-3)

    def test_automatic_levels_find_black_and_white(self, ramp):
        dull = picture_of(0.3 + 0.4 * ramp.tones)
        assert tone.automatic_levels(dull, 0.0) == pytest.approx((0.3, 0.7), abs=0.01)
        assert tone.automatic_levels(dull, 0.1) == pytest.approx((0.34, 0.66), abs=0.01)

    def test_a_curve_goes_through_its_points_and_never_overshoots(self, ramp):
        bent = tone.curve(ramp, [(0, 0.1), (0.5, 0.8), (0.6, 0.8), (1, 0.3)]).tones[0]
        assert bent[[0, -1]] == pytest.approx([0.1, 0.3], abs=1e-3)
        assert bent.max() == pytest.approx(0.8, abs=1e-3)
        with pytest.raises(NebrelError, match="two points"):
            tone.curve(ramp, [(0.5, 0), (0.5, 1)])

    def test_colours_become_tones(self):
        rgb = np.zeros((4, 3, 3))
        rgb[:, 0, 0], rgb[:, 1, 1], rgb[:, 2] = 1, 0.5, 0.4
        picture = picture_of(rgb.mean(axis=2), rgb=rgb)
        assert tone.mix_channels(picture, 1, 0, 0).tones[0] == pytest.approx([1, 0, 0.4])
        assert tone.saturation(picture).tones[0] == pytest.approx([1, 1, 0], abs=1e-4)
        alike = tone.likeness(picture, (1, 0, 0), 0.3).tones[0]
        assert alike[0] == pytest.approx(1)
        assert alike[1:].max() == 0

    def test_uneven_light_is_taken_off(self, disc):
        light = 0.9 - 0.4 * X / COLUMNS
        even = tone.flatten_light(picture_of(light * (1 - 0.8 * disc.tones)), 45).tones
        paper = even[disc.tones == 0]
        assert paper.std() < 0.25 * light.std()

    def test_sharpening_steepens_an_edge_and_leaves_plains(self, disc):
        soft = soften.gaussian(disc, 2)
        sharp = tone.sharpen(soft, 2, 1)
        assert np.abs(np.diff(sharp.tones[60])).max() > 1.2 * np.abs(np.diff(soft.tones[60])).max()
        assert sharp.tones[60, 80] == pytest.approx(1, abs=1e-3)


class TestPurify:
    def test_snap_touches_only_the_ends(self, ramp):
        snapped = purify.snap(ramp, 0.1, 0.2).tones[0]
        assert (snapped[ramp.tones[0] < 0.1] == 0).all()
        assert (snapped[ramp.tones[0] > 0.8] == 1).all()
        middle = (ramp.tones[0] > 0.12) & (ramp.tones[0] < 0.78)
        assert np.array_equal(snapped[middle], ramp.tones[0][middle])

    def test_a_threshold_is_found_between_two_heaps(self, disc):
        dim = picture_of(0.2 + 0.3 * disc.tones)
        assert 0.2 < automatic_threshold(dim) < 0.5
        crisp = purify.threshold(dim, 0.35).tones
        assert set(np.unique(crisp)) == {0, 1}
        assert crisp.sum() == pytest.approx(np.pi * 30**2, rel=0.02)

    def test_a_local_threshold_follows_the_light(self, disc):
        light = 1 - 0.75 * X / COLUMNS
        drawing = picture_of(light * (1 - 0.6 * (np.abs(np.hypot(X - 80, Y - 60) - 30) < 3)))
        ink = purify.threshold_locally(drawing, 12, 0.05).tones < 0.5
        ring = np.abs(np.hypot(X - 80, Y - 60) - 30) < 2
        assert ink[ring].mean() > 0.98
        assert ink[np.hypot(X - 80, Y - 60) > 48].mean() < 0.01

    def test_a_few_tones_are_found_and_merged(self):
        bands = picture_of(np.select([X < 50, X < 110], [0.1, 0.45], 0.9) + 0.01 * np.sin(Y))
        found = purify.found_tones(bands, 3)
        assert found == pytest.approx([0.1, 0.45, 0.9], abs=0.02)
        three = purify.reduce_tones(bands, found).tones
        assert len(np.unique(three)) == 3
        merged = purify.reduce_tones(bands, found, np.array([0, 0, 1], dtype=np.float32)).tones
        assert (merged[:, :110] == 0).all()
        assert (merged[:, 110:] == 1).all()

    def test_specks_and_pinholes_go_by_area(self, disc):
        dirty = (disc.tones > 0.5).astype(np.float32)
        dirty[10:13, 10:13] = 1
        dirty[10:18, 140:148] = 1
        dirty[60:62, 80:82] = 0
        clean = purify.remove_specks(picture_of(dirty), 20).tones
        assert clean[11, 11] == 0
        assert clean[61, 81] == 1
        assert clean[14, 144] == 1
        only = purify.remove_specks(picture_of(dirty), 20, pinholes=False).tones
        assert only[61, 81] == 0

    @pytest.mark.parametrize("by", [-3.0, -1.5, 1.0, 2.5])
    def test_strokes_change_by_what_was_asked(self, disc, by):
        changed = purify.change_strokes(disc, by, "bright").tones
        assert np.sqrt(changed.sum() / np.pi) == pytest.approx(30 + by, abs=0.6)


class TestSoften:
    def test_a_blur_keeps_the_mean_and_does_not_cross_into_blanks(self, disc):
        assert soften.gaussian(disc, 3).tones.mean() == pytest.approx(disc.tones.mean(), rel=0.01)
        half = picture_of(np.where(X < 80, 0.6, 0.0), X < 80)
        assert np.abs(soften.gaussian(half, 5).tones[:, :80] - 0.6).max() < 1e-3

    def test_a_median_takes_dots_and_leaves_edges(self, disc):
        dotted = disc.tones.copy()
        dotted[::17, ::13] = 1 - dotted[::17, ::13]
        calm = soften.median(picture_of(dotted), 1.5).tones
        assert np.abs(calm - disc.tones).mean() < 0.003

    def test_noise_goes_and_edges_stay(self, disc):
        noisy = picture_of(np.clip(disc.tones * 0.8 + 0.1 + np.random.default_rng(3).normal(0, 0.03, X.shape), 0, 1))
        assert soften.noise_level(noisy) == pytest.approx(0.03, rel=0.3)
        for calm in (soften.non_local_means(noisy, 0.07), soften.keep_edges(noisy, 3, 0.1)):
            assert np.abs(calm.tones - (disc.tones * 0.8 + 0.1)).mean() < 0.012
            assert np.abs(np.diff(calm.tones[60])).max() > 0.3


class TestRetouch:
    def stroke(self, hardness: float = 1.0) -> np.ndarray:
        places = np.array([[40.0, 60, 1], [120.0, 60, 1]])
        return retouch.stroke_mask((ROWS, COLUMNS), [retouch.PixelStroke(places, 8, hardness)])

    def test_a_stroke_is_as_wide_as_its_brush(self):
        mask = self.stroke()
        assert mask[:, 80].sum() == pytest.approx(16, abs=1)
        assert mask[60, :30].max() == 0
        soft = self.stroke(0.0)
        assert 0.2 < soft[56, 80] < 0.95

    def test_pressure_thins_a_stroke(self):
        places = np.array([[40.0, 60, 0.25], [120.0, 60, 1]])
        mask = retouch.stroke_mask((ROWS, COLUMNS), [retouch.PixelStroke(places, 8, 1.0)])
        assert mask[:, 42].sum() < 0.5 * mask[:, 118].sum()

    def test_paint_and_erase(self, ramp):
        painted = retouch.paint(ramp, self.stroke(), 0.2)
        assert painted.tones[60, 80] == pytest.approx(0.2)
        assert painted.tones[20, 80] == ramp.tones[20, 80]
        assert retouch.erase(ramp, self.stroke()).coverage[60, 80] == 0

    def test_healing_a_scratch_gives_the_ramp_back(self, ramp):
        noise = np.random.default_rng(6).normal(0, 0.01, X.shape)
        truth = 0.2 + 0.6 * ramp.tones
        scratched = picture_of(np.where(self.stroke() > 0.5, 0.0, truth + noise))
        healed = retouch.heal(scratched, retouch.stroke_mask((ROWS, COLUMNS), [
            retouch.PixelStroke(np.array([[40.0, 60, 1], [120.0, 60, 1]]), 10, 1.0)
        ]))  # fmt: skip
        assert np.abs(healed.tones - truth)[self.stroke() > 0.5].max() < 0.04

    def test_healing_everything_is_refused(self, ramp):
        with pytest.raises(NebrelError, match="surroundings"):
            retouch.heal(ramp, np.ones((ROWS, COLUMNS), dtype=np.float32))

    def test_a_fill_stops_at_an_edge(self, disc):
        filled = retouch.fill_from(disc, 80, 60, 0.1, 0.4).tones
        assert filled[60, 80] == pytest.approx(0.4)
        assert filled[5, 5] == 0

    def test_a_clone_brings_what_lies_elsewhere(self, ramp):
        cloned = retouch.clone(ramp, self.stroke(), 20, 0).tones
        assert cloned[60, 80] == pytest.approx(ramp.tones[60, 100], abs=1e-3)


class TestCutOut:
    def test_a_plain_background_goes(self, disc):
        kept = cutout.away_from_background(disc)
        assert kept[60, 80] == pytest.approx(1)
        assert kept[5, 5] == 0

    def test_one_colour_goes(self):
        rgb = np.zeros((ROWS, COLUMNS, 3))
        rgb[..., 1] = 0.8
        rgb[40:80, 60:100] = (0.9, 0.2, 0.2)
        kept = cutout.away_from_colour(picture_of(rgb.mean(axis=2), rgb=rgb), (0, 0.8, 0), 0.2)
        assert kept[60, 80] == 1
        assert kept[5, 5] == 0

    def test_a_box_and_marks_find_the_subject(self, disc):
        rng = np.random.default_rng(5)
        busy = picture_of(np.clip(0.25 + 0.5 * disc.tones + rng.normal(0, 0.04, X.shape), 0, 1))
        none = np.zeros((ROWS, COLUMNS), dtype=np.float32)
        kept = cutout.mark_out(busy, (40, 20, 120, 100), none, none) > 0.5
        truth = disc.tones > 0.5
        assert (kept & truth).sum() / (kept | truth).sum() > 0.95
        with pytest.raises(NebrelError, match="marked as inside"):
            cutout.mark_out(busy, None, none, none)

    def test_holes_fill_and_crumbs_go(self):
        ring = (np.abs(np.hypot(X - 80, Y - 60) - 30) < 6).astype(np.float32)
        ring[5:9, 5:9] = 1
        filled = cutout.tidy(ring, 0, True, 1)
        assert filled[60, 80] == 1
        assert filled[7, 7] == 0

    def test_a_mask_of_another_size_is_fitted(self, disc):
        small = cv2.resize(disc.tones, (40, 30), interpolation=cv2.INTER_AREA)
        fitted = cutout.fitted_mask(picture_of(small), (ROWS, COLUMNS))
        assert np.abs(fitted - disc.tones).mean() < 0.03


class TestCompose:
    @pytest.mark.parametrize(
        ("shape", "area"),
        [("rectangle", 60 * 40), ("ellipse", np.pi * 30 * 20), ("rounded", 60 * 40 - (4 - np.pi) * 8**2)],
    )
    def test_a_shape_has_its_area_and_place(self, shape, area):
        ground = picture_of(np.zeros((ROWS, COLUMNS)))
        layer = compose.shape_layer(shape, 60, 40, 1.0)
        laid = compose.lay(ground, layer, compose.Place(90, 50, 60, 40, 0), "replace").tones
        assert laid.sum() == pytest.approx(area, rel=0.03)
        assert (laid * X).sum() / laid.sum() == pytest.approx(90, abs=0.5)
        assert (laid * Y).sum() / laid.sum() == pytest.approx(50, abs=0.5)

    @pytest.mark.parametrize(
        ("blend", "wanted"),
        [("replace", 0.6), ("add", 1.0), ("subtract", 0.0), ("highest", 0.6), ("lowest", 0.5), ("multiply", 0.3)],
    )
    def test_blends(self, blend, wanted):
        ground = picture_of(np.full((ROWS, COLUMNS), 0.5))
        layer = compose.shape_layer("rectangle", 40, 40, 0.6)
        laid = compose.lay(ground, layer, compose.Place(80, 60, 40, 40, 0), blend).tones
        assert laid[60, 80] == pytest.approx(wanted, abs=0.01)
        assert laid[5, 5] == 0.5

    def test_letters_are_as_wide_as_asked_and_turn(self):
        from nebrel.piece.ops.compose import font_file

        layer = compose.lettering_layer("Fern", Path(font_file("bold")), 1.0)
        ground = picture_of(np.zeros((ROWS, COLUMNS)))
        high = 100 * layer.cover.shape[0] / layer.cover.shape[1]
        flat = compose.lay(ground, layer, compose.Place(80, 60, 100, high, 0), "replace").tones
        columns = np.flatnonzero(flat.max(axis=0) > 0.5)
        assert np.ptp(columns) == pytest.approx(100, abs=4)
        upright = compose.lay(ground, layer, compose.Place(80, 60, 100, high, 90), "replace").tones
        assert np.ptp(np.flatnonzero(upright.max(axis=1) > 0.5)) == pytest.approx(100, abs=4)


class TestTile:
    def test_seams_do_not_show(self):
        slope = picture_of(0.3 + 0.3 * X / COLUMNS + 0.1 * np.sin(Y / 9))
        whole = tile.seamless(slope, 0.2)
        twice = tile.repeat(whole, 2, 2).tones
        inner = np.abs(np.diff(twice, axis=1)).max(axis=0)
        seam = whole.shape[1] - 1
        assert inner[seam] < 2.5 * np.median(inner) + 0.01
        assert twice.shape == (2 * whole.shape[0], 2 * whole.shape[1])
        assert np.array_equal(twice[:, : whole.shape[1]], twice[:, whole.shape[1] :])


@pytest.mark.parametrize("form", ["png", "tiff"])
def test_a_written_picture_comes_back_with_its_size(form, ramp):
    blanked = picture_of(ramp.tones, X > 20)
    for picture in (ramp, blanked):
        file = io.BytesIO()
        write_picture(picture, file, form, 0.1)
        back = read_picture(file.getvalue())
        assert back.facts.bit_depth == 16
        assert back.facts.dpi == pytest.approx(254, abs=0.1)
        assert np.abs(back.tones - picture.tones)[picture.coverage > 0].max() <= 1 / 65_535
        assert np.array_equal(back.coverage > 0.5, picture.coverage > 0.5)


def test_a_picture_to_look_at_keeps_its_colours():
    rgb = np.random.default_rng(2).random((20, 30, 3))
    shown = np.asarray(Image.open(io.BytesIO(colour_png(picture_of(rgb.mean(axis=2), rgb=rgb)))))
    assert np.abs(shown[..., :3] / 255 - rgb).max() <= 0.5 / 255 + 1e-6


@pytest.mark.parametrize("seed", range(6))
def test_the_best_threshold_is_that_of_the_yardstick(seed):
    from skimage.filters import threshold_otsu

    rng = np.random.default_rng(seed)
    parts = [rng.normal(0.2 + 0.1 * seed, 0.05, 4000), rng.normal(0.8, 0.1, 900 * (seed + 1))]
    values = np.clip(np.concatenate(parts), 0, 1).astype(np.float32)
    for bins in (256, 1024):
        assert best_threshold(values, bins) == pytest.approx(threshold_otsu(values, nbins=bins), abs=1.5 / bins)
