"""Outlines sunk into a stock: planned, written, run on the simulated router, and measured on what is left."""

from shapely.geometry import MultiPolygon

from nebrel.core.carve.board import Board, Machine, refuse_unfit
from nebrel.core.carve.program import Post
from nebrel.core.carve.sunk.sinking import Sinking, sink
from nebrel.core.proof.carving import Carved, Progress, Seen, head_of, prove

RIM = 1.0


def carve_outlines(
    region: MultiPolygon,
    size: tuple[float, float],
    how: Sinking,
    board: Board,
    machine: Machine,
    post: Post,
    title: str = "",
    progress: Progress = lambda *_: None,
    seen: Seen = lambda *_: None,
) -> Carved:
    """Plan how outlines are sunk, write the programs, and run them.

    Args:
        region: what is cut away, mm; the lower left corner of the piece is the origin.
        size: width and depth of the piece, mm.
        how: with which bits, how deep.
        board, machine, post: the stock, the router, and how it wants its programs.
        title: what the piece is called.
        progress: told what is done and the share of it; it may raise to stop.
        seen: shown the stock every few moves, with the minutes gone by.

    Raises:
        BadValueError: the stock, the machine or a bit cannot do it.
    """
    progress("Preparing the outlines", 0.0)
    outline = how.outline(region, size)
    asked = outline.asked(1.5 * how.widest + RIM)
    refuse_unfit(outline.depth, asked, board, machine, how.bits, how.widest)
    passes = sink(outline, asked, how, progress)
    head = head_of(title, asked, outline.depth, board, machine)
    return prove(asked, passes, board, machine, post, head, 0.0, progress, seen, how.cusp + how.tolerance)
