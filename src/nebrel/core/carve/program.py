"""Passes as a program for a machine (RS-274)."""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.carve.arcs import HALF_TURN, MOST_TURN, Arc, arcs_in
from nebrel.core.carve.bits import Bit

MM_PER_INCH = 25.4
STEEP_FALL = 0.5


@dataclass(frozen=True)
class Post:
    """How a machine wants its programs.

    Attributes:
        name: of this way.
        line_end: what ends a line.
        bit_change: `file` for one file a bit, `m6` for M6 in one, `pause` for M0 in one.
        decimals_mm, decimals_in: digits after the point.
        numbered: whether lines begin with N.
        remarks: whether remarks are written.
        arcs: `none` for straight ways only, `centre` for circles by their middle (I, J), `radius` by R.
    """

    name: str = "plain"
    line_end: Literal["lf", "crlf"] = "lf"
    bit_change: Literal["file", "m6", "pause"] = "file"
    decimals_mm: int = 4
    decimals_in: int = 6
    numbered: bool = False
    remarks: bool = True
    arcs: Literal["none", "centre", "radius"] = "centre"


POSTS = (
    Post(),
    Post(name="tool-changer", bit_change="m6"),
    Post(name="pause", bit_change="pause"),
    Post(name="crlf", line_end="crlf", numbered=True),
    Post(name="straight", arcs="none"),
)


@dataclass(frozen=True)
class Way:
    """A continuous cut.

    Attributes:
        path: float64 (N, 3) mm of the tip, the piece's highest place at 0.
        approach: height to which the machine may come down as fast as it can before it, mm.
    """

    path: NDArray[np.float64]
    approach: float


@dataclass(frozen=True)
class Pass:
    """Cuts of one purpose with one bit, in the order they are made."""

    kind: str
    bit: Bit
    ways: tuple[Way, ...]


@dataclass(frozen=True)
class Setting:
    """How a program stands on the machine.

    Attributes:
        unit: of its numbers.
        zero: added to places of the piece, mm, so that the zero point comes to 0.
        safe: height of rapids over the stock, mm in the piece's own heights.
        title: lines of plain words for its head.
    """

    unit: Literal["mm", "in"] = "mm"
    zero: tuple[float, float, float] = (0.0, 0.0, 0.0)
    safe: float = 5.0
    title: tuple[str, ...] = ()


@dataclass(frozen=True)
class Program:
    """A program as text, and on which line, from 1, each of its passes begins."""

    text: str
    begins: tuple[int, ...]


def program_of(passes: tuple[Pass, ...], setting: Setting, post: Post) -> Program:
    """The program of passes in their order.

    Numbers are rounded, heights always up. A fall steeper than half its way is taken at the bit's plunge feed.
    """
    writer = _Writer(setting, post)
    return Program(writer.text(passes), tuple(writer.begins))


