"""What helps a solid to be printed: feet, slopes below, a cut with pegs; and colours by layers."""

import manifold3d
import numpy as np
import pytest

from nebrel.core.csg.boolean import mesh_of, solid_of
from nebrel.core.csg.chamfer import chamfered_below
from nebrel.core.csg.feet import with_foot
from nebrel.core.csg.split import Pegs, split_with_pegs
from nebrel.core.errors import BadMeshError, BadValueError
from nebrel.core.layers.bands import bands_of, cut_at, first_layers, suggested_changes
from nebrel.core.layers.effort import PrintWay
from nebrel.core.layers.over_faces import lines_over_faces, support_on_faces
from nebrel.core.layers.slices import even_bounds
from nebrel.core.layers.study import LayerSetup, LayerStudy, study_layers
from nebrel.core.layers.turns import TurnWeights, measured_turns, ranked
from nebrel.core.layers.walls import MOST_LINES
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import face_areas, volume
from nebrel.core.mesh.shells import shells_of
from nebrel.core.proof.soundness import check_soundness

LINE, LAYER = 0.42, 0.2
Solid = manifold3d.Manifold


def box(x: float, y: float, z: float, at: tuple[float, float, float] = (0, 0, 0)) -> Solid:
    return Solid.cube((x, y, z)).translate(at)


def studied(mesh: TriMesh) -> LayerStudy:
    return study_layers(mesh, LayerSetup(LAYER, PrintWay(LINE)))


def is_sound(mesh: TriMesh) -> bool:
    return check_soundness(mesh).sound


def open_mesh() -> TriMesh:
    cube = mesh_of(box(9, 9, 9))
    return TriMesh(cube.vertices, cube.faces[1:])


MUSHROOM = Solid.cylinder(20, 4, -1, 48) + Solid.cylinder(5, 15, -1, 96).translate((0, 0, 20))
LEDGE = box(5, 20, 30) + box(20, 20, 4, (0, 0, 26))
TABLE = box(40, 30, 3, (0, 0, 27)) + box(5, 5, 28) + box(5, 5, 28, (35, 0, 0)) + box(5, 5, 28, (0, 25, 0)) + box(
    5, 5, 28, (35, 25, 0)
)  # fmt: skip


class TestFoot:
    def test_a_ball_stands_on_what_it_covers_and_a_margin(self):
        ball = mesh_of(Solid.sphere(10, 128))
        made = with_foot(ball, 3, 1.2)
        assert is_sound(made)
        covered = np.sqrt(10**2 - 8.8**2) + 3
        near = made.vertices[np.abs(made.vertices[:, 2] + 10) < 1e-4]
        assert np.hypot(near[:, 0], near[:, 1]).max() == pytest.approx(covered, rel=0.01)
        assert np.ptp(made.vertices, axis=0) == pytest.approx([20, 20, 20], abs=0.02)

    def test_a_foot_as_high_as_all_of_it_and_open_meshes_are_refused(self):
        with pytest.raises(BadValueError, match="as high as all of it"):
            with_foot(mesh_of(box(5, 5, 2)), 1, 2)
        with pytest.raises(BadMeshError, match="not a closed solid"):
            with_foot(open_mesh(), 1, 1)


class TestSlopes:
    @pytest.mark.parametrize("solid", [LEDGE, TABLE, MUSHROOM])
    def test_what_hangs_level_hangs_no_more_and_sizes_stay(self, solid):
        mesh = mesh_of(solid)
        made, count = chamfered_below(mesh)
        assert count == 1 and is_sound(made)
        assert np.ptp(made.vertices, axis=0) == pytest.approx(np.ptp(mesh.vertices, axis=0), abs=1e-4)
        before, after = studied(mesh), studied(made)
        assert before.hanging.overhang.sum() > 100
        assert after.hanging.overhang.sum() == 0

    def test_the_slope_below_a_ledge_is_half_of_its_square(self):
        made, _ = chamfered_below(mesh_of(LEDGE))
        assert volume(made) - LEDGE.volume() == pytest.approx(15 * 15 / 2 * 20, rel=0.01)
        steeper, _ = chamfered_below(mesh_of(LEDGE), 30)
        assert volume(steeper) > volume(made)

    def test_one_that_would_reach_below_the_plate_ends_there(self):
        made, _ = chamfered_below(mesh_of(box(5, 20, 8) + box(40, 20, 4, (0, 0, 6))))
        assert made.vertices[:, 2].min() == pytest.approx(0)
        assert is_sound(made)

    def test_where_nothing_hangs_level_or_nothing_holds_that_is_said(self):
        for solid in (box(9, 9, 9), box(9, 9, 2) + box(3, 3, 3, (3, 3, 8))):
            with pytest.raises(BadValueError, match="no slope"):
                chamfered_below(mesh_of(solid))
        with pytest.raises(BadMeshError):
            chamfered_below(open_mesh())


