"""Sources of depth: by light and shade, by the network that ships, by a network of one's own, by a picture."""

import io

import numpy as np
import onnx
import pytest
from onnx import TensorProto, helper

from nebrel.core.errors import BadPictureError
from nebrel.core.figure.depth import DepthPicture, from_outline
from nebrel.core.figure.figure import FigureWish, Hand, shape_figure
from nebrel.core.figure.hand import HandStroke, left_to_move
from nebrel.core.figure.learned import FILE, LearnedDepth
from nebrel.core.figure.network import doubt_of, frame_of, stacked
from nebrel.core.figure.normals import integrated, normals_of
from nebrel.core.figure.own_network import NetworkCard, OwnNetwork
from nebrel.core.figure.shading import Shading
from nebrel.core.figure.silhouette import Silhouette, silhouette_of
from nebrel.core.figure.surface import surface_of
from nebrel.core.proof import check_soundness

SIDE = 160
ACROSS, DOWN = np.meshgrid(np.arange(SIDE) - 79.5, np.arange(SIDE) - 79.5)
DISC = (np.hypot(ACROSS, DOWN) < 64).astype(np.float32)
LAMP = np.array([-0.5, 0.6, 0.62])
ASKED = FigureWish(thinnest=0)


def outline(cover: np.ndarray = DISC, cells: int = 96) -> Silhouette:
    return silhouette_of(cover, 0.25, cells)


def plain(tone: float = 0.6) -> np.ndarray:
    return np.full((SIDE, SIDE, 3), tone, dtype=np.float32)


def lit(front: np.ndarray) -> np.ndarray:
    """A front of pixels as one lamp and some sky show it, float32 (H, W, 3)."""
    tones = 0.25 + 0.7 * np.clip(normals_of(front, 1.0) @ LAMP, 0, 1)
    return np.repeat(tones[..., np.newaxis], 3, axis=2).astype(np.float32)


class TestNormals:
    def test_of_a_plane_are_its_own(self):
        rows, columns = np.indices((20, 30))
        found = normals_of(0.5 * columns - 0.25 * rows, 1.0)
        asked = np.array([-0.5, -0.25, 1]) / np.linalg.norm([-0.5, -0.25, 1])
        assert found == pytest.approx(np.broadcast_to(asked, found.shape))

    def test_integrate_to_the_surface_that_has_them(self):
        rows, columns = np.indices((60, 80))
        asked = 6 * np.exp(-(((columns - 40) / 18) ** 2) - ((rows - 30) / 14) ** 2)
        found = integrated(normals_of(asked, 1.0), np.zeros_like(asked), asked > -1, 1.0, np.ones_like(asked), 1e-6)
        assert np.ptp(found - asked) < 0.35

    def test_that_are_not_trusted_leave_the_anchor(self):
        rng = np.random.default_rng(2)
        anchor = np.cumsum(rng.normal(size=(20, 20)), axis=0)
        wrong = normals_of(rng.normal(size=(20, 20)), 1.0)
        assert integrated(wrong, anchor, anchor > -99, 1.0, np.zeros((20, 20))) == pytest.approx(anchor, abs=1e-6)


class TestLight:
    def test_finds_a_dent_that_the_outline_does_not_show(self):
        half = np.sqrt(np.maximum(64**2 - ACROSS**2 - DOWN**2, 0))
        dent = 14 * np.exp(-(((ACROSS - 8) / 14) ** 2) - ((DOWN + 6) / 14) ** 2)
        silhouette = outline()
        fronts = [
            shape_figure(silhouette, ASKED, source).form.front / silhouette.pitch * silhouette.corner[2]
            for source in (from_outline, Shading(lit(half - dent)))
        ]
        top, left, step = silhouette.corner
        rows, columns = np.indices(fronts[0].shape)
        x, y = left + step * columns - 79.5, top + step * rows - 79.5
        inner = np.hypot(x, y) < 45
        asked = np.sqrt(np.maximum(64**2 - x**2 - y**2, 0)) - 14 * np.exp(-(((x - 8) / 14) ** 2) - ((y + 6) / 14) ** 2)
        off = [np.std((front - asked)[inner]) for front in fronts]
        assert off[1] < 0.8 * off[0]

    def test_of_an_even_tone_says_nothing(self):
        silhouette = outline()
        fronts = [shape_figure(silhouette, ASKED, source).form.front for source in (from_outline, Shading(plain()))]
        assert np.nanmax(np.abs(fronts[1] - fronts[0])) < 0.02 * np.nanmax(fronts[0])

    def test_of_no_strength_changes_nothing(self):
        silhouette = outline()
        shaded = lit(np.sqrt(np.maximum(64**2 - ACROSS**2 - DOWN**2, 0)))
        fronts = [shape_figure(silhouette, ASKED, source).form.front for source in (from_outline, Shading(shaded, 0.0))]
        assert fronts[1] == pytest.approx(fronts[0], abs=0.02 * np.nanmax(fronts[0]), nan_ok=True)


