"""Moulds: what they are hollow of, that halves close on each other, that casts come out, what is measured."""

import numpy as np
import pytest
import trimesh

from nebrel.core.errors import BadValueError
from nebrel.core.heightfield.from_above import heights_over
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume
from nebrel.core.mould.build import build_mould, cavity_for, sketch_mould
from nebrel.core.mould.cavity import cavity_of
from nebrel.core.mould.wish import MouldWish
from nebrel.core.proof import check_soundness
from nebrel.core.proof.mould_audit import measure_mould

TOLERANCE, PITCH = 0.02, 0.2


def solid(made: trimesh.Trimesh) -> TriMesh:
    return TriMesh(np.asarray(made.vertices, float), np.asarray(made.faces, np.uint32))


BALL = solid(trimesh.creation.icosphere(4, 10))
BLOCK = solid(trimesh.creation.box((20, 12, 6)))
CUP = solid(trimesh.creation.cylinder(8, 10, sections=160))


def wedge() -> TriMesh:
    """A block whose right half is twice as tall, so that left and right can be told."""
    low, high = trimesh.creation.box((10, 12, 4)), trimesh.creation.box((10, 12, 8))
    low.apply_translation((-5, 0, 2))
    high.apply_translation((5, 0, 4))
    return solid(trimesh.boolean.union([low, high], engine="manifold"))


def made(mesh: TriMesh, kind: str = "open", plane: float | None = None, **told):
    wish = MouldWish(kind, **told)
    cavity = cavity_for(mesh, wish, PITCH, plane)
    return wish, build_mould(cavity, wish, TOLERANCE)


class TestCavity:
    def test_a_block_is_as_deep_and_as_wide_as_it_is(self):
        cavity = cavity_of(BLOCK, PITCH, 0.0, 1)
        assert cavity.front.max() == pytest.approx(6, abs=1e-5) and cavity.back.max() == 0
        # Samples on the outline are half in: their sum is the volume.
        assert cavity.front.sum() * cavity.pitch**2 == pytest.approx(20 * 12 * 6, rel=0.003)
        assert cavity.filled_mm3 < 0.003 * volume(BLOCK)

    def test_a_ball_is_parted_in_its_middle_and_nothing_of_it_is_filled(self):
        cavity = cavity_of(BALL, PITCH, None, 2)
        assert cavity.plane == pytest.approx(10, abs=0.3)
        assert cavity.filled_mm3 < 0.01 * volume(BALL)
        assert np.allclose(cavity.front.max(), cavity.back.max(), atol=0.35)

    def test_what_is_undercut_is_filled_and_told(self):
        """Above its lowest place an open mould fills all that is below the equator beside the ball."""
        filled = np.pi * 100 * 10 - 2 / 3 * np.pi * 1000
        assert cavity_of(BALL, PITCH, 0.0, 1).filled_mm3 == pytest.approx(filled, rel=0.02)

    def test_a_plane_beside_it_is_refused(self):
        for plane in (-1.0, 6.0, 50.0):
            with pytest.raises(BadValueError, match="parting plane"):
                cavity_of(BLOCK, PITCH, plane, 2)


class TestOpen:
    def test_is_a_sound_block_with_a_rim_and_a_floor_of_what_is_asked(self):
        _, mould = made(BLOCK, draft_deg=0.0, rim=5, floor=2)
        ((name, mesh),) = mould.parts
        assert name == "Mould" and check_soundness(mesh).sound
        size = np.ptp(mesh.vertices, axis=0)
        assert size[2] == pytest.approx(8, abs=1e-3)
        assert 30 <= size[0] <= 30 + 2 * PITCH and 22 <= size[1] <= 22 + 2 * PITCH
        assert volume(mesh) == pytest.approx(size.prod() - 20 * 12 * 6, rel=0.003)
        assert mould.deviation.max <= TOLERANCE

    def test_left_and_right_change_places_as_a_cast_is_turned_over(self):
        _, mould = made(wedge(), draft_deg=0.0)
        mesh = mould.parts[0][1]
        size = np.ptp(mesh.vertices, axis=0)
        left, right = (
            heights_over(mesh, (size[0] / 2 + by - 0.1, size[1] / 2, size[0] / 2 + by + 0.1, size[1] / 2 + 0.2), 2)[
                0, 0
            ]
            for by in (-5, 5)
        )
        assert left == pytest.approx(3, abs=0.03) and right == pytest.approx(7, abs=0.03)

    @pytest.mark.parametrize("draft", [2.0, 8.0, 20.0])
    def test_casts_come_out_and_the_cavity_is_never_smaller_than_the_piece(self, draft):
        for mesh in (BLOCK, CUP, wedge()):
            wish, mould = made(mesh, draft_deg=draft)
            facts = measure_mould(mould, mesh, wish.floor)
            assert facts.least_draft_deg >= 0.9 * draft
            assert facts.shallower_mm <= TOLERANCE + 1e-3
            assert facts.holds_mm3 >= volume(mesh) * 0.995
            assert facts.filled_mm3 == pytest.approx(facts.holds_mm3 - volume(mesh), abs=0.02 * volume(mesh))


