"""Rings, vases and bowls: skin that a lathe could have made is found, and decorations go round it."""

from itertools import product

import manifold3d
import numpy as np
import pytest

from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume
from nebrel.core.surface.art import Setting
from nebrel.core.surface.parameterize.turned import turned_at
from nebrel.core.surface.scatter.copies import Copies, copies_of
from nebrel.core.surface.skin.patch import smooth_round
from nebrel.core.surface.skin.skin import place_on, skin_of
from tests.core.skins import ROUND, TUBE, UP, band, block, box_art, lay, mesh_of, sound
from tests.trials import deep_but

MIDDLE, BELLY = 35.0, 8.0


def radius(height: float) -> float:
    return 24 + BELLY * np.sin(height / 90 * 5.6)


def vase(sides: int, rings: int) -> TriMesh:
    heights = np.linspace(0, 90, rings)
    section = manifold3d.CrossSection([np.array([(0.0, 0.0), *((radius(h), h) for h in heights), (0.0, 90.0)])])
    return mesh_of(manifold3d.Manifold.revolve(section, sides))


def turned_over(mesh: TriMesh) -> tuple[TriMesh, np.ndarray, np.ndarray]:
    """The same turned and moved anyhow, with the rotation and the shift."""
    one, two = np.linalg.qr(np.random.default_rng(5).normal(size=(3, 3)))[0], np.array([12.0, -40.0, 7.0])
    one *= np.sign(np.linalg.det(one))
    return TriMesh(mesh.vertices @ one.T + two, mesh.faces), one, two


def part_at(mesh: TriMesh, at):
    skin = skin_of(mesh)
    place = place_on(skin, np.asarray(at, dtype=float))
    return turned_at(skin, place, smooth_round(skin, place.face, 36.0)), skin, place


@pytest.mark.parametrize(("sides", "rings"), [(24, 12), (160, 90)])
def test_axis_radius_and_profile_are_found_however_it_stands(sides, rings):
    mesh, turn, shift = turned_over(vase(sides, rings))
    at = turn @ (radius(MIDDLE), 0, MIDDLE) + shift
    found, skin, _ = part_at(mesh, at)
    assert abs(found.axis @ turn[:, 2]) == pytest.approx(1, abs=1e-6)
    off = found.centre - shift
    assert np.linalg.norm(off - (off @ turn[:, 2]) * turn[:, 2]) < 0.02
    assert found.radius == pytest.approx(radius(MIDDLE), rel=0.01)
    assert not found.closed
    # The wall of the vase, without its foot and its rim.
    assert len(found.faces) == len(skin.faces) - 2 * sides


def test_a_ring_comes_round_and_is_cut_opposite_to_the_place():
    found, skin, _ = part_at(band(), (ROUND + TUBE, 0, 0))
    assert found.closed
    long = 2 * np.pi * TUBE
    assert np.abs(found.along).max() <= long / 2 + 0.3
    assert len(found.faces) > 0.98 * len(skin.faces)


def test_what_no_lathe_made_is_none():
    assert part_at(block(), (60, 20, 10))[0] is None
    squashed = band()
    assert part_at(TriMesh(squashed.vertices * (1, 0.6, 1), squashed.faces), (34, 0, 0))[0] is None
    ball = mesh_of(manifold3d.Manifold.sphere(20, 80))
    assert part_at(ball, (20, 0, 0))[0] is None


PLACES = {
    "outside of a ring": (band, (ROUND + TUBE, 0, 0), ROUND + TUBE, UP),
    "top of a ring": (band, (ROUND, 0, TUBE), ROUND, (1, 0, 0)),
    "inside of a ring": (band, (ROUND - TUBE, 0, 0), ROUND - TUBE, UP),
    "coarse vase": (lambda: vase(24, 12), (radius(MIDDLE), 0, MIDDLE), radius(MIDDLE), UP),
    "fine vase": (lambda: vase(160, 90), (radius(MIDDLE), 0, MIDDLE), radius(MIDDLE), UP),
}


@pytest.mark.parametrize(
    ("name", "lie", "share"),
    deep_but(
        product(PLACES, ("follow", "wrap"), (0.5, 0.95)),
        [
            ("outside of a ring", "follow", 0.95),
            ("top of a ring", "wrap", 0.95),
            *product(("coarse vase", "fine vase"), ("follow", "wrap"), (0.95,)),
        ],
    ),
)
def test_decorations_go_round_as_far_as_asked(name, lie, share):
    made, at, wide_at, up = PLACES[name]
    wide = share * 2 * np.pi * wide_at
    mesh = made()
    decorated = lay(mesh, at, box_art(wide, 6), Setting(0.5), lie=lie, up=up)
    assert sound(decorated.mesh)
    layout = decorated.outcomes[0].layout
    assert layout.laid_mm == pytest.approx((wide, 6), rel=1e-3)
    assert layout.area == pytest.approx(1, abs=0.015)
    assert layout.missing < 1e-3 and layout.twice < 1e-3
    assert volume(decorated.mesh) - volume(mesh) == pytest.approx(0.5 * wide * 6, rel=0.06)


def test_it_looks_along_the_axis_the_way_that_is_up():
    """Told by the finished mesh alone: higher up on the vase is what was drawn higher."""
    mesh = vase(160, 90)
    bar = box_art(0.9 * 2 * np.pi * radius(MIDDLE), 6)
    for up in (UP, -UP):
        decorated = lay(mesh, (radius(MIDDLE), 0, MIDDLE), bar, Setting(0.5), lie="wrap", up=up)
        out = decorated.mesh.vertices
        raised = np.hypot(out[:, 0], out[:, 1]) > np.array([radius(h) for h in out[:, 2]]) + 0.3
        assert (out[raised, 2].min(), out[raised, 2].max()) == pytest.approx((MIDDLE - 3, MIDDLE + 3), abs=0.4)


def test_copies_go_round_its_own_axis():
    mesh, turn, shift = turned_over(vase(160, 90))
    skin = skin_of(mesh)
    place = place_on(skin, turn @ (radius(MIDDLE), 0, MIDDLE) + shift)
    copies = copies_of(skin, place, turn @ UP, Copies("ring", 5))
    assert len(copies) == 5
    for copy in copies:
        there = turn.T @ (copy.place.point - shift)
        assert there[2] == pytest.approx(MIDDLE, abs=0.02)
        assert np.hypot(*there[:2]) == pytest.approx(radius(MIDDLE), abs=0.02)


def test_what_is_no_such_skin_says_so():
    rough = vase(160, 90)
    lumps = np.random.default_rng(2).normal(0, 1.5, len(rough.vertices))
    soft = TriMesh(rough.vertices + lumps[:, None] * (1, 0.3, 0), rough.faces)
    with pytest.raises(BadValueError, match="nor turned round an axis"):
        lay(soft, (radius(MIDDLE), 0, MIDDLE), box_art(20, 6), Setting(0.5), lie="wrap")