class TestNetwork:
    def test_is_small_enough(self):
        assert FILE.stat().st_size <= 4_000_000

    def test_sees_the_figure_in_the_middle_of_its_frame(self):
        swollen = frame_of(np.pad(np.ones((40, 40), np.float32), 12))
        assert swollen.shape == (64, 64)
        assert swollen[32, 32] == pytest.approx(swollen.max(), rel=0.02)
        inputs = stacked(
            plain(1.0)[:64, :64], np.ones((64, 64), np.float32), swollen, np.zeros((3, 64, 64), np.float32)
        )
        assert inputs.shape == (9, 64, 64)
        assert inputs.dtype == np.float32
        assert inputs[:3] == pytest.approx(1.0)

    def test_says_how_unsure_it_is_within_sense(self):
        silhouette = outline()
        found = LearnedDepth(plain())(silhouette, np.ones(silhouette.cover.shape))
        assert found.unsure is not None
        inside = found.unsure[silhouette.inside]
        assert (inside > 0).all()
        assert inside.max() < max(silhouette.box)
        assert doubt_of(np.array([-99.0, 99.0])) == pytest.approx([np.exp(-6) / 20, np.exp(3) / 20])

    def test_is_nearly_alike_on_both_sides_of_what_is(self):
        silhouette = outline()
        front = shape_figure(silhouette, ASKED, LearnedDepth(plain())).form.front
        apart = np.nanmean(np.abs(front - front[:, ::-1]))
        assert apart < 0.06 * np.nanmax(front)

    def test_a_stroke_moves_by_what_it_says_whatever_the_network_makes_of_it(self):
        """The network itself follows strokes a little; the hand does the rest, and no more."""
        silhouette = outline()
        stroke = HandStroke("nearer", np.array([[74.0, 80.0], [86.0, 80.0]]), 5.0, 5.0)
        source = LearnedDepth(plain())
        bare, drawn = (
            shape_figure(silhouette, ASKED, each, hand).form.front
            for each, hand in ((source, None), (source, Hand((stroke,), plain())))
        )
        under = stroke.on(silhouette) > 0.5
        moved = (drawn - bare)[under].mean() - (drawn - bare)[silhouette.inside & ~under].mean()
        assert 1.5 < moved < 8
        found = source(silhouette, np.ones(silhouette.cover.shape), (stroke,))
        assert len(found.followed) == 1
        left = left_to_move((stroke,), found.followed)[0]
        assert left.amount == pytest.approx(5.0 - found.followed[0])

    def test_gives_sound_solids_of_odd_outlines(self):
        thin = ((np.abs(DOWN) < 5) & (np.abs(ACROSS) < 70) | (np.hypot(ACROSS - 40, DOWN) < 22)).astype(np.float32)
        ring = ((np.hypot(ACROSS, DOWN) < 64) & (np.hypot(ACROSS, DOWN) > 30)).astype(np.float32)
        for cover in (thin, ring):
            figure = shape_figure(outline(cover, 64), FigureWish(), LearnedDepth(plain()))
            assert check_soundness(surface_of(figure.form)).sound


def tiny(gives: str, side: int = 64, into: int = 3, out: int = 1) -> bytes:
    """A network of one layer that gives its first channel as depth, no numbers, one number, or three channels."""
    seen = helper.make_tensor_value_info("seen", TensorProto.FLOAT, [1, into, side, side])
    said = helper.make_tensor_value_info("said", TensorProto.FLOAT, None)
    weights = np.zeros((out, into, 1, 1), dtype=np.float32)
    weights[0, 0] = 1
    nodes = [helper.make_node("Conv", ["seen", "weights"], ["seen2"])]
    made = [helper.make_tensor("weights", TensorProto.FLOAT, weights.shape, weights.ravel())]
    if gives == "nan":
        nodes.append(helper.make_node("Log", ["below"], ["said"]))
        nodes.insert(1, helper.make_node("Sub", ["seen2", "nine"], ["below"]))
        made.append(helper.make_tensor("nine", TensorProto.FLOAT, [], [9.0]))
    elif gives == "flat":
        nodes.append(helper.make_node("ReduceMean", ["seen2"], ["said"], keepdims=0))
    else:
        nodes.append(helper.make_node("Identity", ["seen2"], ["said"]))
    graph = helper.make_graph(nodes, "tiny", [seen], [said], made)
    model = helper.make_model(graph, opset_imports=[helper.make_opsetid("", 13)])
    model.ir_version = 8
    held = io.BytesIO()
    onnx.save(model, held)
    return held.getvalue()


