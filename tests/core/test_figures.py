"""Figures in the round from outlines whose solid is known."""

import numpy as np
import pytest
from numpy.typing import NDArray

from nebrel.core.errors import BadPictureError, BadValueError
from nebrel.core.figure.form import Back, FigureForm, back_of, with_detail
from nebrel.core.figure.silhouette import Silhouette, silhouette_of
from nebrel.core.figure.surface import surface_of
from nebrel.core.figure.swell import profile_to, swell, thicken, widen
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import size, volume
from nebrel.core.mesh.shells import shells_of
from nebrel.core.proof import check_soundness

SIDE = 300


def away(x: float = 0.0, y: float = 0.0) -> NDArray[np.float64]:
    """Distance of every pixel from a place, in shares of half the picture; Y up."""
    at = (np.arange(SIDE) + 0.5) / SIDE * 2 - 1
    across, up = np.meshgrid(at, -at)
    return np.hypot(across - x, up - y)


def soft(inside_by: NDArray[np.float64]) -> NDArray[np.float32]:
    """Coverage with edges as soft as a pixel, from the distance inside, shares of half the picture."""
    return np.clip(inside_by * SIDE / 2 + 0.5, 0, 1).astype(np.float32)


DISC = soft(0.8 - away())
RING = soft(np.minimum(0.8 - away(), away() - 0.4))


def swollen(
    coverage: NDArray[np.float32], cells: int = 96, width: float = 40.0
) -> tuple[Silhouette, NDArray[np.float64]]:
    """The outline, so many mm wide, and what it swells to."""
    columns = np.flatnonzero((coverage >= 0.5).any(axis=0))
    silhouette = silhouette_of(coverage, width / (columns[-1] - columns[0] + 1), cells)
    return silhouette, swell(silhouette)


def figure(coverage: NDArray[np.float32], cells: int = 96, width: float = 40.0) -> FigureForm:
    silhouette, field = swollen(coverage, cells, width)
    return FigureForm(silhouette, np.zeros_like(field), field)


def overlap(form: FigureForm, mesh: TriMesh) -> float:
    """Of the mesh seen from the front with the silhouette: intersection over union, by rays through sample centres."""
    from nebrel.core.mesh.lattice import lattice_of

    lattice = lattice_of(mesh, form.silhouette.pitch / 2)
    seen = lattice.inside.any(axis=2)
    x = lattice.origin[0] + lattice.spacing * np.arange(seen.shape[0])
    y = lattice.origin[1] + lattice.spacing * np.arange(seen.shape[1])
    low, pitch, rows = form.silhouette.low, form.silhouette.pitch, form.silhouette.cover.shape[0]
    column = np.clip(np.round((x - low[0]) / pitch).astype(int), 0, form.silhouette.cover.shape[1] - 1)
    row = np.clip(rows - 1 - np.round((y - low[1]) / pitch).astype(int), 0, rows - 1)
    asked = form.silhouette.inside[row[np.newaxis, :], column[:, np.newaxis]]
    return float((seen & asked).sum() / (seen | asked).sum())


