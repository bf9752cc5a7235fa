"""A program run in a stock: what was cut, what was not asked for, and how long it took."""

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from nebrel.core.router.cutter import Cutter
from nebrel.core.router.interpreter import BadProgramError, Moves, read_program
from nebrel.core.router.sweep import Cuts, Stock, cut
from nebrel.core.router.timing import Drive, seconds_of

TOUCH = 1e-3
# Numbers of programs are rounded: an inch to 6 digits is off by 0.025 µm, to 3 digits by 0.025 mm.
ROUNDED = 0.03
STEEP = 5.67
PLUNGE_SHARE = 1 / 3
CHUNK, LOOKS = 4000, 24


@dataclass(frozen=True)
class Travel:
    """Where a machine can go, mm in the program's own coordinates."""

    low: tuple[float, float, float]
    high: tuple[float, float, float]


@dataclass(frozen=True)
class Fault:
    """Something that must not happen.

    Attributes:
        kind: rapid, plunge, sideways, spindle, shank, limits or end.
        line: of the program, from 1; 0 where it is the whole.
        what: one sentence.
    """

    kind: str
    line: int
    what: str


@dataclass(frozen=True)
class Ran:
    """What a program did.

    Attributes:
        moves: of it.
        cuts: of every move.
        seconds: of every move.
        faults: in the order of lines, one a kind and line.
        rapids_in_stock, steep_entries: how many.
        lifted: bool (N,), moves that take the bit out of a cut as fast as the machine can.
        cut_length: mm moved at a feed.
        least_over: the least that it left over what was asked where it cut, mm; inf if it cut nothing that counts.
    """

    moves: Moves
    cuts: Cuts
    seconds: NDArray[np.float64]
    faults: tuple[Fault, ...]
    rapids_in_stock: int
    steep_entries: int
    lifted: NDArray[np.bool_]
    cut_length: float
    least_over: float

    @property
    def lifts(self) -> int:
        """How often it takes the bit out of a cut."""
        return int(self.lifted.sum())

    @property
    def minutes(self) -> float:
        """How long it takes."""
        return float(self.seconds.sum() + self.moves.dwell) / 60


def run_program(
    text: str,
    cutters: tuple[Cutter, ...],
    stock: Stock,
    drive: Drive,
    asked: NDArray[np.float64] | None = None,
    travel: Travel | None = None,
    progress: Callable[[float], None] = lambda _: None,
    seen: Callable[[float], None] = lambda _: None,
) -> Ran:
    """Run a program in a stock, which changes.

    Args:
        text: the program.
        cutters: the bits in the order in which they are put in; the first is in the spindle.
        stock: what is left before; what is left after.
        drive: how the machine moves.
        asked: float64 mm over every cell of the stock; NaN where nobody cares.
        travel: where the machine can go.
        progress: told the share that is done; it may raise to stop.
        seen: told the minutes gone by whenever some moves are done, while the stock stands as they left it.

    Raises:
        BadProgramError: the program cannot be read.
    """
    start = (stock.left, stock.low, float(stock.tops.max()) + 25.0)
    moves = read_program(text, start)
    seconds = seconds_of(moves, drive)
    gone = np.concatenate([[0.0], np.cumsum(seconds)]) / 60
    parts = []
    count = len(moves.rapid)
    for first, last in _parts(moves):
        number = int(moves.change[first])
        if number >= len(cutters):
            raise BadProgramError(
                f"Line {moves.line[first]}: the program takes {number + 1} bits; {len(cutters)} were told."
            )
        cutter = cutters[number]
        places = moves.places[first : last + 1]
        parts.append(cut(stock, cutter.shape, places, cutter.flute, cutter.shank / 2, asked))
        progress(last / count)
        seen(float(gone[last]))
    cuts = Cuts(*(np.concatenate([part[i] for part in parts]) for i in range(len(Cuts._fields))))
    faults = [*_rapids(moves, cuts), *_stopped(moves, cuts), *_shank(moves, cuts)]
    drills = np.array([cutter.kind == "drill" for cutter in cutters])
    wide = np.array([cutter.diameter for cutter in cutters])
    plunges = _plunges(moves, cuts, np.where(drills, np.inf, PLUNGE_SHARE * wide)[moves.change])
    faults += _sideways(moves, cuts, drills[moves.change])
    faults += [Fault("plunge", line, f"Line {line}: straight down through {deep:.2f} mm.") for line, deep in plunges]
    if travel is not None:
        faults += _limits(moves, travel)
    if not moves.ended:
        faults.append(Fault("end", 0, "The program does not end; M30 or M2 is missing."))
    lengths = np.linalg.norm(np.diff(moves.places, axis=0), axis=1)
    least = cuts.lowest_over.min(initial=np.inf)
    lifted = _lifted(moves)
    return Ran(
        moves,
        cuts,
        seconds,
        tuple(sorted(faults, key=lambda fault: fault.line)),
        int((moves.rapid & (cuts.deepest > TOUCH)).sum()),
        len(plunges),
        lifted,
        float(lengths[~moves.rapid].sum()),
        float(least),
    )


