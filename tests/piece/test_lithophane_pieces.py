"""Lithophanes as pieces: their recipe, its refusals, what is seen of them, and what is computed again."""

import io
from itertools import product

import numpy as np
import pytest
from PIL import Image

from nebrel.core.errors import BadValueError, ConflictError
from nebrel.core.picture import read_picture
from nebrel.core.proof import check_soundness
from nebrel.piece.evaluation.abilities import HasHeights, HasPicture
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.parts.refusals import parse_part
from nebrel.piece.registry import merge, open_piece, parse_document
from tests.piece.conftest import Evaluate, evaluate_over
from tests.trials import deep_but

PX = 360


@pytest.fixture(scope="module")
def waves() -> bytes:
    """Gray waves of 240 by 160 pixels, dark to the left and bright to the right."""
    across, up = np.meshgrid(np.linspace(0, 1, 240), np.linspace(0, 1, 160))
    tones = 0.15 + 0.6 * across + 0.2 * np.sin(14 * across) * np.cos(9 * up)
    held = io.BytesIO()
    Image.fromarray(np.round(255 * np.clip(tones, 0, 1)).astype(np.uint8)).save(held, "PNG")
    return held.getvalue()


@pytest.fixture(scope="module")
def sources(waves) -> Sources:
    return Sources(lambda _: waves, ResultCache(2**28))


@pytest.fixture
def evaluate(sources) -> Evaluate:
    return lambda document: open_piece(document, sources).evaluator


@pytest.fixture
def document(waves) -> LithophaneDocument:
    source = picture_source("0" * 64, "waves.png", read_picture(waves, "waves.png").facts)
    return parse_part(LithophaneDocument, {"title": "Waves", "picture": source.model_dump(), "glow": {}})


def changed(document: LithophaneDocument, **change: object) -> LithophaneDocument:
    made = merge(document, change)
    assert isinstance(made, LithophaneDocument)
    return made


class TestRecipe:
    def test_glow_tells_its_kind_and_the_rest_has_defaults(self, document, sources):
        assert parse_document({"title": "Waves", "picture": document.picture.model_dump(), "glow": {}}) == document
        piece = open_piece(document, sources)
        assert piece.kind.name == "lithophane"
        assert piece.having(HasPicture) is piece.evaluator
        with pytest.raises(ConflictError, match="is a lithophane, so it has no heights"):
            piece.having(HasHeights)

    def test_the_picture_is_as_wide_as_the_borders_leave(self, document):
        assert document.width_mm == pytest.approx(90 - 6)
        assert changed(document, parts={"rim": {"left": False}}).width_mm == pytest.approx(87)
        assert changed(document, form={"kind": "cylinder"}).width_mm == pytest.approx(90)

    @pytest.mark.parametrize(
        ("change", "words"),
        [
            ({"glow": {"thinnest_mm": 4}}, "a thickest wall above the thinnest"),
            ({"form": {"kind": "arc", "arc_by": "radius", "radius_mm": 10}}, "up to 350°"),
            ({"form": {"kind": "arc", "angle_deg": 400}}, "5 to 350"),
            ({"form": {"kind": "sphere", "opening_mm": 90}}, "an opening up to"),
            ({"glow": {"material": {"attenuation_per_mm": 0}}}, "Attenuation is 0"),
            ({"glow": {"material": {"cast": "red"}}}, "cast"),
            ({"form": {"width_mm": float("nan")}}, "a number in millimetres"),
        ],
    )
    def test_what_makes_no_sense_is_refused(self, document, change, words):
        with pytest.raises(BadValueError, match=words):
            merge(document, change)

    @pytest.mark.parametrize(
        ("change", "words"),
        [
            ({"form": {"kind": "sphere", "diameter_mm": 5, "opening_mm": 2, "relief": "inside"}}, "a radius above"),
            (
                {"parts": {"name": {"on": True, "text": "Far too long a name " * 5}}},
                "a shorter name, would fit",
            ),
            ({"parts": {"rim": {"on": False}, "name": {"on": True, "text": "Hi"}}}, "needs a border"),
            ({"parts": {"name": {"on": True, "text": "Hi", "height_mm": 9}}}, "letters up to 3 mm"),
            ({"parts": {"bottom": {"on": True}}}, "runs round"),
            ({"parts": {"rim": {"width_mm": 60}}}, "leaves nothing"),
        ],
    )
    def test_what_cannot_be_made_is_refused_before_it_is_kept(self, evaluate, document, change, words):
        with pytest.raises(BadValueError, match=words):
            evaluate(changed(document, **change)).check()


