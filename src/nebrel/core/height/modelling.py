"""The hand on heights: strokes that raise, lower, smooth, flatten, sharpen, carve and pull them."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.height.field import HeightField

Tool = Literal["raise", "lower", "smooth", "flatten", "sharpen", "carve", "pull"]
Profile = Literal["V", "U", "bead"]
# What is smoothed or sharpened is as broad as so much of the brush's radius.
BROAD = 0.4
# A ridge becomes so many times steeper at full strength.
SHARPER = 1.5
# Where a stroke runs over itself, its places lie at least so many samples apart.
CLOSEST = 0.5
# A pull goes in steps of so much of the radius; how often what it takes along is looked for.
PULL_STEP, INVERTED = 0.25, 10

_Heights = NDArray[np.float32]
_Floats = NDArray[np.float64]
_Window = tuple[slice, slice]


@dataclass(frozen=True)
class ModellingStroke:
    """A stroke over heights.

    Attributes:
        tool: `raise` and `lower` move the surface by `amount`; `smooth` evens it out, `sharpen` makes its ridges and
            edges steeper, and `flatten` brings it towards the plane through what is under the stroke, each by
            `strength`; `carve` lays a groove or a bead of a `profile` along the stroke, `amount` deep or high; `pull`
            takes the surface along, sideways, from the first place to the last.
        places: float64 (N, 3), X and Y from the lower left sample, mm, and the pressure there, 0 to 1.
        radius: half its width, mm, above 0.
        amount: mm, where the tool needs it.
        strength: 0 to 1, where the tool needs it.
        hardness: share of the radius over which it works wholly; beyond that it fades out.
        profile: of `carve`.
    """

    tool: Tool
    places: _Floats
    radius: float
    amount: float = 0.5
    strength: float = 0.5
    hardness: float = 0.3
    profile: Profile = "V"

    def mirrored(self, width: float, depth: float, across: bool, up: bool) -> "ModellingStroke":
        """The same on the other side of the middle of a piece `width` × `depth` mm."""
        x, y, pressure = self.places.T
        return replace(self, places=np.column_stack([width - x if across else x, depth - y if up else y, pressure]))


def worked(field: HeightField, strokes: Sequence[ModellingStroke]) -> HeightField:
    """A field after strokes, one after the other; what is blank stays blank, and nothing sinks below 0.

    Heights that were exact steps, or had lines, have neither any more where there are strokes.
    """
    if not strokes:
        return field
    heights = field.heights.copy()
    for stroke in strokes:
        _work(heights, field, stroke)
    return replace(field, heights=heights, terraces=None, lines=None)


def _work(heights: _Heights, field: HeightField, stroke: ModellingStroke) -> None:
    """Change heights in place, within reach of a stroke."""
    if stroke.tool == "pull":
        _pull(heights, field, stroke)
        return
    places = _dense(stroke, field)
    window = _window(heights.shape, field.pitch, places, stroke.radius)
    if window is None:
        return
    part, there = heights[window], field.material[window]
    away, pressure = _away(places, field.pitch, window, stroke.radius)
    weight = (_falloff(away / stroke.radius, stroke.hardness) * pressure).astype(np.float32)
    changed: NDArray[np.floating]
    if stroke.tool == "carve":
        changed = part + _profile(stroke.profile, away / stroke.radius) * pressure * stroke.amount
    elif stroke.tool in ("raise", "lower"):
        changed = part + weight * np.float32(stroke.amount if stroke.tool == "raise" else -stroke.amount)
    elif stroke.tool == "flatten":
        changed = part + weight * np.float32(stroke.strength) * (_plane(part, weight * there) - part)
    else:
        broad = _broad(part, there, BROAD * stroke.radius / field.pitch)
        by = stroke.strength if stroke.tool == "smooth" else -SHARPER * stroke.strength
        changed = part + weight * np.float32(by) * (broad - part)
    np.copyto(part, np.maximum(changed, 0).astype(np.float32), where=there)


def _pull(heights: _Heights, field: HeightField, stroke: ModellingStroke) -> None:
    """Take the surface along from the first place of a stroke to the last, in steps short beside its radius.

    Where every sample comes from is put together over all steps first, so that heights are interpolated once.
    """
    placed = _on_grid(stroke, field)
    start, way = placed[0], placed[-1, :2] - placed[0, :2]
    steps = int(np.ceil(float(np.hypot(*way)) * field.pitch / (PULL_STEP * stroke.radius)))
    window = _window(heights.shape, field.pitch, placed[[0, -1]], 2 * stroke.radius)
    if window is None or steps == 0:
        return
    part, there = heights[window], field.material[window]
    columns, rows = _whole_samples(part.shape)
    from_x, from_y = columns, rows
    for step in range(steps):
        here = start[np.newaxis] + np.append(way * step / steps, 0)
        away, pressure = _away(here, field.pitch, window, stroke.radius)
        weight = (_falloff(away / stroke.radius, stroke.hardness) * pressure).astype(np.float32)
        x, y = columns, rows
        # What comes to lie at a sample is what is taken along to it.
        for _ in range(INVERTED):
            taken = _looked_up(weight, x, y, cv2.INTER_CUBIC)
            x, y = columns - taken * np.float32(way[0] / steps), rows - taken * np.float32(way[1] / steps)
        from_x, from_y = (_looked_up(each, x, y, cv2.INTER_CUBIC) for each in (from_x, from_y))
    filled = np.where(there, part, _broad(part, there, 2.0)).astype(np.float32)
    moved = _looked_up(filled, from_x, from_y, cv2.INTER_CUBIC)
    changed = there & ((from_x != columns) | (from_y != rows))
    np.copyto(part, np.maximum(moved, 0), where=changed)


def _whole_samples(shape: tuple[int, ...]) -> tuple[_Heights, _Heights]:
    columns, rows = np.meshgrid(np.arange(shape[1], dtype=np.float32), np.arange(shape[0], dtype=np.float32))
    return columns, rows


def _looked_up(values: _Heights, x: _Heights, y: _Heights, how: int) -> _Heights:
    found = cv2.remap(values, x, y, how, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(found, dtype=np.float32)


def _on_grid(stroke: ModellingStroke, field: HeightField) -> _Floats:
    """Columns, rows and pressures of a stroke's places, float64 (N, 3)."""
    x, y, pressure = stroke.places.T
    return np.column_stack([x / field.pitch, len(field.heights) - 1 - y / field.pitch, pressure])


