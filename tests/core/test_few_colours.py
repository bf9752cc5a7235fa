"""Few colours on a mesh: which are taken, where they end, and what printing them takes."""

from dataclasses import replace

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from nebrel.core.colour.changes import PrintPlan, count_changes
from nebrel.core.colour.few import FewColours, face_lab, in_few
from nebrel.core.colour.oklab import oklab_of, rgb_of
from nebrel.core.colour.palette import Tint, chosen, gathered, lab_of, tint_of
from nebrel.core.errors import BadMeshError, BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import face_areas
from nebrel.core.proof.colour_audit import audit_colours

NINE = np.array(
    [
        (200, 40, 40), (40, 160, 60), (40, 60, 190), (235, 200, 60), (20, 20, 24),
        (245, 245, 240), (150, 80, 170), (240, 140, 60), (110, 110, 110),
    ]
)  # fmt: skip
RED, BLUE, WHITE = Tint("Red", (200, 30, 30)), Tint("Blue", (30, 50, 200)), Tint("White", (255, 255, 255))


def ball(paint, detail: int = 5) -> TriMesh:
    """A ball of 20 mm radius; `paint` gives colours, (N, 3) of 0 to 255, for directions, (N, 3)."""
    made = trimesh.creation.icosphere(detail, 20)
    tints = np.full((len(made.vertices), 4), 255, dtype=np.uint8)
    tints[:, :3] = paint(np.asarray(made.vertices) / 20)
    return TriMesh(np.asarray(made.vertices, float), np.asarray(made.faces, np.uint32), tints)


def in_nine(ways: np.ndarray) -> np.ndarray:
    """Nine colours in three bands of three sectors, of uneven size, with some grain."""
    band = np.digitize(ways[:, 1], [-0.35, 0.5])
    sector = np.digitize(np.arctan2(ways[:, 2], ways[:, 0]), [-1.2, 0.9])
    grain = np.random.default_rng(3).normal(0, 4, (len(ways), 3))
    return np.clip(NINE[3 * band + sector] + grain, 0, 255)


@pytest.fixture(scope="module")
def nine() -> TriMesh:
    return ball(in_nine)


def weighed(mesh: TriMesh) -> tuple[np.ndarray, np.ndarray]:
    return face_lab(mesh), face_areas(mesh)


class TestOklab:
    def test_gives_what_its_author_gives(self):
        # White, red, green and blue of sRGB, to the digits that are published.
        asked = np.array([(255, 255, 255), (255, 0, 0), (0, 255, 0), (0, 0, 255)], dtype=np.uint8)
        known = [(1, 0, 0), (0.62796, 0.22486, 0.12585), (0.86644, -0.23389, 0.17950), (0.45201, -0.03246, -0.31153)]
        assert oklab_of(asked) == pytest.approx(np.array(known), abs=2e-4)

    @given(st.lists(st.integers(0, 255), min_size=3, max_size=3))
    def test_comes_back_as_it_was(self, rgb):
        colour = np.array([rgb], dtype=np.uint8)
        assert (rgb_of(oklab_of(colour)) == colour).all()


class TestChoice:
    def test_finds_colours_that_are_there(self, nine):
        found = gathered(*weighed(nine), 9)
        apart = np.linalg.norm(lab_of(found)[:, np.newaxis] - oklab_of(NINE.astype(np.uint8)), axis=2)
        assert len(found) == 9
        assert apart.min(axis=0).max() < 0.03
        assert sorted(apart.argmin(axis=1)) == list(range(9))

    def test_is_the_same_each_time_with_the_largest_first(self, nine):
        first = gathered(*weighed(nine), 4)
        assert first == gathered(*weighed(nine), 4)
        few = in_few(nine, first, 0)
        found = audit_colours(few.mesh, few.before)
        assert found is not None
        assert list(found.areas) == sorted(found.areas, reverse=True)

    def test_takes_no_more_than_there_are(self):
        one = ball(lambda ways: np.full((len(ways), 3), 90), 2)
        assert [tint.rgb for tint in gathered(*weighed(one), 6)] == [(90, 90, 90)]

    def test_takes_those_filaments_that_come_nearest(self, nine):
        own = tuple(tint_of(f"Number {at}", f"#{bytes(rgb).hex()}") for at, rgb in enumerate(NINE.tolist()))
        useless = (Tint("Pink", (255, 150, 200)), Tint("Teal", (0, 160, 160)))
        assert chosen(*weighed(nine), (*useless, *own), 9) == own
        assert chosen(*weighed(nine), own, 12) == own

    def test_takes_one_after_another_of_very_many(self, nine):
        many = tuple(Tint(str(at), (at * 4, 40, 40)) for at in range(60))
        own = tuple(tint_of("", f"#{bytes(rgb).hex()}") for rgb in NINE.tolist())
        taken = chosen(*weighed(nine), (*many, *own), 9)
        assert len(taken) == 9
        assert len(set(own) & set(taken)) >= 7

    @pytest.mark.parametrize("count", [0, -1, 17])
    def test_other_counts_are_refused(self, nine, count):
        for choose in (gathered, lambda lab, areas, many: chosen(lab, areas, (RED, BLUE), many)):
            with pytest.raises(BadValueError, match="1 to 16"):
                choose(*weighed(nine), count)

    def test_no_filaments_are_refused(self, nine):
        with pytest.raises(BadValueError, match="at least one"):
            chosen(*weighed(nine), (), 4)

    @pytest.mark.parametrize("given", ["red", "#12345", "#gg0000", ""])
    def test_a_colour_that_is_none_is_refused(self, given):
        with pytest.raises(BadValueError, match="#a03020"):
            tint_of("Clay", given)


