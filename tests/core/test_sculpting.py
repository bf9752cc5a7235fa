"""The brush on decorated skin."""

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
