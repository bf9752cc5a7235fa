"""Walls of lithophanes along curves: closed on every form, and where the picture has its edges."""

import numpy as np
import pytest

from nebrel.core.bent import lithophane
from nebrel.core.bent.bend import is_out_of_place
from nebrel.core.bent.forms import Form
from nebrel.core.bent.lined import lined
from nebrel.core.bent.lithophane import MadeLithophane, make_lithophane
from nebrel.core.bent.parts import Foot, WallParts
from nebrel.core.bent.sheet import Sheet
from nebrel.core.proof import check_soundness
from nebrel.core.proof.edge_audit import audit_edges
from tests.core.test_lithophanes import FORMS, RIM, TOLERANCE, sheet_for

COLUMNS, ROWS = 200, 130
RADIUS_PX = 22.0
MIDDLE_PX = ((COLUMNS - 1) / 2 + 17.3, 94.4)


def disc_with_bar() -> np.ndarray:
    """Thicknesses with the soft edge of a disc, and a bar that runs out of the picture on top."""
    fine = 8
    x = (np.arange(COLUMNS * fine) + 0.5) / fine - 0.5
    y = ((np.arange(ROWS * fine) + 0.5) / fine - 0.5)[:, np.newaxis]
    shown = np.hypot(x - MIDDLE_PX[0], y - MIDDLE_PX[1]) < RADIUS_PX
    shown |= (np.abs(x - 40.2 - 0.3 * y) < 9) & (y < 70)
    cover = shown.reshape(ROWS, fine, COLUMNS, fine).mean(axis=(1, 3))
    return (RIM - 2.2 * cover).astype(np.float32)


def lined_sheet(form: Form, inside: bool = False) -> tuple[Sheet, Sheet]:
    plain = sheet_for(form, inside, disc_with_bar())
    return plain, lined(plain, form, TOLERANCE).sheet


def made(sheet: Sheet, form: Form, inside: bool, parts: WallParts | None = None) -> MadeLithophane:
    return make_lithophane(sheet, form, inside, RIM, parts or WallParts(), TOLERANCE)


def unrolled(form: Form, solid: MadeLithophane) -> np.ndarray:
    return form.unrolled(is_out_of_place(form, solid.mesh.vertices - solid.shift))


def on_walls(form: Form, solid: MadeLithophane) -> np.ndarray:
    """Corners of upright triangles of the unrolled solid."""
    places = unrolled(form, solid)
    corners = places[solid.mesh.faces.astype(np.int64)]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    upright = np.abs(normal[:, 2]) < 1e-3 * np.linalg.norm(normal, axis=1)
    return corners[upright].reshape(-1, 3)


@pytest.mark.parametrize("inside", [False, True], ids=["outside", "inside"])
@pytest.mark.parametrize("name", FORMS)
def test_walls_along_curves_are_closed_on_every_form(name, inside):
    form = FORMS[name]
    plain, walled = lined_sheet(form, inside)
    assert walled.lines is not None
    solid, before = made(walled, form, inside), made(plain, form, inside)
    soundness = check_soundness(solid.mesh)
    assert soundness.sound, soundness.findings
    assert soundness.shells == 1
    assert solid.deviation.max <= TOLERANCE
    assert len(solid.mesh.faces) <= 1.02 * len(before.mesh.faces)
    # The least thickness comes right up to the wall, so the solid differs by less than the slope of an edge holds.
    assert soundness.volume_mm3 == pytest.approx(check_soundness(before.mesh).volume_mm3, rel=0.01)


@pytest.mark.parametrize("name", ["flat", "arc", "cylinder", "cone", "sphere"])
def test_the_wall_of_a_disc_is_a_circle_on_the_sheet(name):
    form = FORMS[name]
    _, walled = lined_sheet(form)
    places = on_walls(form, made(walled, form, False))
    middle = np.array(
        [
            np.interp(MIDDLE_PX[0] * walled.pitch + walled.window[0], walled.u, walled.u),
            walled.picture_low + (ROWS - 1 - MIDDLE_PX[1]) * walled.pitch,
        ]
    )
    away = np.linalg.norm(places[:, :2] - middle, axis=1) / walled.pitch - RADIUS_PX
    on_wall = np.abs(away) < 1.5
    assert on_wall.sum() > 60
    assert np.sqrt(np.mean(away[on_wall] ** 2)) < 0.1
    assert np.abs(away[on_wall]).max() < 0.5


def test_the_audit_finds_the_walls_of_a_bent_sheet():
    form = FORMS["cylinder"]
    _, walled = lined_sheet(form)
    solid = made(walled, form, False)
    column, row = walled.lines.shown.T
    shown = np.column_stack(
        [
            np.interp(column, np.arange(len(walled.u)), walled.u),
            np.interp(row, np.arange(len(walled.v)), walled.v),
        ]
    )
    places = unrolled(form, solid)
    faces = solid.mesh.faces[np.ptp(places[:, 0][solid.mesh.faces], axis=1) < form.width / 2]
    found = audit_edges(type(solid.mesh)(places, faces), shown, walled.pitch, 1e-3)
    # Those of the disc, and both sides of the bar.
    assert found.walls > 2 * np.pi * RADIUS_PX * walled.pitch
    assert found.max < 0.5 * walled.pitch


def test_walls_go_with_a_foot():
    form = FORMS["arc"]
    _, walled = lined_sheet(form)
    assert check_soundness(made(walled, form, False, WallParts(foot=Foot(20.0, 3.0))).mesh).sound


def test_what_is_worse_with_lines_is_made_without(monkeypatch):
    form = FORMS["cylinder"]
    plain, walled = lined_sheet(form)
    monkeypatch.setattr(lithophane, "crossing_pairs", lambda _mesh, _most: np.zeros((1, 2), dtype=np.int64))
    solid = make_lithophane(walled, form, False, RIM, WallParts(), TOLERANCE, unlined=plain)
    assert solid.unlined
    assert len(solid.mesh.faces) == len(made(plain, form, False).mesh.faces)


def test_noise_gets_no_lines():
    form = FORMS["flat"]
    noise = np.random.default_rng(3).uniform(0.8, RIM, (ROWS, COLUMNS)).astype(np.float32)
    found = lined(sheet_for(form, False, noise), form, TOLERANCE)
    assert found.crowded > 0.5


def test_soft_slopes_stay_as_they_are():
    form = FORMS["cylinder"]
    slope = np.linspace(0.8, RIM, COLUMNS) * np.ones((ROWS, 1))
    plain = sheet_for(form, False, np.minimum(slope, slope[:, ::-1]).astype(np.float32))
    found = lined(plain, form, TOLERANCE)
    assert found.sheet is plain