class _Writer:
    def __init__(self, setting: Setting, post: Post) -> None:
        self._setting, self._post = setting, post
        self._lines: list[str] = []
        self._scale = 1 / MM_PER_INCH if setting.unit == "in" else 1.0
        self._decimals = post.decimals_in if setting.unit == "in" else post.decimals_mm
        self._at: list[str | None] = [None, None, None]
        self._feed = ""
        self._mode = ""
        self.begins: list[int] = []

    def text(self, passes: tuple[Pass, ...]) -> str:
        self._remarks(self._setting.title)
        self._line("G20" if self._setting.unit == "in" else "G21")
        self._line("G90")
        self._line("G17")
        rack = list(dict.fromkeys(one.bit for one in passes))
        for number, group in enumerate(one_a_bit(passes)):
            self._bit(group[0].bit, rack.index(group[0].bit) + 1, first=number == 0)
            for one in group:
                self.begins.append(len(self._lines) + 1)
                self._remarks((f"{one.kind}, {one.bit.name}",))
                for way in one.ways:
                    self._way(way, one.bit)
        self._rapid(z=self._setting.safe)
        self._line("M5")
        self._line("M30")
        end = "\r\n" if self._post.line_end == "crlf" else "\n"
        if self._post.numbered:
            return "".join(f"N{10 * (i + 1)} {line}{end}" for i, line in enumerate(self._lines))
        return "".join(f"{line}{end}" for line in self._lines)

    def _bit(self, bit: Bit, number: int, first: bool) -> None:
        if not first:
            self._rapid(z=self._setting.safe)
            self._line("M5")
        if self._post.bit_change == "m6":
            self._line(f"T{number} M6")
        elif not first:
            self._remarks((f"put in {bit.name}",))
            self._line("M0")
        self._line(f"S{bit.spindle:.0f} M3")
        self._feed = self._mode = ""
        self._at = [None, None, None]
        self._rapid(z=self._setting.safe)

    def _way(self, way: Way, bit: Bit) -> None:
        first = way.path[0]
        self._rapid(z=self._setting.safe)
        self._rapid(x=first[0], y=first[1])
        self._rapid(z=max(way.approach, first[2]))
        steps = np.diff(way.path, axis=0)
        lengths = np.linalg.norm(steps, axis=1)
        falls = -steps[:, 2] / np.maximum(lengths, 1e-12)
        feeds = np.where(falls > STEEP_FALL, np.minimum(bit.feed, bit.plunge / np.maximum(falls, STEEP_FALL)), bit.feed)
        texts = self._numbers(way.path)
        self._cut(texts[0], self._feed_text(bit.plunge))
        at = 0
        for arc in self._arcs(way.path):
            for text, feed in zip(texts[at + 1 : arc.first + 1], feeds[at : arc.first].tolist(), strict=True):
                self._cut(text, self._feed_text(feed))
            self._turn(arc, way.path, texts[arc.last], self._feed_text(float(feeds[arc.first : arc.last].min())))
            at = arc.last
        for text, feed in zip(texts[at + 1 :], feeds[at:].tolist(), strict=True):
            self._cut(text, self._feed_text(feed))

    def _feed_text(self, feed: float) -> str:
        return f"{math.floor(feed * self._scale * 10) / 10:.1f}"

    def _arcs(self, path: NDArray[np.float64]) -> list[Arc]:
        if self._post.arcs == "none":
            return []
        # Told by its radius, a circle that turns half round or more would be unsure.
        return arcs_in(path, most_turn=HALF_TURN if self._post.arcs == "radius" else MOST_TURN)

    def _turn(self, arc: Arc, path: NDArray[np.float64], place: tuple[str, str, str], feed: str) -> None:
        words = [f"X{place[0]}", f"Y{place[1]}"]
        if place[2] != self._at[2]:
            words.append(f"Z{place[2]}")
        x, y = (path[arc.first, :2] - np.array([arc.x, arc.y])).tolist()
        digits = self._decimals
        if self._post.arcs == "radius":
            words.append(f"R{math.hypot(x, y) * self._scale:.{digits}f}")
        else:
            words += [f"I{-x * self._scale:.{digits}f}", f"J{-y * self._scale:.{digits}f}"]
        if feed != self._feed:
            words.append(f"F{feed}")
            self._feed = feed
        self._say("G2" if arc.clockwise else "G3", words)
        self._at = list(place)

    def _numbers(self, path: NDArray[np.float64]) -> list[tuple[str, str, str]]:
        places = (path + np.array(self._setting.zero)) * self._scale
        unit = 10.0**self._decimals
        places[:, 2] = np.ceil(places[:, 2] * unit - 1e-6) / unit
        digits = self._decimals
        return [(f"{x:.{digits}f}", f"{y:.{digits}f}", f"{z:.{digits}f}") for x, y, z in places.tolist()]

    def _cut(self, place: tuple[str, str, str], feed: str) -> None:
        words = [
            f"{letter}{text}" for letter, text, before in zip("XYZ", place, self._at, strict=True) if text != before
        ]
        if not words:
            return
        if feed != self._feed:
            words.append(f"F{feed}")
            self._feed = feed
        self._say("G1", words)
        self._at = list(place)

    def _rapid(self, x: float | None = None, y: float | None = None, z: float | None = None) -> None:
        given = (x, y, z)
        place = self._numbers(np.array([[0.0 if value is None else value for value in given]]))[0]
        words = []
        for axis, letter in enumerate("XYZ"):
            if given[axis] is not None and place[axis] != self._at[axis]:
                words.append(f"{letter}{place[axis]}")
                self._at[axis] = place[axis]
        if words:
            self._say("G0", words)

    def _say(self, mode: str, words: list[str]) -> None:
        if mode != self._mode:
            words = [mode, *words]
            self._mode = mode
        self._line(" ".join(words))

    def _remarks(self, texts: tuple[str, ...]) -> None:
        if self._post.remarks:
            for text in texts:
                self._line(f"({text.replace('(', '[').replace(')', ']')})")

    def _line(self, text: str) -> None:
        self._lines.append(text)


def one_a_bit(passes: tuple[Pass, ...]) -> list[tuple[Pass, ...]]:
    """Passes that follow each other with the same bit, together."""
    groups: list[list[Pass]] = []
    for one in passes:
        if groups and groups[-1][-1].bit == one.bit:
            groups[-1].append(one)
        else:
            groups.append([one])
    return [tuple(group) for group in groups]
