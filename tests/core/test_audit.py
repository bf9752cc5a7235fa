"""Every finding about pictures fires on one made to deserve it, and on nothing else."""

import io
from collections.abc import Callable

import numpy as np
import pytest
from PIL import Image
from scipy import ndimage

from nebrel.core.picture import Picture, SourceFacts, read_picture
from nebrel.core.picture.audit import light_on_sheet, measure_strokes, thin_map, two_toned
from nebrel.core.picture.ops import purify, soften, tone
from nebrel.core.proof.audit import Ground, audit_picture
from nebrel.demo.pictures.plate import draw_ivy

GROUND = Ground(relief=3.0, tall="bright", mm_per_px=0.15, line=0.42, layer=0.16)


def picture_of(tones: np.ndarray, bit_depth: int = 16) -> Picture:
    tones = np.clip(np.asarray(tones, dtype=np.float32), 0, 1)
    levels = 2**bit_depth - 1
    facts = SourceFacts("PNG", tones.shape[1], tones.shape[0], bit_depth, "L")
    return Picture((np.round(tones * levels) / levels).astype(np.float32), np.ones_like(tones), facts)


def codes(picture: Picture, ground: Ground = GROUND) -> set[str]:
    return {finding.measure for finding in audit_picture(picture, ground)}


def stroke(width_px: float, angle_deg: float, side: int = 360) -> np.ndarray:
    """Black on white, antialiased, 240 px long, by its signed distance."""
    y, x = np.mgrid[0:side, 0:side] - side / 2 + 0.2
    angle = np.deg2rad(angle_deg)
    beside = np.abs(x * np.sin(angle) - y * np.cos(angle))
    along = np.abs(x * np.cos(angle) + y * np.sin(angle))
    return 1 - np.clip(width_px / 2 - beside + 0.5, 0, 1) * np.clip(120.5 - along, 0, 1)


@pytest.fixture(scope="module")
def relief() -> np.ndarray:
    """A soft relief over a plain, darker ground, from 0 to 1."""
    rng = np.random.default_rng(8)
    hills = ndimage.gaussian_filter(rng.normal(size=(300, 400)), 18)
    return (hills - hills.min()) / np.ptp(hills)


@pytest.fixture(scope="module")
def drawing() -> np.ndarray:
    """Broad black shapes on white, clean."""
    y, x = np.mgrid[0:300, 0:400]
    ring = np.abs(np.hypot(x - 200, y - 150) - 90)
    return 1 - np.clip(12.5 - ring, 0, 1)


def test_nothing_to_say_about_a_clean_relief_and_a_clean_drawing(relief, drawing):
    assert codes(picture_of(relief)) == set()
    assert codes(picture_of(drawing, 8)) == set()


MADE: dict[str, Callable[[np.ndarray, np.ndarray], Picture]] = {
    "noise": lambda relief, _: picture_of(relief * 0.8 + np.random.default_rng(1).normal(0.1, 0.02, relief.shape)),
    "near-white": lambda _, drawing: picture_of(drawing * 0.88),
    "near-black": lambda _, drawing: picture_of(0.1 + 0.9 * (1 - drawing)),
    "clipped": lambda relief, _: picture_of(relief * 1.7 - 0.35),
    "few-levels": lambda relief, _: picture_of(np.round(relief * 60) / 60, 8),
    "terracing": lambda relief, _: picture_of(np.tile(0.3 + 0.3 * np.arange(1200) / 1200, (200, 1)), 8),
    "specks": lambda _, drawing: picture_of(_speckled(drawing)),
    "thin-stroke": lambda _, drawing: picture_of(np.minimum(drawing, _line(drawing.shape, 150, 1.5))),
    "thin-gap": lambda _, drawing: picture_of(np.maximum(drawing, 1 - _line(drawing.shape, 65, 1.5))),
    "busy-background": lambda _, drawing: picture_of(drawing * _stained(drawing.shape)),
}


