"""Programs of machines as text (RS-274), read word by word into straight moves."""

import math
import re
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import NebrelError

MM_PER_INCH = 25.4
ARC_SAG = 1e-4
MOST_LINES = 5_000_000
MOST_MOVES = 20_000_000
MOST_CHORDS = 100_000
FULL_CIRCLE = 2 * math.pi
MOTIONS, DWELL = (0.0, 1.0, 2.0, 3.0), 4.0
BEFORE_MOVES = (3.0, 4.0, 6.0)
_WORD = re.compile(r"([A-Z])\s*([-+]?(?:\d+\.?\d*|\.\d+))")
_ASIDE = re.compile(r"\([^()]*\)")
_NEUTRAL = {40.0, 49.0, 54.0, 64.0, 80.0, 94.0}
_KNOWN = "FGIJKMNPRSTXYZ"


class BadProgramError(NebrelError):
    """A program that the machine would not run; its text names the line."""


@dataclass(frozen=True)
class Moves:
    """Straight moves of a program, in the order they are made; circles are taken apart into chords 0.1 µm off at most.

    Attributes:
        places: float64 (N + 1, 3) mm; move `i` goes from `places[i]` to `places[i + 1]`.
        rapid: bool (N,), moved as fast as the machine can.
        feed: float64 (N,) mm a minute; 0 for rapids.
        line: int32 (N,), counted from 1.
        spinning: bool (N,), whether the spindle turns.
        change: int16 (N,), how many bits were put in before, the first not counted: by M6, or at a pause (M0).
        dwell: seconds that the machine waits in all.
        unit: "mm" or "in".
        ended: whether the program says where it ends.
        spindle: turns a minute that were asked for last.
        lines: how many lines it has.
        codes: what was switched on, such as G90, for reports.
    """

    places: NDArray[np.float64]
    rapid: NDArray[np.bool_]
    feed: NDArray[np.float64]
    line: NDArray[np.int32]
    spinning: NDArray[np.bool_]
    change: NDArray[np.int16]
    dwell: float
    unit: str
    ended: bool
    spindle: float
    lines: int
    codes: frozenset[str]


@dataclass
class _Machine:
    at: list[float]
    motion: float | None = None
    scale: float = 1.0
    unit: str | None = None
    absolute: bool = True
    feed: float = 0.0
    spindle: float = 0.0
    spinning: bool = False
    changes: int = 0
    moved: bool = False
    dwell: float = 0.0
    ended: bool = False
    codes: set[str] = field(default_factory=set)
    places: list[tuple[float, float, float]] = field(default_factory=list)
    facts: list[tuple[bool, float, int, bool, int]] = field(default_factory=list)


class Step(NamedTuple):
    """What a line of a program asks for: a straight move, a wait, or a pause in which a bit is put in.

    Attributes:
        place: where the tip goes, mm; where it is, for waits and pauses.
        rapid: as fast as the machine can.
        feed: mm a minute; 0 for rapids.
        wait: seconds.
        pause: whether somebody has to go on.
    """

    place: tuple[float, float, float]
    rapid: bool = False
    feed: float = 0.0
    wait: float = 0.0
    pause: bool = False


class LineReader:
    """Reads a program line by line, as a controller does that gets it over a wire."""

    def __init__(self, start: tuple[float, float, float]) -> None:
        self._machine = _Machine(list(start))

    @property
    def ended(self) -> bool:
        """Whether the program has said that it ends."""
        return self._machine.ended

    @property
    def spinning(self) -> bool:
        """Whether the spindle was told to turn."""
        return self._machine.spinning

    def read(self, line: str, number: int) -> list[Step]:
        """What a line asks for, in its order.

        Raises:
            BadProgramError: the machine does not know it.
        """
        machine = self._machine
        words = _words(line, number)
        if not words or machine.ended:
            return []
        changes, dwell = machine.changes, machine.dwell
        machine.places.clear()
        machine.facts.clear()
        _run(machine, words, number)
        at = (machine.at[0], machine.at[1], machine.at[2])
        steps = [Step(at, pause=True)] if machine.changes > changes else []
        if machine.dwell > dwell:
            steps.append(Step(at, wait=machine.dwell - dwell))
        return steps + [
            Step(place, fact[0], fact[1]) for place, fact in zip(machine.places, machine.facts, strict=True)
        ]


