"""Whether programs carve what was asked: run on the simulated router, and measured on what is left of the stock."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.carve.asked import Asked, asked_of
from nebrel.core.carve.bits import Bit
from nebrel.core.carve.board import Board, Machine, refuse_unfit
from nebrel.core.carve.cut_out import cut_out_figure, outline_of
from nebrel.core.carve.plan import Job, plan
from nebrel.core.carve.program import Pass, Post, Program, Setting, one_a_bit, program_of
from nebrel.core.height import HeightField
from nebrel.core.region.curves import Figure
from nebrel.core.router.cutter import Cutter
from nebrel.core.router.run import Fault, Ran, Travel, run_program
from nebrel.core.router.sweep import Stock, fresh_stock
from nebrel.core.router.timing import Drive

CHECK_PITCH = 0.1
MOST_CELLS = 6_000_000
ALLOWANCE_SLACK = 2e-3
GOUGE_MOST = 2e-3
MAY_LEAVE = 0.05
SAG, COARSEST = 1e-3, 0.1
# Passes that do not make the surface.
WALLS = ("rough", "cut-out")
Progress = Callable[[str, float], None]
Seen = Callable[[NDArray[np.float64], float], None]


@dataclass(frozen=True)
class PassReport:
    """What one pass did, as the simulated machine saw it.

    `left_share` is the share of the surface where more than what finer bits may leave still stood when it was done,
    looked at every few moves.
    """

    kind: str
    bit: str
    points: int
    length_m: float
    minutes: float
    lifts: int
    left_share: float


@dataclass(frozen=True)
class Carved:
    """A job with its programs, run through a stock.

    Attributes:
        programs: one a bit, or one in all, in their order.
        names: what each is called, such as `1-rough-flat6`.
        stock: what is left of it.
        asked: float64 (H, W) mm over its cells; NaN beside the piece.
        reach: float64 (H, W) mm that all bits together could leave at best; NaN beside the piece.
        ran: what every program did.
        passes: what every pass did.
        faults: all that must not be.
        whole: whether one program does all bits.
        planned: the passes as they were planned.
        cut_out: the outline along which it is cut out, its origin the zero point of the programs; or None.
    """

    programs: tuple[Program, ...]
    names: tuple[str, ...]
    stock: Stock
    asked: NDArray[np.float64]
    reach: NDArray[np.float64]
    ran: tuple[Ran, ...]
    passes: tuple[PassReport, ...]
    faults: tuple[Fault, ...]
    whole: bool = False
    planned: tuple[Pass, ...] = ()
    cut_out: Figure | None = None

    @property
    def left(self) -> NDArray[np.float64]:
        """What stands over the asked heights, mm; NaN beside the piece."""
        return self.stock.tops - self.asked

    @property
    def minutes(self) -> float:
        """How long all of it takes."""
        return sum(ran.minutes for ran in self.ran)

    @property
    def facts(self) -> dict[str, float | int]:
        """The figures that reports tell, in their own units."""
        left = self.left[np.isfinite(self.left)]
        over = (self.stock.tops - self.reach)[np.isfinite(self.left)]
        cannot = (self.reach - self.asked)[np.isfinite(self.left)]
        return {
            "gouge_max_mm": round(max(0.0, -float(left.min())), 6),
            "left_max_mm": round(float(left.max()), 6),
            "left_rms_mm": round(float(np.sqrt(np.mean(left**2))), 6),
            "left_over_reachable_max_mm": round(max(0.0, float(over.max())), 6),
            "cannot_reach_max_mm": round(max(0.0, float(cannot.max())), 6),
            "rapids_in_stock": sum(ran.rapids_in_stock for ran in self.ran),
            "steep_entries": sum(ran.steep_entries for ran in self.ran),
            "minutes": round(self.minutes, 3),
        }


def cutter_of(bit: Bit) -> Cutter:
    """The same bit for the simulated machine."""
    return Cutter(bit.kind, bit.diameter, bit.tip_radius, bit.angle_deg, bit.flute, bit.shank)


def drive_of(machine: Machine) -> Drive:
    """How the simulated machine moves."""
    return Drive(machine.acceleration, machine.corner_deviation, machine.rapid)


def prove(
    asked: Asked,
    passes: tuple[Pass, ...],
    board: Board,
    machine: Machine,
    post: Post,
    title: tuple[str, ...] = (),
    allowance: float = 0.0,
    progress: Progress = lambda *_: None,
    seen: Seen = lambda *_: None,
    may_leave: float = MAY_LEAVE,
) -> Carved:
    """Write the programs of passes, run them as text, and measure what is left.

    Args:
        asked: the heights.
        passes: of the job.
        board: the stock.
        machine: the router.
        post: how it wants its programs.
        title: lines for the heads of programs.
        allowance: mm that roughing must leave.
        progress: told what is done and the share of it.
        seen: shown the stock every few moves, with the minutes gone by.
        may_leave: what counts as left over when a pass is done, mm.
    """
    zero = board.zero_point(asked.size)
    setting = Setting(machine.unit, (-zero[0], -zero[1], -zero[2]), machine.safe, title)
    groups = one_a_bit(passes) if post.bit_change == "file" else [passes]
    stock, wanted, reach = stock_over(asked, board, {one.bit for one in passes if one.kind not in WALLS})
    shifted = stock._replace(
        tops=stock.tops - zero[2], patches=stock.patches - zero[2], left=stock.left - zero[0], low=stock.low - zero[1]
    )
    seen(stock.tops, 0.0)
    programs: list[Program] = []
    names: list[str] = []
    reports: list[PassReport] = []
    ran: list[Ran] = []
    faults: list[Fault] = []
    for number, group in enumerate(groups):
        program = program_of(group, setting, post)
        name = f"{number + 1}-{group[-1].kind}-{group[-1].bit.short_name}"

        def told(part: float, number: int = number) -> None:
            progress("Running it on the simulated router", (number + part) / len(groups))

        looks: list[tuple[float, float]] = []

        def look(
            minutes: float,
            before: float = sum(done.minutes for done in ran),
            looks: list[tuple[float, float]] = looks,
        ) -> None:
            seen(shifted.tops + zero[2], before + minutes)
            looks.append((minutes, _share_over(shifted.tops + zero[2], wanted, may_leave)))

        one = run_program(
            program.text,
            tuple(cutter_of(part[0].bit) for part in one_a_bit(group)),
            shifted,
            drive_of(machine),
            wanted - zero[2],
            _travel(board, machine, asked.size),
            told,
            look,
        )
        programs.append(program)
        names.append(name)
        ran.append(one)
        faults += one.faults
        reports += _reports(group, program, one, looks)
        faults += _allowance_faults(group, program, one, allowance)
    left = shifted._replace(
        tops=shifted.tops + zero[2], patches=shifted.patches + zero[2], left=stock.left, low=stock.low
    )
    gouge = -float(np.nanmin(left.tops - wanted))
    if gouge > GOUGE_MOST:
        faults.append(Fault("gouge", 0, f"It cuts {gouge:.3f} mm into the piece."))
    whole = post.bit_change != "file"
    told_all = tuple(programs), tuple(names), left, wanted, reach, tuple(ran), tuple(reports), tuple(faults)
    return Carved(*told_all, whole, passes)


def stock_over(asked: Asked, board: Board, bits: set[Bit]) -> tuple[Stock, NDArray[np.float64], NDArray[np.float64]]:
    """A fresh stock whose cells lie on samples, what is asked over them, and what bits reach; NaN beside the piece."""
    left, low = board.corner(asked.size)
    rim = -asked.left
    step = max(1, round(CHECK_PITCH / asked.pitch))
    while asked.heights.size / step**2 > MOST_CELLS:
        step += 1
    cell = asked.pitch * step
    corner = max(left, -rim), max(low, -rim)
    far = min(left + board.size[0], asked.size[0] + rim), min(low + board.size[1], asked.size[1] + rim)
    stock = fresh_stock((far[0] - corner[0], far[1] - corner[1]), corner, 0.0, cell, (0.0, 0.0))
    rows, columns = stock.tops.shape
    first_row, first_column = (
        round((stock.low - asked.low) / asked.pitch),
        round((stock.left - asked.left) / asked.pitch),
    )

    def over_cells(values: NDArray[np.float64]) -> NDArray[np.float64]:
        cells = np.full((rows, columns), np.nan)
        part = np.where(asked.there, values, np.nan)[first_row::step, first_column::step][:rows, :columns]
        cells[: part.shape[0], : part.shape[1]] = part
        return cells

    best: NDArray[np.float64] | None = None
    for bit in bits:
        left_by = asked.left_by(bit.profile)
        best = left_by if best is None else np.minimum(best, left_by)
    return stock, over_cells(asked.heights), over_cells(asked.heights if best is None else best)


def _travel(board: Board, machine: Machine, piece: tuple[float, float]) -> Travel:
    """Where the machine goes when the stock lies in the middle of its bed, in the program's coordinates."""
    left, low = board.corner(piece)
    zero = board.zero_point(piece)
    middle = left + board.size[0] / 2 - zero[0], low + board.size[1] / 2 - zero[1]
    half = machine.travel[0] / 2, machine.travel[1] / 2
    top = machine.safe - zero[2]
    return Travel(
        (middle[0] - half[0], middle[1] - half[1], top - machine.travel[2]),
        (middle[0] + half[0], middle[1] + half[1], top),
    )


