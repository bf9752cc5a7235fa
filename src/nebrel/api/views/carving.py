"""The simulated stock as solids and maps for looking at."""

import io
import json
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import map_coordinates

from nebrel.api.messages.carving import BitReach, CarvedSection, CarvingShown, CarvingView, ReachFixView, ReachView
from nebrel.api.messages.previews import MapHead, SectionLine, SolidHead
from nebrel.api.serving.frames import pack_frame
from nebrel.api.views.frames import shaded_arrays
from nebrel.api.views.look import Look
from nebrel.api.views.rack import bit_in
from nebrel.core.carve.offset import block_maxima, lowest_tips_at
from nebrel.core.carve.reach import reach_of
from nebrel.core.errors import ConflictError, NotFoundError
from nebrel.core.mesh.shading import ShadedMesh
from nebrel.jobs.lookers import Room
from nebrel.jobs.workshop import Workshop
from nebrel.piece.carving.fixes import reach_fixes
from nebrel.piece.carving.work import finest_bit, is_sunk, refuse_unready, seen_by_bits

SECTION_PLACES = 480
CLEARED = "What the carving left was cleared away to make room; plan it again."


@dataclass(frozen=True)
class KeptCarving:
    """What a carving job kept for looking at: facts, and arrays over a grid of cells, row 0 at the least Y."""

    facts: dict[str, Any]
    tops: NDArray[np.float32]
    asked: NDArray[np.float32]
    reach: NDArray[np.float32]


def _opened(workshop: Workshop, key: str) -> KeptCarving:
    """The kept arrays and facts.

    Raises:
        NotFoundError: they were cleared away.
    """
    path = workshop.kept.path(key)
    if path is None:
        raise NotFoundError(CLEARED)
    with np.load(io.BytesIO(path.read_bytes())) as kept:
        facts = json.loads(kept["facts"].tobytes())
        return KeptCarving(facts, kept["tops"], kept["asked"], kept["reach"])


def stock_frame(room: Room, key: str, step: int, shown: CarvingShown) -> bytes:
    """The stock at a step of the work, the piece's back at z = 0; coloured by what is left or cannot be reached.

    Args:
        room: with the data folder.
        key: of what the job kept.
        step: which of its snapshots.
        shown: the stock alone, or with a measure for every vertex.
    """
    kept = _opened(room.workshop, key)
    thickness = kept.facts["thickness"]
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


def carved_section(look: Look, key: str, line: SectionLine, step: int) -> CarvedSection:
    """The stock at a step of the work, and how low the tip of the finest bit may go, along a line.

    Args:
        look: at the piece as it was carved.
        key: of what the job kept.
        line: shares of the piece.
        step: which of its snapshots.
    """
    evaluator, kept = look.piece.evaluator, _opened(look.workshop, key)
    size, thickness = np.array(evaluator.size_mm[:2]), kept.facts["thickness"]
    bit, sunk = finest_bit(evaluator), is_sunk(evaluator)
    start, end = np.array(line.start) * size, np.array(line.end) * size
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


def ready_to_carve(room: Room, piece_id: str) -> tuple[int, dict[str, object]]:
    """The present revision of a piece, and its document.

    Raises:
        ConflictError: it is not for a router.
        BadValueError: it cannot be carved as it is.
    """
    state = room.workshop.pieces.get(piece_id)
    piece = room.workshop.opened(room.workshop.document(state))
    if not piece.document.carving.on:
        raise ConflictError("This piece is not for a router; choose that at Deliver first.")
    refuse_unready(piece.evaluator)
    return state.revision, state.document


def reach_view(look: Look) -> ReachView:
    """What the bits of a piece cannot reach, on its preview."""
    carving = look.piece.document.carving
    asked, bits, names = seen_by_bits(look.piece.evaluator, look.draft.longest_px)
    found = reach_of(asked, bits, carving.passes.rest_mm)
    return ReachView(
        over_mm=carving.passes.rest_mm,
        bits=[
            BitReach(name=name, most_mm=round(most, 4), share=round(share, 5))
            for name, most, share in zip(names, found.each_most, found.each_share, strict=True)
        ],
        together=BitReach(name="all", most_mm=round(found.most, 4), share=round(found.share, 5)),
    )


def reach_fix_views(look: Look) -> list[ReachFixView]:
    """What would let the bits of a piece reach more, each tried on its preview."""
    rack = [bit_in(kept) for kept in look.workshop.rack.all()]
    fixes = reach_fixes(
        look.piece.document, rack, lambda document: look.workshop.opened(document).evaluator, look.draft.longest_px
    )
    return [
        ReachFixView(
            words=fix.words,
            change=fix.change,
            most_mm=round(fix.most, 4),
            share=round(fix.share, 5),
            moved_rms_mm=round(fix.moved, 4),
        )
        for fix in fixes
    ]


def carving_view(look: Look, key: str) -> CarvingView:
    """The stock, the zero point and the ways of a carving job, and the minutes of its steps."""
    facts = _opened(look.workshop, key).facts
    board, size = look.piece.document.carving.stock.to_core(), look.piece.evaluator.size_mm
    left, low = board.corner(size[:2])
    return CarvingView(
        minutes=facts["minutes"],
        stock=(left, low, board.size[0], board.size[1]),
        zero=board.zero_point(size[:2]),
        ways=facts["ways"],
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
