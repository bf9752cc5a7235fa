"""Layers: cut as manifold3d cuts them; lines in walls, islands, bridges and overhangs where they were planted."""

import manifold3d
import numpy as np
import pytest
from shapely.geometry import MultiPolygon, Point

from nebrel.core.csg.boolean import mesh_of, upright
from nebrel.core.errors import BadMeshError, BadValueError
from nebrel.core.layers.draw import GROUND, MATERIAL, layer_pictures, layers_svg
from nebrel.core.layers.effort import PrintWay, effort
from nebrel.core.layers.slices import MOST_LAYERS, Slices, even_bounds, largest_cusp, slice_mesh, varied_bounds
from nebrel.core.layers.study import LayerSetup, study_layers
from nebrel.core.layers.support import LONGEST_BRIDGE_MM, Hanging, hanging
from nebrel.core.layers.walls import MOST_LINES, WallSpot, wall_places, wall_spots
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume
from nebrel.core.outline_files.read import read_drawing
from nebrel.core.proof.finding import Finding
from nebrel.core.proof.layer_audit import layer_findings

LINE, LAYER = 0.42, 0.2
Solid = manifold3d.Manifold


def box(x: float, y: float, z: float, at: tuple[float, float, float] = (0, 0, 0)) -> Solid:
    return Solid.cube((x, y, z)).translate(at)


def ring(outer: float, wide: float, tall: float = 6) -> Solid:
    whole = manifold3d.CrossSection.circle(outer, 128) - manifold3d.CrossSection.circle(outer - wide, 128)
    return Solid.extrude(whole, tall)


def sliced(solid: Solid, layer: float = LAYER) -> Slices:
    mesh = mesh_of(solid)
    return slice_mesh(mesh, even_bounds(float(np.ptp(mesh.vertices[:, 2])), layer))


def spots(slices: Slices) -> list[WallSpot]:
    return wall_spots(slices, [wall_places(section, LINE) for section in slices.sections], LINE)


def hangs(solid: Solid) -> Hanging:
    return hanging(sliced(solid), LINE)


def table() -> Solid:
    """A top on four legs, 28 and 48 mm apart."""
    top = box(60, 40, 4, (0, 0, 20))
    for x, y in ((0, 0), (54, 0), (0, 34), (54, 34)):
        top += box(6, 6, 21, (x, y, 0))
    return top


def arch() -> Solid:
    return box(50, 10, 30) - Solid.cylinder(12, 15, 15, 128).rotate((90, 0, 0)).translate((25, 11, 0))


class TestSlices:
    def test_areas_are_those_of_manifold3d(self):
        ball = Solid.sphere(10, 64) - box(4, 40, 4, (-2, -20, -2))
        slices = sliced(ball)
        moved = ball.translate((0, 0, -ball.bounding_box()[2]))
        middles = (slices.bounds[:-1] + slices.bounds[1:]) / 2
        expected = [moved.slice(float(z)).area() for z in middles]
        assert slices.areas == pytest.approx(expected, rel=1e-6, abs=1e-6)

    def test_bounds_begin_at_the_plate_and_reach_the_top(self):
        bounds = even_bounds(1.0, 0.2, 0.3)
        assert bounds == pytest.approx([0, 0.3, 0.5, 0.7, 0.9, 1.1])
        assert even_bounds(1.0, 0.2) == pytest.approx([0, 0.2, 0.4, 0.6, 0.8, 1.0])
        assert even_bounds(0.1, 0.2) == pytest.approx([0, 0.2])

    def test_places_are_told_in_the_solids_own_coordinates(self):
        slices = sliced(box(4, 6, 2, (100, -50, 7)))
        assert slices.place_of(1, 2, 0) == pytest.approx((101, -48, 7.1))
        assert slices.size == pytest.approx((4, 6, 2))

    @pytest.mark.parametrize(("height", "layer"), [(10, 0), (10, -1), (10, np.nan), (0, 0.2), (np.inf, 0.2)])
    def test_what_is_no_layer_is_refused(self, height, layer):
        with pytest.raises(BadValueError):
            even_bounds(height, layer)

    def test_a_million_layers_are_refused(self):
        with pytest.raises(BadValueError, match="1,000,000 layers"):
            even_bounds(1000, 0.001)
        assert len(even_bounds(MOST_LAYERS * 0.2, 0.2)) == MOST_LAYERS + 1

    def test_open_empty_and_crossing_meshes_are_refused(self):
        cube = mesh_of(box(9, 9, 9))
        bounds = even_bounds(9, LAYER)
        with pytest.raises(BadMeshError, match="not closed"):
            slice_mesh(TriMesh(cube.vertices, cube.faces[1:]), bounds)
        with pytest.raises(BadMeshError, match="nothing"):
            slice_mesh(TriMesh(cube.vertices, cube.faces[:0]), bounds)
        two = TriMesh(
            np.concatenate([cube.vertices, cube.vertices + 4]),
            np.concatenate([cube.faces, cube.faces + len(cube.vertices)]),
        )
        with pytest.raises(BadMeshError, match="cross"):
            slice_mesh(two, bounds)


