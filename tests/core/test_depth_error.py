"""The error of decorations, as it is measured on the finished mesh."""

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from nebrel.core.mesh import TriMesh
from nebrel.core.picture import Picture, SourceFacts
from nebrel.core.surface.art import Edge, Setting, art_of_picture, laid_on
from nebrel.core.surface.decorate import decorate
from nebrel.core.surface.depth_error import measure_depths
from nebrel.core.surface.laying import Decoration
from nebrel.core.surface.outcome import Decorated
from nebrel.core.surface.parameterize.chart import Extent, tangents_at
from nebrel.core.surface.parameterize.follow import follow_skin
from nebrel.core.surface.pick import Pick
from nebrel.core.surface.scatter.copies import Copies
from nebrel.core.surface.skin.skin import place_on, skin_of
from tests.core.skins import RADIUS, TOLERANCE, UP, block, box_art, cylinder, disc_art, lay, ring_art, sphere, star_art

Y = np.array([0.0, 1.0, 0.0])
FACTS = SourceFacts("made", 0, 0, 16, "gray")
ON_TOP = (30.0, 20.0, 20.0)


def hills() -> Picture:
    rough = gaussian_filter(np.random.default_rng(1).random((120, 120)), 5)
    tones = ((rough - rough.min()) / np.ptp(rough)).astype(np.float32)
    return Picture(tones, np.ones_like(tones), FACTS)


def error(decorated: Decorated) -> float:
    assert decorated.deviation is not None
    assert decorated.deviation.where == "at samples"
    assert decorated.deviation.rms <= decorated.deviation.max
    return decorated.deviation.max


@pytest.mark.parametrize(
    ("mesh", "at", "up"),
    [(block, ON_TOP, Y), (cylinder, (RADIUS, 0, 30), UP), (sphere, (RADIUS, 0, 0), UP)],
)
@pytest.mark.parametrize("depth", [0.6, -0.6])
def test_even_depths_are_nearly_exact(mesh, at, up, depth):
    assert error(lay(mesh(), at, ring_art(), Setting(depth), up=up)) < 0.002


def test_a_picture_is_off_by_little_more_than_was_allowed_between_samples():
    art = art_of_picture(hills(), 20, "bright", False)
    found = error(lay(cylinder(), (RADIUS, 0, 30), art, Setting(0.6)))
    assert TOLERANCE / 2 < found < 2 * TOLERANCE


@pytest.mark.parametrize("profile", ["bevel", "fade"])
def test_sloping_edges_count(profile):
    assert error(lay(block(), ON_TOP, star_art(), Setting(0.6, edge=Edge(profile, 1.0)), up=Y)) < 2 * TOLERANCE


def test_over_a_sharp_edge_both_sides_stand_as_tall():
    assert error(lay(block(), (60, 20, 20), disc_art(), Setting(0.6), rim="continue")) < 0.002


def test_copies_and_picked_faces_are_measured_alike():
    ring = lay(cylinder(), (RADIUS, 0, 30), star_art(6), Setting(0.6), copies=Copies("ring", 8), lie="wrap")
    picked = lay(block(), (58, 20, 20), disc_art(), Setting(0.6), pick=Pick("faces", np.array([[58, 20, 20.0]])))
    assert max(error(ring), error(picked)) < 0.01


@pytest.mark.parametrize("overlap", ["highest", "sum", "last"])
def test_where_decorations_meet_their_rule_counts(overlap):
    skin = skin_of(block())
    laid = [
        Decoration(box_art(20, 10), np.array([x, 20.0, 20.0]), Y, Setting(depth, overlap=overlap))
        for x, depth in ((26.0, 1.0), (34.0, 0.4))
    ]
    assert error(decorate(skin, laid, 0.01, 0.8)) < 0.002


def test_a_depth_that_was_held_back_is_told_as_missing():
    """A wall of 1.2 mm keeps 0.8 mm, so 0.4 mm of the 0.6 mm are sunk."""
    assert error(lay(block(60, 40, 1.2), (30, 20, 1.2), disc_art(), Setting(-0.6), up=Y)) == pytest.approx(
        0.2, abs=1e-6
    )


def test_what_was_done_to_the_mesh_afterwards_is_found():
    skin = skin_of(block())
    place = place_on(skin, np.array(ON_TOP))
    chart = follow_skin(skin, place, tangents_at(place, Y), Extent(12.0))
    faded = Setting(0.6, edge=Edge("fade", 2.0))
    laid = [laid_on(chart, disc_art(), faded)]
    made = lay(skin, ON_TOP, disc_art(), faded, up=Y)
    decorated = made.of_decoration > 0
    assert measure_depths(skin, laid, made.mesh, decorated).max < 2 * TOLERANCE
    on_slope = int(np.argmin(np.abs(made.mesh.vertices[:, 2] - 20.3)))
    for by in (0.1, -0.2):
        moved = made.mesh.vertices.copy()
        moved[on_slope, 2] += by
        spoilt = TriMesh(moved, made.mesh.faces)
        assert measure_depths(skin, laid, spoilt, decorated).max == pytest.approx(abs(by), abs=2 * TOLERANCE)


def test_walls_that_stand_elsewhere_are_found():
    skin = skin_of(block())
    place = place_on(skin, np.array(ON_TOP))
    chart = follow_skin(skin, place, tangents_at(place, Y), Extent(12.0))
    laid = [laid_on(chart, disc_art(), Setting(0.6))]
    made = lay(skin, ON_TOP, disc_art(), Setting(0.6), up=Y)
    decorated = made.of_decoration > 0
    wider = made.mesh.vertices.copy()
    tall = wider[:, 2] > 20.3
    wider[tall, :2] += 0.1 * (wider[tall, :2] - (30, 20)) / 9
    assert measure_depths(skin, laid, TriMesh(wider, made.mesh.faces), decorated).max == pytest.approx(0.1, abs=0.02)


def test_a_colour_alone_is_off_by_nothing():
    assert error(lay(block(), ON_TOP, disc_art(), Setting(0.6, flat=True), up=Y)) == 0.0


def test_a_sketch_is_not_measured():
    skin = skin_of(block())
    laid = [Decoration(disc_art(), np.array(ON_TOP), Y, Setting(0.6))]
    assert decorate(skin, laid, 0.01, 0.8, measured=False).deviation is None


def test_what_could_not_be_measured_is_told():
    skin = skin_of(block())
    place = place_on(skin, np.array(ON_TOP))
    chart = follow_skin(skin, place, tangents_at(place, Y), Extent(12.0))
    laid = [laid_on(chart, disc_art(), Setting(0.6))]
    made = lay(skin, ON_TOP, disc_art(), Setting(0.6), up=Y)
    decorated = made.of_decoration > 0
    inside_out = TriMesh(made.mesh.vertices, made.mesh.faces[:, ::-1])
    level = decorated & (np.ptp(made.mesh.vertices[made.mesh.faces][:, :, 2], axis=1) < 1e-6)
    assert level.any() and measure_depths(skin, laid, inside_out, level).where == "nowhere"
    assert "not measured" not in measure_depths(skin, laid, made.mesh, decorated).how
    picked = lay(block(), (58, 20, 20), disc_art(), Setting(0.6), pick=Pick("faces", np.array([[58, 20, 20.0]])))
    assert picked.deviation is not None
    assert "% of their area stands upright" in picked.deviation.how
