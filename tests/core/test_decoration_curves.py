"""Pictures on a skin whose depths jump: walls along curves, true on both sides, on every kind of skin."""

from dataclasses import replace

import numpy as np
import pytest

from nebrel.core.picture.picture import Picture, SourceFacts
from nebrel.core.proof import check_soundness
from nebrel.core.proof.skin_audit import decoration_findings
from nebrel.core.surface import decorate
from nebrel.core.surface.art import Art, Setting, art_cells, art_of_picture
from nebrel.core.surface.pick import Pick
from nebrel.core.surface.scatter.copies import Copies
from tests.core.skins import RADIUS, UP, block, cylinder, lay, sphere

TOLERANCE = 0.01
FACTS = SourceFacts("made", 0, 0, 32, "gray")
SHAPE, WIDTH = (90, 120), 24.0
PITCH = WIDTH / (SHAPE[1] - 1)
MIDDLE, OUTER, INNER = (58.6, 44.3), 31.0, 14.0


def rings(slope: float = 0.0) -> np.ndarray:
    """A disc on a disc, with soft edges, on a ground of nothing; both may slope to the right."""
    fine = 6
    x = (np.arange(SHAPE[1] * fine) + 0.5) / fine - 0.5
    y = ((np.arange(SHAPE[0] * fine) + 0.5) / fine - 0.5)[:, np.newaxis]
    away = np.hypot(x - MIDDLE[0], y - MIDDLE[1])
    tones = np.where(away < INNER, 1.0, np.where(away < OUTER, 0.5, 0.0)) * (1 + slope * (x / (SHAPE[1] * 1.0) - 1))
    return tones.reshape(SHAPE[0], fine, SHAPE[1], fine).mean(axis=(1, 3)).astype(np.float32)


def art_of(tones: np.ndarray, from_gray: bool = False) -> Art:
    return art_of_picture(Picture(tones, np.ones_like(tones), FACTS), WIDTH, "bright", from_gray)


SKINS = {
    "block": (block, (30, 20, 20), "follow", (0.0, 1.0, 0.0)),
    "cylinder": (cylinder, (RADIUS, 0, 30), "wrap", (0.0, 0.0, 1.0)),
    "sphere": (sphere, (RADIUS, 0, 0), "follow", (0.0, 0.0, 1.0)),
}


@pytest.mark.parametrize("depth", [1.0, -0.8])
@pytest.mark.parametrize("name", SKINS)
def test_depths_are_true_on_both_sides_of_walls(name, depth):
    made, at, lie, up = SKINS[name]
    art = art_of(rings(slope=0.4))
    curved = lay(made(), at, art, Setting(depth), lie=lie, up=up)
    stepped = lay(made(), at, art, Setting(depth, curves=False), lie=lie, up=up)
    assert check_soundness(curved.mesh).sound
    assert curved.deviation.max < 2 * TOLERANCE
    assert stepped.deviation.rms > curved.deviation.rms
    assert len(curved.mesh.faces) < len(stepped.mesh.faces)


def test_walls_stand_on_circles():
    decorated = lay(block(), (30, 20, 20), art_of(rings()), Setting(1.0), up=(0, 1, 0))
    corners = decorated.mesh.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    upright = np.abs(normals[:, 2]) < 1e-4 * np.linalg.norm(normals, axis=1)
    places = corners[upright & (corners[:, :, 2].min(axis=1) >= 20 - 1e-4)].reshape(-1, 3)
    middle = np.array([30 + (MIDDLE[0] - 59.5) * PITCH, 20 - (MIDDLE[1] - 44.5) * PITCH])
    away = np.linalg.norm(places[:, :2] - middle, axis=1) / PITCH
    off = np.minimum(np.abs(away - OUTER), np.abs(away - INNER))
    assert len(off) > 200
    assert np.sqrt(np.mean(off**2)) < 0.1
    assert off.max() < 0.5


def test_every_copy_has_them():
    made, at, lie, up = SKINS["cylinder"]
    decorated = lay(made(), at, art_of(rings()), Setting(0.6), copies=Copies("ring", 3), lie=lie, up=up)
    assert decorated.outcomes[0].copies == 3
    assert decorated.deviation.max < 2 * TOLERANCE
    assert check_soundness(decorated.mesh).sound


def test_they_keep_to_what_is_picked():
    pick = Pick("brush", np.array([[30.0, 20.0, 20.0]]), radius=5.0)
    decorated = lay(block(), (30, 20, 20), art_of(rings()), Setting(1.0), up=(0, 1, 0), pick=pick)
    moved = decorated.mesh.vertices[decorated.mesh.vertices[:, 2] > 20.01]
    assert np.linalg.norm(moved[:, :2] - [30, 20], axis=1).max() < 5.1
    assert decorated.deviation.max < 2 * TOLERANCE


def test_both_ways_from_gray_on_a_sphere():
    made, at, lie, up = SKINS["sphere"]
    decorated = lay(made(), at, art_of(rings(), from_gray=True), Setting(0.7), lie=lie, up=up)
    assert decorated.added_mm3 > 0
    assert decorated.removed_mm3 > 0
    assert decorated.deviation.max < 2 * TOLERANCE


def test_parts_are_the_ground_the_ring_and_the_disc():
    cells = art_cells(art_of(rings()), Setting(1.0), TOLERANCE)
    areas = sorted(cell.region.area for cell in cells)
    disc, ring = np.pi * INNER**2 * PITCH**2, np.pi * (OUTER**2 - INNER**2) * PITCH**2
    assert areas == pytest.approx([disc, ring, WIDTH * PITCH * (SHAPE[0] - 1) - disc - ring], rel=0.01)


@pytest.mark.parametrize("what", ["noise", "slope", "texture", "colour", "off"])
def test_nothing_is_parted_where_nothing_has_an_edge(what):
    noise = np.random.default_rng(1).uniform(0, 1, SHAPE).astype(np.float32)
    slope = np.linspace(0, 1, SHAPE[1], dtype=np.float32) * np.ones((SHAPE[0], 1), dtype=np.float32)
    tones = {"noise": noise, "slope": slope}.get(what, rings())
    setting = Setting(1.0, tiled=what == "texture", flat=what == "colour", curves=what != "off")
    assert art_cells(art_of(tones), setting, TOLERANCE) == ()


def test_up_is_up():
    """What stands on top of the picture lies on top of the skin."""
    tones = np.zeros(SHAPE, dtype=np.float32)
    tones[10:30, 40:80] = 1.0
    decorated = lay(cylinder(), (RADIUS, 0, 30), art_of(tones), Setting(1.0), lie="wrap", up=UP)
    radii = np.linalg.norm(decorated.mesh.vertices[:, :2], axis=1)
    assert decorated.mesh.vertices[radii > RADIUS + 0.9, 2].min() > 30


def test_where_curves_are_less_true_walls_follow_pixels(monkeypatch):
    measured = decorate.measure_depths

    def worse_with_parts(skin, laid, mesh, decorated):
        found = measured(skin, laid, mesh, decorated)
        return replace(found, max=1.0, rms=0.5) if any(each.parts for each in laid) else found

    monkeypatch.setattr(decorate, "measure_depths", worse_with_parts)
    made = lay(block(), (30, 20, 20), art_of(rings()), Setting(1.0), up=(0, 1, 0))
    assert made.uncurved
    assert made.deviation.rms < 0.5
    found = decoration_findings(made, ["rings"], 0.8, TOLERANCE)
    assert any(finding.measure == "uncurved" for finding in found)