class TestSplit:
    @pytest.mark.parametrize(("axis", "at", "tall"), [("x", 10, 20), ("y", 8, 12), ("z", 25, 25)])
    def test_both_halves_lie_on_their_cut_with_pegs_beside(self, axis, at, tall):
        mesh = mesh_of(box(30, 20, 40, (5, 6, 7)))
        made = split_with_pegs(mesh, axis, at, Pegs())
        assert is_sound(made)
        assert len(shells_of(made)) == 4
        assert np.ptp(made.vertices[:, 2]) == pytest.approx(tall, abs=1e-4)
        holes, pegs = 2 * np.pi * 2.1**2 * 8, 2 * np.pi * 2**2 * 8 * 0.92
        assert volume(made) == pytest.approx(30 * 20 * 40 - holes + pegs, rel=1e-3)

    def test_without_pegs_nothing_is_lost(self):
        made = split_with_pegs(mesh_of(box(30, 20, 40)), "z", 11, Pegs(count=0))
        assert volume(made) == pytest.approx(30 * 20 * 40, rel=1e-6)
        assert len(shells_of(made)) == 2

    def test_one_peg_goes_where_there_is_most_around_it(self):
        made = split_with_pegs(mesh_of(box(30, 20, 40)), "z", 20, Pegs(count=1))
        assert len(shells_of(made)) == 3

    def test_cuts_beside_it_and_pegs_without_room_are_refused(self):
        thin = mesh_of(box(30, 2, 40))
        with pytest.raises(BadValueError, match="no room for a peg"):
            split_with_pegs(thin, "z", 20, Pegs())
        with pytest.raises(BadValueError, match="lies outside"):
            split_with_pegs(thin, "z", 40, Pegs())
        with pytest.raises(BadMeshError):
            split_with_pegs(open_mesh(), "z", 4, Pegs())


class TestBands:
    def test_changes_are_made_between_layers(self):
        bounds = even_bounds(4, 0.2)
        assert first_layers(bounds, [2.4, 2.45, 3.09, 9.0]) == [12, None, 15, None]
        assert first_layers(bounds, [0.02]) == [None]

    def test_bands_take_together_what_all_takes(self):
        study = studied(mesh_of(box(20, 20, 4)))
        bands = bands_of(study.slices.bounds, [2.4], study.effort)
        assert [(band.first, band.last) for band in bands] == [(0, 11), (12, 19)]
        assert sum(band.minutes for band in bands) == pytest.approx(study.effort.minutes)
        assert sum(band.grams for band in bands) == pytest.approx(study.effort.grams)

    def test_bodies_are_closed_and_fill_the_solid(self):
        mesh = mesh_of(Solid.sphere(10, 96).translate((3, 4, 50)))
        parts = cut_at(mesh, [4.0, 12.0])
        assert all(is_sound(part) for part in parts)
        assert sum(volume(part) for part in parts) == pytest.approx(volume(mesh), rel=1e-6)
        assert parts[1].vertices[:, 2].min() == pytest.approx(44) and parts[1].vertices[:, 2].max() == pytest.approx(52)

    def test_cuts_beside_it_and_open_meshes_are_refused(self):
        with pytest.raises(BadValueError, match="below or above 9"):
            cut_at(mesh_of(box(9, 9, 9)), [9.0])
        with pytest.raises(BadMeshError):
            cut_at(open_mesh(), [3.0])

    def test_between_levels_the_next_colour_begins_where_the_lower_one_ends(self):
        bounds = even_bounds(4.8, 0.16)
        levels = np.repeat([2.0, 3.8], [700, 300])
        assert suggested_changes(levels, 2, bounds) == pytest.approx([2.08])
        three = np.repeat([1.2, 2.72, 4.2], [500, 300, 200])
        assert suggested_changes(three, 3, bounds) == pytest.approx([1.28, 2.72])

    def test_a_relief_is_set_apart_from_its_ground(self):
        rng = np.random.default_rng(2)
        relief = np.concatenate([np.full(7000, 1.6), rng.uniform(1.7, 4.6, 3000)])
        assert suggested_changes(relief, 2, even_bounds(4.8, 0.16)) == pytest.approx([1.6])

    def test_too_few_heights_are_refused_in_words(self):
        with pytest.raises(BadValueError, match="at 1 heights, too few for 2"):
            suggested_changes(np.full(50, 3.0), 2, even_bounds(4, 0.2))
        with pytest.raises(BadValueError, match="2 to 5"):
            suggested_changes(np.arange(50.0), 9, even_bounds(4, 0.2))


