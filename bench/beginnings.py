"""How soon a picture is shown as all that it could be, how soon a full shelf, and how soon many parts are one."""

import io
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
from PIL import Image

from bench.report import Row
from nebrel.api.views.pieces import cards_of
from nebrel.core.csg.put_together import PlacedSolid, put_together
from nebrel.core.mesh import TriMesh
from nebrel.core.proof import check_soundness
from nebrel.jobs.sheets import LineOfText, start_on_sheet
from nebrel.jobs.workshop import open_workshop
from nebrel.piece.choices.choice import Choice, choices_for
from nebrel.piece.choices.tile import tile_of
from nebrel.settings import Settings

WIDE, TALL = 4000, 3000
PIECES, PARTS, AROUND = 1000, 10, 160
TURNS = 3


def choices() -> list[Row]:
    """A photograph of twelve megapixels, from when it is kept to its first tile and to all of them; two at a time."""
    timed = [_tiles_of(_photograph(turn)) for turn in range(TURNS)]
    first, last = min(min(each) for each in timed), min(max(each) for each in timed)
    what = f"Photograph of {WIDE} × {TALL}: "
    return [
        Row(f"{what}first of {len(timed[0])} tiles", f"{first:.2f} s", "≤ 0.6 s", first <= 0.6),
        Row(f"{what}all tiles", f"{last:.2f} s", "≤ 2 s", last <= 2),
    ]


def _tiles_of(photograph: bytes) -> list[float]:
    """When each tile was there, in the order in which they are asked for, seconds."""
    with tempfile.TemporaryDirectory() as folder:
        workshop = open_workshop(Settings(data_dir=Path(folder)))
        document = workshop.document(workshop.start_piece(photograph, "photograph.jpg"))
        started = time.perf_counter()

        def sketch(choice: Choice) -> float:
            tile_of(document, choice, workshop.sources)
            return time.perf_counter() - started

        with ThreadPoolExecutor(max_workers=2) as pages:
            times = list(pages.map(sketch, choices_for(document)))
        workshop.close()
    return times


def shelf() -> list[Row]:
    """A thousand pieces told to the page, their sizes known."""
    with tempfile.TemporaryDirectory() as folder:
        workshop = open_workshop(Settings(data_dir=Path(folder)))
        begun = start_on_sheet(workshop, (60, 40), 0.0, "Plate", LineOfText("Fern", "bold", 1.0, None))
        for number in range(PIECES - 1):
            workshop.pieces.create({**begun.document, "title": f"Plate {number}"}, "Begun")
        best = np.inf
        for _ in range(TURNS):
            started = time.perf_counter()
            cards = cards_of(workshop)
            best = min(best, time.perf_counter() - started)
        workshop.close()
    return [Row(f"Shelf of {len(cards):,} pieces", f"{best:.2f} s", "≤ 1 s", best <= 1)]


def joining() -> list[Row]:
    """Ten balls of 100,000 triangles, each reaching into the next."""
    parts = [PlacedSolid(_ball((12.1 * at, 0.3 * at, 0.17 * at))) for at in range(PARTS)]
    best = np.inf
    for _ in range(TURNS):
        started = time.perf_counter()
        whole = put_together(parts).mesh
        best = min(best, time.perf_counter() - started)
    sound = check_soundness(whole).sound
    what = f"Joining {PARTS} parts of {len(parts[0].mesh.faces):,} triangles"
    return [Row(what, f"{best:.2f} s, {'sound' if sound else 'not sound'}", "≤ 3 s, sound", best <= 3 and sound)]


def _photograph(seed: int) -> bytes:
    y, x = np.mgrid[0:TALL, 0:WIDE].astype(np.float32) / TALL
    light = 0.5 + 0.3 * np.sin(3 * x + seed) * np.cos(2 * y) + 0.1 * np.sin(9 * x * y)
    subject = ((x - 0.66) ** 2 + (y - 0.5) ** 2 < 0.12) * 0.25
    noise = np.random.default_rng(seed).normal(0, 0.015, x.shape).astype(np.float32)
    tones = np.clip(light + subject + noise, 0, 1)
    held = io.BytesIO()
    Image.fromarray((np.dstack([tones, 0.8 * tones, 0.7 * tones]) * 255).astype(np.uint8)).save(
        held, "JPEG", quality=92
    )
    return held.getvalue()


def _ball(at: tuple[float, float, float]) -> TriMesh:
    """A ball of 10 mm in rings and sectors."""
    rings = np.pi * np.arange(1, AROUND) / AROUND
    turns = 2 * np.pi * np.arange(2 * AROUND) / (2 * AROUND)
    ring, turn = (grid.ravel() for grid in np.meshgrid(rings, turns, indexing="ij"))
    points = np.column_stack([np.sin(ring) * np.cos(turn), np.sin(ring) * np.sin(turn), np.cos(ring)])
    points = 10 * np.vstack([points, [[0, 0, 1], [0, 0, -1]]]) + np.array(at)
    count, rows = 2 * AROUND, AROUND - 1
    here = np.arange(rows * count).reshape(rows, count)
    on, below, beyond = np.roll(here, -1, 1)[:-1], here[1:], np.roll(here, -1, 1)[1:]
    faces = [
        np.column_stack([each.ravel() for each in (here[:-1], below, beyond)]),
        np.column_stack([each.ravel() for each in (here[:-1], beyond, on)]),
        np.column_stack([np.full(count, rows * count), here[0], np.roll(here[0], -1)]),
        np.column_stack([np.full(count, rows * count + 1), np.roll(here[-1], -1), here[-1]]),
    ]
    return TriMesh(points, np.vstack(faces).astype(np.uint32))
