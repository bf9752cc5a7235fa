"""The simulated router: it reads programs, cuts stock, times moves, and catches what must not happen."""

import math

import numpy as np
import pytest

from nebrel.core.router.cutter import Cutter
from nebrel.core.router.interpreter import BadProgramError, read_program
from nebrel.core.router.run import Ran, Travel, run_program
from nebrel.core.router.sweep import Stock, cut, fresh_stock
from nebrel.core.router.timing import Drive, seconds_of

HEAD = "G21\nG90\nG17\nS12000 M3\n"
END = "M5\nM30\n"
BALL, FLAT = Cutter("ball", 6), Cutter("flat", 4)
LEAN = math.radians(10)
V, TAPER = Cutter("v", 6, angle_deg=90), Cutter("taper", 4, 0.5, 10)


def board(cell: float = 0.1) -> Stock:
    return fresh_stock((40, 30), (0, 0), 0.0, cell, (0, 0))


def run(text: str, cutter: Cutter = FLAT, stock: Stock | None = None, **more: object) -> Ran:
    return run_program(text, (cutter,), board() if stock is None else stock, Drive(), **more)  # type: ignore[arg-type]


def at(stock: Stock, x: float, y: float) -> float:
    return float(stock.tops[round((y - stock.low) / stock.cell), round((x - stock.left) / stock.cell)])


@pytest.mark.parametrize(
    ("cutter", "beside"),
    [
        (BALL, 3 - math.sqrt(9 - 1)),
        (FLAT, 0.0),
        (V, 1.0),
        (
            TAPER,
            0.5 * (1 - math.sin(math.radians(10)))
            + (1 - 0.5 * math.cos(math.radians(10))) / math.tan(math.radians(10)),
        ),
    ],
)
def test_a_level_groove_has_the_shape_of_the_bit(cutter: Cutter, beside: float) -> None:
    stock = board()
    cut(stock, cutter.shape, np.array([[10.0, 15, -4], [30, 15, -4]]), 100, 0)
    assert at(stock, 20, 15) == pytest.approx(-4, abs=1e-9)
    assert at(stock, 20, 16) == pytest.approx(min(0.0, -4 + beside), abs=1e-9)
    assert at(stock, 35, 15) == 0


@pytest.mark.parametrize("cutter", [BALL, FLAT, V, TAPER])
@pytest.mark.parametrize("slope", [-3.0, -0.4, 0.4, 3.0, 20.0])
def test_a_slanting_way_cuts_what_many_standing_bits_cut(cutter: Cutter, slope: float) -> None:
    way = np.array([[12.013, 14.007, -6], [14.013, 15.507, -6 + slope * 2.5]])
    at_once, bit_by_bit = board(), board()
    cut(at_once, cutter.shape, way, 100, 0)
    parts = way[0] + (way[1] - way[0]) * np.linspace(0, 1, 4001)[:, np.newaxis]
    for part in parts:
        cut(bit_by_bit, cutter.shape, np.array([part, part]), 100, 0)
    off = bit_by_bit.tops - at_once.tops
    assert off.min() > -1e-9
    # A flat end steps by its rise from place to place.
    assert off.max() < 1.5 * abs(slope) * 2.5 / 4000 + 2e-3


def test_a_circle_is_cut_as_round_as_it_is() -> None:
    stock = board()
    run(HEAD + "G0 X15 Y15 Z5\nG1 Z-1 F100\nG2 I5 J0 F600\nG0 Z5\n" + END, Cutter("flat", 1), stock)
    y, x = np.indices(stock.tops.shape) * stock.cell
    away = np.hypot(x - 20, y - 15)
    assert (stock.tops[np.abs(away - 5) < 0.49] == -1).all()
    assert (stock.tops[np.abs(away - 5) > 0.51] == 0).all()


def test_inches_radii_and_relative_moves_lead_to_the_same_places() -> None:
    start = (0.0, 0.0, 10.0)
    by_centre = read_program("G21 G90\nG0 X10 Y0\nG1 Z0 F100\nG3 X0 Y10 I-10 J0\nM30", start)
    by_radius = read_program("G21 G90\nG0 X10 Y0\nG1 Z0 F100\nG3 X0 Y10 R10\nM30", start)
    in_inch = read_program("G20 G90\nG0 X0.3937007874 Y0\nG1 Z0 F4\nG3 X0 Y0.3937007874 R0.3937007874\nM30", start)
    relative = read_program("G21 G91\nG0 X10\nG1 Z-10 F100\nG3 X-10 Y10 I-10 J0\nM30", start)
    for other in (by_radius, in_inch, relative):
        assert np.abs(other.places[-1] - by_centre.places[-1]).max() < 1e-6
        assert np.abs(other.places[len(other.places) // 2][2]) < 1e-9
    assert in_inch.unit == "in"
    assert in_inch.feed.max() == pytest.approx(101.6)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("G21\nG1 X1 F100\nG87 X3\n", "Line 3: G87 is not known"),
        ("G21\nQ4 X1\n", "Line 2: words that begin with Q"),
        ("G21\nG2 X5 Y5 F100\n", "Line 2: a circle without a centre"),
        ("G21\nG2 X5 Y5 I1 J0 F100\n", "Line 2: the circle begins"),
        ("G21\nG1 X1 F100\nG20\nG1 X2\n", "Line 3: inch and mm are mixed"),
        ("G21\nX5\n", "Line 2: it says where, but not how"),
        ("G21\nG1 X5\n", "Line 2: a cut without a feed"),
        ("G21\nM3\n", "Line 2: the spindle starts without a speed"),
        ("G21\nG1 X1 X2 F5\n", "Line 2: X stands there twice"),
        ("G21\nG1 X#5 F5\n", "Line 2: “X#5” is not known"),
        ("G21\nG2 X0 Y0 I99999999 J0 F100\n", "Line 2: a circle of radius"),
        ("(nothing)\n", "moves nothing"),
        ("G21 (no end\nG1 X5 F5", "Line 1: a remark does not end"),
    ],
)
def test_programs_it_would_not_run_are_refused_by_their_line(text: str, says: str) -> None:
    with pytest.raises(BadProgramError, match=says.replace("(", r"\(")):
        read_program(text, (0, 0, 5))