class TestHalves:
    def test_both_are_sound_and_close_on_each_other_with_room_for_the_keys_only(self):
        wish, mould = made(BALL, "halves", spout="none", gap=0.2)
        (_, front), (_, back) = mould.parts
        for mesh in (front, back):
            assert check_soundness(mesh).sound
        width = float(np.ptp(front.vertices[:, 0]))
        assert float(back.vertices[:, 0].min()) == pytest.approx(width + wish.apart, abs=1e-3)
        # The front turned over lies on the back: what both leave free between them is the ball, and the keys' room.
        box = (0.1, 0.1, width - 0.1, width - 0.1)
        shifted = TriMesh(back.vertices - (float(back.vertices[:, 0].min()), 0, 0), back.faces)
        own = mould.halves[0].parting + wish.floor - heights_over(front, box, 400)[:, ::-1]
        other = mould.halves[1].parting + wish.floor - heights_over(shifted, box, 400)
        free = own + other
        assert free.min() > -0.03
        cell = (width - 0.2) ** 2 / (free.size - 1)
        assert free.sum() * cell == pytest.approx(volume(BALL), rel=0.06)
        # Four keys, one of them off its corner.
        assert (own < -1).sum() > 0 and (other > 1)[own < -1].all()
        keyed = mould.halves[0].keyed
        assert not np.array_equal(keyed, keyed[:, ::-1]) and not np.array_equal(keyed, keyed[::-1])

    @pytest.mark.parametrize("side", ["below", "above", "left", "right"])
    def test_they_are_poured_from_the_side_that_is_asked(self, side):
        _, mould = made(BALL, "halves", spout=side, spout_width=6, keys=0)
        _, plain = made(BALL, "halves", spout="none", keys=0)
        for number in (0, 1):
            half, other = mould.halves[number], plain.halves[number]
            deep = (half.parting - half.field.heights) - (other.parting - other.field.heights)
            at_edge = {
                "below": deep[-1].max(), "above": deep[0].max(), "left": deep[:, 0].max(), "right": deep[:, -1].max()
            }  # fmt: skip
            # Seen from its cavity the front has left and right changed.
            shown = {"left": "right", "right": "left"}.get(side, side) if number == 0 else side
            assert at_edge.pop(shown) == pytest.approx(3 * 1.7, abs=0.2)
            assert max(at_edge.values()) < 0.2

    def test_keys_that_do_not_fit_are_refused(self):
        with pytest.raises(BadValueError, match="do not fit on a rim"):
            made(BALL, "halves", rim=4, keys=5)


class TestDie:
    def test_its_face_touches_the_lowest_place_of_the_relief(self):
        _, mould = made(wedge(), "die", draft_deg=0.0, floor=2)
        mesh = mould.parts[0][1]
        assert check_soundness(mesh).sound
        assert np.ptp(mesh.vertices[:, 2]) == pytest.approx(2 + 4, abs=0.02)

    def test_one_of_something_level_is_refused(self):
        with pytest.raises(BadValueError, match="parting plane"):
            made(BLOCK, "die")


def test_a_sketch_is_the_same_but_coarser():
    wish = MouldWish("halves")
    cavity = cavity_for(BALL, wish, 0.4, None)
    rough, fine = sketch_mould(cavity, wish), build_mould(cavity, wish, TOLERANCE)
    for (name, mesh), (same, finer) in zip(rough.parts, fine.parts, strict=True):
        assert name == same and len(mesh.faces) < len(finer.faces)
        assert np.allclose(np.ptp(mesh.vertices, axis=0), np.ptp(finer.vertices, axis=0), atol=0.1)
