"""Walls bent over forms: closed, of the thickness that was asked along the normal, with parts that hold them."""

import math

import numpy as np
import pytest
from scipy import ndimage

from nebrel.core.bent.bend import is_out_of_place, place_samples
from nebrel.core.bent.forms import Cone, Flat, Form, Upright, arc, cylinder, globe
from nebrel.core.bent.lithophane import MadeLithophane, make_lithophane
from nebrel.core.bent.parts import (
    BorderHole,
    Bottom,
    Clip,
    Foot,
    LidSeat,
    Rails,
    WallParts,
)
from nebrel.core.bent.plan_curve import heart_curve, prism_curve
from nebrel.core.bent.sheet import Border, Sheet, inscribe, lay_out
from nebrel.core.errors import BadValueError
from nebrel.core.height.transmission import TranslucentMaterial, TransmissionRule
from nebrel.core.picture.srgb import encode_srgb
from nebrel.core.proof import check_soundness
from nebrel.core.proof.from_behind import likely_side, nearest_wall
from nebrel.core.proof.lit import likeness, shown_tones
from nebrel.core.proof.transmitted_thickness import material_through
from tests.core.rays import wall_along

TOLERANCE, SPOTS = 0.02, 10_000
RIM = 3.0
FORMS: dict[str, Form] = {
    "flat": Flat(70.0, 50.0),
    "arc": arc(70.0, 45.0, math.radians(120)),
    "cylinder": cylinder(120.0, 50.0),
    "cone": Cone(25.0, 15.0, 45.0),
    "sphere": globe(50.0, 20.0, None),
    "open sphere": globe(50.0, 20.0, 12.0),
    "dome": globe(60.0, 20.0, None, half=True),
    "heart": Upright(heart_curve(140.0), 40.0),
    "prism": Upright(prism_curve(130.0, 6), 40.0),
}


def picture(columns: int = 160, rows: int = 110) -> np.ndarray:
    """Waves, a soft disc and a hard step; its left and right border are alike."""
    turn = np.linspace(0, 2 * np.pi, columns)
    up = np.linspace(0, 1, rows)[:, np.newaxis]
    tones = 0.5 + 0.2 * np.sin(3 * turn) * np.cos(9 * up) + 0.15 * np.cos(7 * turn + 5 * up)
    tones += 0.2 * (np.hypot((turn - np.pi) / 2, up - 0.5) < 0.2)
    return np.clip(tones, 0, 1).astype(np.float32)


def thicknesses() -> np.ndarray:
    return TransmissionRule(0.8, RIM, TranslucentMaterial(1.05)).thickness(picture())


def sheet_for(form: Form, inside: bool = False, thickness: np.ndarray | None = None) -> Sheet:
    side = 0.0 if form.around else 3.0
    border = Border(side, side, 0.0 if form.pole else 3.0, 3.0, RIM)
    held = thicknesses() if thickness is None else thickness
    return lay_out(held, form.width, form.height, border, border.bottom, form.corners(-RIM if inside else RIM))


def made_of(name: str, inside: bool = False, parts: WallParts | None = None) -> tuple[Form, Sheet, MadeLithophane]:
    form = FORMS[name]
    sheet = sheet_for(form, inside)
    return form, sheet, make_lithophane(sheet, form, inside, RIM, parts or WallParts(), TOLERANCE)