def read_program(text: str, start: tuple[float, float, float]) -> Moves:
    """Read a program.

    Args:
        text: its lines.
        start: where the tip stands before it, mm.

    Raises:
        BadProgramError: a word, circle or mixture that the machine does not know, by its line; or it is too long.
    """
    machine = _Machine(list(start))
    machine.places.append(start)
    lines = text.split("\n")
    if len(lines) > MOST_LINES:
        raise BadProgramError(f"The program has {len(lines):,} lines; up to {MOST_LINES:,} would be accepted.")
    for number, line in enumerate(lines, start=1):
        words = _words(line, number)
        if words:
            _run(machine, words, number)
        if len(machine.places) > MOST_MOVES:
            raise BadProgramError(
                f"Line {number}: the program moves more than {MOST_MOVES:,} times; a shorter one would be accepted."
            )
        if machine.ended:
            break
    if len(machine.places) == 1:
        raise BadProgramError("The program moves nothing; lines such as G1 X10 F600 would be accepted.")
    rapid, feed, at_line, spinning, change = zip(*machine.facts, strict=True)
    return Moves(
        np.array(machine.places),
        np.array(rapid),
        np.array(feed),
        np.array(at_line, dtype=np.int32),
        np.array(spinning),
        np.array(change, dtype=np.int16),
        machine.dwell,
        machine.unit or "mm",
        machine.ended,
        machine.spindle,
        len(lines),
        frozenset(machine.codes),
    )


def _words(line: str, number: int) -> list[tuple[str, float]]:
    plain = _ASIDE.sub(" ", line).split(";")[0].strip().upper()
    if not plain or plain == "%":
        return []
    if "(" in plain or ")" in plain:
        raise BadProgramError(f"Line {number}: a remark does not end; it would be accepted between ( and ).")
    plain = plain.removeprefix("/")
    words = _WORD.findall(plain)
    rest = _WORD.sub("", plain).strip()
    if rest:
        raise BadProgramError(f"Line {number}: “{rest[:20]}” is not known; words such as G1, X10 or F600 are.")
    for letter, _ in words:
        if letter not in _KNOWN:
            raise BadProgramError(f"Line {number}: words that begin with {letter} are not known; {_KNOWN} are.")
    return [(letter, float(value)) for letter, value in words]


def _run(machine: _Machine, words: list[tuple[str, float]], number: int) -> None:
    given: dict[str, float] = {}
    codes = [value for letter, value in words if letter == "G"]
    switches = [value for letter, value in words if letter == "M"]
    for letter, value in words:
        if letter not in "GMN" and letter in given:
            raise BadProgramError(f"Line {number}: {letter} stands there twice; once would be accepted.")
        if letter not in "GMN":
            given[letter] = value
    for code in codes:
        if code in MOTIONS:
            machine.motion = code
        elif code != DWELL:
            _set_up(machine, code, number)
    if "F" in given:
        if given["F"] <= 0:
            raise BadProgramError(f"Line {number}: a feed of {given['F']:g} moves nothing; more than 0 is needed.")
        machine.feed = given["F"] * machine.scale
    machine.spindle = given.get("S", machine.spindle)
    for value in [value for value in switches if value in BEFORE_MOVES]:
        _switch(machine, value, number)
    if DWELL in codes:
        machine.dwell += max(0.0, given.get("P", 0.0))
    elif any(code in MOTIONS for code in codes) or any(axis in given for axis in "XYZ"):
        _move(machine, given, number)
    for value in [value for value in switches if value not in BEFORE_MOVES]:
        _switch(machine, value, number)


def _set_up(machine: _Machine, code: float, number: int) -> None:
    if code in (20, 21):
        unit = "in" if code == 20 else "mm"
        if machine.unit not in (None, unit):
            raise BadProgramError(f"Line {number}: inch and mm are mixed in one program; one of them is accepted.")
        if machine.unit is None and len(machine.places) > 1:
            raise BadProgramError(f"Line {number}: the unit is told after the first move; it is needed before.")
        machine.unit = unit
        machine.scale = MM_PER_INCH if code == 20 else 1.0
    elif code in (90, 91):
        machine.absolute = code == 90
    elif code not in (*_NEUTRAL, 17):
        raise BadProgramError(f"Line {number}: G{code:g} is not known here; G0 to G4, G17, G20, G21, G90, G91 are.")
    machine.codes.add(f"G{code:g}")