class TestSolid:
    def test_the_build_is_sound_and_tells_what_is_seen(self, evaluate, document):
        slab, report = evaluate(document).build()
        assert report.sound
        assert report.size_mm[0] == pytest.approx(90, abs=0.001)
        assert report.max_error_mm <= document.finish.tolerance_mm
        assert report.lit is not None
        assert report.lit.ssim_within_reach >= 0.98
        assert report.lit.thickest_mm <= 3.2 + 0.02
        assert slab.tolerance == document.finish.tolerance_mm

    def test_between_samples_the_error_is_told_and_a_flat_wall_can_be_held_there(self):
        held = io.BytesIO()
        steps = np.kron(np.random.default_rng(3).integers(0, 2, (12, 16)) * 200 + 20, np.ones((5, 5)))
        Image.fromarray(steps.astype(np.uint8)).save(held, "PNG")
        data = held.getvalue()
        source = picture_source("0" * 64, "steps.png", read_picture(data, "steps.png").facts)
        evaluate = evaluate_over(lambda _: data, ResultCache(2**27))

        def built(between: bool, kind: str = "flat"):
            parts = {"picture": source.model_dump(), "glow": {}, "form": {"kind": kind, "width_mm": 60}}
            finish = {"tolerance_mm": 0.02, "between": between}
            document = parse_part(LithophaneDocument, {"title": "Steps", **parts, "finish": finish})
            report = evaluate(document).build()[1]
            assert report.sound
            return report

        plain, held_there, bent = built(False), built(True), built(False, "arc")
        assert plain.max_error_mm <= 0.02
        assert plain.max_error_between_mm > 0.1
        assert held_there.max_error_between_mm <= 0.02
        assert held_there.triangles > plain.triangles
        assert bent.max_error_between_mm > 0.1

    @pytest.mark.parametrize(
        ("shape", "kind"),
        deep_but(
            product([(2, 2), (3, 300), (60, 3), (40, 40)], ["flat", "cylinder", "sphere"]),
            [((2, 2), "sphere"), ((3, 300), "flat"), ((60, 3), "cylinder"), ((40, 40), "flat")],
        ),
    )
    def test_pictures_of_any_shape_and_of_one_tone(self, shape, kind):
        held = io.BytesIO()
        Image.fromarray(np.full(shape, 0 if shape[0] == 40 else 180, dtype=np.uint8)).save(held, "PNG")
        data = held.getvalue()
        source = picture_source("0" * 64, "plain.png", read_picture(data, "plain.png").facts)
        parts = {"picture": source.model_dump(), "glow": {}, "form": {"kind": kind, "width_mm": 100}}
        made = parse_document({"title": "Plain", **parts, "finish": {"tolerance_mm": 0.1}})
        _, report = evaluate_over(lambda _: data, ResultCache(2**26))(made).build()
        assert report.sound
        assert report.lit.tones_lost == (1 if shape[0] == 40 else 0)

    def test_made_light_it_stays_closed(self, evaluate, document):
        lighter = changed(document, light={"on": True, "by": "triangles", "triangles": 900})
        slab, report = evaluate(lighter).build()
        assert report.triangles < report.triangles_before
        assert check_soundness(slab.mesh).closed

    @pytest.mark.parametrize("kind", ["flat", "arc", "cylinder", "cone", "sphere", "dome", "heart", "prism"])
    def test_every_form_can_be_looked_at(self, evaluate, document, kind):
        bent = changed(document, form={"kind": kind, "width_mm": 150})
        looking = evaluate(bent)
        looking.check()
        assert check_soundness(looking.mesh(PX)).closed
        through = evaluate(bent).lit(PX).through
        asked = evaluate(bent).target_view(PX).through
        assert np.quantile(np.abs(through - asked), 0.98) < 0.15
        assert Image.open(io.BytesIO(looking.thumbnail())).size == (720, 540)

    def test_a_name_is_sunk_into_the_border(self, evaluate, document):
        plain = evaluate(document).wanted(PX).sheet.thickness
        named = changed(document, parts={"name": {"on": True, "text": "Waves", "depth_mm": 0.5}})
        drawn = evaluate(named).wanted(PX).sheet.thickness
        assert (plain - drawn).max() == pytest.approx(0.5, abs=0.05)
        assert (drawn <= plain + 1e-6).all()

    def test_only_what_depends_on_it_is_computed_again(self, evaluate, document):
        lamp = changed(document, lamp={"power": 2.0})
        cast = changed(document, glow={"material": {"cast": "#ff0000"}})
        thicker = changed(document, glow={"thickest_mm": 4.0})
        keys = [evaluate(each).solid_key(PX) for each in (document, lamp, cast, thicker)]
        assert keys[0] == keys[1] == keys[2] != keys[3]


