"""Planned carving, proved on the simulated router: no gouge, allowance kept, scallops as asked."""

from dataclasses import replace
from itertools import product

import numpy as np
import pytest
from numpy.typing import NDArray

from nebrel.core.carve.asked import asked_of
from nebrel.core.carve.bits import Bit, taper_diameter
from nebrel.core.carve.board import Board, Machine
from nebrel.core.carve.cut_out import CutOut
from nebrel.core.carve.finish import Direction, Finishing, scallop_distance
from nebrel.core.carve.plan import Job
from nebrel.core.carve.program import POSTS, Post, Setting, program_of
from nebrel.core.carve.rough import Roughing
from nebrel.core.errors import BadValueError
from nebrel.core.height import HeightField
from nebrel.core.proof.carving import Carved, carve
from nebrel.core.router.interpreter import read_program
from tests.trials import deep_but

PITCH, SIDE = 0.1, 241
BITS = {
    "ball": Bit("ball", 4),
    "flat": Bit("flat", 4),
    "v": Bit("v", 4, angle_deg=90),
    "taper": Bit("taper", taper_diameter(0.5, 5, 22, 6), 0.5, 5),
}
BOARD = Board((40, 40, 12))


def fractal(tall: float = 3.0) -> NDArray[np.float64]:
    rng = np.random.default_rng(7)
    waves = np.fft.fftfreq(SIDE)[:, np.newaxis] ** 2 + np.fft.rfftfreq(SIDE) ** 2
    waves[0, 0] = np.inf
    noise = rng.standard_normal(waves.shape) + 1j * rng.standard_normal(waves.shape)
    heights = np.fft.irfft2(noise * waves**-1.1, (SIDE, SIDE))
    return (heights - heights.min()) / np.ptp(heights) * tall


def cap() -> NDArray[np.float64]:
    x = np.linspace(-12, 12, SIDE)
    away = x[:, np.newaxis] ** 2 + x**2
    return np.maximum(np.sqrt(np.maximum(20.0**2 - away, 0)) - 17, 0)


def steps() -> NDArray[np.float64]:
    x = np.linspace(0, 24, SIDE)
    slant = x[:, np.newaxis] * 0.7 + x
    return np.floor(slant / 10) * 1.2


SURFACES = {"fractal": fractal(), "cap": cap(), "steps": steps()}


def carved(
    heights: NDArray[np.float64],
    bits: tuple[Bit, ...],
    direction: Direction = 0.0,
    post: Post = POSTS[0],
    machine: Machine = Machine(),  # noqa: B008
    pattern: str = "rings",
    rough_bit: Bit | None = BITS["flat"],
) -> Carved:
    field = HeightField(heights.astype(np.float32), np.ones(heights.shape, np.float32), PITCH)
    roughing = Roughing(0.4, "rows" if pattern == "rows" else "rings")
    job = Job(bits, rough_bit, roughing, Finishing(0.01, 0.0075, direction))
    return carve(field, 8.0, job, BOARD, machine, post, "Trial")


@pytest.mark.parametrize(
    ("surface", "kind"), deep_but(product(SURFACES, BITS), [("cap", "ball"), ("steps", "ball"), ("cap", "v")])
)
def test_no_bit_gouges_and_roughing_keeps_its_allowance(surface: str, kind: str) -> None:
    made = carved(SURFACES[surface], (BITS[kind],))
    assert made.faults == ()
    assert made.facts["gouge_max_mm"] <= (0.002 if surface == "steps" else 0.001)
    assert made.facts["rapids_in_stock"] == made.facts["steep_entries"] == 0
    rough = made.ran[0]
    ends = [*made.programs[0].begins, rough.moves.lines + 2]
    roughing = (rough.moves.line >= ends[0]) & (rough.moves.line < ends[1])
    assert 0.4 - 1e-3 <= rough.cuts.lowest_over[roughing].min() < 0.6


@pytest.mark.parametrize(
    ("surface", "direction"),
    deep_but(
        product(SURFACES, [0.0, 30.0, "crossed", "contour"]),
        [("fractal", "contour"), ("cap", "crossed"), ("cap", 30.0)],
    ),
)
def test_finishing_leaves_the_scallop_over_what_the_ball_reaches(surface: str, direction: Direction) -> None:
    made = carved(SURFACES[surface], (BITS["ball"],), direction)
    assert made.faults == ()
    over = (made.stock.tops - made.reach)[np.isfinite(made.asked)]
    share = (over <= 0.01 + 0.0075 + 0.002).mean()
    # On so small a piece the feet of walls take a greater share than on one of 100 mm, where 99.5 % is held (bench).
    assert share >= (0.94 if direction == "contour" else 0.993)
    assert over.max() > 0.003


