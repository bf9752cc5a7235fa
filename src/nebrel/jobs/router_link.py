"""Sending a program to a router, line by line over a serial port, and what the router says meanwhile."""

import threading
import time
from collections import deque
from dataclasses import dataclass, replace
from typing import Literal, Protocol

from nebrel.core.errors import ConflictError

RouterState = Literal["idle", "running", "held", "waiting", "finished", "stopped", "refused"]
Word = Literal["hold", "resume", "stop"]
PAUSE_SECONDS, ASK_SECONDS, GONE_SECONDS = 0.01, 0.2, 5.0
BUSY: tuple[RouterState, ...] = ("running", "held", "waiting")


class Port(Protocol):
    """A serial port."""

    def write(self, data: bytes) -> int | None: ...

    def readline(self) -> bytes: ...


@dataclass(frozen=True)
class RouterStanding:
    """Where a router stands.

    Attributes:
        state: what it does; `waiting` for somebody to put in a bit.
        name: of the program.
        of: what the program belongs to, as its sender told.
        line, lines: which line it moves by, of how many.
        place: of the tip, mm in the program's coordinates.
        seconds: since the program began, by the router's own clock.
        why: what it refused, in its words.
    """

    state: RouterState = "idle"
    name: str = ""
    of: tuple[str, int] = ("", 0)
    line: int = 0
    lines: int = 0
    place: tuple[float, float, float] = (0.0, 0.0, 0.0)
    seconds: float = 0.0
    why: str = ""


class RouterLink:
    """One router: sends it one program at a time, in a thread of its own."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._words: deque[Word] = deque()
        self._standing = RouterStanding()
        self._thread: threading.Thread | None = None

    @property
    def standing(self) -> RouterStanding:
        """Where it stands."""
        with self._lock:
            return self._standing

    def send(self, name: str, text: str, of: tuple[str, int], port: Port) -> RouterStanding:
        """Begin to send a program.

        Args:
            name: of it.
            text: its lines.
            of: what it belongs to, for whoever asks later.
            port: that the router listens at.

        Raises:
            ConflictError: the router is busy.
        """
        lines = text.splitlines()
        with self._lock:
            self._refuse_busy()
            before = self._thread
        if before is not None:
            # It has told how it ended, and is about to be gone.
            before.join(timeout=GONE_SECONDS)
        with self._lock:
            self._refuse_busy()
            self._words.clear()
            self._standing = RouterStanding("running", name, of, 0, len(lines))
            self._thread = threading.Thread(target=self._run, args=(port, lines), name="router", daemon=True)
            self._thread.start()
            return self._standing

    def _refuse_busy(self) -> None:
        if self._standing.state in BUSY:
            raise ConflictError(f"The router is busy with {self._standing.name}; stop that first.")

    def say(self, word: Word) -> RouterStanding:
        """Hold, resume or stop.

        Raises:
            ConflictError: nothing runs.
        """
        with self._lock:
            if self._standing.state not in BUSY:
                raise ConflictError(f"The router runs nothing that could {word}.")
            self._words.append(word)
            return self._standing

    def close(self) -> None:
        """Stop whatever runs."""
        with self._lock:
            thread = self._thread
            self._words.append("stop")
        if thread is not None:
            thread.join(timeout=GONE_SECONDS)

    def _run(self, port: Port, lines: list[str]) -> None:
        port.write(b"begin\n")
        at, open_line, asked = 0, False, 0.0
        while self.standing.state in BUSY:
            with self._lock:
                words = [*self._words]
                self._words.clear()
            for word in words:
                port.write(f"{word}\n".encode())
            now = time.monotonic()
            if now - asked >= ASK_SECONDS or words:
                port.write(b"status\n")
                asked = now
            if not open_line and at < len(lines) and "stop" not in words:
                port.write(lines[at].encode() + b"\n")
                at, open_line = at + 1, True
            heard = self._hear(port)
            open_line &= not heard
            if not heard:
                time.sleep(PAUSE_SECONDS)

    def _hear(self, port: Port) -> bool:
        """Take in what the router says; whether it took a line."""
        taken = False
        while line := port.readline():
            word, _, rest = line.decode("ascii", "replace").strip().partition(" ")
            if word == "taken":
                taken = True
            elif word in {"refused", "stopped"}:
                with self._lock:
                    state: RouterState = "stopped" if word == "stopped" else "refused"
                    self._standing = replace(self._standing, state=state, why=rest)
            elif word == "status":
                self._heed(rest)
        return taken

    def _heed(self, status: str) -> None:
        state, *facts = status.split()
        told = dict(fact.split("=", 1) for fact in facts)
        with self._lock:
            if self._standing.state not in BUSY:
                return
            self._standing = replace(
                self._standing,
                state=state,  # type: ignore[arg-type]
                line=int(told["line"]),
                place=(float(told["x"]), float(told["y"]), float(told["z"])),
                seconds=float(told["seconds"]),
            )