class TestForms:
    @pytest.mark.parametrize("inside", [False, True], ids=["outside", "inside"])
    @pytest.mark.parametrize("name", FORMS)
    def test_every_form_is_closed_and_of_its_kind(self, name, inside):
        form, _, made = made_of(name, inside)
        soundness = check_soundness(made.mesh)
        assert soundness.sound, soundness.findings
        assert soundness.shells == 1
        holes = 1 if form.around and not form.pole else 0
        assert len(made.mesh.vertices) - len(made.mesh.faces) / 2 == 2 - 2 * holes
        assert made.mesh.vertices.min(axis=0) == pytest.approx(0, abs=1e-5)
        assert made.deviation.max <= TOLERANCE

    @pytest.mark.parametrize("inside", [False, True], ids=["outside", "inside"])
    @pytest.mark.parametrize("name", ["flat", "arc", "cylinder", "sphere", "open sphere", "prism", "cone"])
    def test_rays_find_the_asked_thickness(self, name, inside):
        form, sheet, made = made_of(name, inside)
        rng = np.random.default_rng(4)
        row, column = rng.integers(0, len(sheet.v), SPOTS), rng.integers(0, len(sheet.u), SPOTS)
        # On the outermost lines a ray meets the wall's own edge; mitred edges have a normal only on either side.
        row = np.clip(row, 1, len(sheet.v) - 2)
        if not form.around:
            column = np.clip(column, 1, len(sheet.u) - 2)
        if name == "prism":
            column = column[~np.isin(column, _corner_columns(form, sheet, RIM))]
            row = row[: len(column)]
        jitter = rng.uniform(-1, 1, (2, len(row))) * 1e-5
        u, v = sheet.u[column] + jitter[0], sheet.v[row] + jitter[1]
        places, normals, _ = form.at(u, v)
        measured = wall_along(made.mesh, place_samples(form, places) + made.shift, place_samples(form, normals))
        off = np.abs(measured - sheet.thickness[row, column])
        assert np.quantile(off, 0.999) <= TOLERANCE + 0.005
        assert off.max() <= 3 * TOLERANCE

    def test_the_pictures_width_goes_once_round(self):
        ring, shade = cylinder(120.0, 50.0), Cone(25.0, 15.0, 45.0)
        for form in (ring, shade):
            places, _, _ = form.at(np.linspace(0, form.width, 2000), np.full(2000, form.height / 2))
            round_mm = np.linalg.norm(np.diff(places, axis=0), axis=1).sum()
            assert round_mm == pytest.approx(form.width * float(form.scale(np.array([form.height / 2]))[0]), rel=1e-5)
        assert np.ptp(ring.at(np.linspace(0, 120, 721), np.zeros(721))[0][:, 0]) == pytest.approx(120 / np.pi, rel=1e-4)

    @pytest.mark.parametrize("name", FORMS)
    def test_places_roll_out_to_where_they_came_from(self, name):
        form = FORMS[name]
        rng = np.random.default_rng(1)
        u, v = rng.uniform(0.02, 0.98, (2, 500)) * [[form.width], [0.9 * form.height]]
        u = (
            u[np.array([np.abs(u - place) > 4 for place, _ in form.corners(0.0)] or [True] * 500).all(axis=0)]
            if (form.corners(0.0))
            else u
        )
        v = v[: len(u)]
        base, normals, _ = form.at(u, v)
        assert np.linalg.norm(normals, axis=1) == pytest.approx(1)
        back = form.unrolled(is_out_of_place(form, place_samples(form, base + 0.7 * normals)))
        assert back == pytest.approx(np.column_stack([u, v, np.full(len(u), 0.7)]), abs=1e-6)

    @pytest.mark.parametrize("name", ["cone", "sphere", "dome"])
    def test_what_cannot_be_unrolled_keeps_its_angles(self, name):
        form, step = FORMS[name], 1e-4
        v = np.linspace(0.1, 0.8, 9) * form.height
        u = np.full(9, form.width / 3)
        here, right, up = (form.at(*place)[0] for place in ((u, v), (u + step, v), (u, v + step)))
        across, along = (right - here) / step, (up - here) / step
        assert np.linalg.norm(across, axis=1) == pytest.approx(form.scale(v), rel=1e-3)
        assert np.linalg.norm(along, axis=1) == pytest.approx(form.scale(v), rel=1e-3)
        assert (across * along).sum(axis=1) == pytest.approx(0, abs=1e-3)

    def test_the_seam_leaves_no_step(self):
        form, _, made = made_of("cylinder")
        back = is_out_of_place(form, made.mesh.vertices - made.shift)
        angle = np.abs(np.arctan2(back[:, 0], back[:, 2]))
        on_seam = np.flatnonzero(angle > np.pi - 1e-6)
        rounded = np.round(made.mesh.vertices[on_seam], 4)
        assert len(np.unique(rounded, axis=0)) == len(on_seam)

    def test_a_light_sketch_is_closed_too(self):
        form = FORMS["cylinder"]
        made = make_lithophane(sheet_for(form), form, False, RIM, WallParts(foot=Foot(5, 2)), 0.2, sketch=True)
        assert check_soundness(made.mesh).closed

    @pytest.mark.parametrize(
        ("form", "inside", "words"),
        [
            (globe(4.0, 1.0, None), True, "sphere has a radius of 2.0 mm"),
            (cylinder(10.0, 20.0), True, "tightest bend"),
            (Cone(20.0, 1.5, 40.0), True, "narrow end"),
        ],
    )
    def test_a_form_tighter_than_its_wall_is_refused(self, form, inside, words):
        with pytest.raises(BadValueError, match=words):
            make_lithophane(sheet_for(form, inside), form, inside, RIM, WallParts(), TOLERANCE)

    def test_an_opening_as_wide_as_the_sphere_is_refused(self):
        with pytest.raises(BadValueError, match="an opening up to 49"):
            globe(50.0, 50.0, None)


