"""Every picture op as part of a piece: preview and final agree, edits take effect, sizes come out as asked."""

import io

import numpy as np
import pytest
from PIL import Image

from nebrel.core.errors import NebrelError
from nebrel.core.picture import read_picture, shrink_to
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.ops import KNOWN, OP_OF
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.registry import merge
from tests.piece.conftest import Evaluate, evaluate_over

WIDTH, HEIGHT = 480, 360
STROKE = {"places": [[0.3, 0.4, 1], [0.6, 0.55, 1]], "size_mm": 6}
OTHER = {"blob": "1" * 64, "name": "other.png"}
EXAMPLES: dict[str, dict] = {
    "crop": {"box": {"left": 0.1, "bottom": 0.2, "right": 0.8, "top": 0.9}},
    "turn": {"angle_deg": 12.5},
    "sheet": {"corners": [[0.1, 0.05], [0.95, 0.1], [0.9, 0.95], [0.05, 0.9]]},
    "border": {"left": 6, "right": 6, "top": 3, "bottom": 3, "tone": 0.25},
    "resample": {"to": "width", "width_px": 300},
    "levels": {"black": 0.1, "white": 0.8, "gamma": 1.4},
    "curve": {"points": [[0, 0.1], [0.4, 0.7], [1, 0.9]]},
    "mix": {"source": "colour", "colour": "#b03030"},
    "reduce": {"count": 4, "becomes": [None, 0.5, 0.5]},
    "snap": {"black": 0.3, "white": 0.25},
    "specks": {"area_mm2": 2},
    "deband": {"reach_px": 16},
    "paint": {"tone": 1, "strokes": [STROKE]},
    "erase": {"strokes": [STROKE]},
    "heal": {"strokes": [STROKE]},
    "clone": {"across": 0.2, "up": 0.1, "strokes": [STROKE]},
    "fill": {"spots": [[0.5, 0.5]], "tolerance": 0.2, "tone": 0},
    "cut-out": {"by": "marks", "box": {"left": 0.2, "bottom": 0.2, "right": 0.8, "top": 0.85}},
    "lettering": {"text": "No. 7\nFernhollow", "width_mm": 30},
    "shape": {"shape": "heart", "width_mm": 20, "height_mm": 18, "angle_deg": 20},
    "drawn-shape": {"points": [[0.2, 0.2], [0.8, 0.3], [0.5, 0.8]], "smooth": True},
    "picture": {"file": OTHER, "width_mm": 25, "blend": "highest"},
    "tile": {"across": 2, "up": 1.5, "fade": 0.1},
}
# Ops whose result depends on the size of pixels by their nature: what they find is finer than a preview shows.
FINER_THAN_A_PREVIEW = {
    "sharpen": 0.05,
    "median": 0.03,
    "threshold": 0.04,
    "denoise": 0.03,
    "reduce": 0.05,
    "fill": 0.05,
}


@pytest.fixture(scope="module")
def pictures() -> dict[str, bytes]:
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH].astype(float)
    disc = np.hypot(x - 240, y - 170) < 110
    smooth = 0.35 + 0.2 * np.sin(x / 50) * np.cos(y / 40)
    tones = np.where(disc, 0.85 - 0.1 * np.hypot(x - 200, y - 140) / 110, smooth)
    rgb = np.dstack([np.clip(tones * share, 0, 1) for share in (1.0, 0.75, 0.6)])
    return {"0" * 64: _png(rgb), "1" * 64: _png(np.tile(np.linspace(0, 1, 90), (60, 1)))}


def _png(tones: np.ndarray) -> bytes:
    file = io.BytesIO()
    Image.fromarray((tones * 255).round().astype(np.uint8)).save(file, "PNG")
    return file.getvalue()


@pytest.fixture
def evaluate(pictures) -> Evaluate:
    return evaluate_over(pictures.__getitem__, ResultCache(2 * 10**8))


@pytest.fixture
def plain(pictures) -> PanelDocument:
    facts = read_picture(pictures["0" * 64]).facts
    return PanelDocument(title="Disc", picture=picture_source("0" * 64, "disc.png", facts))


