"""Raised outlines, inlays, cutters and stamps: closed, and as large as asked."""

import math

import numpy as np
import pytest
import shapely

from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.outline_solid.cutter import Cutter, Imprint, bridges, make_cutter
from nebrel.core.outline_solid.raised import Base, RaisedBody, raised_outline
from nebrel.core.outline_solid.stamp import Stamp, make_stamp
from nebrel.core.proof import check_soundness
from nebrel.core.proof.outline_audit import Use, edge_findings, region_findings
from nebrel.core.region.curves import Figure, Layer, polygon_curve
from tests.core.drawn import disc, star


def multi(*shapes) -> shapely.MultiPolygon:
    whole = shapely.union_all(shapes)
    return whole if whole.geom_type == "MultiPolygon" else shapely.MultiPolygon([whole])


BOX = multi(shapely.box(0, 0, 20, 12))


def sound(mesh: TriMesh):
    found = check_soundness(mesh)
    assert found.sound, [finding.what for finding in found.findings]
    return found


def cut_at(mesh: TriMesh, z: float) -> shapely.Polygon | shapely.MultiPolygon:
    """The area of a solid at a height."""
    import manifold3d

    solid = manifold3d.Manifold(manifold3d.Mesh64(mesh.vertices, mesh.faces.astype(np.uint64)))
    rings = solid.slice(z).to_polygons()
    whole = shapely.Polygon()
    for ring in rings:
        whole = whole.symmetric_difference(shapely.Polygon(ring))
    return whole


def test_a_raised_outline_has_its_size_and_volume():
    found = sound(raised_outline([(BOX, 3.0)], RaisedBody()))
    assert found.size == pytest.approx((20, 12, 3), abs=0.001)
    assert found.volume_mm3 == pytest.approx(720, rel=1e-6)


def test_regions_stand_at_their_heights():
    inner = multi(shapely.box(5, 3, 10, 9))
    found = sound(raised_outline([(BOX, 2.0), (inner, 5.0)], RaisedBody(base=Base("outline", 2.0, 1.0))))
    base = 24 * 16 - (4 - math.pi) * 4
    assert found.volume_mm3 == pytest.approx(base * 1.0 + 240 * 2 + 30 * 3, rel=1e-3)
    assert found.size[2] == pytest.approx(6.0, abs=0.001)


@pytest.mark.parametrize(
    ("kind", "area"), [("rectangle", 26 * 18), ("ellipse", None), ("outline", 26 * 18 - (4 - math.pi) * 9)]
)
def test_bases_reach_beyond_the_outline(kind, area):
    mesh = raised_outline([(BOX, 3.0)], RaisedBody(base=Base(kind, 3.0, 1.2)))
    sound(mesh)
    foot = cut_at(mesh, 0.6)
    if area is not None:
        assert foot.area == pytest.approx(area, rel=1e-3)
    assert cut_at(mesh, 3.0).area == pytest.approx(240, rel=1e-4)


def test_outlines_are_cut_out_of_a_base_and_need_one():
    found = sound(raised_outline([(BOX, 3.0)], RaisedBody(base=Base("rectangle", 4.0, 2.0), cut=True)))
    assert found.volume_mm3 == pytest.approx((28 * 20 - 240) * 2, rel=1e-6)
    with pytest.raises(BadValueError, match="no base to cut"):
        raised_outline([(BOX, 3.0)], RaisedBody(cut=True))


def test_a_bevel_takes_its_share_and_both_sides_twice_as_much():
    plain = 240 * 3
    one = sound(raised_outline([(BOX, 3.0)], RaisedBody(edge="bevel", edge_size=1.0))).volume_mm3
    # The upper millimetre is a frustum between 20 × 12 and 18 × 10.
    frustum = (240 + 180 + 4 * 19 * 11) / 6
    assert one == pytest.approx(240 * 2 + frustum, rel=1e-4)
    both = sound(raised_outline([(BOX, 3.0)], RaisedBody(edge="bevel", edge_size=1.0, both=True))).volume_mm3
    assert plain - both == pytest.approx(2 * (plain - one), rel=1e-3)
    with pytest.raises(BadValueError, match="does not fit a height"):
        raised_outline([(BOX, 1.0)], RaisedBody(edge="bevel", edge_size=1.0))


