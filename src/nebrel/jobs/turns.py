"""Whose turn it is: what pages ask for, taken fairly by page, and where it can be by who has its piece in memory."""

import itertools
import threading
import zlib
from abc import ABC, abstractmethod
from collections import Counter
from concurrent.futures import Future
from dataclasses import dataclass, field
from typing import Any

from nebrel.core.errors import BusyError

STOPPING = "The server is being stopped."


@dataclass(eq=False)
class Order:
    """Something to be done for a page.

    Attributes:
        order: what is sent to who does it.
        about: what it is about, such as a piece; all that is about the same is done at one place if that is free.
        page: who asked.
        outcome: what comes of it.
        left: whether nobody waits for it any more.
    """

    order: tuple[Any, ...]
    about: str
    page: str
    progress: Any = None
    outcome: "Future[Any]" = field(default_factory=Future)
    left: bool = False
    tries: int = 0


class Turns:
    """Orders that wait, for a number of places that do some at a time each.

    Of the orders of different pages, that one is next whose page has the fewest in work, then the one whose page
    was served longest ago. An order is done at the place that its subject belongs to, or at another one where that
    has its hands full and the other has none of its own to do.
    """

    def __init__(self, places: int, most_waiting: int, most_of_a_page: int) -> None:
        self._most_waiting, self._most_of_a_page = most_waiting, most_of_a_page
        self._changed = threading.Condition()
        self._waiting: list[Order] = []
        self._working: Counter[str] = Counter()
        self._idle = [0] * places
        self._served: dict[str, int] = {}
        self._count = itertools.count(1)
        self._closed = False

    def add(self, order: Order) -> None:
        """Let an order wait for its turn.

        Raises:
            BusyError: too much waits already.
        """
        with self._changed:
            of_page = sum(each.page == order.page for each in self._waiting)
            if len(self._waiting) >= self._most_waiting or of_page >= self._most_of_a_page:
                raise BusyError("Very much is asked for at this moment; nothing is lost, please try again in a minute.")
            self._waiting.append(order)
            self._changed.notify_all()

    def take(self, place: int) -> Order | None:
        """The next order for a place, as soon as there is one; None once all is closed."""
        with self._changed:
            self._idle[place] += 1
            try:
                while not self._closed:
                    order = self._next(place)
                    if order is not None:
                        self._waiting.remove(order)
                        self._working[order.page] += 1
                        self._served[order.page] = next(self._count)
                        return order
                    self._changed.wait()
                return None
            finally:
                self._idle[place] -= 1
                # One fewer that waits there: others may do what belongs there now.
                self._changed.notify_all()

    def done(self, order: Order) -> None:
        """An order that was taken is out of work."""
        with self._changed:
            self._working[order.page] -= 1
            if self._working[order.page] <= 0:
                del self._working[order.page]
                if not any(each.page == order.page for each in self._waiting):
                    self._served.pop(order.page, None)

    def withdraw(self, order: Order) -> bool:
        """Whether an order waited still; it waits no more."""
        with self._changed:
            if order not in self._waiting:
                return False
            self._waiting.remove(order)
            return True

    def close(self) -> list[Order]:
        """Send all places home; returns what waited."""
        with self._changed:
            self._closed = True
            left, self._waiting = self._waiting, []
            self._changed.notify_all()
            return left

    def _next(self, place: int) -> Order | None:
        own = [order for order in self._waiting if self._home(order) == place]
        others = [order for order in self._waiting if not self._idle[self._home(order)]]
        return min(
            own or others,
            key=lambda order: (self._working[order.page], self._served.get(order.page, 0)),
            default=None,
        )

    def _home(self, order: Order) -> int:
        return zlib.crc32(order.about.encode()) % len(self._idle)


class Serving(ABC):
    """Threads that do orders as their turn comes, some at a time at each of a number of places."""

    def __init__(self, name: str, places: int, hands: int, most_waiting: int, most_of_a_page: int) -> None:
        self._turns = Turns(places, most_waiting, most_of_a_page)
        self._threads = [
            threading.Thread(target=self._serve, args=(place, hand), name=f"{name}-{place}-{hand}", daemon=True)
            for place in range(places)
            for hand in range(hands)
        ]
        for thread in self._threads:
            thread.start()

    @property
    def alive(self) -> bool:
        """Whether all places are served."""
        return all(thread.is_alive() for thread in self._threads)

    def leave(self, order: Order) -> None:
        """Nobody waits for an order any more: it is left off."""
        order.left = True
        if self._turns.withdraw(order):
            order.outcome.cancel()

    def close(self) -> None:
        """Send everyone home; what waits is told so."""
        for order in self._turns.close():
            if order.outcome.set_running_or_notify_cancel():
                order.outcome.set_exception(BusyError(STOPPING))

    @abstractmethod
    def _done(self, place: int, hand: int, order: Order) -> Any:
        """What comes of an order."""

    def _serve(self, place: int, hand: int) -> None:
        while (order := self._turns.take(place)) is not None:
            try:
                if order.outcome.set_running_or_notify_cancel():
                    order.outcome.set_result(self._done(place, hand, order))
            except Exception as cause:
                order.outcome.set_exception(cause)
            finally:
                self._turns.done(order)
