"""What a standing solid touches the bed with, on rings whose edges lean by known angles."""

import manifold3d
import numpy as np
import pytest

from nebrel.core.proof.contact import contact_of
from tests.core.skins import mesh_of


def leaning_ring(lean_deg: float, wall: float = 2.0, radius: float = 30.0) -> "manifold3d.Manifold":
    """A cone's wall whose lower edge is square to it, so that it touches along a line."""
    out = np.array([np.sin(np.radians(lean_deg)), np.cos(np.radians(lean_deg))])
    across = np.array([out[1], -out[0]])
    corners = [np.array([radius, 0.0]) + a * out + b * across for a, b in ((0, 0), (0, wall), (20, wall), (20, 0))]
    return manifold3d.Manifold.revolve(manifold3d.CrossSection([np.array(corners)]), 256)


@pytest.mark.parametrize("lean", [10, 30, 50])
def test_a_leaning_edge_touches_along_a_line_until_enough_is_cut_off(lean):
    found = contact_of(mesh_of(leaning_ring(lean)), 0.84)
    assert found.width < 0.2
    # The edge rises by its sine; the wall's other side by its cotangent.
    slope = np.radians(lean)
    width = found.cut / np.tan(slope) + found.cut * np.tan(slope)
    assert found.cut is not None
    assert min(width, 2 / np.cos(slope)) >= 0.8
    shorter = found.cut - 0.2
    assert shorter / np.tan(slope) + shorter * np.tan(slope) < 0.9


def test_what_stands_flat_needs_no_cut():
    found = contact_of(mesh_of(leaning_ring(0)), 0.84)
    assert found.width == pytest.approx(2, rel=1e-3)
    assert found.cut is None


def test_a_ball_is_given_a_flat():
    found = contact_of(mesh_of(manifold3d.Manifold.sphere(20, 256)), 2.0)
    assert found.width < 2.0
    assert found.cut is not None and found.cut <= 0.4
