"""Outlines sunk into a stock: V walls to the outline and no farther, pockets, drilled holes; proved on the router."""

import math

import numpy as np
import pytest
import shapely
from shapely.geometry import MultiPolygon, Point, Polygon, box

from nebrel.core.carve.bits import Bit
from nebrel.core.carve.board import Board, Machine
from nebrel.core.carve.program import POSTS, Post
from nebrel.core.carve.sunk.medial_axis import medial_axis
from nebrel.core.carve.sunk.outline import SunkOutline, inset, reached
from nebrel.core.carve.sunk.sinking import Sinking
from nebrel.core.errors import BadValueError
from nebrel.core.proof.carving import Carved
from nebrel.core.proof.sinking import carve_outlines
from tests.trials import deep_but

SIZE = (60.0, 40.0)
V60 = Bit("v", 12, angle_deg=60)
FLAT, FINE = Bit("flat", 3), Bit("flat", 1, step_down=1)
DRILL = Bit("drill", 3, angle_deg=118)
SLOPE = 1 / math.tan(math.radians(30))


def star(x: float = 20, y: float = 20, outer: float = 16, inner: float = 7) -> Polygon:
    turns = np.arange(10) * math.pi / 5
    away = np.where(np.arange(10) % 2 == 0, outer, inner)
    return Polygon(np.column_stack([x + away * np.cos(turns), y + away * np.sin(turns)]))


def disc(x: float, y: float, radius: float) -> Polygon:
    return Point(x, y).buffer(radius, quad_segs=64)


SIGN = MultiPolygon(
    [star().difference(disc(20, 20, 2.5)), disc(46, 28, 6).difference(disc(46, 28, 3)), disc(46, 10, 1.5)]
)


def sunk(how: Sinking, region: MultiPolygon = SIGN, post: Post = POSTS[0]) -> Carved:
    return carve_outlines(region, SIZE, how, Board((70, 50, 18)), Machine(), post, "Sign")


def over(carved: Carved) -> np.ndarray:
    return carved.left[np.isfinite(carved.left)]


def test_the_medial_axis_of_a_rectangle_is_its_ridge_with_a_branch_to_every_corner() -> None:
    axis = medial_axis(MultiPolygon([box(0, 0, 10, 4)]), 1e-4)
    assert axis.length == pytest.approx(6 + 4 * math.hypot(2, 2), abs=0.01)
    assert axis.distance(Point(5, 2)) < 1e-4
    for x, y in ((0, 0), (10, 0), (0, 4), (10, 4)):
        assert axis.distance(Point(x, y)) < 0.01


def test_a_circle_of_many_corners_has_no_hairs_but_its_middle_is_not_lost() -> None:
    axis = medial_axis(MultiPolygon([disc(5, 5, 3)]), 0.003)
    assert 1 <= len(axis.geoms) <= 4
    assert axis.distance(Point(5, 5)) < 0.02
    assert axis.length == pytest.approx(3 * len(axis.geoms), abs=0.05)


def test_discs_along_the_axis_make_the_outline_again() -> None:
    region = MultiPolygon([SIGN.geoms[0], SIGN.geoms[1]])
    axis = medial_axis(region, 0.003)
    outline = SunkOutline(region, SIZE, 100, 1.0)
    places = np.concatenate([np.asarray(line.segmentize(0.1).coords) for line in axis.geoms])
    discs = shapely.union_all(shapely.buffer(shapely.points(places), outline.inside(places), quad_segs=32))
    assert region.difference(discs).area < 0.004 * region.area
    assert discs.difference(region.buffer(0.005)).area < 1e-6


@pytest.mark.parametrize("depth", [20.0, 2.0], ids=["to-a-point", "with-a-floor"])
def test_v_carving_reaches_the_outline_and_leaves_all_else(depth: float) -> None:
    carved = sunk(Sinking("v", depth, (V60,), cusp=0.03))
    assert not carved.faults
    assert carved.facts["gouge_max_mm"] <= 0.001
    assert float(np.quantile(over(carved), 0.995)) <= 0.03 + 0.005 + 0.002
    assert carved.facts["left_max_mm"] <= 0.06
    # Nothing beside the outline is touched, down to the last cell.
    rows, columns = np.indices(carved.stock.tops.shape)
    x = carved.stock.left + columns * carved.stock.cell
    y = carved.stock.low + rows * carved.stock.cell
    beside = ~shapely.contains_xy(SIGN.buffer(1e-6), x, y)
    assert carved.stock.tops[beside].min() == 0.0
    # Between two cells the bit may have been deeper by what its side falls there.
    assert 0 <= min(depth, _deepest()) - float(-carved.stock.tops.min()) < 0.1


def _deepest() -> float:
    outline = SunkOutline(SIGN, SIZE, 100, SLOPE)
    x, y = np.meshgrid(np.arange(0, 60, 0.05), np.arange(0, 40, 0.05))
    return float(-outline.heights(np.column_stack([x.ravel(), y.ravel()])).min())