class TestOwnNetwork:
    def network(self, model: bytes, **card) -> OwnNetwork:
        ramp = np.repeat((ACROSS / 160 + 0.5)[..., np.newaxis], 3, axis=2).astype(np.float32)
        seconds = card.pop("seconds", 60.0)
        return OwnNetwork(model, "mine.onnx", NetworkCard(**{"side": 64, **card}), ramp, 12.0, seconds)

    @pytest.mark.parametrize(("gives", "sign"), [("nearer", 1), ("farther", -1)])
    def test_its_depths_become_the_front(self, gives, sign):
        silhouette = outline()
        front = shape_figure(silhouette, ASKED, self.network(tiny("depth"), gives=gives)).form.front
        middle = front[front.shape[0] // 2]
        places = np.flatnonzero(np.isfinite(middle))[10:-10]
        slope = np.polyfit(places * silhouette.pitch, middle[places], 1)[0]
        assert slope == pytest.approx(sign * 12 / 32, rel=0.25)

    @pytest.mark.parametrize("scale", ["one", "both", "photo"])
    def test_takes_colours_as_its_card_says(self, scale):
        found = self.network(tiny("depth"), scale=scale)(outline(), np.ones(outline().cover.shape))
        assert np.ptp(found.front[outline().inside]) == pytest.approx(12, abs=0.5)

    def test_its_normals_turn_the_front(self):
        silhouette = outline()
        found = self.network(tiny("normals", out=3), gives="normals")(silhouette, np.ones(silhouette.cover.shape))
        assert np.isfinite(found.middle).all()

    @pytest.mark.parametrize(
        ("model", "words"),
        [
            (b"", "cannot be run"),
            (b"no network at all", "cannot be run"),
            (tiny("depth")[:120], "cannot be run"),
            (tiny("depth", side=32), "3 × 64 × 64"),
            (tiny("depth", into=4), "3 × 64 × 64"),
            (tiny("nan"), "no number"),
            (tiny("flat"), "height × width"),
            (tiny("normals", out=3), "1 × height × width"),
        ],
        ids=["empty", "text", "cut short", "other side", "other channels", "nan", "one number", "three channels"],
    )
    def test_what_is_no_network_or_another_is_refused_in_a_sentence(self, model, words):
        with pytest.raises(BadPictureError, match=words):
            self.network(model)(outline(), np.ones(outline().cover.shape))

    def test_one_that_takes_too_long_is_stopped(self):
        seen = helper.make_tensor_value_info("seen", TensorProto.FLOAT, [1, 3, 64, 64])
        said = helper.make_tensor_value_info("said", TensorProto.FLOAT, None)
        # Twenty thousand times over, which takes minutes.
        shape = [
            helper.make_tensor_value_info(name, kind, side)
            for name, kind, side in (("at", 7, []), ("go", 9, []), ("held", 1, [1, 3, 64, 64]))
        ]
        out = [
            helper.make_tensor_value_info(name, kind, side)
            for name, kind, side in (("go2", 9, []), ("held2", 1, [1, 3, 64, 64]))
        ]
        body = helper.make_graph(
            [
                helper.make_node("Identity", ["go"], ["go2"]),
                helper.make_node("Conv", ["held", "weights"], ["held2"], pads=[8, 8, 8, 8]),
            ],
            "body", shape, out,
        )  # fmt: skip
        made = [
            helper.make_tensor("weights", TensorProto.FLOAT, [3, 3, 17, 17], np.zeros(3 * 3 * 17 * 17, np.float32)),
            helper.make_tensor("many", TensorProto.INT64, [], [20_000]),
            helper.make_tensor("yes", TensorProto.BOOL, [], [True]),
        ]
        graph = helper.make_graph(
            [helper.make_node("Loop", ["many", "yes", "seen"], ["said"], body=body)], "slow", [seen], [said], made
        )
        model = helper.make_model(graph, opset_imports=[helper.make_opsetid("", 13)])
        model.ir_version = 8
        with pytest.raises(BadPictureError, match="took longer than"):
            self.network(model.SerializeToString(), seconds=0.5)(outline(), np.ones(outline().cover.shape))


class TestPicture:
    def test_gives_the_front_with_its_mean_in_the_middle(self):
        silhouette = outline()
        tones = (ACROSS / 160 + 0.5).astype(np.float32)
        found = DepthPicture(tones, 10.0)(silhouette, np.ones(silhouette.cover.shape))
        assert found.front[silhouette.inside].mean() == pytest.approx(0, abs=1e-9)
        assert np.ptp(found.front[silhouette.inside]) == pytest.approx(8, abs=0.3)


class TestDepthsOfTheBack:
    COVER = (np.hypot(*np.meshgrid(np.arange(120) - 59.5, np.arange(120) - 59.5)) < 50).astype(np.float32)
    LEVEL = np.full((120, 120), 0.5, dtype=np.float32)
    RISING = np.tile(np.linspace(0, 1, 120, dtype=np.float32), (120, 1))

    def made(self, behind):
        silhouette = silhouette_of(self.COVER, 0.5, 100)
        return shape_figure(silhouette, FigureWish(thinnest=0), DepthPicture(self.LEVEL, 12.0, behind)).form

    def test_are_followed_and_leave_the_front(self):
        level, rising = self.made(self.LEVEL), self.made(self.RISING)
        deep = level.silhouette.deep > 8
        assert rising.front[deep] == pytest.approx(level.front[deep], abs=0.05)
        slope = np.polyfit(np.nonzero(deep)[1] * level.silhouette.pitch, (level.back - rising.back)[deep], 1)[0]
        assert slope == pytest.approx(12 / 59.5, rel=0.15)

    def test_meet_the_front_at_the_outline(self):
        form = self.made(self.RISING)
        assert ((form.square > 0) == form.silhouette.inside).all()
        assert check_soundness(surface_of(form)).sound