def _switch(machine: _Machine, code: float, number: int) -> None:
    if code in (3, 4):
        machine.spinning = machine.spindle > 0
        if not machine.spinning:
            raise BadProgramError(
                f"Line {number}: the spindle starts without a speed; S with turns a minute is needed."
            )
    elif code == 5:
        machine.spinning = False
    elif code in (0, 6):
        machine.changes += machine.moved
        machine.moved, machine.spinning = False, False
    elif code in (2, 30):
        machine.ended, machine.spinning = True, False
    elif code not in (1, 7, 8, 9):
        raise BadProgramError(f"Line {number}: M{code:g} is not known here; M0 to M9 and M30 are.")
    machine.codes.add(f"M{code:g}")


def _move(machine: _Machine, given: dict[str, float], number: int) -> None:
    if machine.motion is None:
        raise BadProgramError(f"Line {number}: it says where, but not how; G0, G1, G2 or G3 is needed before.")
    base = (0.0, 0.0, 0.0) if machine.absolute else tuple(machine.at)
    end = [
        base[axis] + given[letter] * machine.scale if letter in given else machine.at[axis]
        for axis, letter in enumerate("XYZ")
    ]
    if machine.motion >= 1 and machine.feed <= 0:
        raise BadProgramError(f"Line {number}: a cut without a feed; F is needed before it.")
    machine.moved |= machine.motion > 0
    fact = (
        machine.motion == 0,
        0.0 if machine.motion == 0 else machine.feed,
        number,
        machine.spinning,
        machine.changes,
    )
    if machine.motion >= 2:
        for place in _arc(machine, given, end, number):
            machine.places.append(place)
            machine.facts.append(fact)
    if end != machine.at or machine.motion < 2:
        machine.places.append((end[0], end[1], end[2]))
        machine.facts.append(fact)
    machine.at = end


def _arc(machine: _Machine, given: dict[str, float], end: list[float], number: int) -> list[tuple[float, float, float]]:
    """The places on the way, without the last."""
    x, y, z = machine.at
    clockwise = machine.motion == 2
    if "R" in given:
        centre = _centre_by_radius(x, y, end, given["R"] * machine.scale, clockwise, number)
    elif "I" in given or "J" in given:
        centre = (x + given.get("I", 0.0) * machine.scale, y + given.get("J", 0.0) * machine.scale)
    else:
        raise BadProgramError(f"Line {number}: a circle without a centre; I and J, or R, are needed.")
    radius = math.hypot(x - centre[0], y - centre[1])
    other = math.hypot(end[0] - centre[0], end[1] - centre[1])
    if radius < 1e-9 or abs(radius - other) > max(0.005, 0.002 * radius):
        raise BadProgramError(
            f"Line {number}: the circle begins {radius:.4f} mm and ends {other:.4f} mm from its centre; both must be "
            "the same, and more than 0."
        )
    first = math.atan2(y - centre[1], x - centre[0])
    turn = math.atan2(end[1] - centre[1], end[0] - centre[0]) - first
    turn = -((-turn) % FULL_CIRCLE) if clockwise else turn % FULL_CIRCLE
    if abs(turn) < 1e-9 or math.hypot(end[0] - x, end[1] - y) < 1e-9:
        turn = -FULL_CIRCLE if clockwise else FULL_CIRCLE
    count = max(2, math.ceil(abs(turn) / (2 * math.acos(max(0.0, 1 - ARC_SAG / max(radius, 2 * ARC_SAG))))))
    if count > MOST_CHORDS:
        raise BadProgramError(f"Line {number}: a circle of radius {radius:g} mm is larger than any machine.")
    places = []
    for i in range(1, count):
        part = i / count
        angle, away = first + turn * part, radius + (other - radius) * part
        places.append((centre[0] + away * math.cos(angle), centre[1] + away * math.sin(angle), z + (end[2] - z) * part))
    return places


def _centre_by_radius(
    x: float, y: float, end: list[float], radius: float, clockwise: bool, number: int
) -> tuple[float, float]:
    across, up = end[0] - x, end[1] - y
    chord = math.hypot(across, up)
    if chord < 1e-9 or chord > 2 * abs(radius) * (1 + 1e-6):
        raise BadProgramError(f"Line {number}: no circle of radius {abs(radius):g} mm goes through both its ends.")
    away = math.sqrt(max(0.0, radius**2 - (chord / 2) ** 2))
    side = -1.0 if clockwise == (radius > 0) else 1.0
    return x + across / 2 - side * away * up / chord, y + up / 2 + side * away * across / chord
