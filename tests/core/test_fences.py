"""Regions that a hand encircled or painted, and strokes that keep to them."""

from dataclasses import replace

import numpy as np
import pytest

from nebrel.core.mesh import TriMesh
from nebrel.core.proof import check_soundness
from nebrel.core.surface.displace.fence import Fence, fence_round
from nebrel.core.surface.displace.sculpt import BrushStroke, sculpt
from nebrel.core.surface.skin.skin import skin_of
from tests.core.skins import block, cylinder


def loop_over_top(middle: tuple[float, float], radius: float, top: float = 20.0, count: int = 60) -> np.ndarray:
    turn = np.linspace(0, 2 * np.pi, count, endpoint=False)
    return np.column_stack([middle[0] + radius * np.cos(turn), middle[1] + radius * np.sin(turn), np.full(count, top)])


def brushed(mesh: TriMesh, fence: Fence, place: tuple[float, float, float], radius: float = 12.0) -> TriMesh:
    stroke = BrushStroke("raise", np.array([place]), radius, 1.0, amount=1.0, beside=True, fence=fence)
    made = sculpt(mesh, fence.faces, [stroke])
    assert not made.left_out
    return made.mesh


@pytest.mark.parametrize("way", [1, -1])
def test_a_loop_holds_what_is_within_it_on_faces_much_larger_than_itself(way):
    mesh = block()
    fence = fence_round(skin_of(mesh), loop_over_top((30, 20), 6.0)[::way])
    after = brushed(mesh, fence, (30, 20, 20))
    moved = after.vertices[after.vertices[:, 2] > 20.001]
    away = np.linalg.norm(moved[:, :2] - [30, 20], axis=1)
    assert away.max() <= 6.0
    # It fades out over less than a third of the brush, so half way in all of it is there.
    assert moved[:, 2].max() == pytest.approx(21.0, abs=0.02)
    assert away.max() > 4.5
    found = check_soundness(after)
    assert found.sound, found


def test_what_is_painted_is_held_as_near_as_the_brush_was():
    mesh = block()
    painted = np.array([(24.0, 20.0, 20.0), (27, 20, 20), (30, 20, 20), (33, 20, 20)])
    after = brushed(mesh, fence_round(skin_of(mesh), painted, 3.0), (28, 20, 20))
    moved = after.vertices[after.vertices[:, 2] > 20.001]
    away = np.linalg.norm(moved[:, np.newaxis, :2] - painted[:, :2], axis=2).min(axis=1)
    assert 1.5 < away.max() <= 3.0
    assert check_soundness(after).sound


def test_what_lies_behind_a_loop_is_not_held():
    mesh = cylinder()
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    middle, front = (low + high) / 2, low[1]
    turn = np.linspace(0, 2 * np.pi, 40, endpoint=False)
    loop = np.column_stack([middle[0] + 4 * np.cos(turn), np.full(40, front), middle[2] + 4 * np.sin(turn)])
    held = mesh.corners[fence_round(skin_of(mesh), loop).faces]
    assert len(held)
    assert held[..., 1].min(axis=1).max() < middle[1]


def test_a_line_that_encloses_nothing_holds_nothing():
    there_and_back = np.array([(20.0, 20, 20), (30, 20, 20), (40, 20, 20), (30, 20, 20)])
    fence = fence_round(skin_of(block()), there_and_back)
    assert not fence.faces.any()
    same = sculpt(block(), fence.faces, [replace(BrushStroke("raise", there_and_back, 5.0, 1.0), fence=fence)])
    assert np.array_equal(same.mesh.vertices, block().vertices)
