"""Figures as pieces: what is laid on them and set under them: colours, few colours, a foot, a picture of the back."""

import numpy as np
import pytest

from nebrel.core.errors import BadValueError
from nebrel.piece.evaluation.cache import ResultCache
from tests.piece.conftest import Evaluate, evaluate_over
from tests.piece.toad import FILES, PX, document, png, toad


@pytest.fixture(scope="module")
def evaluate() -> Evaluate:
    return evaluate_over(FILES.__getitem__, ResultCache(2**28))


FEW = {"on": True, "count": 3, "smallest_mm2": 0.5}


class TestColour:
    def test_is_on_what_is_shown_and_on_what_is_delivered(self, evaluate):
        coloured = evaluate(document(colour={"on": True}, tolerance_mm=0.2))
        assert coloured.shown(PX).shaded.colours is not None
        slab, report = coloured.build()
        assert report.sound
        assert slab.mesh.colours is not None
        assert report.max_error_mm <= 0.2
        # Eyes are brighter than the body.
        assert np.ptp(slab.mesh.colours[:, 0].astype(int)) > 80

    def test_costs_nothing_where_it_is_off(self, evaluate):
        plain = evaluate(document())
        assert plain.shown(PX).shaded.colours is None
        assert evaluate(document(colour={"on": False, "back": "mirror"})).solid_key(PX) == plain.solid_key(PX)

    def test_does_not_make_the_form_anew(self, evaluate):
        plain, coloured = (evaluate(document(colour={"on": on})) for on in (False, True))
        assert coloured.shaped(PX) is plain.shaped(PX)


class TestFewColours:
    def few(self, evaluate, **few):
        return evaluate(document(colour={"on": True}, few={**FEW, **few}, tolerance_mm=0.2))

    def test_are_on_what_is_shown_and_on_what_is_delivered(self, evaluate):
        evaluator = self.few(evaluate)
        assert len(np.unique(evaluator.shown(PX).shaded.colours, axis=0)) <= 3
        slab, report = evaluator.build()
        told = report.figure.colours
        tints = slab.mesh.corner_colours
        assert report.sound
        assert (tints == tints[:, :1]).all()
        kept = {f"#{bytes(rgb).hex()}" for rgb in tints[:, 0, :3].tolist()}
        assert {tint.colour for tint in told.tints} == kept
        assert told.smallest_patch_mm2 >= 0.5
        assert told.layers == pytest.approx(report.size_mm[1] / 0.2, abs=1)

    def test_of_filaments_are_theirs_and_called_by_their_names(self, evaluate):
        own = [{"name": "Slate", "colour": "#707070"}, {"name": "Fog", "colour": "#e8e8e8"}]
        evaluator = self.few(evaluate, of="filaments", filaments=own)
        view = evaluator.few_colours()
        assert {tint.name for tint in view.report.tints} == {"Slate", "Fog"}
        assert evaluator.colour_names == {"#707070": "Slate", "#e8e8e8": "Fog"}
        assert view.before.colours is not None
        assert len(np.unique(view.after.corner_colours.reshape(-1, 4), axis=0)) == 2

    def test_are_of_the_picture_where_no_filament_is_chosen(self, evaluate):
        assert self.few(evaluate, of="filaments").few_colours() is not None

    def test_say_nothing_where_they_are_off_or_without_colour(self, evaluate):
        assert evaluate(document(colour={"on": True})).few_colours() is None
        assert evaluate(document(few=FEW)).few_colours() is None
        assert evaluate(document(few=FEW)).solid_key(PX) == evaluate(document()).solid_key(PX)

    def test_how_it_is_printed_does_not_make_it_anew(self, evaluate):
        standing, lying = (self.few(evaluate, printed=way) for way in ("standing", "lying"))
        assert standing.solid_key(PX) == lying.solid_key(PX)
        assert standing.few_colours().report.layers != lying.few_colours().report.layers

    @pytest.mark.parametrize("few", [{"count": 0}, {"count": 17}, {"layer_mm": 0}, {"smallest_mm2": -1}])
    def test_out_of_range_are_refused(self, few):
        with pytest.raises(BadValueError):
            document(few=few)

    def test_a_filament_of_no_colour_is_refused(self):
        with pytest.raises(BadValueError):
            document(few={"filaments": [{"name": "Fog", "colour": "grey"}]})