def test_a_round_edge_lies_between_square_and_bevel():
    volumes = {
        edge: sound(raised_outline([(BOX, 3.0)], RaisedBody(edge=edge, edge_size=1.0))).volume_mm3
        for edge in ("square", "round", "bevel")
    }
    assert volumes["bevel"] < volumes["round"] < volumes["square"]
    # A quarter circle leaves 1 - π / 4 of the square along the edge, a bevel a half.
    assert (720 - volumes["round"]) / (720 - volumes["bevel"]) == pytest.approx((1 - math.pi / 4) / 0.5, rel=0.06)


@pytest.mark.parametrize(
    ("shell", "area"),
    [
        ("inside", 240 - 16 * 8),
        ("outside", 24 * 16 - (4 - math.pi) * 4 - 240),
        ("centred", 22 * 14 - (4 - math.pi) - 180),
    ],
)
def test_a_band_runs_inside_outside_or_along_the_edge(shell, area):
    found = sound(raised_outline([(BOX, 2.0)], RaisedBody(shell=shell, shell_width=2.0)))
    assert found.volume_mm3 == pytest.approx(area * 2, rel=1e-3)


def test_an_inlay_fits_its_pocket_with_the_clearance():
    mesh = raised_outline([(multi(star()), 2.0)], RaisedBody(base=Base("rectangle", 3.0, 1.0), inlay=0.2))
    found = sound(mesh)
    assert found.shells == 2
    plate, insert = sorted(cut_at(mesh, 2.0 - 1e-3).geoms, key=lambda part: -part.area)
    pocket = shapely.Polygon(plate.interiors[0])
    moved = shapely.affinity.translate(
        insert, pocket.centroid.x - insert.centroid.x, pocket.centroid.y - insert.centroid.y
    )
    assert pocket.area == pytest.approx(star().area, rel=1e-4)
    assert pocket.contains(moved)
    assert pocket.exterior.distance(moved) == pytest.approx(0.2, abs=0.02)


@pytest.mark.parametrize("shape", [disc(), star()], ids=["disc", "star"])
def test_a_four_line_wall_is_four_lines_thick(shape):
    mesh = make_cutter(multi(shape), [], Cutter(mirror=False)).mesh
    sound(mesh)
    wall = cut_at(mesh, 8.0)
    edge = cut_at(mesh, 14.0)
    corners = shapely.MultiPoint(shape.exterior.coords if len(shape.exterior.coords) < 20 else [(99, 99)])
    for thick, area in ((1.8, wall), (0.8, edge)):
        inner, outer = area.interiors[0], area.exterior
        shift = np.array(inner.bounds[:2]) - shape.bounds[:2]
        bends = shapely.affinity.translate(corners, *shift)
        places = [inner.interpolate(share, normalized=True) for share in np.linspace(0, 1, 400, endpoint=False)]
        widths = np.array([outer.distance(place) for place in places if bends.distance(place) > 2])
        assert len(widths) > 100
        assert widths == pytest.approx(thick, abs=0.005)
    assert cut_at(mesh, 1.0).area > wall.area > edge.area


def test_what_a_cutter_cuts_is_the_outline_with_its_clearance():
    for clearance in (0.0, 0.5):
        mesh = make_cutter(multi(disc(radius=10)), [], Cutter(clearance=clearance)).mesh
        opening = shapely.Polygon(cut_at(mesh, 15.0).interiors[0])
        assert opening.area == pytest.approx(math.pi * (10 + clearance) ** 2, rel=1e-3)


def test_a_cutter_is_a_mirror_image():
    flag = multi(shapely.Polygon([(0, 0), (20, 0), (20, 10)]))
    opening = shapely.Polygon(cut_at(make_cutter(flag, [], Cutter()).mesh, 15.0).interiors[0])
    assert opening.centroid.x < (opening.bounds[0] + opening.bounds[2]) / 2


@pytest.mark.deep
def test_parts_are_joined_by_bars_or_told_to_be_loose():
    apart = multi(disc(0, 0, 6), disc(30, 0, 6))
    joined = make_cutter(apart, [], Cutter())
    assert (joined.parts, joined.joined) == (2, True)
    assert sound(joined.mesh).shells == 1
    loose = make_cutter(apart, [], Cutter(bars=0))
    assert not loose.joined
    assert sound(loose.mesh).shells == 2


