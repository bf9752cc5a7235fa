"""Depth that a network has learned from drawn shapes, as far as it is sure of itself."""

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.figure.depth import Deepened
from nebrel.core.figure.hand import HandStroke
from nebrel.core.figure.network import FILLED, doubt_of, stacked
from nebrel.core.figure.normals import integrated
from nebrel.core.figure.silhouette import Silhouette, smoothly_sampled
from nebrel.core.figure.swell import swell

FILE = Path(__file__).with_name("depths.onnx")
SIDE = 96
# Where the front may be off by so much of the longer side, half of what the network says counts.
HALF_DOUBT = 0.12
MOST_RATIO = 1.2
SOFT = 1.4
# Normals count for so much where they face the viewer by more than this, and fully from that much more; how firmly the
# front stays where it was.
BELIEVED, TURNED, FACING, FIRM = 0.5, 0.2, 0.3, 5e-3

_Floats = NDArray[np.float64]


@dataclass(frozen=True)
class LearnedDepth:
    """Depth by the network that ships with this.

    Attributes:
        picture: float32 (H, W, 3), as large as the source of the silhouette, 0 to 1; of its colours beside the figure
            nothing counts.
    """

    picture: NDArray[np.float32]

    def __call__(self, silhouette: Silhouette, square: _Floats, strokes: Sequence[HandStroke] = ()) -> Deepened:
        """Middle and thickness, blended back to what the outline swells to where the network is unsure.

        The network was taught to follow strokes; by how much it did is told.
        """
        frame = _Frame.of(silhouette)
        swollen = np.sqrt(np.maximum(swell(silhouette), 0)) / frame.longer
        picture = np.dstack([frame.seen(silhouette.on_grid(self.picture[:, :, each])) for each in range(3)])
        cover, half = frame.seen(silhouette.cover), frame.seen(swollen)
        maps = _maps(strokes, silhouette, frame)
        said = _said(stacked(picture, cover, half, maps))
        alone = _said(stacked(picture, cover, half, 0 * maps)) if maps.any() else said
        doubt = doubt_of(said[6])
        trust = 1 / (1 + (doubt / HALF_DOUBT) ** 2)
        there = cover >= 0.5
        middle = (said[0] - float(said[0][there].mean()) if there.any() else said[0]) * trust
        ratio = np.clip(said[1], -MOST_RATIO, MOST_RATIO) * trust
        middle = middle + _turned(middle + half * np.exp(ratio), said, there)
        grown = frame.back(ratio, there)
        moved = (said[0] - alone[0]) * trust
        moved -= float(moved[there].mean()) if there.any() else 0.0
        followed = tuple(frame.under(stroke.on(silhouette), moved) * frame.longer for stroke in strokes)
        return Deepened(
            np.where(square > 0, square * np.exp(2 * grown), square),
            middle=frame.back(middle, there) * frame.longer,
            unsure=frame.back(doubt, there) * frame.longer,
            followed=followed,
        )


def _maps(strokes: Sequence[HandStroke], silhouette: Silhouette, frame: "_Frame") -> NDArray[np.float32]:
    """Strokes as the network was shown them, float32 (3, N, N)."""
    maps = np.zeros((3, SIDE, SIDE), dtype=np.float32)
    for stroke in strokes:
        if stroke.kind not in _CHANNELS:
            continue
        channel, sign = _CHANNELS[stroke.kind]
        under = frame.seen(stroke.on(silhouette)) >= 0.5
        maps[channel][under] = sign * (stroke.amount / frame.longer if channel == 0 else 1.0)
    return maps


_CHANNELS = {"nearer": (0, 1.0), "farther": (0, -1.0), "ridge": (1, 1.0), "crease": (1, -1.0), "flat": (2, 1.0)}


