"""Parts that meet in a point: found, bridged or parted, and judged as the file will hold them."""

import pytest
from shapely.geometry import MultiPolygon, Polygon, box

from nebrel.core.outline_solid.raised import RaisedBody, raised_outline
from nebrel.core.proof import check_soundness
from nebrel.core.proof.outline_audit import Use, crumbs, region_findings
from nebrel.core.region.curves import Figure, Layer, figure_region, polygon_curve
from nebrel.core.region.flaws import touching_places
from nebrel.core.region.mend import mend_touching
from nebrel.core.region.rings import rings_of

CORNERS = MultiPolygon([box(0, 0, 20, 20), box(20, 20, 40, 40)])
HOLE = [[(0, 15), (10, 10), (10, 20)]]
PINCHED = MultiPolygon([Polygon([(0, 0), (30, 0), (30, 30), (0, 30), (0, 15)], HOLE)])
# The same, but that the outer edge has no corner there.
LEANING = MultiPolygon([Polygon(box(0, 0, 30, 30).exterior.coords, HOLE)])
APART = MultiPolygon([box(0, 0, 20, 20), box(20.5, 20.5, 40, 40)])


def figure(region: MultiPolygon) -> Figure:
    return Figure((Layer("", tuple(polygon_curve(ring) for ring in rings_of(region))),))


@pytest.mark.parametrize(("region", "places"), [(CORNERS, 1), (PINCHED, 1), (LEANING, 1), (APART, 0)])
def test_places_are_found(region, places):
    assert len(touching_places(region)) == places


@pytest.mark.parametrize("region", [CORNERS, PINCHED])
def test_what_touches_is_no_sound_solid_and_is_told_with_a_fix(region):
    assert not check_soundness(raised_outline([(region, 3.0)], RaisedBody())).sound
    found = next(each for each in region_findings(region, Use("raised", 0.45, 0.0)) if each.measure == "touching")
    assert found.fix is not None
    assert found.fix.kind == "touching"


@pytest.mark.parametrize("region", [CORNERS, PINCHED])
@pytest.mark.parametrize("join", [True, False])
def test_a_bridge_or_a_gap_makes_it_sound(region, join):
    mended = figure_region(mend_touching(figure(region), 1.0, join))
    assert len(touching_places(mended)) == 0
    assert check_soundness(raised_outline([(mended, 3.0)], RaisedBody())).sound
    assert (mended.area > region.area) == join
    if region is CORNERS:
        assert len(mended.geoms) == (1 if join else 2)


def test_crumbs_are_told_and_many_alike_are_not():
    grains = [box(3 * (at % 30), 3 * (at // 30), 3 * (at % 30) + 0.3, 3 * (at // 30) + 0.3) for at in range(600)]
    (found,) = crumbs(MultiPolygon([box(0, 100, 60, 160), *grains]))
    assert found.value == 601
    assert found.fix is not None
    assert crumbs(MultiPolygon(grains)) == ()