def _corner_columns(form: Form, sheet: Sheet, clear: float) -> np.ndarray:
    return np.flatnonzero(np.any([np.abs(sheet.u - place) < clear for place, _ in form.corners(0.0)], axis=0))


class TestSheet:
    def test_the_border_is_plain_and_the_picture_inside_is_true(self):
        thickness = thicknesses()
        sheet = lay_out(thickness, 100.0, 80.0, Border(4, 4, 5, 5, RIM), 5.0)
        assert sheet.window == pytest.approx((4, 5, 96, 5 + 92 * 109 / 159))
        edge = (sheet.u < 2) | (sheet.u > 98)
        assert (sheet.thickness[:, edge] == np.float32(RIM)).all()
        inner = np.flatnonzero((sheet.u > 10) & (sheet.u < 90))
        row = int(np.abs(sheet.v - 40).argmin())
        columns = (sheet.u[inner] - 4) / (92 / 159)
        expected = np.interp(columns, np.arange(160), thickness[109 - round((sheet.v[row] - 5) / (92 / 159))])
        assert sheet.thickness[row, inner] == pytest.approx(expected, abs=0.02)

    def test_a_border_over_everything_is_refused(self):
        with pytest.raises(BadValueError, match="leaves nothing"):
            lay_out(thicknesses(), 10.0, 10.0, Border(6, 6, 0, 0, RIM), 0.0)

    def test_a_drawing_is_raised_or_sunk_within_its_box(self):
        sheet = sheet_for(FORMS["flat"])
        cover = np.ones((20, 60), dtype=np.float32)
        for depth in (0.5, -0.5):
            drawn = inscribe(sheet, cover, (20.0, 0.5, 50.0, 2.5), depth)
            change = drawn.thickness - sheet.thickness
            assert change.max() - change.min() == pytest.approx(0.5, abs=0.01)
            touched = np.flatnonzero(np.abs(change).max(axis=1) > 0.01)
            assert sheet.v[touched].min() >= 0.5 - 0.3
            assert sheet.v[touched].max() <= 2.5 + 0.3
        deep = inscribe(sheet, cover, (20.0, 0.5, 50.0, 2.5), -10.0)
        assert deep.thickness.min() == pytest.approx(0.1)


PARTS = {
    "foot": (WallParts(foot=Foot(6.0, 2.0)), list(FORMS)),
    "bottom": (WallParts(bottom=Bottom(2.0, 12.0)), ["cylinder", "cone", "sphere", "heart", "prism"]),
    "lid": (WallParts(lid=LidSeat(2.0, 1.5)), ["cylinder", "cone", "prism"]),
    "rails": (WallParts(rails=Rails(2.0, 3.0)), ["flat", "arc"]),
    "clip": (WallParts(clip=Clip(4.0, 15.0, 10.0)), ["flat", "arc"]),
    "hole": (WallParts(hole=BorderHole(1.5, 1.5)), ["flat", "arc", "cylinder", "prism"]),
}
CASES = [(part, name) for part, (_, names) in PARTS.items() for name in names]


class TestParts:
    @pytest.mark.parametrize(("part", "name"), CASES)
    def test_every_part_is_one_sound_solid_with_the_wall(self, part, name):
        _, _, plain = made_of(name)
        _, _, made = made_of(name, parts=PARTS[part][0])
        soundness = check_soundness(made.mesh)
        assert soundness.sound, soundness.findings
        assert soundness.shells == 1
        grown = soundness.volume_mm3 - check_soundness(plain.mesh).volume_mm3
        assert grown < 0 if part == "hole" else grown > 0

    @pytest.mark.parametrize("inside", [False, True], ids=["outside", "inside"])
    def test_bottom_and_lid_do_not_show_through_the_picture(self, inside):
        form, sheet, _ = made_of("cylinder", inside)
        bright = Sheet(sheet.u, sheet.v, np.minimum(sheet.thickness, 0.8), sheet.window, sheet.picture_low, sheet.pitch)
        parts = WallParts(bottom=Bottom(6.0, 10.0), lid=LidSeat(2.0, 1.5))
        made = make_lithophane(bright, form, inside, RIM, parts, TOLERANCE)
        around = np.hypot(*(is_out_of_place(form, made.mesh.vertices - made.shift)[:, [0, 2]].T))
        radius = 120 / (2 * np.pi)
        assert around.max() <= radius + (0.001 if inside else 0.801)

    @pytest.mark.parametrize(
        ("name", "parts", "words"),
        [
            ("flat", WallParts(bottom=Bottom(2, 10)), "needs a form that runs round"),
            ("cylinder", WallParts(rails=Rails(2, 3)), "rails|clip"),
            ("open sphere", WallParts(lid=LidSeat(2, 1.5)), "a lid lies on its opening"),
            ("sphere", WallParts(hole=BorderHole(2, 3)), "closed on top"),
            ("cylinder", WallParts(bottom=Bottom(2, 60)), "hole for the lamp is 60 mm"),
            ("flat", WallParts(hole=BorderHole(3, 1)), "its centre must lie more than 1.5 mm"),
            ("flat", WallParts(clip=Clip(4, 200, 10)), "up to 70.0 mm fit"),
            ("cylinder", WallParts(lid=LidSeat(2, 30)), "too narrow for a ledge"),
        ],
    )
    def test_parts_that_do_not_fit_are_refused(self, name, parts, words):
        with pytest.raises(BadValueError, match=words):
            made_of(name, parts=parts)