class TestWalls:
    @pytest.mark.parametrize("count", [1, 2, 3, 4, 5])
    def test_a_wall_made_for_so_many_lines_reads_that_many_nearly_everywhere(self, count):
        places = [wall_places(section, LINE) for section in sliced(ring(30, count * LINE)).sections]
        lines = np.concatenate([each.lines(LINE) for each in places])
        assert (lines == count).mean() >= 0.99
        assert spots(sliced(ring(30, count * LINE))) == []

    @pytest.mark.parametrize("lines", [1.4, 2.5, 3.4])
    def test_a_rest_is_told_with_how_many_lines_that_is_and_where(self, lines):
        [spot] = spots(sliced(ring(30, lines * LINE)))
        assert not spot.thin
        assert spot.lines == pytest.approx(lines, abs=0.05)
        assert (spot.first, spot.last) == (0, 29)
        assert spot.length == pytest.approx(2 * np.pi * 30, rel=0.05)
        assert np.hypot(*spot.at[:2]) == pytest.approx(2 * 30 - 30, abs=40)

    def test_a_wall_thinner_than_a_line_is_told_in_its_layers(self):
        fin = box(40, 10, 5) + box(40, 0.3, 10, (0, 5, 2))
        [spot] = spots(sliced(fin))
        assert spot.thin
        assert spot.wide == pytest.approx(0.3, abs=1e-3)
        assert (spot.first, spot.last) == (25, 59)
        assert spot.length == pytest.approx(40, rel=0.05)

    def test_plain_solids_and_sharp_tips_are_no_thin_walls(self):
        star = upright(MultiPolygon([Point(0, 0).buffer(12)]), 0, 4)
        for angle in range(0, 360, 40):
            leaf = manifold3d.CrossSection([[(8, -4), (22, 0), (8, 4)]]).rotate(angle)
            star += Solid.extrude(leaf, 4)
        for solid in (box(20, 20, 20), Solid.sphere(10, 128), star):
            assert spots(sliced(solid)) == []

    def test_a_single_layer_that_is_thin_is_told_only_where_there_is_no_other(self):
        flat = box(30, 0.3, LAYER)
        assert spots(sliced(flat))[0].thin
        step = box(30, 10, 2) + box(30, 0.3, 2 + LAYER)
        assert spots(sliced(step)) == []

    def test_thick_walls_read_as_filled(self):
        places = wall_places(manifold3d.CrossSection.square((30, 30)), LINE)
        assert (places.lines(LINE) == MOST_LINES).all()
        assert (places.rest(LINE) == 0).all()

    def test_an_empty_layer_has_no_walls(self):
        assert len(wall_places(manifold3d.CrossSection(), LINE).wide) == 0


