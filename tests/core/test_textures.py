"""Textures: how a mesh is laid out, painted and written, and what is read back."""

import io
import zipfile

import numpy as np
import pytest
import trimesh

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.atlas import CHARTED, unwrap
from nebrel.core.mesh.formats import read_mesh, write_textured
from nebrel.core.mesh.texture import bake, corner_colours_at
from nebrel.core.proof.texture_audit import texture_error
from tests.core.skins import block, sphere

PX = 512


def by_place(points: np.ndarray, _faces: np.ndarray) -> np.ndarray:
    """Red grows along x, green along y, blue along z."""
    return np.round(np.clip((points + 40) / 80, 0, 1) * 255).astype(np.uint8)


@pytest.fixture(scope="module")
def ball() -> TriMesh:
    return sphere(120)


@pytest.fixture(scope="module")
def painted(ball):
    return bake(ball, unwrap(ball, PX), by_place)


class TestLayout:
    @pytest.mark.parametrize("mesh", [block(), sphere(48), sphere(120)], ids=["block", "light", "heavy"])
    def test_lies_within_the_picture(self, mesh):
        atlas = unwrap(mesh, PX)
        assert atlas.places.shape == (len(mesh.faces), 3, 2)
        assert atlas.places.min() >= 0
        assert atlas.places.max() <= 1
        assert max(atlas.size_px) == PX

    def test_no_two_places_of_the_surface_share_a_texel(self, ball):
        assert len(ball.faces) > CHARTED
        atlas = unwrap(ball, PX)
        seen = bake(ball, atlas, lambda _, faces: np.column_stack([faces >> 16, faces >> 8, faces]).astype(np.uint8))
        assert texture_error(ball, bake(ball, atlas, by_place), by_place) < 0.004
        assert len(np.unique(seen.image.reshape(-1, 3), axis=0)) > 0.9 * len(ball.faces)

    def test_even_surfaces_are_about_evenly_large_in_it(self, ball):
        at = unwrap(ball, PX).places
        one, other = at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]
        in_picture = np.abs(one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0])
        corners = ball.corners
        there = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
        share = in_picture / there
        assert np.percentile(share, 90) < 3 * np.percentile(share, 10)


class TestPaint:
    def test_is_seen_where_it_was_asked(self, ball, painted):
        assert texture_error(ball, painted, by_place) < 0.004

    def test_that_was_not_asked_is_told(self, ball, painted):
        assert texture_error(ball, painted, lambda points, _: np.zeros((len(points), 3), np.uint8)) > 0.3

    def test_goes_on_between_charts(self, painted):
        assert (painted.image.sum(axis=2) > 0).all()

    def test_of_corners_is_between_their_colours(self):
        mesh = block()
        tints = np.zeros((len(mesh.faces), 3, 4), dtype=np.uint8)
        tints[:, 0], tints[:, 1], tints[:, 2] = (255, 0, 0, 255), (0, 255, 0, 255), (0, 0, 255, 255)
        coloured = TriMesh(mesh.vertices, mesh.faces, corner_colours=tints)
        faces = np.arange(len(mesh.faces))
        middle = corner_colours_at(coloured, mesh.corners.mean(axis=1), faces)[:, :3]
        assert np.abs(middle.astype(int) - 85).max() <= 1
        assert (corner_colours_at(coloured, mesh.corners[:, 1].copy(), faces) == [0, 255, 0, 255]).all()


class TestFiles:
    def test_glb_shows_the_colours_in_another_reader(self, ball, painted):
        held = io.BytesIO()
        write_textured(ball, painted, held, "glb")
        scene = trimesh.load_scene(io.BytesIO(held.getvalue()), file_type="glb", process=False)
        (found,) = scene.geometry.values()
        assert len(found.faces) == len(ball.faces)
        seen = found.visual.to_color().vertex_colors[:, :3].astype(int)
        asked = by_place(found.vertices * 1000, None).astype(int)
        assert np.abs(seen - asked).mean() < 3

    def test_glb_is_read_back_as_the_same_solid(self, ball, painted):
        held = io.BytesIO()
        write_textured(ball, painted, held, "glb")
        back = read_mesh(held.getvalue(), "ball.glb").mesh
        assert len(back.vertices) == len(ball.vertices)
        assert len(back.faces) == len(ball.faces)
        asked = by_place(back.vertices, None).astype(int)
        assert np.abs(back.colours[:, :3].astype(int) - asked).mean() < 4

    def test_obj_comes_with_its_materials_and_its_picture(self, ball, painted):
        held = io.BytesIO()
        write_textured(ball, painted, held, "obj", name="ball")
        package = zipfile.ZipFile(held)
        assert sorted(package.namelist()) == ["ball.mtl", "ball.obj", "ball.png"]
        assert b"map_Kd ball.png" in package.read("ball.mtl")
        files = {name: package.read(name) for name in package.namelist()}
        back = read_mesh(files["ball.obj"], "ball.obj", "mm", files.get).mesh
        assert len(back.faces) == len(ball.faces)
        asked = by_place(back.vertices, None).astype(int)
        assert np.abs(back.colours[:, :3].astype(int) - asked).mean() < 4