class TestOverFaces:
    def test_walls_of_four_lines_read_four_on_both_sides(self):
        whole = manifold3d.CrossSection.circle(20, 128) - manifold3d.CrossSection.circle(20 - 4 * LINE, 128)
        mesh = mesh_of(Solid.extrude(whole, 6))
        mesh = TriMesh(mesh.vertices - mesh.vertices.min(axis=0), mesh.faces)
        lines = lines_over_faces(mesh, studied(mesh), LINE)
        upright = np.isfinite(lines)
        assert lines[upright] == pytest.approx(4, abs=0.1)
        assert face_areas(mesh)[~upright].sum() == pytest.approx(2 * whole.area(), rel=1e-3)

    def test_thick_solids_read_as_filled(self):
        cube = mesh_of(box(20, 20, 20))
        lines = lines_over_faces(cube, studied(cube), LINE)
        assert lines[np.isfinite(lines)] == pytest.approx(MOST_LINES)

    def test_support_touches_the_underside_and_what_it_stands_on(self):
        ledge = mesh_of(box(20, 20, 4) + box(4, 20, 20) + box(20, 20, 3, (0, 0, 18)))
        fine = mesh_of(solid_of(ledge).refine(8))
        touched = support_on_faces(fine, studied(fine))
        sides = (fine.corners[:, at] - fine.corners[:, 0] for at in (1, 2))
        areas, normals = face_areas(fine), np.cross(*sides)[:, 2]
        under = areas[touched & (normals < 0)].sum()
        upon = areas[touched & (normals > 0)].sum()
        assert under == pytest.approx(16 * 20, rel=0.06)
        assert upon == pytest.approx(16 * 20, rel=0.06)
        cube = mesh_of(box(9, 9, 9))
        assert not support_on_faces(cube, studied(cube)).any()


class TestTurnsThatShow:
    def test_scars_count_only_where_it_shows(self):
        turns = measured_turns(mesh_of(LEDGE), LAYER, show=(0.0, 0.0, 1.0))
        own = next(turn for turn in turns if turn.own)
        assert own.scars_mm2 == 0
        seen = next(turn for turn in measured_turns(mesh_of(LEDGE), LAYER, show=(0.0, 0.0, -1.0)) if turn.own)
        assert seen.scars_mm2 == pytest.approx(15 * 20, rel=1e-6)

    def test_a_direction_that_is_asked_for_is_a_candidate(self):
        also = (0.36, 0.48, -0.8)
        assert any(np.allclose(turn.down, also) for turn in measured_turns(mesh_of(LEDGE), LAYER, also=also))

    def test_other_weights_need_no_other_measures(self):
        turns = measured_turns(mesh_of(LEDGE), LAYER)
        low = ranked(turns, TurnWeights(support=0, height=1, footprint=0, wobble=0, steps=0, scars=0))[0]
        assert low.height_mm == pytest.approx(min(turn.height_mm for turn in turns))


class TestSpecks:
    def test_a_bump_that_joins_others_at_once_is_no_island(self):
        dimple = box(20, 20, 3) + box(2, 20, 20) + box(20, 20, 3, (0, 0, 17))
        dimple += Solid.sphere(0.22, 32).translate((12, 10, 17.0))
        assert studied(mesh_of(dimple)).hanging.islands == []

    def test_a_tip_that_hangs_down_far_is_one(self):
        hook = box(20, 20, 3) + box(2, 20, 20) + box(20, 20, 3, (0, 0, 17))
        hook += Solid.cylinder(8, 0.05, 2.0, 32).translate((12, 10, 9.2))
        [island] = studied(mesh_of(hook)).hanging.islands
        assert island.layer == pytest.approx(46, abs=1)