def test_a_finer_bit_goes_only_where_the_coarse_one_left_something_and_mends_that() -> None:
    # A plain with one narrow groove.
    x = np.linspace(0, 24, SIDE)
    heights = np.tile(3 - 1.5 * np.exp(-((x - 12) ** 2) / 0.5), (SIDE, 1))
    coarse = carved(heights, (BITS["ball"],))
    both = carved(heights, (BITS["ball"], BITS["taper"]))
    rest = [one for one in both.passes if one.kind == "rest"]
    assert len(rest) == 1
    finish = next(one for one in both.passes if one.kind == "finish")
    assert rest[0].length_m < 0.5 * finish.length_m * scallop_distance(2, 0.01) / scallop_distance(0.5, 0.01)
    assert coarse.facts["left_max_mm"] > 0.3
    assert both.facts["left_max_mm"] < coarse.facts["left_max_mm"] - 0.2
    assert both.facts["left_over_reachable_max_mm"] < 0.07
    assert rest[0].lifts < 100


@pytest.mark.deep
def test_rows_rough_as_well_as_rings() -> None:
    rows = carved(SURFACES["fractal"], (BITS["ball"],), pattern="rows")
    assert rows.faults == ()
    assert rows.passes[0].kind == "rough"


@pytest.mark.deep
def test_programs_in_inches_cut_what_those_in_millimetres_cut() -> None:
    in_mm = carved(SURFACES["fractal"], (BITS["ball"],))
    in_inch = carved(SURFACES["fractal"], (BITS["ball"],), machine=Machine(unit="in"))
    assert "G20" in in_inch.programs[0].text
    assert np.nanmax(np.abs(in_mm.stock.tops - in_inch.stock.tops)[np.isfinite(in_mm.asked)]) <= 0.3e-3


@pytest.mark.parametrize("post", POSTS, ids=lambda post: post.name)
def test_every_way_of_writing_is_read_and_proved(post: Post) -> None:
    made = carved(SURFACES["cap"], (BITS["ball"],), post=post)
    assert made.faults == ()
    assert len(made.programs) == (2 if post.bit_change == "file" else 1)
    text = made.programs[0].text
    assert text.endswith("M30\r\n" if post.line_end == "crlf" else "M30\n")
    assert ("M6" in text, "M0\n" in text) == (post.bit_change == "m6", post.bit_change == "pause")


def test_zero_corner_is_the_lower_left_of_the_face_and_the_highest_place_lies_in_it() -> None:
    made = carved(SURFACES["cap"], (BITS["ball"],))
    places = np.concatenate([ran.moves.places[1:] for ran in made.ran])
    cuts = places[places[:, 2] <= 0.0]
    # The piece of 24 mm lies in the middle of 40 mm; where it falls off to its edge the ball runs out by 3/4 of 2 mm.
    assert cuts[:, 0].min() == pytest.approx(8, abs=2)
    assert cuts[:, 0].max() == pytest.approx(32, abs=2)
    assert cuts[:, 2].min() == pytest.approx(-3, abs=0.01)
    finish = made.ran[-1].moves.places
    near = np.hypot(finish[:, 0] - 20, finish[:, 1] - 20) < 1
    assert finish[near, 2].min() == pytest.approx(0, abs=0.03)


@pytest.mark.deep
def test_the_zero_point_moves_the_program_and_not_the_cut() -> None:
    at_corner = carved(SURFACES["cap"], (BITS["ball"],))
    field = HeightField(SURFACES["cap"].astype(np.float32), np.ones((SIDE, SIDE), np.float32), PITCH)
    job = Job((BITS["ball"],), BITS["flat"], Roughing(0.4))
    board = replace(BOARD, zero="centre", zero_height="bed")
    on_bed = carve(field, 8.0, job, board, Machine(), POSTS[0])
    assert on_bed.faults == ()
    moved = at_corner.ran[1].moves.places[5] - on_bed.ran[1].moves.places[5]
    assert moved == pytest.approx([20, 20, -12], abs=1e-3)
    off = np.abs(at_corner.stock.tops - on_bed.stock.tops)
    assert off.max() < 2e-3


