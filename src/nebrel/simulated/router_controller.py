"""A simulated controller of a router behind a simulated serial port. The words on the wire: `docs/router-link.md`."""

import math
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass

from nebrel.core.router.interpreter import BadProgramError, LineReader, Step
from nebrel.core.router.timing import Drive, corner_between

MEMORY = 64
TICK = 0.004
LONGEST_LINE = 256
PARKED = (0.0, 0.0, 25.0)


@dataclass
class _Queued:
    """A step in the controller's memory, with how fast it may be left."""

    step: Step
    line: int
    way: tuple[float, float, float]
    length: float
    speed: float
    leave: float = 0.0


class RouterController:
    """Takes a program line by line into a small memory, and moves by it: speeds up and slows down as a machine does,
    looking ahead over what it has in memory. Time goes on when it is asked to `advance`."""

    def __init__(self, drive: Drive) -> None:
        self._drive = drive
        self._queue: deque[_Queued] = deque()
        self._answers = bytearray()
        self._half = bytearray()
        self._waiting: str | None = None
        self._forget()

    def _forget(self) -> None:
        self._reader = LineReader(PARKED)
        self._queue.clear()
        self._waiting = None
        self._at = self._told = PARKED
        self._gone = self._speed = self._waited = self._seconds = 0.0
        self._line = self._running = 0
        self._state = "idle"
        self._held = self._paused = False

    def receive(self, data: bytes) -> None:
        """Bytes from the wire."""
        self._half += data
        while b"\n" in self._half:
            line, _, rest = self._half.partition(b"\n")
            self._half = bytearray(rest)
            self._hear(line.decode("ascii", "replace").strip())
        if len(self._half) > LONGEST_LINE:
            self._half.clear()
            self._refuse(f"Lines are up to {LONGEST_LINE} letters long.")

    def answers(self) -> bytes:
        """Bytes for the wire since the last call."""
        told = bytes(self._answers)
        self._answers.clear()
        return told

    def advance(self, seconds: float) -> None:
        """Let time go by."""
        left = seconds
        while left > 0 and self._moves():
            self._tick(min(TICK, left))
            left -= TICK

    def _hear(self, line: str) -> None:
        if line == "status":
            self._say(self._status())
        elif line == "hold":
            self._held = True
            self._say("holding")
        elif line == "resume":
            self._held = self._paused = False
            self._say("going on")
        elif line == "stop":
            self._forget()
            self._state = "stopped"
            self._say("stopped")
        elif line == "begin":
            self._forget()
            self._state = "running"
            self._say("ready")
        elif self._state != "running":
            self._refuse("No program has begun; begin comes first.")
        elif self._waiting is not None:
            self._refuse("The line before has not been taken yet.")
        else:
            self._waiting = line
            self._take()

    def _take(self) -> None:
        """Take the waiting line as soon as there is room for what it asks for."""
        if self._waiting is None or len(self._queue) >= MEMORY:
            return
        line, self._waiting = self._waiting, None
        self._line += 1
        try:
            steps = self._reader.read(line, self._line)
        except BadProgramError as cause:
            self._held = True
            self._state = "refused"
            self._refuse(str(cause))
            return
        for step in steps:
            self._remember(step)
        self._plan()
        self._say("taken")

    def _remember(self, step: Step) -> None:
        way = tuple(end - begin for begin, end in zip(self._told, step.place, strict=True))
        length = math.hypot(*way)
        if length > 0:
            way = tuple(part / length for part in way)
        speed = (self._drive.rapid if step.rapid else step.feed) / 60
        if length > 0 or step.wait > 0 or step.pause:
            self._queue.append(_Queued(step, self._line, (way[0], way[1], way[2]), length, speed))
        self._told = step.place

    def _plan(self) -> None:
        """How fast every step of the memory may be left, so that the machine can stop at the end of the last."""
        enter = 0.0
        after: _Queued | None = None
        for one in reversed(self._queue):
            one.leave = 0.0
            if after is not None and one.length > 0 and after.length > 0:
                cosine = -sum(a * b for a, b in zip(one.way, after.way, strict=True))
                drive = self._drive
                corner = corner_between(cosine, min(one.speed, after.speed), drive)
                one.leave = min(corner, enter)
            enter = min(one.speed, math.sqrt(one.leave**2 + 2 * self._drive.acceleration * one.length))
            after = one

    def _moves(self) -> bool:
        if not self._queue:
            if self._state == "running" and self._reader.ended:
                self._state = "finished"
            self._speed = 0.0
            return False
        return not self._paused and not (self._held and self._speed <= 0)

    def _tick(self, seconds: float) -> None:
        one = self._queue[0]
        self._running = one.line
        self._seconds += seconds
        if one.step.pause:
            self._paused = True
            self._done()
            return
        if one.step.wait > 0:
            self._waited += seconds
            if self._waited >= one.step.wait:
                self._waited = 0.0
                self._done()
            return
        change = self._drive.acceleration * seconds
        room = math.sqrt(one.leave**2 + 2 * self._drive.acceleration * max(0.0, one.length - self._gone))
        wanted = 0.0 if self._held else min(one.speed, max(room, change))
        self._speed = min(self._speed + change, wanted) if wanted > self._speed else max(self._speed - change, wanted)
        self._gone += self._speed * seconds
        while self._queue and self._queue[0].length > 0 and self._gone >= self._queue[0].length:
            over = self._gone - self._queue[0].length
            self._done()
            self._gone = over
        if not self._queue or self._queue[0].length == 0:
            self._gone = 0.0
        self._at = self._place()

    def _done(self) -> None:
        self._at = self._queue.popleft().step.place
        self._gone = 0.0
        self._take()

    def _place(self) -> tuple[float, float, float]:
        if not self._queue:
            return self._at
        one = self._queue[0]
        begin = [end - way * one.length for end, way in zip(one.step.place, one.way, strict=True)]
        x, y, z = (part + way * self._gone for part, way in zip(begin, one.way, strict=True))
        return x, y, z

    def _status(self) -> str:
        state = self._state
        if state == "running":
            state = "waiting" if self._paused else "held" if self._held else "running"
        x, y, z = self._at
        spindle = "on" if self._reader.spinning and not self._paused else "off"
        return (
            f"status {state} line={self._running} x={x:.3f} y={y:.3f} z={z:.3f} speed={60 * self._speed:.0f} "
            f"spindle={spindle} seconds={self._seconds:.1f}"
        )

    def _refuse(self, why: str) -> None:
        self._say(f"refused {why}")

    def _say(self, text: str) -> None:
        self._answers += text.encode() + b"\n"


class SimulatedPort:
    """The wire to a simulated controller, with the methods of a serial port; its time runs `speed` times as fast."""

    def __init__(
        self, controller: RouterController, speed: float = 1.0, clock: Callable[[], float] = time.monotonic
    ) -> None:
        self._controller, self._speed, self._clock = controller, speed, clock
        self._then = clock()
        self._heard = bytearray()

    def write(self, data: bytes) -> int:
        """Send bytes; how many went."""
        self._go_on()
        self._controller.receive(data)
        return len(data)

    def readline(self) -> bytes:
        """The next line of what came back with its end, or nothing."""
        self._go_on()
        self._heard += self._controller.answers()
        line, end, rest = self._heard.partition(b"\n")
        if not end:
            return b""
        self._heard = bytearray(rest)
        return bytes(line + end)

    def _go_on(self) -> None:
        now = self._clock()
        self._controller.advance((now - self._then) * self._speed)
        self._then = now
