"""A picture of a solid under one low light: what a sculptor sees on turning a lamp round the piece."""

import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.shading import ShadedMesh
from nebrel.core.picture.srgb import encode_srgb

OVERSAMPLING = 2
STAGE = np.array([0.235, 0.255, 0.27])
PLASTER = np.array([0.93, 0.895, 0.83])
AMBIENT = 0.26
NONE = np.zeros((1, 3), dtype=np.float32)


@dataclass(frozen=True)
class Viewpoint:
    """Where the eye and the lamp are, in degrees.

    Attributes:
        turn_deg: the piece turned about its upright axis, positive shows its left side.
        tilt_deg: the piece leant back, 0 faces the viewer.
        light_from_deg: direction of the lamp round the view, 0 right, 90 top.
        light_above_deg: height of the lamp over the piece, 90 straight from the viewer.
        upright: whether the piece stands, and is turned about z and not about y; then 90 of tilt faces the viewer.
        lamp_stays: whether the lamp stays with the eye while the piece is turned, and not with the piece.
        across: mm that fill the picture, however the piece is turned; None for what is seen of it.
    """

    turn_deg: float = -9.0
    tilt_deg: float = 24.0
    light_from_deg: float = 140.0
    light_above_deg: float = 28.0
    upright: bool = False
    lamp_stays: bool = False
    across: float | None = None


@dataclass(frozen=True)
class Behind:
    """A lamp behind a wall.

    Attributes:
        places: float32 (N, 3) for every vertex: shares of the width and height of the wall's sheet from its lower left
            corner, and 1 on the side of the viewer, -1 on that of the lamp, 0 beside the sheet.
        light: float32 (h, w, 3) linear, what comes through the sheet; row 0 is the top.
        direct: linear red, green and blue (3,) of what the lamp itself falls on.
        room: share of daylight that is left in front.
    """

    places: NDArray[np.float32]
    light: NDArray[np.float32]
    direct: NDArray[np.float64]
    room: float


class _Scene(NamedTuple):
    """What is looked at: vertices on the screen in pixels, their normals and places as the eye has them, and faces."""

    screen: NDArray[np.float64]
    normals: NDArray[np.float64]
    points: NDArray[np.float64]
    faces: NDArray[np.int64]


class _Lamp(NamedTuple):
    """Where light comes from, how far it reaches, and the map from places to places on that picture."""

    direction: NDArray[np.float64]
    shadow: NDArray[np.float64]
    to_shadow: NDArray[np.float64]


def render(
    mesh: ShadedMesh, width_px: int, height_px: int, view: Viewpoint | None = None, behind: Behind | None = None
) -> NDArray[np.uint8]:
    """An orthographic picture of `mesh` in its own colours, uint8 (height_px, width_px, 3) sRGB, with cast shadows."""
    view = view or Viewpoint()
    wide, high = width_px * OVERSAMPLING, height_px * OVERSAMPLING
    turned = mesh.positions.astype(np.float64) @ _rotation(view).T
    normals = mesh.normals.astype(np.float64) @ _rotation(view).T
    low, top = turned.min(axis=0), turned.max(axis=0)
    wanted = top - low if view.across is None else np.full(3, view.across)
    scale = 0.86 * min(wide / wanted[0], high / wanted[1])
    middle = (low + top) / 2
    screen = (turned - middle) * scale
    screen[:, 0] += wide / 2
    screen[:, 1] = high / 2 - screen[:, 1]
    lamp_azimuth, lamp_height = math.radians(view.light_from_deg), math.radians(view.light_above_deg)
    lit = np.eye(3) if view.lamp_stays else _rotation(view)
    face, right = lit @ np.array([0.0, 0.0, 1.0]), lit @ np.array([1.0, 0.0, 0.0])
    up = np.cross(face, right)
    lamp = (
        math.cos(lamp_height) * (math.cos(lamp_azimuth) * right + math.sin(lamp_azimuth) * up)
        + math.sin(lamp_height) * face
    )
    shadow, to_shadow = _shadow_map(turned, mesh.faces, lamp, max(wide, high))
    faces = mesh.faces.astype(np.int64)
    light = np.full((high, wide), -1.0)
    depth = np.full((high, wide), -np.inf)
    places = np.zeros((len(screen), 3), dtype=np.float32) if behind is None else behind.places
    seen = NONE[np.newaxis] if behind is None else np.zeros((high, wide, 3), dtype=np.float32)
    tints = NONE if mesh.colours is None else (mesh.colours[:, :3] / 255).astype(np.float32)
    tint = NONE[np.newaxis] if mesh.colours is None else np.zeros((high, wide, 3), dtype=np.float32)
    scene = _Scene(screen, normals, turned, faces)
    _paint(scene, _Lamp(lamp, shadow, to_shadow), light, depth, (places, seen), (tints, tint))
    if behind is not None:
        return _glowing(light, seen, behind)
    return _develop(light, PLASTER if mesh.colours is None else tint)


