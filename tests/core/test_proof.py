"""Sections, renderings and advice."""

from dataclasses import replace

import numpy as np
import pytest
import shapely

from nebrel.core.errors import BadValueError
from nebrel.core.height import HeightField
from nebrel.core.heightfield.slab import build_slab
from nebrel.core.mesh.shading import shade
from nebrel.core.outline_solid.offset_extrusion import prism
from nebrel.core.picture import Picture, SourceFacts
from nebrel.core.proof.makeable import Printer, relief_findings
from nebrel.core.proof.render import PLASTER, Viewpoint, render
from nebrel.core.proof.section import cut_mesh, target_profile

PRINTER = Printer(line_width=0.42, layer=0.16, bed=(220, 220, 240))


def enclosed(outline) -> float:
    x, y = outline.T
    return float(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1)) / 2)


class TestSection:
    def test_a_ramp_is_cut_into_its_trapezoid(self, field_of):
        field = field_of(lambda x, y: x / 10)
        mesh = build_slab(field, 1.5, 0.01).mesh
        (outline,) = cut_mesh(mesh, (0, 11.3), (40, 11.3))
        assert abs(enclosed(outline)) == pytest.approx(40 * (1.5 + 2), rel=1e-5)
        assert outline[:, 1].max() == pytest.approx(5.5, abs=1e-4)
        assert (outline[:, 0].min(), outline[:, 0].max()) == pytest.approx((0, 40), abs=1e-4)

    def test_a_slanting_line_measures_along_itself(self, field_of):
        mesh = build_slab(field_of(lambda x, y: x * 0 + 1), 1.0, 0.01).mesh
        (outline,) = cut_mesh(mesh, (0, 0), (40, 30))
        assert outline[:, 0].max() == pytest.approx(50, abs=1e-4)

    def test_a_cavity_gives_two_outlines(self, box, together):
        from nebrel.core.mesh import TriMesh

        inner = box((0.25, 0.25, 0.25), (0.5, 0.5, 0.5))
        hollow = together(box(), TriMesh(inner.vertices, inner.faces[:, ::-1]))
        outlines = cut_mesh(hollow, (-1, 0.5), (2, 0.5))
        assert sum(enclosed(outline) for outline in outlines) == pytest.approx(0.75)
        assert cut_mesh(hollow, (-1, 5), (2, 5)) == []

    def test_asked_and_made_agree_within_tolerance(self, field_of):
        field = field_of(lambda x, y: 2 + np.sin(x / 2) * np.cos(y / 3))
        mesh = build_slab(field, 1.0, 0.02).mesh
        asked = target_profile(field, 1.0, (0, 12), (40, 19), samples=200)
        (outline,) = cut_mesh(mesh, (0, 12), (40, 19))
        upper = outline[outline[:, 1] > 0.5]
        # Of the walls at both ends, the upper edge comes last.
        upper = upper[np.lexsort((upper[:, 1], upper[:, 0]))]
        made = np.interp(asked.along, upper[:, 0], upper[:, 1])
        assert np.nanmax(np.abs(made - asked.up)) < 0.05

    def test_outside_and_blank_have_no_height(self, field_of):
        field = field_of(lambda x, y: x * 0 + 1)
        up = target_profile(field, 1.0, (-40, 10), (40, 10), samples=9).up
        assert np.isnan(up[:4]).all()
        assert np.allclose(up[4:], 2)

    def test_over_a_blank_the_line_has_no_height_and_beside_it_it_has(self):
        coverage = np.ones((5, 9), dtype=np.float32)
        coverage[:, 3:6] = 0
        field = HeightField(np.full((5, 9), 2.0, dtype=np.float32), coverage, 1.0)
        profile = target_profile(field, 1.0, (0, 2), (8, 2), samples=33)
        over = (profile.along > 2.5) & (profile.along < 5.5)
        beside = (profile.along < 2.5) | (profile.along > 5.5)
        assert np.isnan(profile.up[over]).all()
        assert np.allclose(profile.up[beside], 3)

    def test_a_line_without_length_is_refused(self, box):
        with pytest.raises(BadValueError, match="0 mm long"):
            cut_mesh(box(), (1, 1), (1, 1))