class TestFoot:
    def test_is_cut_flat_and_stands_on_a_plinth(self, evaluate):
        plain = evaluate(document()).size_mm
        cut = evaluate(document(foot={"on": True, "cut_mm": 3}))
        assert cut.size_mm[1] == pytest.approx(plain[1] - 3, abs=0.05)
        on_plinth = evaluate(
            document(foot={"on": True, "cut_mm": 3, "plinth": "oval", "plinth_mm": 5, "margin_mm": 2}, tolerance_mm=0.2)
        )
        assert on_plinth.size_mm[1] == pytest.approx(plain[1] + 2, abs=0.05)
        slab, report = on_plinth.build()
        assert report.sound
        assert report.shells == 1
        assert report.figure.overlap_mask > 0.98
        low = slab.mesh.vertices[:, 1].min()
        level = slab.mesh.vertices[slab.mesh.vertices[:, 1] < low + 1e-3]
        assert len(level) > 8
        assert np.ptp(level[:, 0]) > 4

    def test_does_not_shape_it_anew(self, evaluate):
        assert evaluate(document(foot={"on": True})).shaped(PX) is evaluate(document()).shaped(PX)

    def test_more_than_there_is_cannot_be_cut(self, evaluate):
        with pytest.raises(BadValueError, match="mm tall"):
            evaluate(document(foot={"on": True, "cut_mm": 400})).mesh(PX)

    def test_one_that_would_fall_over_is_told(self, evaluate):
        measures = {
            plinth: {each.measure for each in evaluate(document(foot={"on": True, "plinth": plinth})).findings(PX)}
            for plinth in ("none", "box")
        }
        assert "leaning" not in measures["box"]


class TestBackPicture:
    @pytest.fixture
    def two_sided(self) -> np.ndarray:
        """The back of the toad: red on the left and blue on the right, as one sees it from there."""
        back = toad()
        back[..., :3] = np.where((np.arange(200) < 100)[np.newaxis, :, np.newaxis], (200, 30, 30), (30, 60, 200))
        return back

    def test_lies_mirrored_on_the_back_and_not_on_the_front(self, evaluate, two_sided):
        FILES["6" * 64] = png(two_sided)
        back = {"blob": "6" * 64, "name": "back.png"}
        mesh = evaluate(document(colour={"on": True}, back=back)).mesh(PX)
        x, _, z = mesh.vertices.T
        reds = mesh.colours[:, 0].astype(int) - mesh.colours[:, 2].astype(int)
        behind, middle = z < 0.25 * z.max(), x.max() / 2
        # What is left from behind is right from the front.
        assert (reds[behind & (x > middle + 5)] > 60).mean() > 0.95
        assert (reds[behind & (x < middle - 5)] < -60).mean() > 0.95
        assert np.abs(reds[z > 0.8 * z.max()]).max() < 30

    def test_its_tones_are_detail_behind(self, evaluate, two_sided):
        lines = two_sided.copy()
        lines[..., :3] = np.where(np.arange(200)[np.newaxis, :, np.newaxis] % 20 < 10, 255, 0)
        FILES["7" * 64] = png(lines)
        detail = {"on": True, "strength_mm": 2, "radius_mm": 4}
        plain, ribbed = (
            evaluate(document(detail=detail, back=back)).shaped(PX).form
            for back in ({}, {"blob": "7" * 64, "name": "back.png"})
        )
        assert np.nanmax(np.abs(ribbed.back - plain.back)) > 0.5
        assert np.nanmax(np.abs(ribbed.front - plain.front)) < 0.3