class TestSilhouette:
    def test_is_as_wide_as_asked(self):
        form = figure(RING, width=50.0)
        across, up, _ = size(surface_of(form))
        assert across == pytest.approx(50, abs=0.3)
        assert up == pytest.approx(50, abs=0.3)

    def test_begins_at_the_lower_left_corner_of_what_is_covered(self):
        moved = np.zeros((400, 500), np.float32)
        moved[40:340, 150:450] = DISC
        mesh = surface_of(figure(moved))
        assert mesh.vertices[:, :2].min(axis=0) == pytest.approx([0, 0], abs=0.3)

    @pytest.mark.parametrize("whole", [np.ones((50, 60)), np.full((50, 60), 0.9)])
    def test_of_what_is_not_cut_out_is_refused_and_says_what_is_needed(self, whole):
        with pytest.raises(BadPictureError, match=r"Nothing is cut out .* alpha channel"):
            silhouette_of(whole.astype(np.float32), 0.5, 96)

    @pytest.mark.parametrize("left", [0, 3])
    def test_of_nothing_is_refused(self, left):
        empty = np.zeros((50, 60), np.float32)
        empty[20, 20 : 20 + left] = 1
        with pytest.raises(BadPictureError, match="Nothing of the picture is left"):
            silhouette_of(empty, 0.5, 96)

    @pytest.mark.parametrize("cells", [8, 5000])
    def test_refuses_grids_out_of_range(self, cells):
        with pytest.raises(BadValueError, match="would be accepted"):
            silhouette_of(DISC, 0.1, cells)

    def test_that_touches_the_frame_is_closed_there(self):
        touching = np.zeros((100, 100), np.float32)
        touching[:, 30:] = 1
        assert check_soundness(surface_of(figure(touching))).sound

    def test_of_a_coarse_picture_has_no_stairs(self):
        at = (np.arange(24) + 0.5) / 24 * 2 - 1
        coarse = (np.hypot(*np.meshgrid(at, at)) < 0.8).astype(np.float32)
        silhouette, _ = swollen(coarse, cells=128)
        rows, columns = np.nonzero(silhouette.inside)
        middle = rows.mean(), columns.mean()
        around = np.hypot(rows - middle[0], columns - middle[1]) * silhouette.pitch
        assert around.max() < 21.5
        pixel = 40 / silhouette.width_px
        assert silhouette.inside.sum() * silhouette.pitch**2 == pytest.approx(coarse.sum() * pixel**2, rel=0.04)


class TestSwelling:
    def test_of_a_disc_is_a_sphere(self):
        silhouette, field = swollen(DISC, cells=128)
        rows, columns = np.indices(field.shape)
        low = silhouette.low
        x = low[0] + columns * silhouette.pitch - 20
        y = low[1] + (field.shape[0] - 1 - rows) * silhouette.pitch - 20
        asked = 400 - x**2 - y**2
        inside = silhouette.inside
        assert np.abs(np.sqrt(field[inside]) - np.sqrt(np.maximum(asked[inside], 0)))[asked[inside] > 30].max() < 0.15

    def test_is_nothing_on_the_outline_and_below_beyond_it(self):
        silhouette, field = swollen(RING)
        assert (field[silhouette.inside] > 0).all()
        assert (field[~silhouette.inside] < 0).all()

    def test_is_the_same_turned_over(self):
        lopsided = soft(np.maximum(0.5 - away(0.3, 0.2), 0.25 - away(-0.5, -0.3)))
        silhouette, field = swollen(lopsided)
        _, other = swollen(np.ascontiguousarray(lopsided[:, ::-1]))
        assert other[:, ::-1][silhouette.inside] == pytest.approx(field[silhouette.inside], rel=1e-6, abs=1e-3)

    def test_grows_with_the_square_of_the_width(self):
        _, small = swollen(DISC, width=20)
        _, large = swollen(DISC, width=60)
        assert large.max() == pytest.approx(9 * small.max(), rel=1e-6)

    @pytest.mark.parametrize("profile", ["round", "soft", "flat"])
    def test_is_as_thick_as_asked_by_any_profile(self, profile):
        silhouette, field = swollen(DISC)
        asked = profile_to(field, profile, 12.0, 2.0)
        assert 2 * np.sqrt(asked.max()) == pytest.approx(12)
        assert ((asked > 0) == silhouette.inside).all()

    def test_flat_is_level_behind_its_rim_and_soft_rises_later_than_round(self):
        silhouette, field = swollen(DISC)
        half = {name: np.sqrt(np.maximum(profile_to(field, name, 12.0, 2.0), 0)) for name in ("round", "soft", "flat")}
        deep = silhouette.deep
        assert np.ptp(half["flat"][deep > 6]) < 0.3
        near = (deep > 1) & (deep < 5)
        assert (half["soft"][near] < half["round"][near]).all()
        assert (half["flat"][near] > half["round"][near]).all()


