"""Picture ops: how long a slider waits for each, how true they are, how much memory many of them take."""

import json
import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.heights import as_png, fractal
from bench.report import Row
from nebrel.api.views.frames import frame_of_plan
from nebrel.core.picture import Picture, SourceFacts, read_picture
from nebrel.core.picture.audit import measure_strokes
from nebrel.core.picture.ops import cutout, soften
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.kinds.panel.evaluator import PanelEvaluator
from nebrel.piece.ops.catalogue import OpKind, catalogue
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.parts.refusals import parse_part
from nebrel.piece.registry import merge, open_piece

MOVES = 10
ROUNDS = 3
DRAGGING_PX = 512
BOUNDS_MS = {2: 150, 12: 400}
NOT_BOUND = ("heal", "cut-out")
STROKE = {"places": [[0.2, 0.3, 1], [0.5, 0.6, 1], [0.8, 0.4, 1]], "size_mm": 4}
TEN_OPS = [
    {"kind": "deblock"}, {"kind": "flatten-light", "radius_mm": 6}, {"kind": "auto-levels"}, {"kind": "denoise"},
    {"kind": "keep-edges"}, {"kind": "local-contrast"}, {"kind": "sharpen"}, {"kind": "snap"},
    {"kind": "border", "left": 4, "right": 4, "top": 4, "bottom": 4}, {"kind": "reduce", "count": 12},
]  # fmt: skip


def op_sliders() -> list[Row]:
    """Every kind's first number moved, from the change to the plan's bytes, as the page asks for them."""
    rows = []
    for megapixels, bound in BOUNDS_MS.items():
        sources, document = _opened(_colours(megapixels))
        waits = {kind.kind: _waits(sources, document, kind) for kind in catalogue()}
        bounded = {kind: ms for kind, ms in waits.items() if kind not in NOT_BOUND}
        slowest = sorted(bounded, key=lambda kind: -bounded[kind])[:4]
        told = ", ".join(f"{kind} {bounded[kind]:.0f}" for kind in slowest)
        most = bounded[slowest[0]]
        rows.append(
            Row(
                f"Op slider to plan, {megapixels} megapixels in colour, {len(bounded)} kinds, "
                f"quietest of {ROUNDS} rounds of {MOVES} moves",
                f"slowest p95 {most:.0f} ms ({told}); median kind {np.median(list(bounded.values())):.0f} ms",
                f"p95 ≤ {bound} ms",
                bool(most <= bound),
            )
        )
    return rows


def graph_cut() -> list[Row]:
    """A box around a disc on busy ground."""
    rows, columns = 1200, 1600
    y, x = np.mgrid[0:rows, 0:columns]
    ground = cv2.resize(fractal(512), (columns, rows)).astype(np.float32) / 65_535 * 0.4
    disc = (np.hypot(x - 800, y - 600) < 400).astype(np.float32)
    picture = _picture(np.clip(ground + 0.5 * disc, 0, 1))
    none = np.zeros((rows, columns), dtype=np.float32)
    waits = []
    for _ in range(ROUNDS):
        started = time.perf_counter()
        kept = cutout.mark_out(picture, (340, 140, 1260, 1060), none, none) > 0.5
        waits.append(time.perf_counter() - started)
    overlap = (kept & (disc > 0)).sum() / (kept | (disc > 0)).sum()
    what = f"Graph cut, 2 megapixels (overlap with truth {overlap:.1%})"
    return [
        Row(
            what,
            f"{min(waits):.1f} s",
            "≤ 3 s",
            min(waits) <= 3,
        )
    ]


def truths() -> list[Row]:
    """Stroke widths and de-banding against what was drawn."""
    pitch, worst = 0.05, 0.0
    for width_mm in (0.2, 0.3, 0.42, 0.6, 1.0, 1.7, 3.0):
        for angle in range(0, 91, 9):
            strokes, _ = measure_strokes(_picture(_stroke(width_mm / pitch, angle)))
            worst = max(worst, abs(float(np.median(strokes.widths_px)) - width_mm / pitch))
    ramp = np.tile(0.2 + 0.35 * np.arange(1500) / 1500, (60, 1)) + (np.arange(1500) >= 901) * 0.35
    banded = np.round(ramp * 255) / 255
    mended = soften.deband(_picture(banded, 8)).tones
    left = np.sqrt(np.mean((mended - ramp) ** 2)) / np.sqrt(np.mean((banded - ramp) ** 2))
    middle = (ramp[30, 900] + ramp[30, 901]) / 2
    edge = 880 + np.interp(middle, mended[30, 880:920], np.arange(40))
    return [
        Row("Width of strokes of 0.2 to 3 mm at 11 angles, worst error", f"{worst:.2f} px", "≤ 1 px", worst <= 1),
        Row("De-banding a ramp: terrace error removed", f"{1 - left:.0%}", "≥ 80 %", bool(left <= 0.2)),
        Row("De-banding: step edge moved", f"{abs(edge - 900.5):.2f} px", "< 0.5 px", bool(abs(edge - 900.5) < 0.5)),
    ]


