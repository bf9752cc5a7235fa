"""Files from elsewhere, read in processes that can be ended, a few at a time."""

import logging
import pickle
import queue
import signal
import threading
import time
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError, BusyError, TooLargeError
from nebrel.core.picture import ReadLimits
from nebrel.jobs.motif_pack import PackedMotif
from nebrel.jobs.piece_file import PackedPiece
from nebrel.jobs.processes import WorkingProcess, starting
from nebrel.jobs.readers import reader_main
from nebrel.piece.kinds.model.document import ModelSource
from nebrel.piece.kinds.outline.document import DrawingSource
from nebrel.piece.parts.pictured import PictureSource

LOG = logging.getLogger("nebrel.reading")
# Seconds of work and bytes that a file may take, and what more for each of its own bytes.
SECONDS, BYTES_A_SECOND = 8.0, 2e6
BYTES, BYTES_A_BYTE = 2**30, 24
# What a photograph of a wedge takes, whose tones are all looked at.
WEDGE_BYTES = 2**31
# Where others use the processor, work takes so much longer on the clock.
SLOWER = 8.0
# Files that may wait while others are read; more are asked to come back.
MOST_WAITING, PATIENCE_SECONDS = 8, 60.0
POLL_SECONDS = 0.05


class Reading:
    """Reads files from elsewhere. What takes too long, or too much, is refused, and nothing else suffers from it."""

    def __init__(self, processes: int) -> None:
        self._context = starting()
        self._idle: queue.LifoQueue[WorkingProcess | None] = queue.LifoQueue()
        for _ in range(processes):
            self._idle.put(None)
        self._places = threading.BoundedSemaphore(processes + MOST_WAITING)
        self._all: set[WorkingProcess] = set()

    def picture(self, data: bytes, name: str, limits: ReadLimits) -> PictureSource:
        """The picture in a file; see `picture_in`."""
        found: PictureSource = self._read("picture", data, name, (limits,), self._most(data))
        return found

    def model(self, data: bytes, name: str, unit: str | None) -> ModelSource:
        """The mesh in a file; see `model_in`."""
        found: ModelSource = self._read("model", data, name, (unit,), self._most(data))
        return found

    def drawing(self, data: bytes, name: str, unit: str | None) -> DrawingSource:
        """The outlines in a file; see `drawing_in`."""
        found: DrawingSource = self._read("drawing", data, name, (unit,), self._most(data))
        return found

    def outline(self, data: bytes, name: str) -> bytes:
        """The outlines in a file as plain curves; see `outline_in`."""
        found: bytes = self._read("outline", data, name, (), self._most(data))
        return found

    def wedge(self, data: bytes, name: str, limits: ReadLimits, steps: int) -> NDArray[np.float64]:
        """Brightness of the steps of a wedge on a photograph; see `read_photograph`."""
        found: NDArray[np.float64] = self._read(
            "wedge", data, name, (limits, steps), max(WEDGE_BYTES, self._most(data))
        )
        return found

    def piece(self, data: bytes, name: str, limits: ReadLimits, most_bytes: int) -> PackedPiece:
        """The piece in a file; see `read_piece_file`."""
        found: PackedPiece = self._read("piece", data, name, (limits, most_bytes), self._most(data))
        return found

    def pack(self, data: bytes, name: str, limits: ReadLimits) -> list[PackedMotif]:
        """The motifs of a pack; see `read_pack`."""
        found: list[PackedMotif] = self._read("pack", data, name, (limits,), self._most(data))
        return found

    @property
    def pids(self) -> set[int]:
        """Numbers of its processes in the system."""
        return {process.pid for process in tuple(self._all)}

    def close(self) -> None:
        """End all processes."""
        for process in tuple(self._all):
            process.end()
        self._all.clear()

    @staticmethod
    def _most(data: bytes) -> int:
        return BYTES + BYTES_A_BYTE * len(data)

    def _read(self, kind: str, data: bytes, name: str, options: tuple[Any, ...], most: int) -> Any:
        """What a process makes of a file.

        Raises:
            NebrelError: it is refused, by what reads it, or as it takes too much.
            BusyError: too many files are being read.
        """
        if not self._places.acquire(blocking=False):
            raise BusyError("Many files are being read at this moment; nothing is lost, please try again in a minute.")
        try:
            process = self._taken()
            kept = False
            try:
                answer = self._asked(process, (kind, name, options), data, most)
                kept = True
            finally:
                if not kept:
                    process.end()
                    self._all.discard(process)
                self._idle.put(process if kept else None)
        finally:
            self._places.release()
        return _made_of(answer, name)

    def _taken(self) -> WorkingProcess:
        try:
            process = self._idle.get(timeout=PATIENCE_SECONDS)
        except queue.Empty as cause:
            raise BusyError("Other files take long to be read; nothing is lost, please try again.") from cause
        if process is None or not process.alive:
            if process is not None:
                self._all.discard(process)
            try:
                process = WorkingProcess(self._context, reader_main, "nebrel-reader")
            except BaseException:
                self._idle.put(None)
                raise
            self._all.add(process)
        return process

    @staticmethod
    def _asked(
        process: WorkingProcess, order: tuple[str, str, tuple[Any, ...]], data: bytes, most: int
    ) -> tuple[str, Any]:
        seconds = SECONDS + len(data) / BYTES_A_SECOND
        name, ends = order[1], time.monotonic() + SLOWER * seconds
        try:
            process.connection.send((*order, seconds, most))
            process.connection.send_bytes(data)
            while not process.connection.poll(POLL_SECONDS):
                if time.monotonic() > ends:
                    raise _too_long(name, seconds)
                if not process.alive and not process.connection.poll(0):
                    raise EOFError
            answer: tuple[str, Any] = pickle.loads(process.connection.recv_bytes())
        except (EOFError, BrokenPipeError, ConnectionResetError) as cause:
            ended_by = process.exit_signal()
            if ended_by == getattr(signal, "SIGXCPU", None):
                raise _too_long(name, seconds) from cause
            LOG.error("A reader ended, by signal %s", ended_by)
            raise BadValueError(
                f"{name} cannot be read: what reads it came to an end over it; export it again."
            ) from cause
        return answer


def _made_of(answer: tuple[str, Any], name: str) -> Any:
    what, made = answer
    if what == "refused":
        raise made
    if what == "memory":
        raise TooLargeError(f"{name} unpacks to more than fits into memory; please export it simpler.")
    if what == "broken":
        LOG.error("A file could not be read\n%s", made)
        raise BadValueError(f"{name} cannot be read: it is damaged, or holds what is not known here; export it again.")
    return made


def _too_long(name: str, seconds: float) -> TooLargeError:
    return TooLargeError(
        f"{name} takes more than {seconds:.0f} seconds of work to read, which is more than a file of its size should; "
        "please export it simpler."
    )