class TestLooking:
    def test_the_lit_thumbnail_is_brighter_where_the_picture_is(self, evaluate, document):
        dark = changed(document, lamp={"ambient": 0.0}, parts={"rim": {"on": False}})
        picture = evaluate(dark).rendered(360, 270, PX).astype(float).mean(axis=2)
        middle = picture[100:170]
        assert middle[:, 240:280].mean() > 1.3 * middle[:, 90:130].mean()

    def test_faces_towards_the_lamp_are_told_from_those_towards_the_eye(self, evaluate, document):
        around = changed(document, form={"kind": "cylinder", "width_mm": 150})
        places = evaluate(around).places(PX)
        shaded = evaluate(around).shaded(PX)
        middle = shaded.positions.mean(axis=0)
        outwards = ((shaded.positions - middle)[:, :2] * shaded.normals[:, :2]).sum(axis=1)
        assert (outwards[places[:, 2] > 0.5] > -1e-3).mean() > 0.98
        assert (outwards[places[:, 2] < -0.5] < 1e-3).all()
        assert {-1.0, 0.0, 1.0} == set(np.unique(places[:, 2]).tolist())

    def test_a_section_follows_the_unrolled_sheet(self, evaluate, document):
        around = changed(document, form={"kind": "cylinder", "width_mm": 150})
        looking = evaluate(around)
        width, height, _ = looking.plan_mm
        assert width == pytest.approx(150)
        cut = looking.section((0, height / 2), (width, height / 2), PX)
        assert cut.length == pytest.approx(150)
        made = np.array(cut.made[0][1:-2])
        off = np.abs(made[:, 1] - np.interp(made[:, 0], cut.target.along, cut.target.up))
        assert np.median(off) < 0.05

    def test_nine_variations_differ_in_range_and_strength(self, evaluate, document):
        varied = evaluate(document).variations(PX)
        told = {(each.thickest_mm, each.strength) for each in varied}
        assert len(told) == 9
        assert (3.2, 1.0) in told
        for each in varied:
            glow = {"rule": "light", "thickest_mm": each.thickest_mm, "strength": each.strength}
            alone = evaluate(changed(document, glow=glow))
            assert np.array_equal(alone.target_view(PX).through, each.through)
            assert alone.rule.contrast == each.contrast


class TestFindings:
    def found(self, evaluate, document, measure):
        by_name = {finding.measure: finding for finding in evaluate(document).findings(PX)}
        return by_name.get(measure)

    def test_the_smallest_detail_and_how_many_pixels_are_needed(self, evaluate, document):
        detail = self.found(evaluate, document, "detail")
        assert detail.value == pytest.approx(np.hypot(0.42, 0.4), abs=0.01)
        # The pitch is 0.35 mm: hardly finer than what shows.
        assert "fewer pixels" not in detail.why
        small = self.found(evaluate, changed(document, form={"width_mm": 30}), "detail")
        assert "fewer pixels would look the same" in small.why

    def test_tall_and_thin_wobbles_until_it_has_a_foot(self, evaluate, document):
        tall = changed(document, form={"width_mm": 250})
        assert self.found(evaluate, tall, "wobble").severity == "caution"
        footed = changed(tall, parts={"foot": {"on": True, "margin_mm": 25}})
        assert self.found(evaluate, footed, "wobble") is None

    def test_what_stands_behind_the_picture_is_told(self, evaluate, document):
        around = changed(document, form={"kind": "cylinder", "width_mm": 200})
        lid = {"lid": {"on": True}, "rim": {"width_mm": 3}}
        assert self.found(evaluate, changed(around, parts=lid), "covered").value == pytest.approx(1.6, abs=0.2)
        wide = {"lid": {"on": True}, "rim": {"width_mm": 6}}
        assert self.found(evaluate, changed(around, parts=wide), "covered") is None

    def test_ends_that_do_not_meet_and_pictures_that_do_not_fit(self, evaluate, document):
        around = changed(document, form={"kind": "sphere"})
        assert self.found(evaluate, around, "seam").value > 30
        assert self.found(evaluate, around, "scale").value < 100
        assert self.found(evaluate, document, "seam") is None

    def test_heights_and_strokes_are_not_spoken_of(self, evaluate, document):
        told = {finding.measure for finding in evaluate(document).findings(PX)}
        assert not told & {"near-black", "thin-stroke", "thin-gap", "oversampled", "low-resolution"}

    def test_the_recipe_tells_how_to_print_it(self, evaluate, document):
        recipe = evaluate(document).recipe(PX)
        for words in ("Print recipe for Waves", "Walls", "100 %", "Layer height", "Finest detail", "White filament"):
            assert words in recipe
        assert max(map(len, recipe.splitlines())) <= 76

    @pytest.mark.parametrize(
        ("kind", "supported"), [("flat", False), ("cylinder", False), ("cone", False), ("sphere", True)]
    )
    def test_supports_are_advised_where_the_form_leans(self, evaluate, document, kind, supported):
        bent = changed(document, form={"kind": kind, "width_mm": 150})
        told = next(line for line in evaluate(bent).recipe(PX).splitlines() if line.startswith("Supports"))
        assert ("none" not in told) == supported