def _speckled(drawing: np.ndarray) -> np.ndarray:
    dirty = drawing.copy()
    for row, column in ((20, 30), (40, 300), (150, 200), (270, 60), (250, 350)):
        dirty[row : row + 2, column : column + 2] = 0
    return dirty


def _line(shape: tuple[int, int], row: float, width: float) -> np.ndarray:
    y, x = np.mgrid[0 : shape[0], 0 : shape[1]]
    return 1 - np.clip(width / 2 - np.abs(y - row) + 0.5, 0, 1) * ((x > 60) & (x < 340))


def _stained(shape: tuple[int, int]) -> np.ndarray:
    y, x = np.mgrid[0 : shape[0], 0 : shape[1]]
    return 1 - 0.45 * np.exp(-(((x - 20) / 70) ** 2 + ((y - 20) / 90) ** 2))


@pytest.mark.parametrize("code", list(MADE))
def test_each_finding_fires_on_what_deserves_it(code, relief, drawing):
    picture = MADE[code](relief, drawing)
    findings = {finding.measure: finding for finding in audit_picture(picture, GROUND)}
    assert code in findings
    finding = findings[code]
    assert finding.what.endswith(".")
    assert finding.why.endswith(".")
    assert finding.value is not None


def test_a_few_tones_are_not_noise(relief):
    rough = np.round(relief * 2 + np.random.default_rng(4).normal(0, 0.2, relief.shape)) / 2
    assert "noise" not in codes(picture_of(rough))


def test_jpeg_blocks_fire_on_a_jpeg_and_not_on_a_png(relief):
    file = io.BytesIO()
    Image.fromarray((relief * 255).astype(np.uint8)).save(file, "JPEG", quality=12)
    blocky = read_picture(file.getvalue())
    assert "jpeg-blocks" in codes(blocky)
    assert "jpeg-blocks" not in codes(soften.deblock(blocky, 0.08))
    assert "jpeg-blocks" not in codes(picture_of(draw_ivy(), 8))
    truth = np.round(relief * 255) / 255
    left = np.abs(soften.deblock(blocky, 0.08).tones - truth).mean()
    assert left < np.abs(blocky.tones - truth).mean()


def test_uneven_light_on_a_sheet_is_told_and_mended(relief, drawing):
    y, x = np.mgrid[0:300, 0:400]
    lamp = 0.92 - 0.35 * x / 400 - 0.1 * y / 300
    lit = picture_of(lamp * (0.15 + 0.85 * drawing))
    low, high = light_on_sheet(lit)
    assert (low, high) == pytest.approx((lamp.min(), lamp.max()), abs=0.04)
    (finding,) = [finding for finding in audit_picture(lit, GROUND) if finding.measure == "busy-background"]
    assert finding.fix.kind == "flatten-light"
    even = tone.flatten_light(lit, 4 / GROUND.mm_per_px, True)
    assert "busy-background" not in codes(even)
    assert light_on_sheet(picture_of(relief)) is None
    assert light_on_sheet(picture_of(lamp)) is None


def test_pixels_against_the_makers_line(relief):
    picture = picture_of(relief)
    assert codes(picture, Ground(3, "bright", 0.6, 0.42, 0.16)) == {"low-resolution"}
    assert codes(picture, Ground(3, "bright", 0.03, 0.42, 0.16)) == {"oversampled"}


def test_paper_gray_is_told_in_mm(drawing):
    picture = picture_of(drawing * 0.87)
    dark = Ground(3.0, "dark", 0.15, 0.42, 0.16)
    (finding,) = [finding for finding in audit_picture(picture, dark) if finding.measure == "near-white"]
    share = (drawing > 0.99).mean()
    assert f"covers {share:.0%} of the picture" in finding.what
    assert "would stand 0.39 mm tall" in finding.what