class TestHanging:
    def test_a_cube_needs_nothing(self):
        found = hangs(box(20, 20, 20))
        assert (found.overhang.sum(), found.support.sum(), found.islands, found.bridges) == (0, 0, [], [])

    def test_a_ball_hangs_only_near_its_foot(self):
        found = hangs(Solid.sphere(10, 128))
        assert (found.islands, found.bridges) == ([], [])
        assert found.overhang[20:].sum() == 0

    def test_a_part_that_begins_in_mid_air_is_an_island_where_it_begins(self):
        found = hangs(box(20, 20, 3) + box(3, 20, 20) + box(3, 3, 10, (12, 8, 8)) + box(16, 3, 2, (0, 8, 16)))
        [island] = found.islands
        assert (island.layer, island.area) == (40, pytest.approx(9, rel=1e-3))
        assert 12 < island.at[0] < 15 and 8 < island.at[1] < 11

    def test_a_table_bridges_from_leg_to_leg(self):
        [bridge] = hangs(table()).bridges
        assert bridge.layer == 100
        assert bridge.span == pytest.approx(48, abs=0.6)

    def test_an_arch_closes_with_a_short_bridge(self):
        [bridge] = hangs(arch()).bridges
        assert bridge.layer == pytest.approx(75, abs=1)
        assert 1 < bridge.span < 5
        assert bridge.at == pytest.approx((25, 5), abs=1)

    def test_a_roof_is_a_bridge_over_its_narrower_side(self):
        [bridge] = hangs(box(30, 40, 20) - box(8, 30, 15, (11, 5, 2))).bridges
        assert bridge.span == pytest.approx(8, abs=0.5)

    def test_a_bridge_that_holds_needs_no_support(self):
        short, long = (hangs(box(30, 60, 20) - box(wide, 50, 15, (5, 5, 2))) for wide in (8, 20))
        assert short.support_mm3(np.full(100, LAYER)) == 0
        assert long.support_mm3(np.full(100, LAYER)) == pytest.approx(20 * 50 * 15, rel=0.1)

    def test_a_slope_needs_support_beyond_the_steepest(self):
        def leaning(degrees: float) -> Hanging:
            far = 20 * np.tan(np.radians(degrees))
            side = manifold3d.CrossSection([[(0, 0), (10, 0), (10 + far, 20), (far, 20)]])
            return hangs(Solid.extrude(side, 10).rotate((90, 0, 0)))

        assert leaning(40).overhang.sum() == 0
        assert leaning(60).overhang.sum() > 0

    def test_support_stands_on_the_plate_or_on_the_piece(self):
        mushroom = box(4, 4, 20, (8, 8, 0)) + box(20, 20, 2, (0, 0, 20))
        found = hangs(mushroom)
        assert found.support_mm3(np.full(len(found.support), LAYER)) == pytest.approx((400 - 16) * 20, rel=0.08)


class TestEffort:
    def spent(self, solid: Solid, **ways: float):
        slices = sliced(solid)
        return effort(slices, hanging(slices, LINE), volume(mesh_of(solid)), PrintWay(LINE, **ways))

    def test_a_solid_block_weighs_what_it_holds(self):
        whole = self.spent(box(20, 20, 20), infill=1.0)
        assert whole.plastic_mm3 == pytest.approx(8000, rel=0.01)
        assert whole.grams == pytest.approx(8 * 1.24, rel=0.01)
        assert whole.metres == pytest.approx(8000 / (LINE * LAYER) / 1000, rel=0.02)

    def test_less_infill_is_lighter_and_sooner_done(self):
        whole, light = self.spent(box(30, 30, 30), infill=1.0), self.spent(box(30, 30, 30), infill=0.15)
        assert light.grams < 0.5 * whole.grams
        assert light.minutes < 0.6 * whole.minutes
        assert light.walls == pytest.approx(whole.walls)

    def test_its_parts_are_those_of_a_hand(self):
        """100 layers of 80 mm round, three times, with four corners; changes of a second and a half."""
        found = self.spent(box(20, 20, 20))
        by_hand = 100 * 3 * (80 / 60 + 4 * 60 / 1500) / 60
        assert found.walls == pytest.approx(by_hand, rel=0.01)
        assert found.changes == pytest.approx(100 * 1.5 / 60)
        assert found.support == 0 and found.support_mm3 == 0
        assert found.minutes == pytest.approx(found.walls + found.infill + found.travel + found.changes)

    def test_support_takes_time_and_material(self):
        found = self.spent(table())
        assert found.support > 0
        assert found.support_mm3 == pytest.approx(0.15 * (60 * 40 - 4 * 36) * 20, rel=0.1)

    def test_a_thin_wall_is_laid_once(self):
        found = self.spent(ring(30, LINE))
        assert found.plastic_mm3 == pytest.approx(volume(mesh_of(ring(30, LINE))), rel=0.02)