class TestLight:
    @pytest.mark.parametrize("beyond", ["compress", "clip"])
    @pytest.mark.parametrize("name", ["flat", "arc", "cylinder", "sphere"])
    def test_the_mesh_in_light_matches_the_wanted_picture(self, name, beyond):
        form = FORMS[name]
        material = TranslucentMaterial(1.05, 0.12)
        rule = TransmissionRule(0.8, RIM, material, beyond=beyond)
        tones = picture()
        sheet = sheet_for(form, thickness=rule.thickness(tones))
        made = make_lithophane(sheet, form, False, RIM, WallParts(), TOLERANCE)
        size = (400, round(400 * form.width / form.height))
        through = material_through(made.mesh, form, made.shift, size, 3 * RIM)
        left, bottom, _, top = sheet.window
        rows = (form.height - (np.arange(size[0]) + 0.5) * form.height / size[0] - bottom) / sheet.pitch
        columns = ((np.arange(size[1]) + 0.5) * form.width / size[1] - left) / sheet.pitch
        inside = np.ix_((rows > 0) & (rows < (top - bottom) / sheet.pitch), (columns > 0) & (columns < 159))
        at = np.meshgrid(109 - rows, columns, indexing="ij")
        wanted = ndimage.map_coordinates(tones, at, order=1, mode="nearest")[inside].astype(np.float32)
        shown = shown_tones(through[inside], material, rule.thinnest)
        alike = likeness(shown, encode_srgb(rule.wanted(wanted)), wanted, rule.darkest_tone)
        assert alike.within_reach >= 0.98
        light = rule.wanted(wanted)
        assert alike.contrast == pytest.approx(np.quantile(light, 0.99) / np.quantile(light, 0.01), rel=0.05)

    def test_material_through_agrees_with_single_rays(self):
        form, _, made = made_of("arc", parts=WallParts(clip=Clip(1.0, 15.0, 10.0)))
        rows, columns = size = (60, 80)
        seen = material_through(made.mesh, form, made.shift, size, 6.0)
        v = form.height - (np.arange(rows) + 0.5 - 0.0293) * form.height / rows
        u = (np.arange(columns) + 0.5 + 0.0371) * form.width / columns
        places, normals, _ = form.at(*(side.ravel() for side in np.meshgrid(u, v)))
        rays = wall_along(made.mesh, place_samples(form, places) + made.shift, place_samples(form, normals)).reshape(
            size
        )
        assert rays.max() > RIM + 2
        assert seen == pytest.approx(rays, abs=1e-4)

    def test_any_mesh_can_be_held_before_a_lamp(self):
        form, sheet, made = made_of("flat")
        assert likely_side(made.mesh) == "top"
        through = nearest_wall(made.mesh, "top", 280)
        x = (np.arange(through.shape[1]) + 0.5) * 0.25
        row = int(np.abs(sheet.v - (form.height - 100.5 * 0.25)).argmin())
        expected = np.interp(x, sheet.u, sheet.thickness[row])
        assert np.median(np.abs(through[100] - expected)) < 0.03
        standing = make_lithophane(sheet_for(FORMS["cylinder"]), FORMS["cylinder"], False, RIM, WallParts(), TOLERANCE)
        assert likely_side(standing.mesh) == "front"
        front = nearest_wall(standing.mesh, "front", 200)
        middle = front[90:110, front.shape[1] // 2]
        assert ((middle > 0.7) & (middle < RIM + 0.1)).all()
        assert np.isfinite(front).mean() > 0.9
