"""What repeats covers all of a skin in rows, without a seam; where rows must end, it fades out and is told."""

import numpy as np
import pytest
import shapely

from nebrel.core.errors import BadValueError, TooLargeError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import area
from nebrel.core.mesh.topology import analyse
from nebrel.core.proof import check_soundness
from nebrel.core.proof.skin_audit import decoration_findings
from nebrel.core.surface.art import Art, Setting, tile_of
from nebrel.core.surface.laying import Decoration, divided_under, laid_copies
from nebrel.core.surface.parameterize.all_over import AllOver, Grain, laid_all_over
from nebrel.core.surface.parameterize.smoothest import smoothest
from nebrel.core.surface.pick import Pick
from nebrel.core.surface.scatter.copies import Copies
from nebrel.core.surface.skin.divide import divided
from nebrel.core.surface.skin.skin import Skin, place_on, skin_of
from tests.core.skins import RADIUS, TOLERANCE, UP, band, block, box_art, cylinder, disc_art, lay, sound, sphere

TILE = 8.0
BLOCK, CAN = (block(), (30, 0, 10)), (cylinder(48), (RADIUS, 0, 30))
BALL, BAND = (sphere(60), (RADIUS, 0, 0)), (band(), (34, 0, 0))


def bump(samples: int = 40) -> Art:
    """A tile with a bump in its middle, which meets itself."""
    across = (np.arange(samples) + 0.5) / samples - 0.5
    away = np.hypot(across, across[:, np.newaxis])
    tones = np.cos(np.pi * np.minimum(away / 0.42, 1)) / 2 + 0.5
    return Art(tones.astype(np.float32), shapely.MultiPolygon([shapely.box(-4, -4, 4, 4)]), TILE, TILE)


def laid_out(mesh: TriMesh, at: tuple[float, float, float], **grain: object) -> tuple[Skin, AllOver]:
    fine, _ = divided(mesh, np.arange(len(mesh.faces)), TILE / 4)
    skin = skin_of(fine)
    faces = np.arange(len(skin.faces))
    return skin, laid_all_over(skin, faces, place_on(skin, np.array(at)), Grain(UP, **grain), (TILE, TILE))


@pytest.mark.parametrize(
    ("mesh", "at"), [(block(), (30, 0, 10)), (cylinder(48), (RADIUS, 0, 30))], ids=["block", "can"]
)
def test_rows_go_straight_where_the_skin_is_flat_or_rolled(mesh, at):
    _, over = laid_out(mesh, at)
    assert over.ends == 0
    assert over.stretch < 0.06
    assert over.covered > 0.9


