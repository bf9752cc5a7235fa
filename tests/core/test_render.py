"""Pictures of solids: every pixel held against the triangles themselves, light, shadow and what shines through."""

import numpy as np
import pytest
from numpy.typing import NDArray

from nebrel.core.mesh.shading import ShadedMesh
from nebrel.core.proof.render import OVERSAMPLING, PLASTER, STAGE, Behind, Viewpoint, render

WIDE, HIGH = 80, 60
# Straight from the eye, so that what faces it is as bright as can be.
FACING = Viewpoint(turn_deg=0.0, tilt_deg=0.0, light_above_deg=90.0)
LOW = Viewpoint(turn_deg=0.0, tilt_deg=0.0, light_from_deg=180.0, light_above_deg=25.0)


def flat(triangles: NDArray[np.float64], colours: NDArray[np.uint8] | None = None) -> ShadedMesh:
    """Triangles (K, 3, 3) that all look along z, whichever way round they come."""
    one, two = triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]
    turned = one[:, 0] * two[:, 1] < one[:, 1] * two[:, 0]
    triangles = np.where(turned[:, np.newaxis, np.newaxis], triangles[:, ::-1], triangles)
    points = triangles.reshape(-1, 3)
    normals = np.tile(np.float32([0, 0, 1]), (len(points), 1))
    faces = np.arange(len(points), dtype=np.uint32).reshape(-1, 3)
    return ShadedMesh(points.astype(np.float32), normals, faces, colours)


def rectangle(low: tuple[float, float], high: tuple[float, float], z: float) -> NDArray[np.float64]:
    (left, foot), (right, top) = low, high
    a, b, c, d = (left, foot, z), (right, foot, z), (right, top, z), (left, top, z)
    return np.array([[a, b, c], [a, c, d]], dtype=np.float64)


def covered(triangles: NDArray[np.float64]) -> NDArray[np.float64]:
    """Share of each pixel's places that lie in any triangle, (HIGH, WIDE), tried one by one."""
    wide, high = WIDE * OVERSAMPLING, HIGH * OVERSAMPLING
    points = triangles.astype(np.float32).astype(np.float64)[..., :2]
    low, top = points.min(axis=(0, 1)), points.max(axis=(0, 1))
    scale = 0.86 * min(wide / (top[0] - low[0]), high / (top[1] - low[1]))
    screen = (points - (low + top) / 2) * scale * [1, -1] + [wide / 2, high / 2]
    rows, columns = np.mgrid[0:high, 0:wide]
    inside = np.zeros((high, wide), dtype=bool)
    for a, b, c in screen:
        sides = [
            (end[0] - start[0]) * (rows - start[1]) - (end[1] - start[1]) * (columns - start[0])
            for start, end in ((a, b), (b, c), (c, a))
        ]
        inside |= np.all([side >= 0 for side in sides], axis=0) | np.all([side <= 0 for side in sides], axis=0)
    return inside.reshape(HIGH, OVERSAMPLING, WIDE, OVERSAMPLING).mean(axis=(1, 3))


def expected(share: NDArray[np.float64]) -> NDArray[np.float64]:
    """The picture of what is fully lit, over the stage."""
    stage = STAGE * np.linspace(1.12, 0.82, HIGH * OVERSAMPLING).reshape(HIGH, -1).mean(axis=1)[:, None, None]
    return 255 * (share[..., None] * PLASTER + (1 - share[..., None]) * stage)


@pytest.mark.parametrize("kind", ["any", "slivers", "upright", "specks"])
def test_every_pixel_is_what_the_triangles_cover(kind):
    random = np.random.default_rng(7)
    corners = random.uniform(0, 100, (30, 3, 2))
    if kind == "slivers":
        corners[:, 2] = corners[:, 1] + random.uniform(-0.8, 0.8, (30, 2))
    if kind == "upright":
        corners[:, 1, 0] = corners[:, 0, 0]
    if kind == "specks":
        corners = corners[:, :1] + random.uniform(-1.5, 1.5, (30, 3, 2))
    triangles = np.concatenate([corners, np.zeros((30, 3, 1))], axis=2)
    share = covered(triangles)
    assert 0.001 < share.mean() < 0.98
    off = np.abs(render(flat(triangles), WIDE, HIGH, FACING) - expected(share)).max(axis=2)
    # A place that lies on a side to the last bit may fall either way.
    assert (off > 1).sum() <= 2


