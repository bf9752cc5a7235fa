"""The simulated stock as solids and maps for looking at."""

import io
import json
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import map_coordinates

from nebrel.api.messages.carving import CarvedSection, CarvingShown
from nebrel.api.messages.previews import MapHead, SolidHead
from nebrel.api.serving.frames import pack_frame
from nebrel.api.views.frames import shaded_arrays
from nebrel.core.carve.bits import Bit
from nebrel.core.carve.offset import block_maxima, lowest_tips_at
from nebrel.core.mesh.shading import ShadedMesh

SECTION_PLACES = 480


@dataclass(frozen=True)
class KeptCarving:
    """What a carving job kept for looking at: facts, and arrays over a grid of cells, row 0 at the least Y."""

    facts: dict[str, Any]
    tops: NDArray[np.float32]
    asked: NDArray[np.float32]
    reach: NDArray[np.float32]


def opened_carving(data: bytes) -> KeptCarving:
    """The kept arrays and facts."""
    with np.load(io.BytesIO(data)) as kept:
        facts = json.loads(kept["facts"].tobytes())
        return KeptCarving(facts, kept["tops"], kept["asked"], kept["reach"])


def stock_frame(kept: KeptCarving, step: int, shown: CarvingShown, thickness: float) -> bytes:
    """The stock at a step of the work, the piece's back at z = 0; coloured by what is left or cannot be reached.

    Args:
        kept: of the job.
        step: which of its snapshots.
        shown: the stock alone, or with a measure for every vertex.
        thickness: of the whole piece, mm.
    """
    tops = kept.tops[min(max(step, 0), len(kept.tops) - 1)]
    shaded, count = block(tops, kept.facts["left"], kept.facts["low"], kept.facts["cell"], thickness)
    if shown == "stock":
        head = SolidHead(
            triangles=len(shaded.faces), standing=False, low_mm=(0.0, 0.0, 0.0), sheet_mm=None, around=False
        )
        return pack_frame(head, shaded_arrays(shaded))
    measured = (tops if shown == "left" else kept.reach) - kept.asked
    values = np.full(len(shaded.positions), np.nan, dtype=np.float32)
    values[:count] = measured.ravel()
    known = np.isfinite(values)
    at = int(np.argmax(np.where(known, values, -np.inf)))
    x, y, z = shaded.positions[at].tolist()
    map_head = MapHead(
        triangles=len(shaded.faces),
        kind=shown,
        unit="mm",
        least=float(values[known].min()) if known.any() else 0.0,
        most=float(values[known].max()) if known.any() else 0.0,
        spot=(x, y, z) if known.any() else None,
        limit=None,
        standing=False,
    )
    return pack_frame(map_head, {**shaded_arrays(shaded), "values": values})


def carved_section(
    kept: KeptCarving,
    step: int,
    bit: Bit,
    thickness: float,
    ends: tuple[tuple[float, float], tuple[float, float]],
    sunk: bool,
) -> CarvedSection:
    """The stock at a step of the work, and how low the tip of a bit may go, along a line.

    Args:
        kept: of the job.
        step: which of its snapshots.
        bit: whose offset surface is wanted.
        thickness: of the piece, mm.
        ends: of the line, mm of the piece.
        sunk: whether what was asked is told too.
    """
    start, end = np.array(ends[0]), np.array(ends[1])
    length = float(np.hypot(*(end - start)))
    along = np.linspace(0, length, SECTION_PLACES)
    places = start + (end - start) * np.linspace(0, 1, SECTION_PLACES)[:, np.newaxis]
    facts = kept.facts
    cells = (places - np.array([facts["left"], facts["low"]])) / facts["cell"]
    tops = kept.tops[min(max(step, 0), len(kept.tops) - 1)]
    asked = np.where(np.isnan(kept.asked), -np.inf, kept.asked).astype(np.float64)
    tips = lowest_tips_at(asked, block_maxima(asked), facts["cell"], bit.profile, cells)
    return CarvedSection(
        cut=_points(along, _between(tops, cells) + thickness),
        offset=_points(along, tips + thickness),
        asked=_points(along, _between(kept.asked, cells) + thickness) if sunk else None,
    )


def _between(values: NDArray[np.float32], cells: NDArray[np.float64]) -> NDArray[np.float64]:
    """Values at places between cells, float64 (N,); NaN beside the grid."""
    return map_coordinates(values.astype(np.float64), cells[:, ::-1].T, order=1, mode="constant", cval=np.nan)


def _points(along: NDArray[np.float64], up: NDArray[np.float64]) -> list[tuple[float, float | None]]:
    return [
        (round(at, 4), round(height, 4) if np.isfinite(height) else None)
        for at, height in zip(along.tolist(), up.tolist(), strict=True)
    ]


def block(tops: NDArray[np.float32], left: float, low: float, cell: float, thickness: float) -> tuple[ShadedMesh, int]:
    """A block under heights, its walls down to the lowest of the piece or the stock; and how many vertices are its top.

    Args:
        tops: float32 (H, W) mm below the stock's face, row 0 at the least Y.
        left, low: X and Y of the first cell, mm.
        cell: mm between cells.
        thickness: of the piece, mm; its back is z = 0.
    """
    rows, columns = tops.shape
    x = left + np.arange(columns, dtype=np.float32) * np.float32(cell)
    y = low + np.arange(rows, dtype=np.float32) * np.float32(cell)
    up = tops + np.float32(thickness)
    places = np.stack([np.broadcast_to(x, up.shape), np.broadcast_to(y[:, np.newaxis], up.shape), up], axis=-1)
    slope_y, slope_x = np.gradient(up, cell)
    normals = np.stack([-slope_x, -slope_y, np.ones_like(up)], axis=-1)
    normals /= np.linalg.norm(normals, axis=-1, keepdims=True)
    grid = np.arange(rows * columns, dtype=np.uint32).reshape(rows, columns)
    a, b, c, d = grid[:-1, :-1], grid[:-1, 1:], grid[1:, 1:], grid[1:, :-1]
    faces = [np.stack([a, b, c], axis=-1).reshape(-1, 3), np.stack([a, c, d], axis=-1).reshape(-1, 3)]
    positions, all_normals = [places.reshape(-1, 3)], [normals.reshape(-1, 3)]
    count = rows * columns
    ground = min(0.0, float(up.min()))
    rims = ((grid[0], (0, -1, 0)), (grid[:, -1], (1, 0, 0)), (grid[-1, ::-1], (0, 1, 0)), (grid[::-1, 0], (-1, 0, 0)))
    for rim, outwards in rims:
        upper = places.reshape(-1, 3)[rim]
        lower = upper.copy()
        lower[:, 2] = ground
        first = sum(len(part) for part in positions)
        size = len(rim)
        top, bottom = np.arange(first, first + size), np.arange(first + size, first + 2 * size)
        faces += [
            np.column_stack([top[:-1], bottom[:-1], bottom[1:]]).astype(np.uint32),
            np.column_stack([top[:-1], bottom[1:], top[1:]]).astype(np.uint32),
        ]
        positions += [upper, lower]
        all_normals.append(np.tile(np.array(outwards, dtype=np.float32), (2 * size, 1)))
    return (
        ShadedMesh(
            np.ascontiguousarray(np.concatenate(positions), dtype=np.float32),
            np.ascontiguousarray(np.concatenate(all_normals), dtype=np.float32),
            np.ascontiguousarray(np.concatenate(faces), dtype=np.uint32),
        ),
        count,
    )