@pytest.mark.parametrize(
    ("board", "thickness", "bit", "says"),
    [
        (Board((20, 40, 12)), 8.0, BITS["ball"], "a stock as large as the piece"),
        (Board((40, 40, 6)), 8.0, BITS["ball"], "too thin"),
        (Board((40, 40, 12), (20, 0)), 8.0, BITS["ball"], "would lie beside the stock"),
        (BOARD, 8.0, Bit("ball", 4, flute=2, shank=4), "flutes of the ball 4 mm bit are 2 mm"),
        (BOARD, 8.0, Bit("ball", 1, flute=1.0, shank=6), "shank of the ball 1 mm bit"),
    ],
)
def test_what_does_not_fit_is_refused(board: Board, thickness: float, bit: Bit, says: str) -> None:
    field = HeightField(steps().astype(np.float32), np.ones((SIDE, SIDE), np.float32), PITCH)
    with pytest.raises(BadValueError, match=says):
        carve(field, thickness, Job((bit,)), board, Machine(), POSTS[0])
    with pytest.raises(BadValueError, match="blank"):
        asked_of(HeightField(field.heights, np.zeros_like(field.heights), PITCH), 3.0)


def test_a_blank_surround_is_left_to_the_stock() -> None:
    heights = SURFACES["cap"].astype(np.float32)
    x = np.linspace(-12, 12, SIDE)
    disc = (x[:, np.newaxis] ** 2 + x**2 < 64).astype(np.float32)
    job = Job((BITS["ball"],), BITS["flat"], Roughing(0.4))
    made = carve(HeightField(heights, disc, PITCH), 8.0, job, BOARD, Machine(), POSTS[0])
    assert made.faults == ()
    assert np.isfinite(made.asked).mean() == pytest.approx(np.pi * 64 / made.asked.size / 0.01, rel=0.03)
    corner = made.stock.tops[10:20, 10:20]
    assert corner.min() == 0


def test_numbers_have_fixed_digits_and_remarks_no_brackets_of_their_own() -> None:
    made = carved(SURFACES["cap"], (BITS["ball"],), rough_bit=None)
    words = [word for line in made.programs[0].text.split("\n") if not line.startswith("(") for word in line.split()]
    assert all(len(word.split(".")[1]) == 4 for word in words if word[0] in "XYZ")
    program = program_of((), Setting(title=("a (b) c",)), POSTS[0])
    assert "(a [b] c)" in program.text
    with pytest.raises(Exception, match="moves nothing"):
        read_program("(a)\nM30", (0, 0, 5))


def cut_free(disc: NDArray[np.float32], cutting: CutOut, board: Board = BOARD) -> Carved:
    field = HeightField(SURFACES["cap"].astype(np.float32), disc, PITCH)
    return carve(
        field, 8.0, Job((BITS["ball"],), BITS["flat"], Roughing(0.4), cut_out=cutting), board, Machine(), POSTS[0]
    )


def test_a_medal_is_cut_free_but_for_its_tabs_and_its_hole_is_cut_too() -> None:
    x = np.linspace(-12, 12, SIDE)
    away = np.hypot(x[:, np.newaxis], x)
    medal = ((away < 10) & (away > 4)).astype(np.float32)
    made = cut_free(medal, CutOut(8.0, 3, 4.0, 1.5))
    assert made.faults == ()
    assert [one.kind for one in made.passes] == ["rough", "finish", "cut-out"]
    assert made.facts["gouge_max_mm"] <= 0.001
    row, column = np.indices(made.stock.tops.shape)
    from_middle = np.hypot(column * made.stock.cell + made.stock.left - 12, row * made.stock.cell + made.stock.low - 12)
    slot = made.stock.tops[np.abs(from_middle - 12.1) < 0.5]
    assert slot.min() == pytest.approx(-8, abs=1e-3)
    assert slot.max() == pytest.approx(-6.5, abs=1e-3)
    # Three tabs of 4 mm with their slopes, a bit wider by the bit, on a circle of 76 mm.
    assert 3 * 4 / 76 < (slot > -7.9).mean() < 3 * 11 / 76
    assert made.stock.tops[from_middle < 1.5].min() == pytest.approx(-8, abs=1e-3)
    free = cut_free(medal, CutOut(8.0, 0))
    assert np.ptp(free.stock.tops[np.abs(from_middle - 12.1) < 0.5]) < 1e-3