def test_a_flat_bit_clears_the_floor_first_and_saves_time() -> None:
    plate = MultiPolygon([box(5, 5, 55, 35)])
    alone = sunk(Sinking("v", 1.5, (V60,)), plate)
    both = sunk(Sinking("v", 1.5, (FLAT, V60)), plate)
    assert [one.kind for one in both.passes] == ["pocket", "v-carve"]
    assert not both.faults
    assert both.minutes < 0.4 * alone.minutes
    assert both.facts["gouge_max_mm"] <= 0.001
    assert float(np.quantile(over(both), 0.995)) <= 0.06


def test_a_v_bit_goes_no_deeper_than_it_is_wide() -> None:
    narrow = Bit("v", 2, angle_deg=60)
    how = Sinking("v", 10, (narrow,))
    assert how.deepest == pytest.approx(SLOPE)
    carved = sunk(how, MultiPolygon([disc(30, 20, 4)]))
    assert not carved.faults
    assert carved.stock.tops.min() == pytest.approx(-SLOPE, abs=0.005)


def test_pockets_have_straight_walls_and_a_finer_bit_takes_only_what_is_left() -> None:
    coarse, both = sunk(Sinking("straight", 2.5, (FLAT,))), sunk(Sinking("straight", 2.5, (FINE, FLAT)))
    assert [one.bit for one in both.passes] == ["flat 3 mm", "flat 1 mm"]
    for carved, radius in ((coarse, 1.5), (both, 0.5)):
        assert not carved.faults
        assert carved.facts["gouge_max_mm"] == 0.0
        cut = float((carved.stock.tops < -2.4).sum()) * carved.stock.cell**2
        assert cut == pytest.approx(reached(SIGN, radius + 0.003).area, rel=0.02)
    alone = sunk(Sinking("straight", 2.5, (FINE,)))
    assert both.passes[1].length_m < 0.6 * alone.passes[0].length_m


def test_a_round_hole_as_wide_as_the_drill_is_drilled_in_steps() -> None:
    carved = sunk(Sinking("straight", 5, (FLAT, DRILL)))
    assert [one.kind for one in carved.passes] == ["drill", "pocket"]
    assert not carved.faults
    path = carved.planned[0].ways[0].path
    assert (np.ptp(path[:, 0]), np.ptp(path[:, 1])) == (0.0, 0.0)
    assert path[0, :2] == pytest.approx([46, 10], abs=1e-6)
    assert path[:, 2].min() == -5.0
    assert np.abs(np.diff(np.sort(path[path[:, 2] < 0, 2]))).max() <= 3
    small = sunk(Sinking("straight", 5, (FLAT, Bit("drill", 2.5, angle_deg=118))))
    assert [one.kind for one in small.passes] == ["pocket"]


@pytest.mark.parametrize("post", deep_but(POSTS, [POSTS[0]]), ids=lambda post: post.name)
def test_every_way_of_writing_cuts_the_same(post: Post) -> None:
    carved = sunk(Sinking("straight", 2, (FLAT,)), post=post)
    assert not carved.faults
    text = carved.programs[0].text
    assert ("G2 " in text) == (post.arcs != "none")
    straight = sunk(Sinking("straight", 2, (FLAT,)), post=Post(arcs="none"))
    assert np.abs(carved.stock.tops - straight.stock.tops).max(initial=0, where=carved.stock.tops > -1.99) <= 0.003


@pytest.mark.parametrize(
    ("make", "says"),
    [
        (lambda: Sinking("v", 3, (FLAT,)), "needs a V bit"),
        (lambda: Sinking("straight", 3, (V60, FLAT)), "does not cut straight walls"),
        (lambda: Sinking("straight", 3, ()), "flat bit or a drill"),
        (lambda: Sinking("v", 3, (Bit("ball", 3), V60)), "does not cut V walls"),
        (lambda: Sinking("v", 0, (V60,)), "depth of sunk outlines"),
        (lambda: sunk(Sinking("straight", 2, (Bit("flat", 20),))), "narrower than the flat 20 mm bit"),
        (lambda: sunk(Sinking("straight", 2, (FLAT,)), MultiPolygon()), "enclose nothing"),
        (lambda: sunk(Sinking("straight", 30, (FLAT,))), "too thin"),
        (lambda: sunk(Sinking("straight", 10, (Bit("flat", 3, flute=5),))), "flutes"),
    ],
)
def test_what_cannot_be_sunk_is_refused_in_one_sentence(make, says: str) -> None:
    with pytest.raises(BadValueError, match=says) as refused:
        make()
    assert str(refused.value).count("\n") == 0


def test_an_inset_stays_inside() -> None:
    small = inset(SIGN, 1.0)
    assert SIGN.contains(small)
    assert small.distance(SIGN.boundary) == pytest.approx(1.0, abs=0.002)
