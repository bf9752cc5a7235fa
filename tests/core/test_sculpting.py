"""The brush on decorated skin, and on any model."""

from dataclasses import replace

import numpy as np
import pytest

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume
from nebrel.core.proof import check_soundness
from nebrel.core.surface.art import Setting
from nebrel.core.surface.displace.sculpt import BrushStroke, Tool, sculpt
from nebrel.core.surface.outcome import Decorated
from tests.core.skins import RADIUS, block, box_art, cylinder, disc_art, lay


@pytest.fixture(scope="module")
def plate() -> Decorated:
    """A round plate of 18 mm, 2 mm high, on a block."""
    return lay(block(), (30, 20, 20), disc_art(18), Setting(2.0), up=(0, 1, 0))


def stroke(tool: Tool, *places: tuple[float, float, float], radius: float = 5.0, strength: float = 0.8) -> BrushStroke:
    return BrushStroke(tool, np.array(places, dtype=float), radius, strength)


def check_corner(mesh: TriMesh, place: np.ndarray) -> float:
    """The sharpest angle between faces that meet in vertices within half a mm of a place, degrees."""
    corners = mesh.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    near = np.flatnonzero(np.linalg.norm(mesh.vertices - place, axis=1) < 0.8)
    sharpest = 0.0
    for vertex in near:
        around = normals[(mesh.faces == vertex).any(axis=1)]
        sharpest = max(sharpest, float(np.degrees(np.arccos(np.clip(around @ around.T, -1, 1))).max()))
    return sharpest


def is_sound(mesh: object) -> bool:
    found = check_soundness(mesh)  # type: ignore[arg-type]
    return found.closed and found.manifold and found.outward and not found.self_crossings and not found.degenerate_faces


@pytest.mark.parametrize("tool", ["smooth", "raise", "lower", "flatten"])
def test_every_tool_leaves_a_sound_solid_and_the_rest_as_it_was(plate, tool):
    result = sculpt(plate.mesh, plate.of_decoration > 0, [stroke(tool, (36, 20, 22), (38, 22, 22))])
    assert not result.left_out
    assert is_sound(result.mesh)
    kept = {corners.tobytes() for corners in result.mesh.corners}
    assert all(corners.tobytes() in kept for corners in plate.mesh.corners[: plate.untouched])


def test_raising_adds_and_lowering_takes_off(plate):
    for tool, sign in (("raise", 1), ("lower", -1)):
        result = sculpt(plate.mesh, plate.of_decoration > 0, [stroke(tool, (30, 20, 22))])  # type: ignore[arg-type]
        change = volume(result.mesh) - volume(plate.mesh)
        # A bell of a third of its cylinder, 8 % of the radius high.
        assert change == pytest.approx(sign * 0.8 * 0.08 * 5 * np.pi * 25 / 3, rel=0.1)
        assert abs(result.mesh.vertices[:, 2].max() - (22 + (0.32 if sign > 0 else 0))) < 0.02


def test_smoothing_rounds_an_edge(plate):
    edge = [(39, 20, 22)]
    result = sculpt(plate.mesh, plate.of_decoration > 0, [stroke("smooth", *edge, radius=3)] * 3)
    assert is_sound(result.mesh)
    angles = [
        check_corner(mesh, np.array(edge[0])) for mesh in (plate.mesh, result.mesh)
    ]  # fmt: skip
    assert angles[0] == pytest.approx(90, abs=1)
    assert angles[1] < 65
    assert volume(plate.mesh) - 3 < volume(result.mesh) < volume(plate.mesh) - 0.1


def test_flattening_brings_places_towards_one_plane(plate):
    bumped = sculpt(plate.mesh, plate.of_decoration > 0, [stroke("raise", (30, 20, 22), radius=3)] * 3)
    owned = (plate.of_decoration > 0)[bumped.of_face]
    flat = sculpt(bumped.mesh, owned, [stroke("flatten", (30, 20, 22.5), radius=5, strength=1.0)] * 2)
    spread = [
        np.ptp(mesh.vertices[np.linalg.norm(mesh.vertices[:, :2] - [30, 20], axis=1) < 2.5][:, 2].clip(21.5))
        for mesh in (bumped.mesh, flat.mesh)
    ]
    assert spread[1] < 0.6 * spread[0]


def test_outside_decorations_the_brush_does_nothing(plate):
    result = sculpt(plate.mesh, plate.of_decoration > 0, [stroke("raise", (5, 5, 20), radius=3)])
    assert np.array_equal(result.mesh.vertices, plate.mesh.vertices)


def test_a_stroke_that_would_cross_is_weakened_or_left_out():
    made = lay(cylinder(), (RADIUS, 0, 30), box_art(20, 0.6), Setting(0.4))
    strokes = [stroke("lower", (RADIUS + 0.4, 0, 30), radius=60, strength=1.0)]
    result = sculpt(made.mesh, made.of_decoration > 0, strokes)
    assert is_sound(result.mesh)


