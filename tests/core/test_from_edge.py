"""Heights from the edge of a mask, against what they are analytically."""

import math

import cv2
import numpy as np
import pytest
import shapely
from numpy.typing import NDArray

from nebrel.core.errors import BadPictureError
from nebrel.core.height.from_edge import EdgeRule, edge_distances, edge_heights, swelling, without_stairs
from nebrel.core.picture import Picture, SourceFacts
from nebrel.core.region.edge_distance import distances_from, sorted_segments

SIDE = 241
X, Y = np.meshgrid(np.arange(SIDE, dtype=float), np.arange(SIDE, dtype=float))
FINE = 8


def covered(shape: shapely.Polygon) -> NDArray[np.float32]:
    """How far every sample is covered by a shape, each looked at in 8 x 8 places."""
    at = (np.arange(SIDE * FINE) + 0.5) / FINE - 0.5
    x, y = np.meshgrid(at, at)
    shapely.prepare(shape)
    inside = shapely.contains_xy(shape, x.ravel(), y.ravel()).reshape(x.shape)
    return np.asarray(cv2.resize(inside.astype(np.float32), (SIDE, SIDE), interpolation=cv2.INTER_AREA))


def depth_in(shape: shapely.Polygon) -> NDArray[np.float64]:
    away = shapely.distance(shape.boundary, shapely.points(X.ravel(), Y.ravel())).reshape(X.shape)
    return np.where(shapely.contains_xy(shape, X.ravel(), Y.ravel()).reshape(X.shape), away, 0.0)


TURNS = np.arange(10) * math.pi / 5 + 0.3
STAR = shapely.Polygon(
    np.column_stack([120 + np.where(np.arange(10) % 2, 45, 105) * f(TURNS) for f in (np.cos, np.sin)])
)
SHAPES = {
    "disc": shapely.Point(120, 117.3).buffer(90, quad_segs=256),
    "star": STAR,
    "rectangle": shapely.affinity.rotate(shapely.box(40, 70, 200, 170), 17),
}
# 0.05 mm between samples: 0.3 of them are 0.015 mm.
PITCH = 0.05


def raised(shape: str, rule: EdgeRule, raise_: str = "bright") -> NDArray[np.float32]:
    tones = covered(SHAPES[shape])
    tones = tones if raise_ == "bright" else 1 - tones
    facts = SourceFacts("png", SIDE, SIDE, 16, "gray")
    picture = Picture(tones, np.ones_like(tones), facts)
    return edge_heights(picture, raise_, PITCH * (SIDE - 1), rule).heights  # type: ignore[arg-type]


@pytest.mark.parametrize("shape", SHAPES)
def test_distances_are_those_of_the_shape(shape: str) -> None:
    found = edge_distances(covered(SHAPES[shape]), 1e6)
    true = depth_in(SHAPES[shape])
    inside = true > 0.5
    # Slanted edges, and the points of the star, are met as well as coverage tells them.
    assert np.abs(found - true)[inside].max() < 0.4
    assert np.abs(found - true)[inside].mean() < 0.12


@pytest.mark.parametrize("shape", SHAPES)
@pytest.mark.parametrize("raise_", ["bright", "dark"])
def test_a_roof_rises_by_its_angle_up_to_the_limit(shape: str, raise_: str) -> None:
    heights = raised(shape, EdgeRule("roof", 1.5, 30), raise_)
    true = np.minimum(depth_in(SHAPES[shape]) * PITCH * math.tan(math.radians(30)), 1.5)
    assert np.abs(heights - true).max() < 0.025
    assert heights.max() <= 1.5


@pytest.mark.parametrize("shape", SHAPES)
def test_dome_and_cove_are_quarters_of_an_ellipse(shape: str) -> None:
    part = np.minimum(depth_in(SHAPES[shape]) * PITCH / 2.0, 1.0)
    inside = part > 0.05
    dome = raised(shape, EdgeRule("dome", 1.2, reach=2.0))
    assert np.abs(dome - 1.2 * np.sqrt(1 - (1 - part) ** 2))[inside].max() < 0.04
    cove = raised(shape, EdgeRule("cove", 1.2, reach=2.0))
    assert np.abs(cove - 1.2 * (1 - np.sqrt(1 - part**2)))[part < 0.95].max() < 0.05
    assert dome.max() == pytest.approx(1.2)


def test_a_pillow_over_a_disc_is_half_a_ball_and_over_a_band_an_ellipse() -> None:
    heights = raised("disc", EdgeRule("pillow", 4.5))
    away = np.hypot(X - 120, Y - 117.3) / 90
    true = 4.5 * np.sqrt(np.maximum(0, 1 - away**2))
    assert np.abs(heights - true)[away < 0.97].max() < 0.04
    band = np.zeros((61, 601), np.float32)
    band[10:51] = 1
    # Its edge lies half a sample beyond the last one inside.
    square = swelling(band)[:, 300]
    across = (np.arange(61) - 30) / 20.5
    assert square == pytest.approx(np.maximum(0, 20.5**2 / 2 * (1 - across**2)), rel=0.02, abs=0.6)


@pytest.mark.deep
def test_tones_may_be_added_inside_only() -> None:
    plain, added = (raised("disc", EdgeRule("dome", 1.0, reach=2.0, tones=share)) for share in (0.0, 0.5))
    inside = covered(SHAPES["disc"]) >= 0.999
    assert (added - plain)[inside] == pytest.approx(0.5)
    assert (added[depth_in(SHAPES["disc"]) == 0] == 0).mean() > 0.99


def test_nothing_to_raise_is_refused() -> None:
    tones = np.zeros((20, 20), np.float32)
    picture = Picture(tones, np.ones_like(tones), SourceFacts("png", 20, 20, 8, "gray"))
    with pytest.raises(BadPictureError, match="Nothing of the picture is bright"):
        edge_heights(picture, "bright", 10, EdgeRule("roof", 1))


@pytest.mark.parametrize("count", [3, 60, 4000])
def test_the_nearest_piece_is_found_whatever_their_number(count: int) -> None:
    rng = np.random.default_rng(count)
    turns = np.linspace(0, 2 * math.pi, count + 1)
    away = 30 + rng.uniform(-2, 2, count + 1)
    corners = np.column_stack([away * np.cos(turns), 0.4 * away * np.sin(turns)])
    edge = sorted_segments(corners[:-1], corners[1:])
    places = rng.uniform(-60, 60, (500, 2))
    true = shapely.distance(shapely.LineString(corners), shapely.points(places))
    assert distances_from(edge, places) == pytest.approx(true, abs=1e-12)
    assert distances_from(edge, places, 5.0) == pytest.approx(np.minimum(true, 5.0), abs=1e-12)


def test_a_hard_edged_mask_gives_no_stairs() -> None:
    hard = (covered(SHAPES["disc"]) >= 0.5).astype(np.float32)
    softer = without_stairs(hard)
    true = depth_in(SHAPES["disc"])
    ring = (true > 2) & (true < 6)
    off = [float(np.square((edge_distances(mask, 1e6) - true)[ring]).mean()) for mask in (hard, softer)]
    assert off[1] < 0.4 * off[0]
    soft = covered(SHAPES["disc"])
    assert without_stairs(soft) is soft