def test_the_nearer_one_is_seen_in_its_own_colour():
    whole, patch = rectangle((0, 0), (40, 30), 0), rectangle((10, 10), (30, 20), 5)
    colours = np.repeat(np.uint8([[20, 60, 220, 255], [230, 30, 20, 255]]), 6, axis=0)
    for triangles, tints in ((np.vstack([whole, patch]), colours), (np.vstack([patch, whole]), colours[::-1])):
        picture = render(flat(triangles, tints), WIDE, HIGH, FACING).astype(int)
        assert picture[HIGH // 2, WIDE // 2] == pytest.approx([230, 30, 20], abs=1)
        assert picture[HIGH // 2, WIDE // 2 - 25] == pytest.approx([20, 60, 220], abs=1)


def test_a_low_lamp_throws_a_shadow_away_from_itself():
    ground, lid = rectangle((0, 0), (60, 40), 0), rectangle((28, 10), (32, 30), 6)
    picture = render(flat(np.vstack([ground, lid])), WIDE, HIGH, LOW).mean(axis=2)
    shade = 6 / np.tan(np.radians(25))
    scale = 0.86 * WIDE / 60
    row = picture[HIGH // 2]
    at = lambda x: row[int(WIDE / 2 + (x - 30) * scale)]  # noqa: E731
    # The lamp stands on the left; the lid floats, so its shadow lies to the right by its height over the slope.
    assert at(30 + shade) < 0.75 * at(8)
    assert at(8) == pytest.approx(at(55), abs=2)
    assert at(20) == pytest.approx(at(8), abs=2)


def test_what_looks_away_from_the_lamp_is_darker_and_what_looks_away_from_the_eye_is_not_seen():
    towards = flat(rectangle((0, 0), (40, 30), 0))
    brightness = [
        render(towards, WIDE, HIGH, Viewpoint(0, 0, 90, above))[HIGH // 2, WIDE // 2].mean() for above in (80, 40, 10)
    ]
    assert brightness[0] > brightness[1] + 10 > brightness[2] + 20
    behind = ShadedMesh(towards.positions, -towards.normals, towards.faces[:, ::-1].copy())
    picture = render(behind, WIDE, HIGH, FACING)
    assert np.abs(picture - expected(np.zeros((HIGH, WIDE)))).max() <= 1


def test_a_given_width_keeps_its_scale_however_much_is_seen():
    def wide_of(size: float, across: float | None) -> int:
        view = Viewpoint(turn_deg=0, tilt_deg=0, light_above_deg=90, across=across)
        picture = render(flat(rectangle((0, 0), (size, size / 2), 0)), 200, 200, view)
        return int((picture[100].mean(axis=1) > 150).sum())

    assert wide_of(20, None) == pytest.approx(172, abs=1)
    assert wide_of(40, None) == pytest.approx(172, abs=1)
    assert wide_of(40, 80.0) == pytest.approx(86, abs=1)
    assert wide_of(20, 80.0) == pytest.approx(43, abs=1)


def test_through_a_sheet_shines_what_lies_behind_each_place():
    # In four strips: a face over more than half of the sheet is taken for one across the seam of a closed wall.
    mesh = flat(np.vstack([rectangle((left, 0), (left + 10, 30), 0) for left in (0, 10, 20, 30)]))
    places = np.column_stack([mesh.positions[:, 0] / 40, mesh.positions[:, 1] / 30, np.ones(24)]).astype(np.float32)
    light = np.zeros((2, 2, 3), dtype=np.float32)
    light[0, 0], light[1, 1] = (1.0, 0.0, 0.0), (0.0, 0.0, 1.0)
    picture = render(mesh, WIDE, HIGH, FACING, Behind(places, light, np.ones(3), 0.0)).astype(int)
    quarters = {
        (top, left): picture[HIGH // 2 + (-12 if top else 12), WIDE // 2 + (-12 if left else 12)]
        for top in (True, False)
        for left in (True, False)
    }
    assert quarters[True, True] == pytest.approx([255, 0, 0], abs=1)
    assert quarters[False, False] == pytest.approx([0, 0, 255], abs=1)
    assert quarters[True, False].max() == quarters[False, True].max() == 0