@pytest.mark.parametrize(
    ("mesh", "at"),
    [
        pytest.param(*CAN, id="can", marks=pytest.mark.deep),
        pytest.param(*BALL, id="ball"),
        pytest.param(*BAND, id="band"),
    ],
)
def test_both_sides_of_an_edge_agree_up_to_whole_tiles(mesh, at):
    """Over every edge that carries anything, so no seam shows anywhere, also where the skin comes round."""
    skin, over = laid_out(mesh, at)
    local = np.full(len(skin.faces), -1)
    local[over.chart.faces] = np.arange(len(over.chart.faces))
    opposite = skin.opposite_halfedges.reshape(-1, 3)[over.chart.faces]
    face, side = np.nonzero(local[opposite // 3] >= 0)
    other, beyond = local[opposite[face, side] // 3], opposite[face, side] % 3
    carries = np.minimum(over.share[face, side], over.share[face, (side + 1) % 3]) > 0
    for here, there in ((side, (beyond + 1) % 3), ((side + 1) % 3, beyond)):
        off = (over.chart.plane[face, here] - over.chart.plane[other, there])[carries] / TILE
        assert np.abs(off - np.round(off)).max() < 1e-6
    steps = np.diff(over.chart.plane[face[:, np.newaxis], np.stack([side, (side + 1) % 3], axis=1)], axis=1)[:, 0]
    back = np.diff(over.chart.plane[other[:, np.newaxis], np.stack([(beyond + 1) % 3, beyond], axis=1)], axis=1)[:, 0]
    assert np.abs(steps - back)[carries].max() < 1e-6


@pytest.mark.parametrize(("mesh", "at"), [BALL, BLOCK], ids=["ball", "block"])
def test_a_decorated_skin_is_sound_and_told_about(mesh, at):
    decorated = lay(mesh, at, bump(), Setting(0.5, tiled=True))
    assert sound(decorated.mesh)
    outcome = decorated.outcomes[0]
    assert outcome.follows
    assert 0.6 < outcome.covered < 1
    found = {finding.measure: finding for finding in decoration_findings(decorated, ["bump"], 0.8, TOLERANCE)}
    assert found["covered_skin"].value == pytest.approx(100 * outcome.covered)
    assert (outcome.row_ends > 0) == ("Rows of “bump” end" in found["covered_skin"].what)
    # A bump of a quarter of its tile's area on average, wherever nothing fades.
    mean = 0.5 * float(bump().tones.mean())
    assert decorated.added_mm3 == pytest.approx(mean * area(mesh) * outcome.covered, rel=0.12)


def test_strokes_say_which_way_it_points():
    stroke = np.array([[5.0, 5.0, 20.0], [30.0, 20.0, 20.0], [55.0, 35.0, 20.0]])
    skin, over = laid_out(block(), (30, 20, 20), strokes=(stroke,))
    way = (stroke[-1] - stroke[0]) / np.linalg.norm(stroke[-1] - stroke[0])
    top = np.flatnonzero(skin.normals[over.chart.faces, 2] > 0.99)
    corners, plane = skin.mesh.vertices[skin.faces[over.chart.faces[top]]], over.chart.plane[top]
    space = np.stack([corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]], axis=2)[:, :2]
    flat = np.stack([plane[:, 1] - plane[:, 0], plane[:, 2] - plane[:, 0]], axis=2)
    along = flat @ np.linalg.inv(space) @ way[:2]
    assert np.median(along[:, 1]) == pytest.approx(1, abs=0.03)
    assert abs(np.median(along[:, 0])) < 0.05


def test_picked_faces_are_covered_and_no_others():
    top = Pick("faces", np.array([[30.0, 20.0, 20.0]]), 30)
    decorated = lay(block(), (30, 20, 20), bump(), Setting(0.5, tiled=True), pick=top)
    assert decorated.outcomes[0].covered == pytest.approx(1, abs=1e-6)
    raised = decorated.mesh.vertices[np.unique(decorated.mesh.faces[decorated.of_decoration > 0])]
    assert raised[:, 2].min() > 20 - 1e-5


def test_tiles_too_small_for_the_skin_are_refused_with_what_would_do():
    art = bump()
    small = Art(art.tones, art.region, 0.02, 0.02)
    with pytest.raises(TooLargeError, match=r"tiles of at least [\d.]+ mm"):
        lay(sphere(60), (RADIUS, 0, 0), small, Setting(0.01, tiled=True))


def test_a_tile_that_meets_itself_is_left_alone_and_another_is_faded():
    assert tile_of(bump()).tones is bump().tones or np.array_equal(tile_of(bump()).tones, bump().tones)
    ramp = np.tile(np.linspace(0, 1, 50, dtype=np.float32), (50, 1))
    tile = tile_of(Art(ramp, bump().region, TILE, TILE))
    assert tile.tones.shape[1] < 50
    assert tile.size[0] == pytest.approx(TILE)
    assert abs(float(tile.tones[0, 0] - tile.tones[0, -1])) < 0.1


def test_the_smoothest_field_turns_whole_parts_that_hardly_hold_each_other():
    """Two stiff chains with a weak link, each pulled its own way at one end, point those ways."""
    from scipy.sparse import coo_matrix

    count = 400
    ends = np.arange(count - 1)
    weight = np.where(ends == count // 2 - 1, 1e-6, 1.0)
    rows, columns = np.concatenate([ends, ends + 1, ends, ends + 1]), np.concatenate([ends, ends + 1, ends + 1, ends])
    values = np.concatenate([weight, weight, -weight, -weight]).astype(complex)
    pull = np.zeros(count, dtype=complex)
    pull[3], pull[-5] = 1e-3, 1e-3j
    found = smoothest(coo_matrix((values, (rows, columns)), shape=(count, count)).tocsr(), pull, cycles=8)
    assert np.abs(np.angle(found[: count // 2])).max() < 0.1
    assert np.abs(np.angle(found[count // 2 :] / 1j)).max() < 0.1


class TestWhatIsSaidOfThePlace:
    def told(self, decorated):
        return {finding.measure: finding for finding in decoration_findings(decorated, ["it"], 0.8, TOLERANCE)}

    def test_the_middle_of_a_ball_is_as_far_from_everywhere(self):
        found = self.told(lay(sphere(), (0, 0, 0), disc_art(60), Setting(0.5), any_size=True))
        assert "30.0 mm from the place" in found["place"].what
        assert "as near" in found["place"].what

    def test_a_place_further_off_than_it_is_wide(self):
        assert self.told(lay(block(), (30, 20, 40), disc_art(18), Setting(0.5)))["place"].value == pytest.approx(20)
        assert "place" not in self.told(lay(block(), (30, 20, 21), disc_art(18), Setting(0.5)))

    def test_up_that_points_out_of_the_skin(self):
        assert "up" in self.told(lay(block(), (30, 20, 20), disc_art(), Setting(0.5), up=UP))
        assert "up" not in self.told(lay(block(), (30, 20, 20), disc_art(), Setting(0.5), up=np.array([0, 1, 0])))

    def test_copies_that_found_no_room(self):
        row = Copies("row", 9, across=12)
        flat = np.array([0.0, 1.0, 0.0])
        decorated = lay(skin_of(open_top()), (30, 20, 20), disc_art(8), Setting(0.5), copies=row, up=flat)
        assert decorated.outcomes[0].copies_asked == 9
        assert decorated.outcomes[0].copies == 5
        assert self.told(decorated)["copies"].value == 5


def open_top() -> TriMesh:
    """The upper side of a block alone."""
    mesh = block()
    return TriMesh(mesh.vertices, mesh.faces[(mesh.corners[..., 2] == 20).all(axis=1)])


def test_depth_that_is_lost_is_told_in_mm_and_mm2():
    """Two skins a hair apart: raised through each other they would cross, and an open skin cannot be joined."""
    lower, upper = open_top(), open_top()
    both = TriMesh(
        np.vstack([lower.vertices, upper.vertices + np.array([0, 0, 0.3])]),
        np.vstack([lower.faces, upper.faces + len(lower.vertices)]).astype(np.uint32),
    )
    decorated = lay(both, (30, 20, 20), box_art(), Setting(0.6), up=np.array([0.0, 1.0, 0.0]))
    assert decorated.eased.area == pytest.approx(200, rel=0.3)
    assert decorated.eased.by > 0.2
    lost = next(each for each in decoration_findings(decorated, ["it"], 0.8, TOLERANCE) if each.measure == "fold")
    assert "mm²" in lost.what


def test_laid_copies_and_division_agree_on_the_faces():
    decoration = Decoration(bump(), np.array([RADIUS, 0, 0]), UP, Setting(0.5, tiled=True))
    skin, came, _ = divided_under(skin_of(sphere(40)), [decoration])
    laid = laid_copies(skin, decoration, [], TOLERANCE)
    assert len(laid) == 1
    assert laid[0].over is not None
    assert not came.any()


def crowded_edge() -> TriMesh:
    """Two blocks that share one edge, so that four faces meet there."""
    one, two = block(20, 20, 20), block(20, 20, 20)
    points = np.vstack([one.vertices, two.vertices + np.array([20, 20, 0])])
    vertices, number = np.unique(points, axis=0, return_inverse=True)
    faces = np.vstack([one.faces, two.faces + len(one.vertices)])
    return TriMesh(vertices, number.ravel()[faces].astype(np.uint32))


def test_faults_that_the_model_came_with_stay_and_no_others_come():
    mesh = crowded_edge()
    assert analyse(mesh).crowded_edges == 1
    decorated = lay(mesh, (10, 0, 10), bump(), Setting(0.5, tiled=True))
    after = analyse(decorated.mesh)
    assert decorated.came_with.crowded_edges == 1
    assert after.open_edges == after.flipped_edges == 0
    assert not check_soundness(decorated.mesh).self_crossings
    said = [
        each.what for each in decoration_findings(decorated, ["bump"], 0.8, TOLERANCE) if each.measure == "manifold"
    ]
    assert "The model came with 1 edge of more than two faces" in said[0]


def test_what_would_tear_the_skin_is_refused():
    """Over the edge that four faces share, a plate would part them."""
    with pytest.raises(BadValueError, match="which the model has not"):
        lay(crowded_edge(), (20, 19, 10), box_art(6, 6), Setting(0.5), rim="continue", any_size=True)
