"""Carving as long work: planned, proved, and kept with what a page shows of it."""

import io
import json
import zipfile
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.carve.program import Pass
from nebrel.core.errors import ConflictError
from nebrel.core.outline_files.read import DrawingFormat
from nebrel.core.outline_files.write import drawing_bytes
from nebrel.core.proof.carving import Carved
from nebrel.jobs.workplace import Workplace
from nebrel.piece.carving.sheet import set_up_sheet
from nebrel.piece.carving.work import work_of
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.parts.naming import file_name
from nebrel.piece.registry import parse_document

SNAPSHOTS, SHOWN_CELLS = 32, 420
MOST_SHOWN_POINTS = 60_000
DRAWN: tuple[DrawingFormat, ...] = ("svg", "dxf")
Report = Callable[[str, float], None]


class _Snapshots:
    """The stock at even steps of the work, coarse enough to be looked at."""

    def __init__(self) -> None:
        self.tops: list[NDArray[np.float32]] = []
        self.minutes: list[float] = []

    def take(self, tops: NDArray[np.float64], minutes: float) -> None:
        step = max(1, -(-max(tops.shape) // SHOWN_CELLS))
        self.tops.append(tops[::step, ::step].astype(np.float32))
        self.minutes.append(minutes)


def carve_piece(place: Workplace, payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """Plan, prove and write the programs of `payload["document"]`.

    Returns:
        `file_key` and `file_name` of a ZIP of programs and set-up sheet, `view_key` of what a page shows, `programs`
        with name and key each, `sheet_key`, `passes`, `facts`, and `faults` where no program is offered.
    """
    piece = place.opened(parse_document(payload["document"]))
    carving = piece.document.carving
    if not carving.on:
        raise ConflictError("This piece is not for a router; choose that at Deliver first.")
    report("Raising the heights", 0.0)
    work = work_of(piece.evaluator)
    seen = _Snapshots()
    carved = work.carve(report, seen.take)
    size = (*work.size, work.thickness)
    report("Writing the files", 0.9)
    carving_key = step_key("carving", 1, [payload["document"]["carving"], size], piece.evaluator.solid_key(0))
    stem = file_name(piece.document.title, size, "zip").rpartition(".")[0]
    files = {f"{stem}-{name}.nc": one.text.encode() for name, one in zip(carved.names, carved.programs, strict=True)}
    sheet = set_up_sheet(piece.document.title, size, carving, carved)
    result: dict[str, Any] = {
        "view_key": step_key("carving-view", 1, None, carving_key),
        "file_key": step_key("carving-files", 1, None, carving_key),
        "sheet_key": step_key("carving-sheet", 1, None, carving_key),
        "file_name": f"{stem}-carving.zip",
        "facts": carved.facts,
        "passes": [vars(one) for one in carved.passes],
        "faults": [fault.what for fault in carved.faults],
        "programs": [],
    }
    place.kept.put(result["view_key"], _view(carved, seen, work.thickness))
    if carved.faults:
        return result
    for number, (name, text) in enumerate(files.items()):
        key = step_key("carving-program", 1, number, carving_key)
        place.kept.put(key, text)
        result["programs"].append({"name": name, "key": key, "minutes": round(carved.ran[number].minutes, 2)})
    place.kept.put(result["sheet_key"], sheet)
    drawn = carved.cut_out
    drawings = {} if drawn is None else {f"{stem}-cut-out.{form}": drawing_bytes(drawn, form) for form in DRAWN}
    place.kept.put(result["file_key"], _zipped({**files, **drawings, f"{stem}-set-up.pdf": sheet}))
    return result


def _zipped(files: dict[str, bytes]) -> bytes:
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as package:
        for name, data in files.items():
            package.writestr(name, data)
    return held.getvalue()


def _view(carved: Carved, seen: _Snapshots, thickness: float) -> bytes:
    """Arrays and facts that a page shows, as one file."""
    stock = carved.stock
    step = max(1, -(-max(stock.tops.shape) // SHOWN_CELLS))
    chosen = np.unique(np.linspace(0, len(seen.tops) - 1, SNAPSHOTS).round().astype(int))
    facts = {
        "thickness": thickness,
        "left": stock.left,
        "low": stock.low,
        "cell": stock.cell * step,
        "minutes": [round(seen.minutes[i], 3) for i in chosen],
        "ways": [_shown_ways(one) for one in carved.planned],
    }
    held = io.BytesIO()
    np.savez_compressed(
        held,
        facts=np.frombuffer(json.dumps(facts).encode(), dtype=np.uint8),
        tops=np.stack([seen.tops[i] for i in chosen]),
        asked=carved.asked[::step, ::step].astype(np.float32),
        reach=carved.reach[::step, ::step].astype(np.float32),
    )
    return held.getvalue()


def _shown_ways(one: Pass) -> dict[str, object]:
    """The ways of a pass from above, thinned out to what a plan can draw."""
    count = sum(len(way.path) for way in one.ways)
    step = max(1, -(-count // MOST_SHOWN_POINTS))
    ways = []
    for way in one.ways:
        path = np.concatenate([way.path[:-1:step, :2], way.path[-1:, :2]])
        ways.append(path.round(3).ravel().tolist())
    return {"kind": one.kind, "bit": one.bit.name, "ways": ways}