def many_ops() -> list[Row]:
    """24 megapixels through ten ops, in a process of its own."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "large.png"
        path.write_bytes(as_png(cv2.resize(fractal(2048), (6000, 4000))))
        done = subprocess.run(
            [sys.executable, "-m", "bench.pictures", str(path)], capture_output=True, text=True, check=True
        )
    told = json.loads(done.stdout)
    return [
        Row(
            f"24 megapixels through ten ops, {told['seconds']:.0f} s",
            f"peak memory {told['peak_gib']:.2f} GiB",
            "< 2 GiB",
            told["peak_gib"] < 2,
        )
    ]


def _waits(sources: Sources, document: PanelDocument, kind: OpKind) -> float:
    """p95 in milliseconds of the quietest round."""
    number = next((field for field in kind.fields if field.type in ("number", "whole") and field.slider), None)
    p95 = []
    for turn in range(ROUNDS):
        waits = []
        for move in range(MOVES):
            op: dict[str, object] = {"kind": kind.kind, "id": "a"}
            if "strokes" in kind.defaults:
                op["strokes"] = [STROKE]
            if kind.kind == "fill":
                op["spots"] = [[0.5, 0.5]]
            if number is not None and number.slider is not None:
                low, high = number.slider
                share = 0.2 + 0.6 * (move + turn / ROUNDS) / MOVES
                value = low + share * (high - low)
                op[number.name] = round(value) if number.type == "whole" else round(value, 4)
            relief = {"rule": {"relief_mm": 3 + 0.001 * (move + turn * MOVES)}}
            started = time.perf_counter()
            draft = merge(document, {"ops": [op], "height": relief})
            frame_of_plan(open_piece(draft, sources).evaluator.plan(DRAGGING_PX))
            waits.append(1000 * (time.perf_counter() - started))
        p95.append(float(np.percentile(waits, 95)))
    return min(p95)


def _opened(data: bytes) -> tuple[Sources, PanelDocument]:
    source = picture_source("0" * 64, "bench.png", read_picture(data).facts)
    document = parse_part(PanelDocument, {"title": "Bench", "picture": source.model_dump()})
    sources = Sources(lambda _: data, ResultCache(512 * 2**20))
    for kind in catalogue():
        draft = merge(document, {"ops": [{"kind": kind.kind, "id": "a"}]})
        frame_of_plan(open_piece(draft, sources).evaluator.plan(DRAGGING_PX))
    return sources, document


def _colours(megapixels: int) -> bytes:
    rows = round((megapixels * 1e6 * 3 / 4) ** 0.5)
    base = fractal(1024)
    size = (rows * 4 // 3, rows)
    channels = [cv2.resize(np.roll(base, 90 * at, axis=1), size) >> 8 for at in range(3)]
    return as_png(np.dstack(channels).astype(np.uint8))


def _picture(tones: NDArray[np.float64], bit_depth: int = 16) -> Picture:
    tones32 = tones.astype(np.float32)
    facts = SourceFacts("PNG", tones.shape[1], tones.shape[0], bit_depth, "gray")
    return Picture(tones32, np.ones_like(tones32), facts)


def _stroke(width_px: float, angle_deg: float, side: int = 420) -> NDArray[np.float64]:
    y, x = np.mgrid[0:side, 0:side] - side / 2 + 0.2
    angle = np.deg2rad(angle_deg)
    beside = np.abs(x * np.sin(angle) - y * np.cos(angle))
    along = np.abs(x * np.cos(angle) + y * np.sin(angle))
    ink: NDArray[np.float64] = 1 - np.clip(width_px / 2 - beside + 0.5, 0, 1) * np.clip(150.5 - along, 0, 1)
    return ink


def measured(path: Path) -> dict[str, float]:
    """Prepare one picture as `nebrel prepare` does."""
    data = path.read_bytes()
    source = picture_source("0" * 64, path.name, read_picture(data).facts)
    ops = [{**op, "id": str(at)} for at, op in enumerate(TEN_OPS)]
    document = parse_part(PanelDocument, {"title": "Large", "picture": source.model_dump(), "ops": ops})
    started = time.perf_counter()
    PanelEvaluator(document, Sources(lambda _: data, ResultCache(64 * 2**20))).view(FULL)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 2**20
    return {"seconds": time.perf_counter() - started, "peak_gib": peak}


if __name__ == "__main__":
    print(json.dumps(measured(Path(sys.argv[1]))))