class TestThinParts:
    def test_become_as_thick_as_asked_where_they_were_not(self):
        silhouette, field = swollen(RING)
        flat = profile_to(field, "round", 1.0, 2.0)
        thick, grown = thicken(flat, silhouette, 3.0)
        deep = silhouette.deep
        assert 2 * np.sqrt(thick[deep > 1.6]).min() >= 3.0 - 1e-6
        assert grown.any()
        assert (thick >= flat - 1e-12).all()

    def test_leaves_what_is_thick_enough(self):
        silhouette, field = swollen(DISC)
        thick, grown = thicken(field, silhouette, 1.0)
        assert grown.sum() < 0.05 * silhouette.inside.sum()
        assert thick[silhouette.deep > 1] == pytest.approx(field[silhouette.deep > 1])
        assert not thicken(field, silhouette, 0)[1].any()

    def test_hairs_are_widened_about_their_middle_and_that_is_told(self):
        hair = np.zeros((SIDE, SIDE), np.float32)
        hair[60:240, 60:240] = 1
        hair[148:152, 240:290] = 1
        silhouette, _ = swollen(hair, cells=200, width=46)
        wide, grown = widen(silhouette, 4.0)
        column = round((44.0 - silhouette.low[0]) / silhouette.pitch) - 8
        assert wide.inside[:, column].sum() * silhouette.pitch == pytest.approx(4.0, abs=0.6)
        assert silhouette.inside[:, column].sum() * silhouette.pitch < 1.5
        assert grown == pytest.approx((wide.inside & ~silhouette.inside).sum() * silhouette.pitch**2)
        body = slice(None), slice(10, 100)
        assert (wide.inside[body] == silhouette.inside[body]).mean() > 0.995

    def test_a_disc_has_none(self):
        silhouette, _ = swollen(DISC)
        assert widen(silhouette, 4.0)[1] == 0


@pytest.fixture(scope="module")
def halves():
    """The outline of a disc, and what it swells to."""
    return swollen(DISC)


class TestBacks:
    def depth_behind(self, halves, *back) -> float:
        silhouette, field = halves
        form = back_of(silhouette, np.zeros_like(field), field, Back(*back))
        return -float(np.nanmin(form.back))

    def test_mirrored_is_as_thick_as_the_front(self, halves):
        assert self.depth_behind(halves, "mirror", 1.0) == pytest.approx(20, abs=0.2)

    @pytest.mark.parametrize("bulge", [0.3, 0.6, 1.5])
    def test_bulged_is_so_many_times_as_thick(self, halves, bulge):
        assert self.depth_behind(halves, "bulge", bulge) == pytest.approx(20 * bulge, abs=0.3)

    def test_flat_is_level_but_for_its_rim(self, halves):
        silhouette, field = halves
        form = back_of(silhouette, np.zeros_like(field), field, Back("flat"))
        assert np.ptp(form.back[silhouette.deep > 4]) < 0.5
        assert np.nanmax(form.front) == pytest.approx(20, abs=0.3)

    @pytest.mark.parametrize(("back", "bulge"), [("mirror", 1.0), ("flat", 1.0), ("bulge", 0.0), ("bulge", 2.0)])
    def test_keeps_the_front_and_the_outline(self, halves, back, bulge):
        silhouette, field = halves
        form = back_of(silhouette, np.zeros_like(field), field, Back(back, bulge))
        assert form.front[silhouette.inside] == pytest.approx(np.sqrt(field[silhouette.inside]), abs=1e-9)
        assert ((form.square > 0) == silhouette.inside).all()