def test_parts_that_touch_in_a_point_are_joined_there_too():
    parts = multi(shapely.box(0, 0, 5, 5), shapely.box(5, 5, 10, 10))
    bars = bridges(parts, 2, 1.0)
    assert bars
    assert all(bar.area > 0.4 for bar in bars)
    whole = shapely.union_all([parts, *bars])
    assert whole.buffer(-0.2).geom_type == "Polygon"


def test_an_imprint_stays_behind_the_edge_and_away_from_the_wall():
    vein = multi(shapely.box(-20, -0.5, 20, 0.5))
    made = make_cutter(multi(disc(0, 0, 12)), [Imprint(vein, 3.0)], Cutter(imprint_gap=1.0, mirror=False))
    sound(made.mesh)
    low, high = cut_at(made.mesh, 12.5), cut_at(made.mesh, 13.5)
    assert len(low.geoms) == 2
    ridge = min(low.geoms, key=lambda part: part.area)
    assert ridge.bounds[2] - ridge.bounds[0] == pytest.approx(22, abs=0.1)
    assert high.geom_type == "Polygon"


def test_handles_and_round_rims_stay_closed():
    for cutter in (Cutter(handle=6), Cutter(rim_round=True), Cutter(edge_height=0)):
        sound(make_cutter(multi(star()), [], cutter).mesh)


@pytest.mark.parametrize(
    ("cutter", "words"), [(Cutter(edge=3), "thicker than the wall"), (Cutter(height=5), "Edge and rim take 6.5 mm")]
)
def test_measures_that_do_not_fit_are_refused(cutter, words):
    with pytest.raises(BadValueError, match=words):
        make_cutter(multi(disc()), [], cutter)


def test_a_stamp_is_mirrored_with_leaning_flanks():
    flag = multi(shapely.Polygon([(0, 0), (20, 0), (20, 10)]))
    mesh = make_stamp(flag, Stamp(draft_deg=10))
    found = sound(mesh)
    assert found.size[2] == pytest.approx(5.0, abs=0.001)
    face, foot = cut_at(mesh, 4.999), cut_at(mesh, 3.02)
    assert face.area == pytest.approx(100, rel=0.01)
    assert face.centroid.x < (face.bounds[0] + face.bounds[2]) / 2
    reach = 2 * math.tan(math.radians(10))
    assert foot.area == pytest.approx(flag.buffer(reach).area, rel=0.02)


@pytest.mark.parametrize("grip", ["knob", "bar"])
def test_grips_lie_under_the_plate(grip):
    found = sound(make_stamp(multi(star()), Stamp(grip=grip, grip_height=15)))
    assert found.size[2] == pytest.approx(20.0, abs=0.001)


def test_findings_point_at_the_stem_and_offer_to_widen_it():
    stem = multi(shapely.box(0, 0, 10, 10), shapely.box(10, 4.65, 20, 5.35))
    finding = region_findings(stem, Use("cutter", 0.45, 1.0))[0]
    assert finding.what.startswith("What is cut is 0.70 mm wide")
    assert finding.value == pytest.approx(0.7, abs=0.001)
    assert finding.fix is not None
    assert finding.fix.kind == "widen"
    gap = multi(shapely.box(0, 0, 10, 10), shapely.box(10.3, 0, 20, 10))
    whats = [found.what for found in region_findings(gap, Use("raised", 0.42, 0.0))]
    assert any("narrowest gap is 0.30 mm" in what for what in whats)
    assert any("2 parts that nothing joins" in what for what in whats)


def test_open_outlines_are_a_fault_with_a_mending():
    line = polygon_curve(np.array([[0, 0], [10, 0], [10, 10], [0.3, 0.3]], dtype=float), False)
    finding = edge_findings(Figure((Layer("", (line,)),)), 0.42)[0]
    assert (finding.severity, finding.fix.kind) == ("fault", "close-gaps")
    assert finding.fix.parameters["reach_mm"] >= math.hypot(0.3, 0.3)
