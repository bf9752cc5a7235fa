"""A stand-in for a printer on the network: it refuses what it could not print, works through a queue, pauses, and jams.

The contract is told in `docs/printer-link.md`.
"""

import threading
import time
import uuid
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Annotated, Literal

import manifold3d
import numpy as np
from fastapi import FastAPI, File, UploadFile
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.responses import Response

from nebrel.core.csg.boolean import mesh_of, solid_of
from nebrel.core.errors import NebrelError
from nebrel.core.layers.effort import PrintWay
from nebrel.core.layers.study import LayerSetup, study_layers
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.formats import read_mesh
from nebrel.core.mesh.shells import part_of

State = Literal["waiting", "printing", "paused", "jammed", "done", "cancelled"]
Word = Literal["pause", "resume", "retry", "cancel"]
OPEN: tuple[State, ...] = ("waiting", "printing", "paused", "jammed")
MOST_WAITING, MOST_BYTES = 20, 256 * 2**20
JAM = "The filament stopped moving; it is drawn back. Press retry once it moves again."


@dataclass(frozen=True)
class PrinterTraits:
    """What the printer is, and how it behaves.

    Attributes:
        name: of it.
        bed: width, depth and height that it prints, mm.
        slots: how many filaments it holds.
        setup: how it lays lines.
        faster: simulated seconds in one.
        jams: whether a print jams half way, by its number from 1 and the attempt from 1.
    """

    name: str = "Workshop printer"
    bed: tuple[float, float, float] = (220.0, 220.0, 240.0)
    slots: int = 4
    setup: LayerSetup = field(default_factory=lambda: LayerSetup(0.2, PrintWay(0.42)))
    faster: float = 600.0
    jams: Callable[[int, int], bool] = lambda number, attempt: number % 3 == 2 and attempt == 1


class PrintView(BaseModel):
    """Where a print stands. `position` counts those before it, `layer` is the one at work, 1 the first."""

    id: str
    name: str
    state: State
    position: int
    layer: int
    layers: int
    fraction: float
    minutes_left: float
    grams: float
    colours: int
    reason: str = ""


class PrinterView(BaseModel):
    """What the printer is, and what it does; its queue, those at work and waiting first."""

    name: str
    bed_mm: tuple[float, float, float]
    slots: int
    state: Literal["idle", "printing", "paused", "jammed"]
    prints: list[PrintView]


class RefusedError(Exception):
    """What the printer does not take, in its words."""


@dataclass
class _Print:
    """A file that was taken."""

    id: str
    name: str
    number: int
    layers: int
    seconds: float
    grams: float
    colours: int
    state: State = "waiting"
    spent: float = 0.0
    attempt: int = 1
    reason: str = ""


class SimulatedPrinter:
    """The printer itself; time goes on when it is asked to `advance`, by seconds of its own."""

    def __init__(self, traits: PrinterTraits | None = None) -> None:
        self.traits = traits or PrinterTraits()
        self._prints: list[_Print] = []

    def take(self, name: str, data: bytes) -> PrintView:
        """Queue a file.

        Raises:
            RefusedError: it cannot be printed here, or too many wait.
        """
        if sum(each.state in OPEN for each in self._prints) >= MOST_WAITING:
            raise RefusedError(f"{MOST_WAITING} prints wait already; try again later.")
        try:
            file = read_mesh(data, name, "mm", sharp=True)
            mesh = file.mesh
            self._refuse_large(mesh)
            study = study_layers(_as_one(mesh, file.objects), self.traits.setup)
        except NebrelError as refusal:
            raise RefusedError(str(refusal)) from refusal
        colours = _colours_of(mesh)
        if colours > self.traits.slots:
            raise RefusedError(f"{name} has {colours} colours; the printer holds {self.traits.slots} filaments.")
        taken = _Print(
            id=uuid.uuid4().hex[:12],
            name=name,
            number=len(self._prints) + 1,
            layers=len(study.slices.sections),
            seconds=60 * study.effort.minutes,
            grams=study.effort.grams,
            colours=colours,
        )
        self._prints.append(taken)
        self._begin_next()
        return self._view(taken)

    def advance(self, seconds: float) -> None:
        """Let time go by."""
        while seconds > 0:
            working = next((each for each in self._prints if each.state == "printing"), None)
            if working is None:
                return
            half = working.seconds / 2
            jams = working.spent < half and self.traits.jams(working.number, working.attempt)
            stop = half if jams else working.seconds
            step = min(seconds, stop - working.spent)
            working.spent += step
            seconds -= step
            if working.spent >= stop - 1e-9:
                if jams:
                    working.state, working.reason = "jammed", JAM
                else:
                    working.state = "done"
                    self._begin_next()

    def say(self, print_id: str, word: Word) -> PrintView:
        """Pause, resume, retry after a jam, or cancel.

        Raises:
            KeyError: there is no such print.
            RefusedError: it is not in a state for that.
        """
        found = self._found(print_id)
        needs: dict[Word, tuple[State, ...]] = {
            "pause": ("printing",), "resume": ("paused",), "retry": ("jammed",), "cancel": OPEN,
        }  # fmt: skip
        if found.state not in needs[word]:
            raise RefusedError(f"{found.name} is {found.state}, so there is nothing to {word}.")
        if word == "cancel":
            found.state, found.reason = "cancelled", ""
            self._begin_next()
        elif word == "pause":
            found.state = "paused"
        else:
            found.attempt += word == "retry"
            found.state, found.reason = "printing", ""
        return self._view(found)

    def view(self) -> PrinterView:
        """What it is, and what it does."""
        at_work = next((each.state for each in self._prints if each.state in ("printing", "paused", "jammed")), "idle")
        shown = sorted(self._prints, key=lambda each: (each.state not in OPEN, each.number))
        return PrinterView(
            name=self.traits.name,
            bed_mm=self.traits.bed,
            slots=self.traits.slots,
            state=at_work,
            prints=[self._view(each) for each in shown],
        )

    def one(self, print_id: str) -> PrintView:
        """Where a print stands.

        Raises:
            KeyError: there is none of this name.
        """
        return self._view(self._found(print_id))

    def _found(self, print_id: str) -> _Print:
        for each in self._prints:
            if each.id == print_id:
                return each
        raise KeyError(print_id)

    def _refuse_large(self, mesh: TriMesh) -> None:
        if not len(mesh.faces):
            raise RefusedError("There are no triangles in the file.")
        used = mesh.vertices[np.unique(mesh.faces)]
        size = np.ptp(used, axis=0)
        if (size > np.array(self.traits.bed) + 1e-6).any():
            told, bed = (" × ".join(f"{side:.1f}" for side in sides) for sides in (size, self.traits.bed))
            raise RefusedError(f"It is {told} mm, more than the {bed} mm that the printer reaches.")

    def _begin_next(self) -> None:
        if any(each.state in ("printing", "paused", "jammed") for each in self._prints):
            return
        following = next((each for each in self._prints if each.state == "waiting"), None)
        if following is not None:
            following.state = "printing"

    def _view(self, each: _Print) -> PrintView:
        before = [other for other in self._prints if other.state in OPEN and other.number < each.number]
        share = min(1.0, each.spent / each.seconds) if each.seconds else 1.0
        return PrintView(
            id=each.id,
            name=each.name,
            state=each.state,
            position=len(before) if each.state == "waiting" else 0,
            layer=min(each.layers, 1 + int(share * each.layers)),
            layers=each.layers,
            fraction=round(share, 4),
            minutes_left=round((each.seconds - each.spent) / 60, 2) if each.state in OPEN else 0.0,
            grams=round(each.grams, 2),
            colours=each.colours,
            reason=each.reason,
        )