FIXES = {
    "noise": lambda picture, p: soften.non_local_means(picture, p["strength"]),
    "near-white": lambda picture, p: purify.snap(picture, p["black"], p["white"]),
    "near-black": lambda picture, p: purify.snap(picture, p["black"], p["white"]),
    "terracing": lambda picture, p: soften.deband(picture, p["levels"] - 1),
    "few-levels": lambda picture, p: soften.deband(picture, p["levels"] - 1),
    "specks": lambda picture, p: purify.remove_specks(picture, p["area_mm2"] / GROUND.mm_per_px**2),
    "thin-stroke": lambda picture, p: purify.change_strokes(picture, p["by_mm"] / 2 / GROUND.mm_per_px, p["ink"]),
    "busy-background": lambda picture, p: tone.flatten_light(picture, 4 / GROUND.mm_per_px, p["sheet"] == "bright"),
}


@pytest.mark.parametrize("code", list(FIXES))
def test_the_offered_fix_mends_it(code, relief, drawing):
    picture = MADE[code](relief, drawing)
    (fix,) = [finding.fix for finding in audit_picture(picture, GROUND) if finding.measure == code]
    assert code not in codes(FIXES[code](picture, fix.parameters))


@pytest.mark.parametrize("width_px", [2.0, 3.5, 5.0, 9.0, 12.3, 20.7, 75.0])
@pytest.mark.parametrize("angle_deg", [0, 11, 30, 45, 68, 90])
def test_stroke_widths_are_true_within_a_pixel(width_px, angle_deg):
    strokes, _ = measure_strokes(picture_of(stroke(width_px, angle_deg)))
    assert np.median(strokes.widths_px) == pytest.approx(width_px, abs=1)


def test_gaps_are_measured_between_strokes_only():
    y, _ = np.mgrid[0:200, 0:300]
    two = 1 - ((np.abs(y - 92) < 8) | (np.abs(y - 116) < 8))
    _, gaps = measure_strokes(picture_of(two))
    assert gaps.thinnest(50)[0] == pytest.approx(9, abs=1)


def test_thin_places_are_marked_where_they_are():
    picture = picture_of(np.minimum(stroke(20, 0), 1 - (1 - stroke(3, 90))))
    strokes, _ = measure_strokes(picture)
    marked = thin_map(picture.shape, strokes, 6.0)
    rows, columns = np.nonzero(marked)
    assert len(rows) > 300
    assert np.abs(columns - 180).max() < 6
    assert np.abs(rows - 180).min() > 5


def test_two_toned_tells_drawings_from_reliefs(relief, drawing):
    assert two_toned(picture_of(drawing)) > 0.95
    assert two_toned(picture_of(relief)) < 0.8
    y, x = np.mgrid[0:300, 0:400]
    dome = np.sqrt(np.clip(1 - ((x - 200) ** 2 + (y - 150) ** 2) / 110**2, 0, 1))
    assert two_toned(picture_of(np.where(dome > 0, 0.4 + 0.6 * dome, 0))) == 0
    assert two_toned(picture_of(np.full((50, 50), 0.5))) == 0


def test_debanding_mends_terraces_and_keeps_edges():
    ramp = np.tile(0.2 + 0.35 * np.arange(1500) / 1500, (60, 1))
    step = (np.arange(1500) >= 901) * 0.35
    truth = np.round((ramp + step) * 65535) / 65535
    banded = picture_of(truth, 8)
    mended = soften.deband(banded).tones
    before, after = np.sqrt(np.mean((banded.tones - truth) ** 2)), np.sqrt(np.mean((mended - truth) ** 2))
    assert after <= 0.2 * before
    level = mended[30, 850:950]
    crossing = 850 + np.interp(mended[30, [900, 901]].mean(), level[49:53], np.arange(49, 53))
    assert abs(crossing - 900.5) < 0.5
    assert np.abs(mended - banded.tones).max() <= 0.5 / 255 + 1e-6