def with_ops(document: PanelDocument, *ops: dict) -> PanelDocument:
    named = [{"id": f"op{at}", **op} for at, op in enumerate(ops)]
    return merge(document, {"ops": named})


def example(kind: str) -> dict:
    return {"kind": kind, **EXAMPLES.get(kind, {})}


@pytest.mark.parametrize("kind", list(OP_OF))
def test_preview_and_final_agree(kind, plain, evaluate):
    document = with_ops(plain, example(kind))
    final, preview = evaluate(document).view(FULL), evaluate(document).view(240)
    small = shrink_to(final.picture, max(preview.picture.shape))
    assert np.abs(np.array(small.shape) - preview.picture.shape).max() <= 2
    rows, columns = np.minimum(small.shape, preview.picture.shape)
    inside = small.coverage[:rows, :columns] > 0.99
    away = np.abs(small.tones[:rows, :columns] - preview.picture.tones[:rows, :columns])[inside]
    assert away.mean() < FINER_THAN_A_PREVIEW.get(kind, 0.02)
    blank = np.abs(small.coverage[:rows, :columns] - preview.picture.coverage[:rows, :columns])
    assert blank.mean() < 0.02
    assert preview.mm_per_px * (preview.picture.shape[1] - 1) == pytest.approx(80, rel=0.01)


@pytest.mark.parametrize("kind", list(OP_OF))
def test_every_op_changes_something_keeps_tones_in_range_and_is_as_large_as_foretold(kind, plain, evaluate):
    document = with_ops(plain, example(kind))
    before, after = evaluate(plain).view(FULL).picture, evaluate(document).view(FULL).picture
    assert after.tones.dtype == after.coverage.dtype == np.float32
    assert 0 <= after.tones.min() <= after.tones.max() <= 1
    assert 0 <= after.coverage.min() <= after.coverage.max() <= 1
    idle = kind in ("deblock", "specks")
    changed = after.shape != before.shape or not (
        np.array_equal(after.tones, before.tones) and np.array_equal(after.coverage, before.coverage)
    )
    assert changed or idle
    field = evaluate(document).field(FULL)
    assert (field.width, field.depth) == pytest.approx(document.size_mm[:2], abs=1e-4)


def test_an_op_that_is_off_does_nothing(plain, evaluate):
    off = with_ops(plain, *({**example(op.model_fields["kind"].default), "on": False} for op in KNOWN))
    assert np.array_equal(evaluate(off).picture().tones, evaluate(plain).picture().tones)
    assert off.size_mm == plain.size_mm


def test_ops_work_in_their_order(plain, evaluate):
    border, invert = {"kind": "border", "tone": 0.0}, {"kind": "invert"}
    rim_first = evaluate(with_ops(plain, border, invert)).picture().tones[0, 0]
    rim_last = evaluate(with_ops(plain, invert, border)).picture().tones[0, 0]
    assert (rim_first, rim_last) == (1.0, 0.0)