def _dense(stroke: ModellingStroke, field: HeightField) -> _Floats:
    """The same without places that are hardly apart."""
    placed = _on_grid(stroke, field)
    kept = [0]
    for at in range(1, len(placed)):
        if np.hypot(*(placed[at, :2] - placed[kept[-1], :2])) >= CLOSEST:
            kept.append(at)
    return np.asarray(placed[kept])


def _window(shape: tuple[int, ...], pitch: float, places: _Floats, reach: float) -> _Window | None:
    """Rows and columns within reach, mm, of places; None where that is beside the field."""
    found = []
    for axis, size in ((1, shape[0]), (0, shape[1])):
        low = max(0, int(np.floor(places[:, axis].min() - reach / pitch)))
        high = min(size, int(np.ceil(places[:, axis].max() + reach / pitch)) + 1)
        if low >= high:
            return None
        found.append(slice(low, high))
    return found[0], found[1]


def _away(places: _Floats, pitch: float, window: _Window, radius: float) -> tuple[_Floats, _Floats]:
    """Distance from a stroke, mm, infinite beyond its radius, and its pressure there, float64 (h, w) each."""
    top, left = window[0].start, window[1].start
    shape = window[0].stop - top, window[1].stop - left
    away, pressure = np.full(shape, np.inf), np.zeros(shape)
    local = places - (left, top, 0)
    ends = np.vstack([local[1:], local[-1:]]) if len(local) > 1 else local
    for start, end in zip(local[:-1] if len(local) > 1 else local, ends, strict=False):
        box = _window(shape, pitch, np.vstack([start, end]), radius)
        if box is None:
            continue
        columns = np.arange(box[1].start, box[1].stop) - start[0]
        rows = np.arange(box[0].start, box[0].stop)[:, np.newaxis] - start[1]
        along = end[:2] - start[:2]
        length = float(along @ along)
        share = np.clip((columns * along[0] + rows * along[1]) / length, 0, 1) if length > 0 else np.zeros((1, 1))
        found = np.hypot(columns - share * along[0], rows - share * along[1]) * pitch
        nearer = found < away[box]
        away[box] = np.where(nearer, found, away[box])
        pressure[box] = np.where(nearer, start[2] + share * (end[2] - start[2]), pressure[box])
    away[away > radius] = np.inf
    return away, pressure


def _falloff(share: _Floats, hardness: float) -> _Floats:
    """1 in the middle to 0 at the radius, level at both ends."""
    beyond = np.clip((share - hardness) / max(1 - hardness, 1e-6), 0, 1)
    return np.asarray((1 - beyond) ** 2 * (1 + 2 * beyond))


def _profile(profile: Profile, share: _Floats) -> _Floats:
    """What a carved line takes off, or a bead adds, across it: -1 to 0, or 0 to 1."""
    inside = np.clip(share, 0, 1)
    if profile == "V":
        return inside - 1
    round_ = np.sqrt(1 - inside**2)
    return np.asarray(round_ if profile == "bead" else -round_)


def _broad(part: _Heights, there: NDArray[np.bool_], sigma: float) -> _Heights:
    weight = cv2.GaussianBlur(there.astype(np.float32), (0, 0), max(sigma, 0.5), borderType=cv2.BORDER_REPLICATE)
    soft = cv2.GaussianBlur(
        np.where(there, part, 0).astype(np.float32), (0, 0), max(sigma, 0.5), borderType=cv2.BORDER_REPLICATE
    )
    return np.asarray(soft / np.maximum(weight, np.float32(1e-6)), dtype=np.float32)


def _plane(part: _Heights, weight: _Heights) -> _Floats:
    """The plane through heights by least squares, float64 (h, w)."""
    rows, columns = np.nonzero(weight > 0)
    if len(rows) < 3:
        return part.astype(np.float64)
    own = np.sqrt(weight[rows, columns].astype(np.float64))
    basis = np.column_stack([columns, rows, np.ones(len(rows))])
    slope = np.linalg.lstsq(basis * own[:, np.newaxis], part[rows, columns] * own, rcond=None)[0]
    grid = np.indices(part.shape)
    return np.asarray(slope[0] * grid[1] + slope[1] * grid[0] + slope[2])