@pytest.fixture(scope="module")
def four(nine) -> FewColours:
    return in_few(nine, gathered(*weighed(nine), 4), 2.0)


class TestPatches:
    def test_every_triangle_has_one_colour(self, nine, four):
        tints = four.mesh.corner_colours
        assert four.mesh.colours is None
        assert (tints == tints[:, :1]).all()
        assert len(np.unique(tints[:, 0], axis=0)) == 4
        assert (four.mesh.vertices == nine.vertices).all()
        assert (four.mesh.faces == nine.faces).all()

    def test_are_as_near_as_k_means_and_none_too_small(self, nine, four):
        found = audit_colours(four.mesh, four.before)
        assert found.smallest >= 2.0
        assert four.least_error * 0.999 <= found.error <= 1.05 * four.least_error
        assert found.areas.sum() == pytest.approx(face_areas(nine).sum())

    def test_specks_become_what_lies_round_them(self):
        def specked(ways):
            red = (np.abs(ways - [0, 0, 1]).max(axis=1) < 0.05) | (ways[:, 0] > 0.5)
            return np.where(red[:, np.newaxis], RED.rgb, WHITE.rgb)

        mesh = ball(specked)
        left = in_few(mesh, (RED, WHITE), 0)
        assert audit_colours(left.mesh, left.before).patches == 3
        joined = audit_colours(in_few(mesh, (RED, WHITE), 10).mesh, face_lab(mesh))
        assert joined.patches == 2
        assert joined.smallest > 100

    def test_between_two_colours_is_no_third(self):
        """Where white runs into black over a few triangles, grey is nearest in the middle, and is not meant."""
        mesh = ball(lambda ways: np.clip(127 + 8000 * (ways[:, :1] - 0.013), 0, 255) * np.ones((1, 3)), 6)
        tints = (Tint("Black", (0, 0, 0)), WHITE, Tint("Grey", (128, 128, 128)))
        lab = face_lab(mesh)
        nearest = ((lab[:, np.newaxis] - lab_of(tints)) ** 2).sum(axis=2).argmin(axis=1)
        assert (nearest == 2).any()
        few = in_few(mesh, tints, 0)
        assert len(audit_colours(few.mesh, few.before).colours) == 2

    def test_a_line_of_its_own_colour_stays(self):
        def lined(ways):
            sides = np.where(ways[:, :1] > 0, WHITE.rgb, (0, 0, 0))
            return np.where(np.abs(ways[:, :1]) < 0.05, RED.rgb, sides)

        few = in_few(ball(lined), (RED, WHITE, Tint("Black", (0, 0, 0))), 1.0)
        red = (few.mesh.corner_colours[:, 0, :3] == RED.rgb).all(axis=1)
        assert face_areas(few.mesh)[red].sum() == pytest.approx(2 * np.pi * 20 * 2, rel=0.35)

    def test_a_small_body_keeps_one_colour(self):
        large, small = ball(lambda ways: np.full((len(ways), 3), 20), 3), ball(lambda ways: 200 + 50 * ways, 2)
        moved = replace(small, vertices=small.vertices * 0.02 + [60, 0, 0])
        both = TriMesh(
            np.vstack([large.vertices, moved.vertices]),
            np.vstack([large.faces, moved.faces + len(large.vertices)]),
            np.vstack([large.colours, moved.colours]),
        )
        found = audit_colours(in_few(both, (RED, WHITE, Tint("Black", (0, 0, 0))), 50).mesh, face_lab(both))
        assert found.patches == 2

    def test_without_colours_is_refused(self, nine):
        with pytest.raises(BadMeshError, match="no colours"):
            in_few(replace(nine, colours=None), (RED,), 1)

    def test_of_many_colours_are_not_audited_as_few(self, nine):
        assert audit_colours(nine, face_lab(nine)) is None
        corners = nine.colours[nine.faces]
        assert audit_colours(replace(nine, colours=None, corner_colours=corners), face_lab(nine)) is None


@pytest.fixture(scope="module")
def halves() -> tuple[TriMesh, np.ndarray]:
    """A cube of 10 mm, its two halves left and right of two colours on all sides."""
    box = trimesh.creation.box((10, 10, 10)).subdivide().subdivide()
    mesh = TriMesh(np.asarray(box.vertices, float), np.asarray(box.faces, np.uint32))
    return mesh, (mesh.corners.mean(axis=1)[:, 0] > 0).astype(np.int64)


class TestChanges:
    def test_side_by_side_every_layer_changes_once(self, halves):
        mesh, labels = halves
        found = count_changes(mesh, labels, PrintPlan(0.5, 100))
        assert (found.layers, found.layers_in_several, found.swaps) == (20, 20, 20)
        assert found.purged_mm3 == 2000

    def test_one_over_the_other_changes_once(self, halves):
        mesh, _ = halves
        labels = (mesh.corners.mean(axis=1)[:, 2] > 0).astype(np.int64)
        found = count_changes(mesh, labels, PrintPlan(0.3, 100))
        assert found.swaps <= 3
        assert found.layers_in_several <= 1
        assert count_changes(mesh, labels, PrintPlan(0.5, 100, up=1)).swaps == 20

    def test_one_colour_never_changes(self, halves):
        mesh, labels = halves
        assert count_changes(mesh, np.zeros_like(labels), PrintPlan()).swaps == 0

    def test_layers_without_height_are_refused(self, halves):
        for height in (0, -0.2, float("nan")):
            with pytest.raises(BadValueError, match="more than 0"):
                count_changes(*halves, PrintPlan(height))