def test_a_rim_in_mm_is_as_wide_on_the_finished_piece(plain, evaluate):
    document = with_ops(plain, {"kind": "border", "left": 4, "right": 4, "top": 4, "bottom": 4, "tone": 1.0})
    picture = evaluate(document).picture()
    rim = int((picture.tones[picture.shape[0] // 2] == 1.0)[: picture.shape[1] // 2].sum())
    pitch = 80 / (picture.shape[1] - 1)
    assert rim * pitch == pytest.approx(4, abs=pitch)
    wide = merge(document, {"body": {"width_mm": 160}})
    assert wide.size_mm[0] == 160
    rim = int((evaluate(wide).picture().tones[picture.shape[0] // 2] == 1.0)[:100].sum())
    assert rim * 160 / (evaluate(wide).picture().shape[1] - 1) == pytest.approx(4, abs=0.4)


def test_a_picture_is_repeated_to_fill_a_size(plain, evaluate):
    wide = merge(plain, {"body": {"width_mm": 120}})
    filling = {"kind": "tile", "by": "size", "repeat_mm": 30, "width_mm": 120, "height_mm": 45, "fade": 0}
    document = with_ops(wide, filling)
    assert document.size_mm[:2] == pytest.approx((120, 45), abs=0.3)
    view = evaluate(document).view(FULL)
    columns = view.picture.shape[1] // 4
    assert columns * view.mm_per_px == pytest.approx(30, abs=0.3)
    assert np.array_equal(view.picture.tones[:, :columns], view.picture.tones[:, columns : 2 * columns])
    with pytest.raises(NebrelError, match="times are accepted"):
        evaluate(with_ops(wide, {**filling, "repeat_mm": 0.5, "width_mm": 3000})).view(FULL)


def test_a_border_as_wide_as_the_piece_is_refused(plain, evaluate):
    document = with_ops(plain, {"kind": "border", "left": 50, "right": 40, "top": 1, "bottom": 1})
    with pytest.raises(NebrelError, match="borders take up"):
        evaluate(document).check()


def test_strokes_stay_on_their_spot_when_an_earlier_op_moves_the_frame(plain, evaluate):
    mark = {"kind": "paint", "tone": 0.0, "strokes": [{"places": [[0.5, 0.5, 1]], "size_mm": 3, "hardness": 1}]}
    crop = {"kind": "crop", "box": {"left": 0.4, "bottom": 0.3, "right": 0.9, "top": 0.9}}
    before = evaluate(with_ops(plain, {"kind": "flip"}, crop)).view(FULL).picture
    view = evaluate(with_ops(plain, {"kind": "flip"}, crop, mark)).view(FULL)
    rows, columns = np.nonzero((before.tones > 0.2) & (view.picture.tones < 0.01))
    assert (columns.mean(), rows.mean()) == pytest.approx(view.place((0.5, 0.5)), abs=0.5)
    size = (columns.max() - columns.min() + 1) * view.mm_per_px
    assert size == pytest.approx(3, abs=2.5 * view.mm_per_px)


def test_an_op_that_leaves_nothing_is_refused_and_named(plain, evaluate):
    everything = {"kind": "erase", "strokes": [{"places": [[0, 0.5, 1], [1, 0.5, 1]], "size_mm": 200}]}
    with pytest.raises(NebrelError, match=r"^Erase to blank leaves nothing of the picture"):
        evaluate(with_ops(plain, everything)).check()
    outside = {"kind": "crop", "box": {"left": 1.2, "bottom": 0, "right": 1.4, "top": 1}}
    with pytest.raises(NebrelError, match=r"^Crop: The crop leaves nothing"):
        evaluate(with_ops(plain, outside)).check()


def test_ops_of_a_newer_version_are_kept_and_do_nothing(plain, evaluate):
    document = with_ops(plain, {"kind": "carve-runes", "depth": {"deep": 3}}, {"kind": "invert"})
    again = PanelDocument.model_validate_json(document.model_dump_json())
    assert again.model_dump()["ops"][0]["depth"] == {"deep": 3}
    assert np.allclose(evaluate(again).picture().tones, 1 - evaluate(plain).picture().tones)


def test_only_what_follows_an_edit_runs_again(pictures, plain):
    reads: list[str] = []

    def read(blob: str) -> bytes:
        reads.append(blob)
        return pictures[blob]

    evaluate = evaluate_over(read, ResultCache(2 * 10**8))
    first = with_ops(plain, {"kind": "gaussian"}, {"kind": "snap", "black": 0.1})
    kept = evaluate(first).view(FULL, "op0").picture
    second = with_ops(plain, {"kind": "gaussian"}, {"kind": "snap", "black": 0.2})
    evaluate(second).view(FULL)
    assert evaluate(second).view(FULL, "op0").picture is kept
    assert reads == ["0" * 64]


def test_bad_parameters_get_one_sentence_that_names_them(plain):
    for op, words in (
        ({"kind": "turn", "angle_deg": 999}, "Angle is 999; -360 to 360 would be accepted."),
        ({"kind": "gaussian", "radius_mm": -1}, "Radius is -1 mm; 0 to 50 mm would be accepted."),
        ({"kind": "flip", "direction": "round"}, "Mirror is “round”"),
        ({"kind": "curve", "points": [[0, 0]]}, "Curve"),
        ({"kind": "invert", "strength": 3}, "spelling"),
    ):
        with pytest.raises(NebrelError) as refusal:
            with_ops(plain, op)
        assert words in str(refusal.value)
        assert "\n" not in str(refusal.value)
