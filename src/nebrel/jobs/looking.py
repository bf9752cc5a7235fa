"""Looking at pieces for pages, and trying edits, in processes that can be ended, so that the server itself never
computes."""

import itertools
import logging
import pickle
import threading
import time
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any, cast

from nebrel.core.errors import BadValueError, BusyError, LeftError, NebrelError, TooLargeError
from nebrel.jobs.lookers import looker_main
from nebrel.jobs.processes import WorkingProcess, receive_block, starting
from nebrel.jobs.turns import STOPPING, Order, Serving
from nebrel.settings import Settings

LOG = logging.getLogger("nebrel.looking")
# What one process does at a time; what may wait in all, and for one page.
HANDS = 2
MOST_WAITING, MOST_OF_A_PAGE = 600, 80
# What may be taken beyond what is kept in memory, and for how long a page is worked for.
MOST_BYTES, MOST_SECONDS = 6 * 2**30, 180.0
# How long something that is left off may take until it does; then its process is ended.
GRACE_SECONDS = 4.0
POLL_SECONDS = 0.05
# What was at work beside something that ended its process is tried so often.
MOST_TRIES = 3
TOO_LONG = (
    f"This takes more than {MOST_SECONDS / 60:.0f} minutes to be shown, which is more than a page waits; a simpler "
    "source, or fewer steps, would be shown. Building it has no such limit."
)
TOO_MUCH = "This takes more memory than there is to show it; a simpler source, or fewer steps, would be shown."


class OwnMistakeError(Exception):
    """What nobody foresaw, in one of the processes."""


class Looking(Serving):
    """Processes that do for pages what takes computing: fairly by page, and only as long as somebody waits.

    What belongs to one piece goes to the same process, which has its results in memory, unless that has its hands full.
    """

    def __init__(self, processes: int, cache_bytes: int) -> None:
        self._numbers = itertools.count(1)
        self._lookers = [_Looker(cache_bytes // processes) for _ in range(processes)]
        super().__init__("looking", processes, HANDS, MOST_WAITING, MOST_OF_A_PAGE)

    def ask(
        self,
        settings: Settings,
        page: str,
        about: str,
        progress: Callable[[str, float], None],
        work: Callable[..., Any],
        *given: Any,
        **named: Any,
    ) -> Order:
        """Have something done.

        Args:
            settings: of the data folder.
            page: who asks.
            about: what it is about, such as the name of a piece.
            progress: hears how far it is.
            work: a function of a module; gets a `Room` and what is given; that is sent to it, and what it
                returns is sent back.

        Returns:
            The order; what `work` returns is its outcome.

        Raises:
            BusyError: too much waits already.
        """
        order = Order((next(self._numbers), settings, work, given, named), about, page, progress)
        self._turns.add(order)
        return order

    @property
    def pids(self) -> set[int]:
        """Numbers of its processes in the system."""
        return {looker.pid for looker in self._lookers if looker.pid}

    def close(self) -> None:
        """End all processes; what waits is told so."""
        super().close()
        for looker in self._lookers:
            looker.end()

    def _done(self, place: int, hand: int, order: Order) -> Any:
        while True:
            order.tries += 1
            try:
                answer = self._lookers[place].asked(hand, order)
            except (EOFError, OSError) as cause:
                if order.left:
                    raise LeftError from cause
                if order.tries < MOST_TRIES:
                    continue
                raise BadValueError(
                    "This cannot be shown: what works on it came to an end over it. The piece is unharmed; take the "
                    "last step back."
                ) from cause
            if answer[0] == "broken" and order.tries < MOST_TRIES and self._lookers[place].start_afresh():
                LOG.warning("A process that had left something off made a mistake; another one tries\n%s", answer[1])
                continue
            return _made_of(answer)


class _Looker:
    """One process, started when it is first needed and again when it has ended."""

    def __init__(self, cache_bytes: int) -> None:
        self._cache_bytes = cache_bytes
        self._lock = threading.Lock()
        self._process: WorkingProcess | None = None
        self._hands: list[Connection] = []
        self._closed = False
        self._interrupted = False

    @property
    def pid(self) -> int:
        process = self._process
        return process.pid if process is not None and process.alive else 0

    def end(self) -> None:
        with self._lock:
            self._closed = True
            self._end()

    def start_afresh(self) -> bool:
        """End the process if anything was ever left off in it: that may have been in the middle of what all need, such
        as loading a module. Returns whether it was."""
        with self._lock:
            if not self._interrupted:
                return False
            self._end()
            return True

    def asked(self, hand: int, order: Order) -> tuple[str, Any]:
        """What the process answers to an order.

        Raises:
            EOFError, OSError: it ended meanwhile.
            TooLargeError: it took too long.
        """
        process, connection = self._at_work(hand)
        try:
            return self._answered(process, connection, order)
        except (EOFError, OSError):
            self._end_one(process)
            raise

    def _answered(self, process: WorkingProcess, connection: Connection, order: Order) -> tuple[str, Any]:
        number = order.order[0]
        ends, told = time.monotonic() + MOST_SECONDS, 0.0
        connection.send(order.order)
        while True:
            if connection.poll(POLL_SECONDS):
                kind, what = pickle.loads(connection.recv_bytes())
                if kind == "block":
                    return "made", receive_block(connection, what)
                if kind != "progress":
                    return ("overdue", None) if kind == "left" and not order.left else (kind, what)
                if not order.left:
                    order.progress(*what)
            now = time.monotonic()
            if not told and (order.left or now > ends):
                told, self._interrupted = now, True
                process.connection.send(number)
            if told and now > told + GRACE_SECONDS:
                LOG.warning("What is left off takes no notice of it; its process is ended")
                self._end_one(process)
                return "left" if order.left else "overdue", None

    def _at_work(self, hand: int) -> tuple[WorkingProcess, Connection]:
        with self._lock:
            if self._closed:
                raise BusyError(STOPPING)
            if self._process is None or not self._process.alive:
                self._end()
                context = starting()
                pipes = [context.Pipe() for _ in range(HANDS)]
                theirs = [their for _, their in pipes]
                self._process = WorkingProcess(
                    context, looker_main, "nebrel-looker", theirs, self._cache_bytes, MOST_BYTES
                )
                self._hands = [ours for ours, _ in pipes]
                for their in theirs:
                    their.close()
            return self._process, self._hands[hand]

    def _end_one(self, process: WorkingProcess) -> None:
        with self._lock:
            if self._process is process:
                self._end()

    def _end(self) -> None:
        self._interrupted = False
        if self._process is not None:
            self._process.end()
        self._process = None


def _made_of(answer: tuple[str, Any]) -> Any:
    kind, made = answer
    if kind == "refused":
        raise cast(NebrelError, made)
    if kind == "memory":
        raise TooLargeError(TOO_MUCH)
    if kind == "overdue":
        raise TooLargeError(TOO_LONG)
    if kind == "left":
        raise LeftError
    if kind == "broken":
        raise OwnMistakeError(made)
    return made