class TestDetail:
    STRIPES = np.where(np.indices((SIDE, SIDE))[1] // 6 % 2, 1.0, 0.0).astype(np.float32)

    def detailed(self, halves, tones, strength=1.0) -> tuple[FigureForm, FigureForm]:
        silhouette, field = halves
        plain = FigureForm(silhouette, np.zeros_like(field), field)
        return plain, with_detail(plain, silhouette.on_grid(tones), strength, 3.0)

    def test_stands_on_the_front_only(self, halves):
        plain, form = self.detailed(halves, self.STRIPES)
        deep = halves[0].deep > 5
        by = (form.front - plain.front)[deep]
        assert np.ptp(by) == pytest.approx(1.0, abs=0.35)
        assert abs(by.mean()) < 0.05
        assert form.back[deep] == pytest.approx(plain.back[deep], abs=1e-9)

    def test_is_turned_round_where_dark_stands_tall(self, halves):
        plain, bright = self.detailed(halves, self.STRIPES)
        _, dark = self.detailed(halves, self.STRIPES, -1.0)
        deep = halves[0].deep > 5
        assert (dark.front - plain.front)[deep] == pytest.approx(-(bright.front - plain.front)[deep], abs=1e-9)

    def test_takes_light_and_shade_for_no_form(self, halves):
        shade = np.tile(np.linspace(0, 1, SIDE, dtype=np.float32), (SIDE, 1))
        plain, form = self.detailed(halves, shade)
        deep = halves[0].deep > 7
        assert np.abs((form.front - plain.front)[deep]).max() < 0.05

    def test_keeps_the_outline_and_a_sound_solid(self, halves):
        plain, form = self.detailed(halves, self.STRIPES, 4.0)
        assert ((form.square > 0) == (plain.square > 0)).all()
        assert check_soundness(surface_of(form)).sound


class TestSolid:
    def test_of_a_disc_is_a_sphere(self):
        mesh = surface_of(figure(DISC, cells=128))
        middle = (mesh.vertices.max(axis=0) + mesh.vertices.min(axis=0)) / 2
        radii = np.linalg.norm(mesh.vertices - middle, axis=1)
        assert radii.min() > 19.75
        assert radii.max() < 20.25
        assert volume(mesh) == pytest.approx(4 / 3 * np.pi * 20**3, rel=0.01)

    @pytest.mark.parametrize("coverage", [DISC, RING], ids=["disc", "ring"])
    @pytest.mark.parametrize("back", ["mirror", "flat"])
    def test_is_sound_and_seen_as_its_outline(self, coverage, back):
        silhouette, field = swollen(coverage)
        form = back_of(silhouette, np.zeros_like(field), field, Back(back, 1.0))
        mesh = surface_of(form)
        found = check_soundness(mesh)
        assert found.sound
        assert found.shells == 1
        assert overlap(form, mesh) > 0.97

    def test_has_the_holes_of_its_outline(self):
        mesh = surface_of(figure(RING))
        edges = len(mesh.faces) * 3 // 2
        assert len(mesh.vertices) - edges + len(mesh.faces) == 0

    def test_has_a_part_for_every_part_of_the_outline(self):
        apart = soft(np.maximum(0.3 - away(0.5, 0.5), 0.4 - away(-0.4, -0.3)))
        assert len(shells_of(surface_of(figure(apart)))) == 2

    def test_steps_towards_the_viewer_stay_closed(self):
        silhouette, field = swollen(DISC)
        columns = np.indices(field.shape)[1]
        form = FigureForm(silhouette, np.where(columns > field.shape[1] // 2, 9.0, 0.0), field)
        mesh = surface_of(form)
        assert check_soundness(mesh).sound
        assert volume(mesh) == pytest.approx(4 / 3 * np.pi * 20**3, rel=0.03)

    def test_of_corners_that_touch_is_closed(self):
        corners = np.zeros((60, 60), np.float32)
        corners[5:30, 5:30] = 1
        corners[30:55, 30:55] = 1
        assert check_soundness(surface_of(figure(corners, cells=50))).sound

    def test_too_thick_for_its_grid_is_refused(self):
        silhouette, field = swollen(DISC)
        with pytest.raises(BadValueError, match="too much for a grid"):
            surface_of(FigureForm(silhouette, np.zeros_like(field), field * 1e6))