def test_planted_faults_are_found_by_their_line() -> None:
    rapid = run(HEAD + "G0 X10 Y10 Z5\nG1 Z-1 F100\nG0 X20\nG0 Z5\n" + END)
    assert [(fault.kind, fault.line) for fault in rapid.faults] == [("rapid", 7)]
    assert rapid.rapids_in_stock == 1
    stopped = run("G21\nG90\nG0 X10 Y10 Z5\nG1 Z-1 F100\nG1 X20\nG0 Z5\nM30\n")
    assert [(fault.kind, fault.line) for fault in stopped.faults] == [("spindle", 4)]
    plunge = run(HEAD + "G0 X10 Y10 Z5\nG1 Z-3 F100\nG0 Z5\n" + END)
    assert [(fault.kind, fault.line) for fault in plunge.faults] == [("plunge", 6)]
    short = run(HEAD + "G0 X10 Y10 Z5\nG1 X30 Z-3 F100\nG1 X10\nG0 Z5\n" + END, Cutter("flat", 4, flute=2, shank=6))
    assert "shank" in {fault.kind for fault in short.faults}
    endless = run(HEAD + "G0 X10 Y10 Z5\nG1 X20 F100\n")
    assert [fault.kind for fault in endless.faults] == ["end"]
    far = run(HEAD + "G0 X90 Y10 Z5\n" + END, travel=Travel((0, 0, -20), (80, 80, 20)))
    assert [(fault.kind, fault.line) for fault in far.faults] == [("limits", 5)]
    sound = run(HEAD + "G0 X10 Y10 Z1\nG1 X30 Z-1 F100\nG1 X10\nG0 Z5\n" + END)
    assert sound.faults == ()


def test_a_gouge_is_measured_and_a_second_bit_must_be_told() -> None:
    stock = board()
    asked = np.full(stock.tops.shape, -1.0)
    ran = run(HEAD + "G0 X5 Y5 Z1\nG1 X35 Z-1.25 F500\nG0 Z5\n" + END, FLAT, stock, asked=asked)
    assert ran.least_over == pytest.approx(-0.25, abs=1e-9)
    with pytest.raises(BadProgramError, match="takes 2 bits; 1 were told"):
        run(HEAD + "G1 X5 F100\nT2 M6\nS100 M3\nG1 X9\n" + END)


def test_time_of_one_way_is_that_of_its_trapezoid() -> None:
    drive = Drive(acceleration=500, corner_deviation=0.01, rapid=6000)
    long = read_program("G21\nG1 X100 F3000\nM30", (0, 0, 0))
    assert seconds_of(long, drive).sum() == pytest.approx(100 / 50 + 50 / 500)
    short = read_program("G21\nG1 X1 F3000\nM30", (0, 0, 0))
    assert seconds_of(short, drive).sum() == pytest.approx(2 * math.sqrt(1 / 500))


def test_corners_cost_time_and_straight_joints_do_not() -> None:
    drive = Drive()
    straight = read_program("G21\nG1 X10 F3000\nX20\nX30\nM30", (0, 0, 0))
    whole = read_program("G21\nG1 X30 F3000\nM30", (0, 0, 0))
    bent = read_program("G21\nG1 X10 F3000\nX10 Y10\nX20\nM30", (0, 0, 0))
    back = read_program("G21\nG1 X10 F3000\nX0\nX10\nM30", (0, 0, 0))
    took = [float(seconds_of(moves, drive).sum()) for moves in (whole, straight, bent, back)]
    assert took[0] == pytest.approx(took[1])
    assert took[1] < took[2] < took[3]


def test_a_drill_may_go_straight_down_but_not_sideways() -> None:
    drill = Cutter("drill", 3, angle_deg=118)
    down = f"{HEAD}G0 X10 Y10 Z2\nG1 Z-8 F300\nG0 Z2\n{END}"
    assert run(down, drill).faults == ()
    assert run(down, FLAT).steep_entries == 1
    sideways = f"{HEAD}G0 X10 Y10 Z2\nG1 Z-1 F300\nX14\nG0 Z2\n{END}"
    (fault,) = run(sideways, drill).faults
    assert (fault.kind, fault.line) == ("sideways", 7)
    stock = board()
    run(down, drill, stock)
    assert at(stock, 10, 10) == pytest.approx(-8)
    assert at(stock, 11, 10) == pytest.approx(-8 + 1 / math.tan(math.radians(59)))
