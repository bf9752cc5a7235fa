"""Files from elsewhere, read in processes that can be ended, fairly by page, and only as long as somebody waits."""

import itertools
import logging
import pickle
import signal
import time
from collections.abc import Callable
from typing import Any, Concatenate, ParamSpec, TypeVar, cast

from nebrel.core.errors import BadValueError, LeftError, TooLargeError
from nebrel.jobs.processes import WorkingProcess, starting
from nebrel.jobs.readers import reader_main
from nebrel.jobs.turns import Order, Serving

LOG = logging.getLogger("nebrel.reading")
# Seconds of work and bytes that a file may take, and what more for each of its own bytes.
SECONDS, BYTES_A_SECOND = 8.0, 2e6
BYTES, BYTES_A_BYTE = 2**30, 24
# Where others use the processor, work takes so much longer on the clock.
SLOWER = 8.0
# Files that may wait while others are read, in all and of one page; more are asked to come back.
MOST_WAITING, MOST_OF_A_PAGE = 16, 8
POLL_SECONDS = 0.05
Options = ParamSpec("Options")
Read = TypeVar("Read")
Reader = Callable[Concatenate[bytes, str, Options], Read]


class Reading(Serving):
    """Reads files from elsewhere. What takes too long, or too much, is refused, and nothing else suffers from it."""

    def __init__(self, processes: int) -> None:
        self._context = starting()
        self._processes: list[WorkingProcess | None] = [None] * processes
        self._numbers = itertools.count()
        super().__init__("reading", processes, 1, MOST_WAITING, MOST_OF_A_PAGE)

    def ask(
        self,
        page: str,
        read: Reader[Options, Read],
        data: bytes,
        name: str,
        *options: Options.args,
        **named: Options.kwargs,
    ) -> Order:
        """Have a file read for a page.

        Args:
            page: who asks.
            read: a function of a module, such as `picture_in`.
            data, name, options, named: what it is given.

        Returns:
            The order; what `read` returns is its outcome.

        Raises:
            BusyError: too many files wait.
        """
        # No place has anything of a file at hand, so that any will do.
        order = Order((read, name, options, named, data), str(next(self._numbers)), page)
        self._turns.add(order)
        return order

    def read(
        self, read: Reader[Options, Read], data: bytes, name: str, *options: Options.args, **named: Options.kwargs
    ) -> Read:
        """What `read` makes of a file, waited for.

        Raises:
            NebrelError: it is refused, by what reads it, or as it takes too much.
        """
        return cast(Read, self.ask("", read, data, name, *options, **named).outcome.result())

    @property
    def pids(self) -> set[int]:
        """Numbers of its processes in the system."""
        return {process.pid for process in self._processes if process is not None}

    def close(self) -> None:
        """End all processes."""
        super().close()
        for place in range(len(self._processes)):
            self._end(place)

    def _done(self, place: int, hand: int, order: Order) -> Any:
        del hand
        process = self._processes[place]
        if process is None or not process.alive:
            process = self._processes[place] = WorkingProcess(self._context, reader_main, "nebrel-reader")
        try:
            answer = self._asked(process, order)
        except BaseException:
            self._end(place)
            raise
        return _made_of(answer, order.order[1])

    def _end(self, place: int) -> None:
        process, self._processes[place] = self._processes[place], None
        if process is not None:
            process.end()

    @staticmethod
    def _asked(process: WorkingProcess, order: Order) -> tuple[str, Any]:
        read, name, options, named, data = order.order
        seconds, most = SECONDS + len(data) / BYTES_A_SECOND, BYTES + BYTES_A_BYTE * len(data)
        ends = time.monotonic() + SLOWER * seconds
        try:
            process.connection.send((read, name, options, named, seconds, most))
            process.connection.send_bytes(data)
            while not process.connection.poll(POLL_SECONDS):
                if order.left:
                    raise LeftError
                if time.monotonic() > ends:
                    raise _too_long(name, seconds)
                if not process.alive and not process.connection.poll(0):
                    raise EOFError
            answer: tuple[str, Any] = pickle.loads(process.connection.recv_bytes())
        except (EOFError, OSError) as cause:
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