def _share_over(tops: NDArray[np.float64], wanted: NDArray[np.float64], more: float) -> float:
    """The share of the piece where more than that stands over what is asked, on every other cell each way."""
    over = (tops - wanted)[::2, ::2]
    known = np.isfinite(over)
    return float((over[known] > more).mean()) if known.any() else 0.0


def _reports(group: tuple[Pass, ...], program: Program, ran: Ran, looks: list[tuple[float, float]]) -> list[PassReport]:
    lengths = np.linalg.norm(np.diff(ran.moves.places, axis=0), axis=1)
    gone = np.cumsum(ran.seconds) / 60
    looked = np.array([minutes for minutes, _ in looks])
    reports = []
    for one, moves in zip(group, _moves_of(program, ran), strict=True):
        cuts = moves & ~ran.moves.rapid
        reports.append(
            PassReport(
                one.kind,
                one.bit.name,
                len(np.unique(ran.moves.line[cuts])),
                round(float(lengths[cuts].sum()) / 1000, 3),
                round(float(ran.seconds[moves].sum()) / 60, 3),
                int(ran.lifted[moves].sum()),
                round(looks[int(np.argmin(np.abs(looked - gone[moves].max(initial=0.0))))][1], 5),
            )
        )
    return reports


def _moves_of(program: Program, ran: Ran) -> list[NDArray[np.bool_]]:
    """Which moves every pass of a program made."""
    ends = [*program.begins[1:], ran.moves.lines + 2]
    line = ran.moves.line
    return [(line >= begin) & (line < end) for begin, end in zip(program.begins, ends, strict=True)]