def _rapids(moves: Moves, cuts: Cuts) -> list[Fault]:
    return [
        Fault(
            "rapid", int(moves.line[i]), f"Line {moves.line[i]}: a rapid goes {cuts.deepest[i]:.3f} mm into the stock."
        )
        for i in np.flatnonzero(moves.rapid & (cuts.deepest > TOUCH))
    ]


def _stopped(moves: Moves, cuts: Cuts) -> list[Fault]:
    lines = np.unique(moves.line[~moves.spinning & (cuts.deepest > TOUCH)])
    return [Fault("spindle", int(line), f"Line {line}: it cuts while the spindle stands still.") for line in lines[:1]]


def _shank(moves: Moves, cuts: Cuts) -> list[Fault]:
    where = np.flatnonzero(cuts.shank > TOUCH)
    if not len(where):
        return []
    worst = where[np.argmax(cuts.shank[where])]
    line = int(moves.line[worst])
    return [Fault("shank", line, f"Line {line}: the shank touches, {cuts.shank[worst]:.2f} mm of wall beside it.")]


def _sideways(moves: Moves, cuts: Cuts, drilling: NDArray[np.bool_]) -> list[Fault]:
    over = np.hypot(*np.diff(moves.places[:, :2], axis=0).T)
    lines = np.unique(moves.line[drilling & (over > TOUCH) & (cuts.deepest > TOUCH)])
    what = "a drill cuts sideways; it goes straight down only."
    return [Fault("sideways", int(line), f"Line {line}: {what}") for line in lines[:1]]


def _limits(moves: Moves, travel: Travel) -> list[Fault]:
    ends = moves.places[1:]
    out = (ends < np.array(travel.low) - ROUNDED) | (ends > np.array(travel.high) + ROUNDED)
    lines = np.unique(moves.line[out.any(axis=1)])
    return [Fault("limits", int(line), f"Line {line}: farther than the machine can go.") for line in lines[:1]]


def _parts(moves: Moves) -> list[tuple[int, int]]:
    """First and one past the last of moves with one bit, a few thousand at a time."""
    step = int(np.clip(len(moves.change) / LOOKS, 50, CHUNK))
    changes = [0, *(np.flatnonzero(np.diff(moves.change)) + 1).tolist(), len(moves.change)]
    return [(first, min(first + step, end)) for begin, end in pairwise(changes) for first in range(begin, end, step)]


def _plunges(moves: Moves, cuts: Cuts, deepest: NDArray[np.float64]) -> list[tuple[int, float]]:
    """(line, mm) of every row of moves almost straight down that goes through more stock than `deepest`."""
    steps = np.diff(moves.places, axis=0)
    steep = ~moves.rapid & (-steps[:, 2] > STEEP * np.hypot(steps[:, 0], steps[:, 1])) & (steps[:, 2] < 0)
    found: list[tuple[int, float]] = []
    gone = 0.0
    counted = False
    for i in np.flatnonzero(steep):
        if i == 0 or not steep[i - 1]:
            gone, counted = 0.0, False
        gone += min(float(cuts.under[i]), float(-steps[i, 2]) if gone else float(cuts.under[i]))
        if gone > deepest[i] and not counted:
            found.append((int(moves.line[i]), gone))
            counted = True
    return found


def _lifted(moves: Moves) -> NDArray[np.bool_]:
    """Rapids upwards at the end of a cut."""
    rising = moves.rapid & (np.diff(moves.places[:, 2]) > 0)
    after_cut = np.concatenate([[False], ~moves.rapid[:-1]])
    return np.asarray(rising & after_cut)