def _rotation(view: Viewpoint) -> NDArray[np.float64]:
    turn, tilt = math.radians(view.turn_deg), math.radians(-view.tilt_deg)
    about_z = np.array([[math.cos(turn), -math.sin(turn), 0], [math.sin(turn), math.cos(turn), 0], [0, 0, 1]])
    about_y = np.array([[math.cos(turn), 0, math.sin(turn)], [0, 1, 0], [-math.sin(turn), 0, math.cos(turn)]])
    about_x = np.array([[1, 0, 0], [0, math.cos(tilt), -math.sin(tilt)], [0, math.sin(tilt), math.cos(tilt)]])
    return np.asarray(about_x @ (about_z if view.upright else about_y))


def _shadow_map(
    points: NDArray[np.float64], faces: NDArray[np.uint32], lamp: NDArray[np.float64], side_px: int
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Distance towards the lamp of the surface nearest to it, and the 3x4 map from turned points into that picture."""
    helper = np.array([0.0, 1.0, 0.0]) if abs(lamp[1]) < 0.9 else np.array([1.0, 0.0, 0.0])
    u = np.cross(helper, lamp)
    u /= np.linalg.norm(u)
    v = np.cross(lamp, u)
    seen = points @ np.column_stack([u, v, lamp])
    low, high = seen.min(axis=0), seen.max(axis=0)
    scale = np.array([(side_px - 3) / (high[0] - low[0]), (side_px - 3) / (high[1] - low[1]), 1.0])
    rows = np.vstack([u, v, lamp]) * scale[:, np.newaxis]
    shift = np.array([1.0, 1.0, 0.0]) - low * scale * np.array([1, 1, 0])
    to_shadow = np.column_stack([rows, shift])
    shadow = np.full((side_px, side_px), -np.inf)
    _depths(points @ rows.T + shift, faces.astype(np.int64), shadow)
    return shadow, to_shadow


def _develop(light: NDArray[np.float64], tint: NDArray[np.floating]) -> NDArray[np.uint8]:
    small = np.empty((light.shape[0] // OVERSAMPLING, light.shape[1] // OVERSAMPLING, 3), dtype=np.uint8)
    colours = tint.astype(np.float32).reshape(-1, 3)
    _shrink(light, colours, STAGE, np.linspace(1.12, 0.82, light.shape[0]), small)
    return small


def _glowing(light: NDArray[np.float64], seen: NDArray[np.float32], behind: Behind) -> NDArray[np.uint8]:
    """What a dim room and the lamp behind make of the piece."""
    rows, columns, _ = behind.light.shape
    down = np.clip(((1 - seen[..., 1]) * rows).astype(np.int64), 0, rows - 1)
    across = np.clip((seen[..., 0] * columns).astype(np.int64), 0, columns - 1)
    side = seen[..., 2:]
    through = behind.light[down, across] * np.maximum(side, 0) + behind.direct * np.maximum(-side, 0)
    room = behind.room * np.clip(light, 0, 1)[..., np.newaxis] * PLASTER
    stage = 0.35 * STAGE**2 * (0.4 + 2 * behind.room)
    linear = np.where(light[..., np.newaxis] >= 0, room + through, stage)
    high, wide = light.shape[0] // OVERSAMPLING, light.shape[1] // OVERSAMPLING
    small = np.clip(linear, 0, 1).reshape(high, OVERSAMPLING, wide, OVERSAMPLING, 3).mean(axis=(1, 3))
    return np.asarray(np.round(encode_srgb(small) * 255), dtype=np.uint8)


@compiled
def _shrink(light, colours, stage, rows, small):
    """Mean over the pixels that make one; `colours` is one of all or one of each pixel, `rows` the light behind."""
    for i in range(small.shape[0]):
        for j in range(small.shape[1]):
            for channel in range(3):
                total = 0.0
                for y in range(i * OVERSAMPLING, (i + 1) * OVERSAMPLING):
                    for x in range(j * OVERSAMPLING, (j + 1) * OVERSAMPLING):
                        if light[y, x] < 0:
                            total += stage[channel] * rows[y]
                        else:
                            at = 0 if len(colours) == 1 else y * light.shape[1] + x
                            total += colours[at, channel] * math.sqrt(min(1.0, light[y, x]))
                small[i, j, channel] = np.uint8(max(0.0, min(255.0, np.round(total / OVERSAMPLING**2 * 255))))


@compiled
def _span(low, high, limit):
    return max(0, math.ceil(low)), min(limit - 1, math.floor(high))


@compiled
def _row_span(corner, u, v, y, limit):
    """Pixels of row `y` that a triangle from `corner` along `u` and `v` may cover; one more on each side."""
    low, high = np.inf, -np.inf
    dy = y - corner[1]
    for x0, y0, x1, y1 in ((0.0, 0.0, u[0], u[1]), (0.0, 0.0, v[0], v[1]), (u[0], u[1], v[0], v[1])):
        if min(y0, y1) <= dy <= max(y0, y1):
            if y0 == y1:
                low, high = min(low, x0, x1), max(high, x0, x1)
            else:
                x = x0 + (dy - y0) / (y1 - y0) * (x1 - x0)
                low, high = min(low, x), max(high, x)
    if low > high:
        return 0, -1
    return max(0, math.floor(corner[0] + low) - 1), min(limit - 1, math.ceil(corner[0] + high) + 1)


@compiled
def _depths(points, faces, depth):
    for f in range(len(faces)):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        ax, ay, az = points[a, 0], points[a, 1], points[a, 2]
        ux, uy, uz = points[b, 0] - ax, points[b, 1] - ay, points[b, 2] - az
        vx, vy, vz = points[c, 0] - ax, points[c, 1] - ay, points[c, 2] - az
        area = ux * vy - uy * vx
        if area == 0:
            continue
        y0, y1 = _span(ay + min(0.0, uy, vy), ay + max(0.0, uy, vy), depth.shape[0])
        for y in range(y0, y1 + 1):
            x0, x1 = _row_span((ax, ay), (ux, uy), (vx, vy), y, depth.shape[1])
            for x in range(x0, x1 + 1):
                p = ((x - ax) * vy - (y - ay) * vx) / area
                q = (ux * (y - ay) - uy * (x - ax)) / area
                if p >= 0 and q >= 0 and p + q <= 1:
                    depth[y, x] = max(depth[y, x], az + p * uz + q * vz)


@compiled
def _lit_share(x, y, z, to_shadow, shadow, slack):
    """Share of a 3 x 3 neighbourhood of the lamp's picture in which nothing stands before the point."""
    u = to_shadow[0, 0] * x + to_shadow[0, 1] * y + to_shadow[0, 2] * z + to_shadow[0, 3]
    v = to_shadow[1, 0] * x + to_shadow[1, 1] * y + to_shadow[1, 2] * z + to_shadow[1, 3]
    w = to_shadow[2, 0] * x + to_shadow[2, 1] * y + to_shadow[2, 2] * z + to_shadow[2, 3]
    column, row = math.floor(u + 0.5), math.floor(v + 0.5)
    lit = 0.0
    for i in range(max(0, row - 1), min(shadow.shape[0], row + 2)):
        for j in range(max(0, column - 1), min(shadow.shape[1], column + 2)):
            lit += shadow[i, j] <= w + slack
    return min(1.0, lit / 9)


@compiled
def _paint(scene, lighting, light, depth, places_seen, tints_seen):
    screen, normals, points, faces = scene
    lamp, shadow, to_shadow = lighting
    places, seen = places_seen
    tints, tint = tints_seen
    texel = 1.0 / np.sqrt(to_shadow[0, 0] ** 2 + to_shadow[0, 1] ** 2 + to_shadow[0, 2] ** 2)
    for f in range(len(faces)):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        ax, ay, az = screen[a, 0], screen[a, 1], screen[a, 2]
        ux, uy, uz = screen[b, 0] - ax, screen[b, 1] - ay, screen[b, 2] - az
        vx, vy, vz = screen[c, 0] - ax, screen[c, 1] - ay, screen[c, 2] - az
        area = ux * vy - uy * vx
        if area >= 0:
            continue
        y0, y1 = _span(ay + min(0.0, uy, vy), ay + max(0.0, uy, vy), depth.shape[0])
        for y in range(y0, y1 + 1):
            x0, x1 = _row_span((ax, ay), (ux, uy), (vx, vy), y, depth.shape[1])
            for x in range(x0, x1 + 1):
                p = ((x - ax) * vy - (y - ay) * vx) / area
                q = (ux * (y - ay) - uy * (x - ax)) / area
                if p < 0 or q < 0 or p + q > 1:
                    continue
                z = az + p * uz + q * vz
                if z <= depth[y, x]:
                    continue
                depth[y, x] = z
                r = 1 - p - q
                nx = r * normals[a, 0] + p * normals[b, 0] + q * normals[c, 0]
                ny = r * normals[a, 1] + p * normals[b, 1] + q * normals[c, 1]
                nz = r * normals[a, 2] + p * normals[b, 2] + q * normals[c, 2]
                length = max(1e-12, np.sqrt(nx * nx + ny * ny + nz * nz))
                facing = max(0.0, (nx * lamp[0] + ny * lamp[1] + nz * lamp[2]) / length)
                if facing > 0:
                    slope = min(8.0, np.sqrt(max(0.0, 1 - facing * facing)) / facing)
                    facing *= _lit_share(
                        r * points[a, 0] + p * points[b, 0] + q * points[c, 0],
                        r * points[a, 1] + p * points[b, 1] + q * points[c, 1],
                        r * points[a, 2] + p * points[b, 2] + q * points[c, 2],
                        to_shadow, shadow, texel * (1.5 + 2 * slope),
                    )  # fmt: skip
                sky = 0.5 + 0.5 * max(0.0, nz / length)
                if len(tint) > 1:
                    for channel in range(3):
                        tint[y, x, channel] = r * tints[a, channel] + p * tints[b, channel] + q * tints[c, channel]
                if len(seen) > 1:
                    pu, qu = np.float64(places[b, 0]), np.float64(places[c, 0])
                    ru = np.float64(places[a, 0])
                    if max(pu, qu, ru) - min(pu, qu, ru) > 0.5:
                        pu += pu < 0.5
                        qu += qu < 0.5
                        ru += ru < 0.5
                    seen[y, x, 0] = (r * ru + p * pu + q * qu) % 1.0
                    seen[y, x, 1] = r * places[a, 1] + p * places[b, 1] + q * places[c, 1]
                    low, high = (
                        min(places[a, 2], places[b, 2], places[c, 2]),
                        max(places[a, 2], places[b, 2], places[c, 2]),
                    )
                    seen[y, x, 2] = 1.0 if low > 0 else (-1.0 if high < 0 else 0.0)
                light[y, x] = AMBIENT * sky * sky + (1 - AMBIENT) * facing * 1.15