class TestOnAnyModel:
    """Strokes where nothing was laid on."""

    @staticmethod
    def brushed(mesh: TriMesh, *strokes: BrushStroke) -> TriMesh:
        result = sculpt(mesh, np.ones(len(mesh.faces), dtype=bool), list(strokes))
        assert not result.left_out
        assert is_sound(result.mesh)
        return result.mesh

    @pytest.mark.parametrize("amount", [0.4, 1.5])
    def test_raising_by_so_much_raises_by_that(self, amount):
        made = self.brushed(block(), BrushStroke("raise", np.array([[30.0, 20, 20]]), 6.0, 0.1, amount, beside=True))
        assert made.vertices[:, 2].max() == pytest.approx(20 + amount, abs=0.02)

    @pytest.mark.parametrize("profile", ["V", "U", "bead"])
    def test_a_line_has_its_profile_all_along(self, profile):
        way = np.array([[15.0, 20, 20], [45.0, 20, 20]])
        made = self.brushed(block(), BrushStroke("carve", way, 3.0, 1.0, 1.2, profile))
        top = made.vertices[(made.vertices[:, 2] > 18) & (np.abs(made.vertices[:, 0] - 30) < 12)]
        aside = np.minimum(np.abs(top[:, 1] - 20) / 3.0, 1.0)
        shape = {"V": 1 - aside, "U": 1 - aside**4, "bead": np.sqrt(1 - aside**2)}[profile]
        wanted = 20 + (1.2 if profile == "bead" else -1.2) * shape
        assert np.abs(top[:, 2] - wanted).max() < 0.15
        assert abs(top[:, 2].min() - 18.8) < 0.1 or profile == "bead"

    def test_a_line_round_a_can_goes_in_where_it_is(self):
        turn = np.radians(np.arange(-60, 61, 3))
        way = np.column_stack([RADIUS * np.cos(turn), RADIUS * np.sin(turn), np.full(len(turn), 30.0)])
        made = self.brushed(cylinder(), BrushStroke("carve", way, 2.0, 1.0, 0.8, "U"))
        angle, radius = np.arctan2(made.vertices[:, 1], made.vertices[:, 0]), np.hypot(*made.vertices[:, :2].T)
        middle = (np.abs(made.vertices[:, 2] - 30) < 0.25) & (np.abs(angle) < np.radians(50)) & (radius > RADIUS / 2)
        assert middle.sum() > 40
        assert np.abs(radius[middle] - (RADIUS - 0.8)).max() < 0.12

    def test_a_line_by_itself_is_as_deep_as_its_brush_suggests_whatever_the_strength(self):
        way = np.array([[15.0, 20, 20], [45.0, 20, 20]])
        depths = [
            20 - made.vertices[(made.vertices[:, 2] > 15) & (np.abs(made.vertices[:, 0] - 30) < 12), 2].min()
            for made in (self.brushed(block(), BrushStroke("carve", way, 3.0, strength)) for strength in (0.1, 1.0))
        ]
        assert depths == pytest.approx([1.2, 1.2], abs=0.05)

    def test_a_pull_takes_the_surface_along(self):
        made = self.brushed(block(), stroke("pull", (30, 20, 20), (30, 20, 23), radius=6, strength=1.0))
        assert made.vertices[:, 2].max() == pytest.approx(23, abs=0.05)
        assert np.hypot(*(made.vertices[made.vertices[:, 2] > 20.05][:, :2] - [30, 20]).T).max() < 6.05

    def test_sharpening_makes_a_ridge_steeper(self):
        bump = self.brushed(block(), BrushStroke("raise", np.array([[30.0, 20, 20]]), 6.0, 1.0, 1.0))
        made = self.brushed(bump, stroke("sharpen", (30, 20, 21), radius=5, strength=1.0))
        assert made.vertices[:, 2].max() > bump.vertices[:, 2].max() + 0.02

    def test_a_pen_that_presses_less_does_less(self):
        way = np.array([[20.0, 20, 20], [40.0, 20, 20]])
        made = self.brushed(block(), BrushStroke("raise", way, 3.0, 1.0, 1.0, pressure=np.array([1.0, 0.2])))
        at = [
            made.vertices[np.linalg.norm(made.vertices[:, :2] - [x, 20], axis=1) < 0.6][:, 2].max() - 20
            for x in (20.5, 39.5)
        ]
        assert at[0] > 0.85
        assert at[1] < 0.35

    def test_every_stroke_keeps_to_its_own_faces(self):
        mesh = block()
        normals = np.cross(mesh.corners[:, 1] - mesh.corners[:, 0], mesh.corners[:, 2] - mesh.corners[:, 0])
        top = normals[:, 2] > 0.9 * np.linalg.norm(normals, axis=1)
        edge = replace(stroke("raise", (30, 0.5, 20), radius=4, strength=1.0), beside=True)
        result = sculpt(mesh, np.stack([top, ~top]), [edge, edge])
        assert is_sound(result.mesh)
        assert result.mesh.vertices[:, 2].max() > 20.05
        assert result.mesh.vertices[:, 1].min() < -0.02
        alone = sculpt(mesh, top, [edge]).mesh
        assert alone.vertices[:, 1].min() == pytest.approx(0.0)