class TestStanding:
    """What leans touches the bed along a line, is told so, and stands by one press."""

    def told(self, evaluate, document):
        return {found.measure: found for found in evaluate(document).findings(PX)}

    def test_a_sphere_gets_a_flat(self, evaluate, document):
        sphere = changed(document, form={"kind": "sphere", "width_mm": 60})
        found = self.told(evaluate, sphere)["contact"]
        assert found.value < 0.3
        assert found.fix.kind == "change"
        flat = merge(sphere, found.fix.parameters)
        assert "contact" not in self.told(evaluate, flat)
        assert evaluate(flat).size_mm[2] == pytest.approx(
            evaluate(sphere).size_mm[2] - flat.parts.flat.depth_mm, abs=0.02
        )
        assert "contact" not in self.told(evaluate, changed(sphere, parts={"foot": {"on": True}}))

    def test_a_cylinder_stands(self, evaluate, document):
        assert "contact" not in self.told(evaluate, changed(document, form={"kind": "cylinder", "width_mm": 120}))


def test_tones_of_colours_are_those_of_their_light(document):
    """Green sends out seven tenths of white's light; coded, its tone is darker than that looks."""
    held = io.BytesIO()
    stripes = np.zeros((40, 60, 3), dtype=np.uint8)
    stripes[:, :20], stripes[:, 20:40, 1], stripes[:, 40:, 2] = 255, 255, 255
    Image.fromarray(stripes).save(held, "PNG")
    data = held.getvalue()
    source = picture_source("0" * 64, "stripes.png", read_picture(data, "stripes.png").facts).model_dump()
    sources = Sources(lambda _: data, ResultCache(2**24))
    by_light = changed(document, picture=source)
    coded = changed(by_light, glow={"tones": "coded"})
    found = [open_piece(each, sources).evaluator.picture(0).tones[20, [10, 30, 50]] for each in (by_light, coded)]
    assert found[0] == pytest.approx([1.0, 0.862, 0.298], abs=0.002)
    assert found[1] == pytest.approx([1.0, 0.7152, 0.0722], abs=0.12)
    assert not np.allclose(found[0], found[1], atol=0.02)


class TestEdges:
    def test_walls_follow_curves_at_wish_and_are_measured(self, evaluate, document):
        plain = evaluate(document)
        assert not document.edges.on
        assert plain.build()[1].edges is None

    @pytest.mark.parametrize("form", ["flat", "cylinder"])
    def test_a_hard_edge_is_told(self, form):
        shown = np.zeros((150, 200), dtype=np.uint8)
        across, down = np.meshgrid(np.arange(200), np.arange(150))
        shown[np.hypot(across - 100, down - 75) < 40] = 255
        held = io.BytesIO()
        Image.fromarray(shown).save(held, "PNG")
        data = held.getvalue()
        source = picture_source("1" * 64, "disc.png", read_picture(data, "disc.png").facts)
        made = {"title": "Disc", "picture": source.model_dump(), "glow": {}, "form": {"kind": form}}
        piece = parse_part(LithophaneDocument, {**made, "edges": {"on": True}})
        _, report = open_piece(piece, Sources(lambda _: data, ResultCache(2**28))).evaluator.build()
        assert report.sound
        pitch = piece.width_mm / 199
        assert report.edges.walls_mm == pytest.approx(2 * np.pi * 40 * pitch, rel=0.05)
        assert report.edges.max_error_mm < pitch

    def test_noise_is_told(self):
        noise = np.random.default_rng(2).integers(0, 256, (120, 160)).astype(np.uint8)
        held = io.BytesIO()
        Image.fromarray(noise).save(held, "PNG")
        data = held.getvalue()
        source = picture_source("2" * 64, "noise.png", read_picture(data, "noise.png").facts)
        piece = parse_part(
            LithophaneDocument, {"title": "N", "picture": source.model_dump(), "glow": {}, "edges": {"on": True}}
        )
        found = open_piece(piece, Sources(lambda _: data, ResultCache(2**28))).evaluator.findings(PX)
        assert any(finding.measure == "crowded_edges" for finding in found)