def printer_service(traits: PrinterTraits | None = None, clock: Callable[[], float] = time.monotonic) -> FastAPI:
    """The printer as a service over HTTP; its time goes on by a clock, so much faster as its traits tell."""
    printer, lock = SimulatedPrinter(traits), threading.Lock()
    last = clock()
    app = FastAPI(title="Simulated printer", docs_url=None, redoc_url=None)

    def now() -> None:
        nonlocal last
        moment = clock()
        printer.advance((moment - last) * printer.traits.faster)
        last = moment

    @app.get("/printer")
    def tell() -> PrinterView:
        with lock:
            now()
            return printer.view()

    @app.post("/prints", status_code=201, response_model=PrintView)
    def take(file: Annotated[UploadFile, File()]) -> PrintView | Response:
        data = file.file.read(MOST_BYTES + 1)
        if len(data) > MOST_BYTES:
            return _refusal(413, f"The file has more than {MOST_BYTES // 2**20} MiB.")
        with lock:
            now()
            try:
                return printer.take(file.filename or "print.3mf", data)
            except RefusedError as refusal:
                return _refusal(422, str(refusal))

    @app.get("/prints/{print_id}", response_model=PrintView)
    def one(print_id: str) -> PrintView | Response:
        with lock:
            now()
            try:
                return printer.one(print_id)
            except KeyError:
                return _refusal(404, "There is no such print.")

    @app.post("/prints/{print_id}/{word}", response_model=PrintView)
    def say(print_id: str, word: Word) -> PrintView | Response:
        with lock:
            now()
            try:
                return printer.say(print_id, word)
            except KeyError:
                return _refusal(404, "There is no such print.")
            except RefusedError as refusal:
                return _refusal(409, str(refusal))

    return app


def _as_one(mesh: TriMesh, objects: tuple[tuple[str, int], ...]) -> TriMesh:
    """A file's objects as one solid: bodies of several colours touch each other, and each of them is closed."""
    if len(objects) < 2:
        return mesh
    ends = np.cumsum([0, *(count for _, count in objects)])
    parts = [part_of(mesh, np.arange(ends[at], ends[at + 1])) for at in range(len(objects))]
    for (name, _), part in zip(objects, parts, strict=True):
        if solid_of(part).status() != manifold3d.Error.NoError or len(crossing_pairs(part, 1)):
            raise RefusedError(f"“{name}” is not closed, or its faces cross; repair it first.")
    return mesh_of(manifold3d.Manifold.batch_boolean([solid_of(part) for part in parts], manifold3d.OpType.Add))


def _refusal(status: int, reason: str) -> Response:
    return JSONResponse({"reason": reason}, status)


def _colours_of(mesh: TriMesh) -> int:
    """How many colours the triangles of a mesh have; one where none is told."""
    if mesh.corner_colours is None:
        return 1
    return len(np.unique(mesh.corner_colours[:, 0, :3].reshape(-1, 3), axis=0))