class TestLooking:
    def test_a_box_is_split_along_its_creases(self, box):
        shaded = shade(box())
        assert len(shaded.positions) == 24
        assert np.allclose(np.abs(shaded.normals).max(axis=1), 1)

    def test_a_smooth_surface_stays_whole(self, field_of):
        mesh = build_slab(field_of(lambda x, y: 2 + np.sin(x / 3)), 1.0, 0.05).mesh
        shaded = shade(mesh)
        tops = np.count_nonzero(mesh.vertices[:, 2] > 0)
        assert len(shaded.positions) < tops + 4 * (len(mesh.vertices) - tops) + 800
        assert np.allclose(np.linalg.norm(shaded.normals, axis=1), 1, atol=1e-5)

    def test_a_round_wall_shows_nothing_of_how_it_is_cut_into_triangles(self):
        shaded = shade(prism(shapely.MultiPolygon([shapely.Point(0, 0).buffer(10, quad_segs=8)]), 0, 30))
        wall = np.abs(shaded.normals[:, 2]) < 0.5
        outward = shaded.positions[wall] / [10, 10, np.inf]
        assert shaded.normals[wall] == pytest.approx(outward, abs=1e-3)

    def test_the_lamp_decides_which_side_is_bright(self, field_of):
        ridge = shade(build_slab(field_of(lambda x, y: 8 - np.abs(x - 20) / 2.5), 1.0, 0.05).mesh)

        def halves(light_from_deg: float) -> tuple[float, float]:
            picture = render(ridge, 160, 120, Viewpoint(0, 0, light_from_deg, 15)).mean(axis=2)
            return float(picture[50:70, 50:75].mean()), float(picture[50:70, 85:110].mean())

        left, right = halves(180)
        assert left > right + 40
        left, right = halves(0)
        assert right > left + 40

    def test_a_wall_casts_a_shadow(self, field_of):
        wall = field_of(lambda x, y: np.where(np.abs(x - 20) < 1, 8.0, 0.0))
        picture = render(shade(build_slab(wall, 1.0, 0.05).mesh), 200, 150, Viewpoint(0, 0, 180, 40)).mean(axis=2)
        assert picture[75, 112:135].mean() < picture[75, 160:180].mean() - 25

    def test_colours_are_seen_where_they_lie_under_the_same_light(self, field_of):
        mesh = build_slab(field_of(lambda x, y: np.zeros_like(x)), 1.0, 0.05).mesh
        plain = render(shade(mesh), 160, 120, Viewpoint(0, 0))
        left = mesh.corners[..., 0].mean(axis=1) < 20
        corners = np.where(left[:, np.newaxis, np.newaxis], (255, 0, 0, 255), (0, 0, 255, 255)).astype(np.uint8)
        seen = render(
            shade(replace(mesh, corner_colours=np.broadcast_to(corners, (len(left), 3, 4)))), 160, 120, Viewpoint(0, 0)
        )
        middle, outside = seen[50:70], plain[2, 2]
        red, blue = middle[:, 30:60], middle[:, 100:130]
        assert (red[..., 0] > 100).all() and (red[..., 1:] == 0).all()
        assert (blue[..., 2] > 100).all() and (blue[..., :2] == 0).all()
        # As bright as plaster is there, and the stage round it stays as it was.
        assert np.abs(red[..., 0] / 1.0 - plain[50:70, 30:60, 0] / PLASTER[0]).max() < 2
        assert (seen[2, 2] == outside).all()


class TestAdvice:
    def advice(self, field, tones, relief=3.0, backing=1.2) -> set[str]:
        facts = SourceFacts("PNG", 201, 151, 16, "L")
        picture = Picture(np.asarray(tones, dtype=np.float32), np.ones_like(tones, dtype=np.float32), facts)
        return {finding.measure for finding in relief_findings(picture, field, relief, backing, PRINTER)}

    @pytest.fixture
    def ramp(self, field_of):
        return field_of(lambda x, y: x / 40 * 3)

    def test_nothing_to_say(self, ramp):
        assert self.advice(ramp, ramp.heights / 3) == set()

    def test_each_thing_worth_saying(self, field_of, ramp):
        assert self.advice(ramp, ramp.heights / 9) == {"tone_range"}
        assert self.advice(ramp, ramp.heights / 3, backing=0.3) == {"backing"}
        assert self.advice(field_of(lambda x, y: x / 80), ramp.heights / 3, relief=0.5) == {"layers"}
        assert self.advice(field_of(lambda x, y: x / 40, width=500), ramp.heights / 3) == {"bed"}

    def test_blank_margins_are_told(self, ramp):
        coverage = np.zeros_like(ramp.heights)
        coverage[25:126, 50:151] = 1
        told = self.advice(HeightField(ramp.heights, coverage, ramp.pitch), ramp.heights / 3)
        assert "blank_margins" in told
