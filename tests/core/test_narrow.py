"""Where areas are too narrow: how wide they are there does not depend on how they lie or what lies beside them."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.affinity import rotate, translate

from nebrel.core.region.grid import polygons_of
from nebrel.core.region.narrow import narrowest, thin_parts

LIMIT = 0.8


@given(
    width=st.floats(0.05, 0.75),
    length=st.floats(6, 60),
    turn=st.floats(0, 180),
    place=st.tuples(st.floats(-200, 200), st.floats(-200, 200)),
)
@settings(max_examples=60, deadline=None)
def test_a_bar_is_as_wide_as_it_is_however_it_lies(width, length, turn, place):
    bar = translate(rotate(shapely.box(0, 0, length, width), turn), *place)
    ((found, where),) = narrowest(polygons_of(bar), LIMIT)
    assert found == pytest.approx(width, abs=1e-6)
    assert bar.contains(shapely.Point(where))


@given(width=st.floats(0.85, 3), turn=st.floats(0, 180))
@settings(max_examples=30, deadline=None)
def test_what_is_wide_enough_is_not_narrow(width, turn):
    assert narrowest(polygons_of(rotate(shapely.box(0, 0, 12, width), turn)), LIMIT) == []


@pytest.mark.parametrize("wall", [0.1, 0.3, 0.7])
def test_a_ring_is_as_wide_as_its_wall(wall):
    ring = shapely.Point(3, 4).buffer(10, quad_segs=200) - shapely.Point(3, 4).buffer(10 - wall, quad_segs=200)
    widths = [width for width, _ in narrowest(polygons_of(ring), LIMIT)]
    assert widths
    assert widths == pytest.approx([wall] * len(widths), abs=2e-3)


def test_a_wedge_is_narrow_from_where_it_is_as_wide_as_the_limit():
    wedge = shapely.Polygon([(0, -2), (0, 2), (40, 0.05), (40, -0.05)])
    ((part, width, (x, _)),) = thin_parts(polygons_of(wedge), LIMIT)
    # It is 4 mm wide at its foot and a tenth at its tip, so 0.8 mm wide at 32.8 mm.
    assert part.bounds[0] == pytest.approx(32.8, abs=1.0)
    assert width == pytest.approx(4 - 3.9 * x / 40, abs=0.05)


def test_a_slit_between_two_blocks_is_the_narrow_part_of_what_lies_around_them():
    sheet, blocks = shapely.box(-5, -5, 35, 25), [shapely.box(0, 0, 14.8, 20), shapely.box(15, 0, 30, 20)]
    ((width, (x, y)),) = narrowest(polygons_of(sheet.difference(shapely.union_all(blocks))), LIMIT)
    assert width == pytest.approx(0.2, abs=1e-9)
    assert 14.8 < x < 15
    assert 0 < y < 20


def test_one_narrow_place_among_many_wide_parts_is_found_where_it_is():
    random = np.random.default_rng(2)
    wide = [translate(rotate(shapely.box(0, 0, 3, 3), random.uniform(0, 90)), 6 * at, 6) for at in range(400)]
    thin = translate(shapely.box(0, 0, 5, 0.25), 1200, -20)
    ((width, where),) = narrowest(polygons_of(shapely.union_all([*wide, thin])), LIMIT)
    assert width == pytest.approx(0.25)
    assert thin.contains(shapely.Point(where))


def test_the_narrowest_comes_first():
    bars = [translate(shapely.box(0, 0, 8, width), 0, 4 * at) for at, width in enumerate((0.5, 0.2, 0.7, 0.3))]
    assert [width for width, _ in narrowest(polygons_of(shapely.union_all(bars)), LIMIT)] == pytest.approx(
        [0.2, 0.3, 0.5, 0.7]
    )


@pytest.mark.parametrize("overlap", [0.02, 0.1, 0.2])
def test_squares_that_hang_together_by_their_corners_are_narrow_there(overlap):
    board = [shapely.box(5 * i, 5 * j, 5 * i + 5 + overlap, 5 * j + 5 + overlap) for i in range(3) for j in range(3)]
    found = narrowest(polygons_of(shapely.union_all(board[::2])), LIMIT)
    # Five squares, four of which touch the middle one.
    assert [width for width, _ in found] == pytest.approx([overlap * 2**0.5] * 4, abs=1e-6)
    corners = {(round(x), round(y)) for _, (x, y) in found}
    assert corners == {(5, 5), (5, 10), (10, 5), (10, 10)}


def test_a_hole_that_nearly_reaches_the_rim_leaves_a_narrow_place_though_all_hangs_together():
    plate = shapely.box(0, 0, 20, 20) - shapely.Polygon([(10, 0.07), (14, 10), (6, 10)])
    ((width, where),) = narrowest(polygons_of(plate), LIMIT)
    assert width == pytest.approx(0.07, abs=1e-6)
    assert where == pytest.approx((10, 0.035), abs=1e-6)


def test_a_loose_speck_is_narrow_however_small():
    speck = shapely.box(20, 0, 20.3, 0.2)
    ((width, where),) = narrowest(polygons_of(shapely.union_all([shapely.box(0, 0, 10, 10), speck])), LIMIT)
    assert width == pytest.approx(0.2, abs=1e-6)
    assert speck.contains(shapely.Point(where))