@pytest.mark.parametrize("post", [post for post in POSTS if post.bit_change != "file"], ids=lambda post: post.name)
def test_a_bit_that_is_put_in_again_is_the_same_tool(post: Post) -> None:
    x = np.linspace(-12, 12, SIDE)
    disc = (np.hypot(x[:, np.newaxis], x) < 8).astype(np.float32)
    field = HeightField(SURFACES["cap"].astype(np.float32), disc, PITCH)
    job = Job((BITS["ball"],), BITS["flat"], Roughing(0.4), cut_out=CutOut(8.0))
    made = carve(field, 8.0, job, BOARD, Machine(), post)
    assert made.faults == ()
    assert [one.kind for one in made.passes] == ["rough", "finish", "cut-out"]
    text = made.programs[0].text
    if post.bit_change == "m6":
        assert [line for line in text.split("\n") if "M6" in line] == ["T1 M6", "T2 M6", "T1 M6"]
    else:
        assert text.count("M0\n") == 2


def test_a_stock_as_large_as_the_piece_has_no_cut_out_and_a_ball_cuts_none() -> None:
    whole = np.ones((SIDE, SIDE), np.float32)
    tight = cut_free(whole, CutOut(8.0), Board((24, 24, 12)))
    assert [one.kind for one in tight.passes] == ["rough", "finish"]
    field = HeightField(SURFACES["cap"].astype(np.float32), whole, PITCH)
    with pytest.raises(BadValueError, match="a flat one is needed"):
        carve(field, 8.0, Job((BITS["ball"],), cut_out=CutOut(8.0)), BOARD, Machine(), POSTS[0])
    with pytest.raises(BadValueError, match=r"cut-out is 30\.0 mm deep"):
        cut_free(whole, CutOut(30.0))


def cones(slope: float = 4.0) -> NDArray[np.float64]:
    x = np.arange(SIDE) * PITCH
    heights = np.zeros((SIDE, SIDE))
    for across, up, tall in ((7, 7, 6.0), (17, 15, 7.0)):
        away = np.hypot(x - across, x[:, np.newaxis] - up)
        heights = np.maximum(heights, tall - slope * away)
    return heights


def within_scallop(made: Carved, finishing: Finishing) -> float:
    """The share of the surface where no more is left over what the bit reaches than was asked for."""
    over = (made.stock.tops - made.reach)[np.isfinite(made.left)]
    return float((over <= finishing.scallop + finishing.tolerance + 0.002).mean())


@pytest.mark.deep
def test_steep_places_are_gone_round_and_less_is_left_there_than_between_closer_lines() -> None:
    field = HeightField(cones().astype(np.float32), np.ones((SIDE, SIDE), np.float32), PITCH)
    made = {}
    for steep in ("contours", "lines"):
        finishing = Finishing(0.02, direction=0.0, steep=steep)  # type: ignore[arg-type]
        job = Job((Bit("ball", 3, flute=30),), Bit("flat", 4, flute=30), finishing=finishing)
        made[steep] = carve(field, 8.0, job, BOARD, Machine(), POSTS[0])
        assert made[steep].faults == ()
        assert made[steep].facts["gouge_max_mm"] <= 0.001
        assert within_scallop(made[steep], finishing) >= 0.995
    assert [one.kind for one in made["contours"].passes] == ["rough", "finish", "steep"]
    assert [one.kind for one in made["lines"].passes] == ["rough", "finish"]
    most = {steep: one.facts["left_over_reachable_max_mm"] for steep, one in made.items()}
    assert most["contours"] < 0.6 * most["lines"]
    # Round and round on one level after the other: hardly ever lifted.
    assert made["contours"].passes[2].lifts < 12


@pytest.mark.parametrize("surface", deep_but(SURFACES, ["cap"]))
def test_rings_keep_the_scallop_too(surface: str) -> None:
    made = carved(SURFACES[surface], (BITS["ball"],), "contour")
    assert made.faults == ()
    assert within_scallop(made, Finishing(0.01)) >= 0.995


def test_a_ball_runs_out_where_the_piece_falls_off_to_its_edge() -> None:
    made = carved(SURFACES["cap"], (BITS["ball"],))
    over = (made.stock.tops - made.reach)[np.isfinite(made.left).any(axis=1)]
    # The rows at the edge of the piece are no worse than its middle.
    assert np.nanquantile(over[:3], 0.99) <= 0.01 + 0.0075 + 0.002
