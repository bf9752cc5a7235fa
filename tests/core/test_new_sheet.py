"""New sheets, what is drawn on them by hand, and pictures whose tones are light and paint."""

import numpy as np
import pytest

from nebrel.core.picture import Picture
from nebrel.core.picture.light_and_paint import dark_inside_bright
from nebrel.core.picture.ops.compose import blend_over, curve_through, run_layer
from nebrel.core.picture.ops.new_sheet import new_sheet
from nebrel.core.picture.ops.retouch import PixelStroke, mirrored, stroke_mask
from nebrel.core.picture.picture import SourceFacts


def picture(tones, depth: int = 8, rgb=None) -> Picture:
    rows, columns = tones.shape
    facts = SourceFacts("png", columns, rows, depth, "gray")
    return Picture(tones.astype(np.float32), np.ones(tones.shape, np.float32), facts, rgb)


@pytest.mark.parametrize("size", [(180, 50), (33.3, 71.7), (10, 10), (1, 2), (297, 210)])
def test_square_pixels_fit_both_sides_of_a_sheet(size):
    wide, tall = size
    rows, columns = new_sheet(wide, tall, 0.105, 0.5).shape
    assert wide / (columns - 1) == pytest.approx(tall / (rows - 1), rel=1e-12)
    assert 0.06 < wide / (columns - 1) < 0.17


def test_a_side_that_no_pixels_fit_is_met_within_half_of_one():
    rows, columns = new_sheet(100.003, 61.7171, 0.105, None).shape
    assert 61.7171 / (rows - 1) == pytest.approx(100.003 / (columns - 1), rel=2e-3)


@pytest.mark.parametrize("axes", range(9))
def test_a_stroke_has_twice_as_many_images_as_there_are_axes(axes):
    stroke = PixelStroke(np.array([[70.0, 40.0, 1.0], [75.0, 30.0, 0.5]]), 3.0)
    images = mirrored(stroke, (50.0, 50.0), axes, 0.3)
    assert len(images) == max(1, 2 * axes)
    away = np.hypot(*(stroke.places[:, :2] - 50).T)
    for image in images:
        np.testing.assert_allclose(np.hypot(*(image.places[:, :2] - 50).T), away)
        np.testing.assert_allclose(image.places[:, 2], stroke.places[:, 2])
    starts = {tuple(np.round(image.places[0, :2], 6)) for image in images}
    assert len(starts) == len(images)


def test_one_upright_axis_mirrors_left_and_right():
    stroke = PixelStroke(np.array([[30.0, 20.0, 1.0]]), 3.0)
    [_, image] = mirrored(stroke, (50.0, 50.0), 1, 0.0)
    np.testing.assert_allclose(image.places, [[70, 20, 1]], atol=1e-9)


def test_the_mask_of_all_images_is_symmetrical():
    stroke = PixelStroke(np.array([[140.0, 60.0, 1.0], [130.0, 95.0, 1.0]]), 6.0)
    mask = stroke_mask((201, 201), mirrored(stroke, (100.0, 100.0), 4, 0.0))
    for turned in (mask[:, ::-1], mask[::-1], mask.T):
        assert np.abs(mask - turned).mean() < 2e-3


def test_an_area_has_the_area_of_its_polygon_and_a_line_that_of_its_width():
    square = np.array([[20.0, 20.0], [80.0, 20.0], [80.0, 60.0], [20.0, 60.0]])
    assert run_layer((100, 120), square, None, True, 1.0).cover.sum() == pytest.approx(60 * 40, rel=0.02)
    line = run_layer((100, 120), np.array([[10.0, 50.0], [110.0, 50.0]]), 6.0, False, 1.0)
    assert line.cover[:, 30:90].sum() == pytest.approx(60 * 6, rel=0.12)


def test_a_smooth_closed_curve_goes_through_its_points_and_is_nearly_a_circle():
    angles = np.arange(8) * np.pi / 4
    points = np.column_stack([50 + 30 * np.cos(angles), 50 + 30 * np.sin(angles)])
    run = curve_through(points, True, True)
    reach = np.hypot(*(run - 50).T)
    assert np.abs(reach - 30).max() < 0.15
    for point in points:
        assert np.hypot(*(run - point).T).min() < 1e-6


def test_points_that_lie_on_each_other_make_no_loop():
    points = np.array([[0.0, 0.0], [0.0, 0.0], [10.0, 0.0], [10.0, 0.0], [10.0, 10.0]])
    run = curve_through(points, True, False)
    assert np.isfinite(run).all()
    assert len(curve_through(points, False, False)) == 3


def test_a_layer_over_blanks_makes_material_of_them():
    blank = Picture(
        np.zeros((40, 40), np.float32), np.zeros((40, 40), np.float32), SourceFacts("png", 40, 40, 8, "gray")
    )
    layer = run_layer((40, 40), np.array([[10.0, 10.0], [30.0, 10.0], [30.0, 30.0], [10.0, 30.0]]), None, True, 0.7)
    made = blend_over(blank, layer, "replace")
    assert made.coverage[20, 20] == 1
    assert made.coverage[2, 2] == 0
    assert made.tones[20, 20] == pytest.approx(0.7)


Y, X = np.mgrid[0:240, 0:320] / 240
SLOPES = 0.5 + 0.25 * np.sin(2 * X + Y) + 0.15 * np.cos(3 * Y)
HAIR = np.exp(-((((X * 15 + np.sin(4 * Y)) % 1) - 0.5) ** 2) / 0.006)


def test_narrow_dark_places_amid_brighter_ones_are_measured():
    found = dark_inside_bright(picture(np.clip(SLOPES - 0.4 * HAIR, 0, 1)))
    assert found is not None
    assert 0.06 < found.share < 0.6
    assert 0.1 < found.depth < 0.5
    assert found.coloured == 0


def test_in_colour_fewer_of_them_tell_enough():
    few = np.clip(SLOPES - 0.4 * HAIR * (X < 0.2), 0, 1)
    assert dark_inside_bright(picture(few)) is None
    rgb = np.dstack([few, 0.7 * few, 0.5 * few]).astype(np.float32)
    assert dark_inside_bright(picture(few, rgb=rgb)) is not None


@pytest.mark.parametrize(
    "tones",
    [
        SLOPES,
        (HAIR > 0.5).astype(float),
        np.where((X - 0.6) ** 2 + (Y - 0.5) ** 2 < 0.1, 0.3 + SLOPES * 0.5, 0.0),
        np.full_like(X, 0.5),
    ],
    ids=["slopes", "drawing", "on black", "one tone"],
)
def test_heights_and_drawings_are_not_taken_for_photographs(tones):
    assert dark_inside_bright(picture(np.clip(tones, 0, 1))) is None


def test_pictures_of_sixteen_bits_are_taken_for_heights():
    assert dark_inside_bright(picture(np.clip(SLOPES - 0.4 * HAIR, 0, 1), depth=16)) is None