def _allowance_faults(group: tuple[Pass, ...], program: Program, ran: Ran, allowance: float) -> list[Fault]:
    faults = []
    for one, begin, moves in zip(group, program.begins, _moves_of(program, ran), strict=True):
        if one.kind != "rough":
            continue
        least = float(ran.cuts.lowest_over[moves].min(initial=np.inf))
        if least < allowance - ALLOWANCE_SLACK:
            faults.append(
                Fault("allowance", begin, f"Roughing leaves {least:.3f} mm where {allowance:g} mm are to stay.")
            )
    return faults


def finest_pitch(bits: tuple[Bit, ...]) -> float:
    """How close samples must lie so that a bit's tip does not sink between two of them by more than 1 µm, mm."""
    return min(float(np.sqrt(8 * bit.tip * SAG)) if bit.tip > 0 else COARSEST for bit in bits)


def carve(
    field: HeightField,
    thickness: float,
    job: Job,
    board: Board,
    machine: Machine,
    post: Post,
    title: str = "",
    progress: Progress = lambda *_: None,
    seen: Seen = lambda *_: None,
) -> Carved:
    """Plan a job, write its programs, and run them.

    Args:
        field: heights of the piece.
        thickness: of the whole piece, mm.
        job: bits and how they go.
        board, machine, post: the stock, the router, and how it wants its programs.
        title: what the piece is called.
        progress: told what is done and the share of it; it may raise to stop.
        seen: shown the stock every few moves, with the minutes gone by.

    Raises:
        BadValueError: the stock, the machine or a bit cannot do it.
    """
    bits = (*job.bits, *([job.rough_bit] if job.rough_bit else []))
    progress("Preparing the heights", 0.0)
    rim = (2.2 if job.cut_out else 1.5) * job.widest + 1.0
    asked = asked_of(field, rim, finest_pitch(job.bits))
    if job.cut_out is not None and board.as_large_as(asked.size):
        job = replace(job, cut_out=None)
    refuse_unfit(thickness, asked, board, machine, bits, 1.5 * job.widest)
    passes = plan(asked, job, progress)
    head = head_of(title, asked, thickness, board, machine)
    allowance = job.roughing.allowance
    carved = prove(asked, passes, board, machine, post, head, allowance, progress, seen, job.rest_over)
    if job.cut_out is None:
        return carved
    return replace(carved, cut_out=cut_out_figure(outline_of(asked), board.zero_point(asked.size)))


def head_of(title: str, asked: Asked, thickness: float, board: Board, machine: Machine) -> tuple[str, ...]:
    """What a program says of itself before it begins."""
    where = "lower left corner" if board.zero == "corner" else "middle"
    on = "on the face of the stock" if board.zero_height == "top" else "on the bed under the stock"
    left, low = board.corner(asked.size)
    return (
        f"{title}, {asked.size[0]:.3f} x {asked.size[1]:.3f} x {thickness:.3f} mm",
        "stock " + " x ".join(f"{side:g}" for side in board.size) + " mm",
        f"lower left corner of the piece {-left:.3f}, {-low:.3f} mm into the stock",
        f"zero: {where}, {on}; X right, Y up, Z up",
        f"numbers in {machine.unit}",
    )
