"""Figures whose mesh is worked on after it was made: steps, decorations, parts in an order."""

from typing import ClassVar

import numpy as np
import pytest

from nebrel.core.errors import NebrelError
from nebrel.core.proof import check_soundness
from nebrel.piece.evaluation.abilities import HasSkin, has
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.kinds.figure.document import FigureDocument
from nebrel.piece.registry import merge
from tests.piece.conftest import Evaluate, evaluate_over
from tests.piece.toad import FILES, PX, document

RING = "9" * 64
SVG = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><path d="M1 1H9V9H1Z"/></svg>'
CUT = {"kind": "cut", "id": "cut", "axis": "y", "at_mm": 20, "keep": "above"}


@pytest.fixture(scope="module")
def evaluate() -> Evaluate:
    return evaluate_over({**FILES, RING: SVG}.__getitem__, ResultCache(2**28))


def worked(figure: dict | None = None, **parts) -> FigureDocument:
    return merge(document(cells=64, **(figure or {})), parts)


def square(evaluate, **change) -> dict:
    """A square that is raised in the middle of the front."""
    place, up = evaluate(document(cells=64)).first_place()
    art = {"kind": "outline", "blob": RING, "name": "square.svg"}
    return {"id": "d", "art": art, "at": place, "up": up, "width_mm": 6, "depth_mm": 1, **change}


def test_a_figure_has_a_skin(evaluate):
    assert has(evaluate(document()), HasSkin)
    place, up = evaluate(document(cells=64)).first_place()
    assert up == (0.0, 1.0, 0.0)
    assert place[2] == pytest.approx(evaluate(document(cells=64)).placed(PX).vertices[:, 2].max(), abs=4)


class TestSteps:
    def test_cut_the_finished_figure(self, evaluate):
        whole, cut = evaluate(worked()), evaluate(worked(steps=[CUT]))
        assert cut.size_mm[1] == pytest.approx(whole.size_mm[1] - 20, abs=0.1)
        assert cut.plan_mm == whole.size_mm
        slab, report = cut.build()
        assert report.sound
        assert report.size_mm[1] == pytest.approx(whole.size_mm[1] - 20, abs=0.3)
        assert check_soundness(slab.mesh).sound

    def test_keep_colours(self, evaluate):
        made = evaluate(worked({"colour": {"on": True}}, steps=[CUT])).placed(PX)
        assert made.colours is not None
        assert np.ptp(made.colours[:, :3].astype(int), axis=0).max() > 30

    def test_tell_what_they_did(self, evaluate):
        told = evaluate(worked(steps=[CUT])).step_results()
        assert [each.step_id for each in told] == ["", "cut"]
        assert told[0].worked.description.endswith("triangles made")

    def test_that_are_off_change_nothing(self, evaluate):
        off = evaluate(worked(steps=[{**CUT, "on": False}]))
        assert off.solid_key(PX) == evaluate(worked()).solid_key(PX)

    def test_are_refused_in_a_sentence_where_nothing_is_left(self, evaluate):
        with pytest.raises(NebrelError, match="Nothing of the mesh lies on that side"):
            evaluate(worked(steps=[{**CUT, "at_mm": 5000}])).step_results()