@dataclass(frozen=True)
class _Frame:
    """The square of pixels that the network sees, over the grid of a silhouette.

    Attributes:
        longer: longer side of the box round the figure, mm.
        step: samples of the grid for one pixel of the frame.
        corner: row and column of the grid at the frame's pixel (0, 0).
        shape: of the grid.
    """

    longer: float
    step: float
    corner: tuple[float, float]
    shape: tuple[int, int]

    @staticmethod
    def of(silhouette: Silhouette) -> "_Frame":
        inside = silhouette.inside
        rows, columns = np.flatnonzero(inside.any(axis=1)), np.flatnonzero(inside.any(axis=0))
        tall, wide = rows[-1] - rows[0] + 1, columns[-1] - columns[0] + 1
        step = max(tall, wide) / (FILLED * SIDE)
        middle = (rows[0] + rows[-1]) / 2, (columns[0] + columns[-1]) / 2
        corner = (middle[0] - step * (SIDE - 1) / 2, middle[1] - step * (SIDE - 1) / 2)
        shape = (inside.shape[0], inside.shape[1])
        return _Frame(max(tall, wide) * silhouette.pitch, step, corner, shape)

    def seen(self, values: _Floats) -> NDArray[np.float32]:
        """Values of the grid in the frame, float32 (SIDE, SIDE)."""
        soft = np.asarray(values, dtype=np.float32)
        if self.step > 1:
            soft = np.asarray(cv2.GaussianBlur(soft, (0, 0), 0.5 * self.step), dtype=np.float32)
        places = np.arange(SIDE, dtype=np.float32) * np.float32(self.step)
        columns, rows = np.meshgrid(places + np.float32(self.corner[1]), places + np.float32(self.corner[0]))
        found = cv2.remap(soft, columns, rows, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT, borderValue=0)
        return np.asarray(found, dtype=np.float32)

    def under(self, stroke: _Floats, values: _Floats) -> float:
        """The mean of values of the frame under a stroke on the grid; 0 where it is on nothing."""
        under = self.seen(stroke) >= 0.5
        return float(values[under].mean()) if under.any() else 0.0

    def back(self, values: _Floats, there: NDArray[np.bool_]) -> _Floats:
        """Values of the frame on the grid, float64 (H, W), those outside from the nearest inside."""
        from scipy import ndimage

        # What is said of single pixels shakes; it counts for as much of its surroundings as it was taught to see.
        weight = ndimage.gaussian_filter(there.astype(np.float64), SOFT)
        soft = ndimage.gaussian_filter(np.where(there, values, 0.0), SOFT) / np.maximum(weight, 1e-6)
        row, column = ndimage.distance_transform_edt(~there, return_distances=False, return_indices=True)
        whole = soft[row, column]
        rows, columns = (
            (np.arange(size) - corner) / self.step for size, corner in zip(self.shape, self.corner, strict=True)
        )
        return smoothly_sampled(whole, (columns, rows))


def _turned(front: _Floats, said: _Floats, there: NDArray[np.bool_]) -> _Floats:
    """By how much a front moves that takes on some of the slopes that are said, but where its depth leaps."""
    normals = said[2:5].transpose(1, 2, 0)
    normals = normals / np.maximum(np.linalg.norm(normals, axis=2, keepdims=True), 1e-6)
    level = 1 - np.clip(2 / (1 + np.exp(-said[5])), 0, 1)
    facing = np.clip((normals[..., 2] - TURNED) / FACING, 0, 1)
    trust = np.where(there, BELIEVED * facing * level, 0.0)
    return integrated(normals, front, there, 1 / (FILLED * SIDE), trust, FIRM) - front


def _said(inputs: NDArray[np.float32]) -> _Floats:
    found: _Floats = _session().run(None, {"seen": inputs[np.newaxis]})[0][0].astype(np.float64)
    return found


@lru_cache(maxsize=1)
def network_hash() -> str:
    """SHA-256 of the network that ships: what was kept of another one is not its own."""
    return hashlib.sha256(FILE.read_bytes()).hexdigest()


@lru_cache(maxsize=1)
def _session() -> Any:
    import onnxruntime

    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = 2
    return onnxruntime.InferenceSession(str(FILE), options, providers=["CPUExecutionProvider"])