class TestStudy:
    def asked(self, **changes: float) -> LayerSetup:
        return LayerSetup(**{"layer": LAYER, "way": PrintWay(LINE), **changes})

    def found(self, solid: Solid) -> list[Finding]:
        study = study_layers(mesh_of(solid), self.asked())
        return [each.finding for each in layer_findings(study, LINE, LONGEST_BRIDGE_MM)]

    def test_all_that_was_planted_is_told_and_where(self):
        planted = table() + box(3, 3, 6, (70, 3, 12)) + ring(12, 2.5 * LINE, 15).translate((90, 20, 0))
        planted += box(20, 6, 3, (0, 60, 0)) + box(20, 0.3, 9, (0, 63, 0))
        told = {finding.measure: finding for finding in self.found(planted.translate((5, 5, 5)))}
        assert set(told) == {"island", "thin-wall", "awkward-wall", "bridge", "overhang"}
        assert told["island"].where == pytest.approx((76.5, 9.5, 17.1), abs=1)
        assert "layers 1–75" in told["awkward-wall"].what and "1.26 mm, or 0.84 mm" in told["awkward-wall"].why
        assert "layers 16–45" in told["thin-wall"].what
        assert told["bridge"].value == pytest.approx(48, abs=0.6)

    def test_plain_solids_are_told_nothing(self):
        assert self.found(box(20, 20, 20)) == []
        assert {finding.measure for finding in self.found(Solid.sphere(10, 128))} <= {"overhang"}

    def test_many_of_a_kind_are_counted(self):
        floating = box(60, 5, 2)
        for at in range(9):
            floating += box(2, 2, 2, (at * 6, 1, 8))
        told = self.found(floating)
        assert [finding.measure for finding in told].count("island") == 5
        assert any(finding.what.startswith("9 parts begin in mid-air") for finding in told)

    @pytest.mark.parametrize(
        ("changes", "words"),
        [
            ({"layer": 0.5}, "higher than a line"),
            ({"first": 0.6}, "first layer"),
            ({"steepest_deg": 90}, "90°"),
            ({"way": PrintWay(LINE, infill=1.5)}, "share"),
        ],
    )
    def test_what_no_printer_does_is_refused(self, changes, words):
        with pytest.raises(BadValueError, match=words):
            study_layers(mesh_of(box(9, 9, 9)), self.asked(**changes))

    def test_drawn_layers_cover_what_they_have(self):
        study = study_layers(mesh_of(table()), self.asked())
        pictures = list(layer_pictures(study))
        assert len(pictures) == 120
        scale = pictures[0].shape[1] / 64
        dark = (GROUND[0] + MATERIAL[0]) / 2
        legs, top = ((picture[..., 0] < dark).sum() for picture in (pictures[0], pictures[110]))
        assert legs / scale**2 == pytest.approx(4 * 36, rel=0.03)
        assert top / scale**2 == pytest.approx(60 * 40, rel=0.01)
        drawing = layers_svg(study)
        assert drawing.count(b"<g ") == 120
        shown = read_drawing(drawing, "layers.svg")
        assert shown.size == pytest.approx((60, 40))


class TestVariedLayers:
    def test_steps_on_a_ball_stand_out_no_more_than_asked_where_layers_can_be_low_enough(self):
        mesh = mesh_of(Solid.sphere(10, 128))
        even = even_bounds(20, 0.3)
        varied = varied_bounds(mesh, 0.1, 0.3, 0.15)
        assert largest_cusp(mesh, even) > 0.28
        assert np.diff(varied).min() >= 0.1 - 1e-9 and np.diff(varied).max() <= 0.3 + 1e-9
        middle = np.diff(varied)[np.abs((varied[:-1] + varied[1:]) / 2 - 10) < 2]
        assert middle == pytest.approx(0.3)
        assert largest_cusp(mesh, varied[varied > 0.3]) <= 0.3
        assert varied[-1] >= 20 - 1e-6
        assert len(even) < len(varied) < len(even_bounds(20, 0.1))

    def test_walls_and_floors_need_no_low_layers(self):
        mesh = mesh_of(box(20, 20, 6))
        assert np.diff(varied_bounds(mesh, 0.1, 0.3, 0.05)) == pytest.approx(0.3)
        assert largest_cusp(mesh, even_bounds(6, 0.3)) == 0

    def test_a_slope_has_the_layers_that_its_steps_want(self):
        """A roof of 60° from upright: steps of 0.1 mm are those of layers of 0.2 mm."""
        side = manifold3d.CrossSection([[(0, 0), (20, 0), (20 - 10 * np.sqrt(3), 10), (0, 10)]])
        mesh = mesh_of(Solid.extrude(side, 10).rotate((90, 0, 0)))
        found = varied_bounds(mesh, 0.05, 0.3, 0.1 * np.sqrt(3))
        assert np.diff(found)[1:-1] == pytest.approx(0.2, abs=0.01)
        assert largest_cusp(mesh, found[1:]) == pytest.approx(0.1 * np.sqrt(3), rel=0.06)

    def test_what_cannot_vary_is_refused(self):
        with pytest.raises(BadValueError):
            varied_bounds(mesh_of(box(9, 9, 9)), 0.3, 0.1, 0.05)