class TestDecorations:
    def test_are_raised_on_the_figure_and_measured(self, evaluate):
        plain, laid = evaluate(worked()), evaluate(worked(decorations=[square(evaluate)]))
        slab, report = laid.build()
        assert report.sound
        assert report.max_error_mm < 0.3
        assert "square to the skin" in report.error_how
        low = [each.vertices[:, 2].max() for each in (plain.delivered().mesh, slab.mesh)]
        assert low[1] - low[0] == pytest.approx(1, abs=0.3)

    def test_can_be_lighter_than_they_were_made(self, evaluate):
        light = {"on": True, "by": "triangles", "triangles": 6000}
        made = evaluate(worked(decorations=[square(evaluate)], light=light))
        slab, report = made.build()
        assert len(slab.mesh.faces) < 9000
        assert "made lighter" in report.error_how
        assert report.sound

    def test_are_painted_in_a_colour_of_their_own(self, evaluate):
        painted = square(evaluate, effect="colour", colour="#ff0000")
        made = evaluate(worked({"colour": {"on": True}}, decorations=[painted])).placed(PX)
        tints = made.corner_colours[..., :3].reshape(-1, 3) if made.corner_colours is not None else made.colours[:, :3]
        assert (tints == [255, 0, 0]).all(axis=1).any()
        assert not (tints == [255, 0, 0]).all(axis=1).all()

    def test_get_few_colours_with_the_figure(self, evaluate):
        painted = square(evaluate, effect="colour", colour="#ff0000")
        few = {"colour": {"on": True}, "few": {"on": True, "count": 3}}
        made = evaluate(worked(few, decorations=[painted])).placed(PX)
        tints = np.unique(made.corner_colours[..., :3].reshape(-1, 3), axis=0)
        assert len(tints) <= 3
        assert (np.abs(tints.astype(int) - [255, 0, 0]).sum(axis=1) < 60).any()

    def test_are_placed_and_snapped(self, evaluate):
        laid = worked(decorations=[square(evaluate)])
        found = evaluate(laid).placement(laid.decorations[0], 10, True)
        assert len(found.copies) == 1
        assert np.isfinite(evaluate(laid).snapped(laid.decorations[0].at, laid.decorations[0].up, "middle").point).all()


class TestTexture:
    COLOUR: ClassVar = {"on": True, "carried": "texture", "texture_px": 512}

    def made(self, evaluate, form: str, **parts):
        return evaluate(worked({"colour": self.COLOUR, **parts.pop("figure", {})}, delivery={"format": form}, **parts))

    def test_lets_the_solid_be_lighter_and_shows_the_picture(self, evaluate):
        textured = self.made(evaluate, "glb")
        slab, report = textured.build()
        at_corners = evaluate(worked({"colour": {"on": True}}, delivery={"format": "glb"})).delivered().mesh
        assert len(slab.mesh.faces) < len(at_corners.faces)
        assert report.figure.texture.mean_error < 0.01
        assert report.figure.texture.width_px <= 512

    def test_is_missed_in_words(self, evaluate):
        told = [each.measure for each in self.made(evaluate, "3mf").findings(PX)]
        assert "no-texture" in told
        assert "no-texture" not in [each.measure for each in self.made(evaluate, "glb").findings(PX)]
        none = {"few": {"on": True, "of": "filaments"}}
        assert "no-filaments" in [each.measure for each in self.made(evaluate, "glb", figure=none).findings(PX)]

    def test_is_only_where_the_format_carries_it(self, evaluate):
        assert self.made(evaluate, "3mf").texture() is None
        assert self.made(evaluate, "3mf").delivered().mesh.colours is not None

    def test_shows_few_colours_and_painted_decorations_too(self, evaluate):
        few = self.made(evaluate, "glb", figure={"few": {"on": True, "count": 2}})
        tints = np.unique(few.delivered().mesh.corner_colours[..., :3].reshape(-1, 3), axis=0)
        seen = np.unique(few.texture().image.reshape(-1, 3), axis=0)
        assert {tuple(each) for each in tints} <= {tuple(each) for each in seen}
        red = square(evaluate, effect="colour", colour="#ff0000")
        laid = self.made(evaluate, "glb", decorations=[red]).texture().image
        assert (laid == [255, 0, 0]).all(axis=2).any()
        assert not (laid == [255, 0, 0]).all(axis=2).all()


class TestOrder:
    MARK: ClassVar = {"id": "m", "at": [0.45, 0.5], "step_mm": 5}

    def test_brings_the_marked_part_forward(self, evaluate):
        plain, marked = evaluate(worked()), evaluate(worked({"order": [self.MARK]}))
        assert marked.shaped(PX).form.front is not None
        assert plain.solid_key(PX) != marked.solid_key(PX)

    def test_that_is_off_changes_nothing(self, evaluate):
        off = evaluate(worked({"order": [{**self.MARK, "on": False}]}))
        assert off.solid_key(PX) == evaluate(worked()).solid_key(PX)

    def test_fading_changes_the_back_alone(self, evaluate):
        forms = [evaluate(worked({"back": {"fade_mm": each}})).shaped(PX).form for each in (0, 6)]
        inside = forms[0].silhouette.deep > 3
        assert forms[1].front[inside] == pytest.approx(forms[0].front[inside], abs=1e-6)
        assert np.abs(forms[1].back - forms[0].back)[inside].max() > 0.1
