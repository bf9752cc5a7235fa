"""The simulated controller of a router, and sending it a program over the wire."""

import time

import numpy as np
import pytest

from nebrel.core.errors import ConflictError
from nebrel.core.router.interpreter import LineReader, read_program
from nebrel.core.router.timing import Drive, seconds_of
from nebrel.jobs.router_link import RouterLink, RouterStanding
from nebrel.simulated.router_controller import PARKED, RouterController, SimulatedPort

HEAD = "G21\nG90\nG17\nS12000 M3\n"
SQUARE = f"{HEAD}G0 X10 Y10 Z5\nG1 Z-1 F300\nX30 F1200\nY30\nX10 Y10\nG0 Z5\nM5\nM30\n"
DRIVE = Drive()


class Clock:
    """A clock that only goes when it is told to."""

    def __init__(self) -> None:
        self.now = 0.0

    def __call__(self) -> float:
        return self.now


def wire(clock: Clock) -> SimulatedPort:
    return SimulatedPort(RouterController(DRIVE), 1.0, clock)


def heard(port: SimulatedPort) -> list[str]:
    lines = []
    while line := port.readline():
        lines.append(line.decode().strip())
    return lines


def fed(port: SimulatedPort, text: str) -> list[str]:
    """Every line at once, as far as the controller has room."""
    port.write(b"begin\n")
    answers = heard(port)
    for line in text.splitlines():
        port.write(line.encode() + b"\n")
        answers += heard(port)
    return answers


def status(port: SimulatedPort) -> dict[str, str]:
    port.write(b"status\n")
    word, state, *facts = heard(port)[-1].split()
    assert word == "status"
    return {"state": state, **dict(fact.split("=") for fact in facts)}


def test_it_ends_where_the_program_ends_after_the_time_that_a_proof_tells() -> None:
    clock = Clock()
    port = wire(clock)
    assert fed(port, SQUARE) == ["ready", *["taken"] * len(SQUARE.splitlines())]
    asked = float(seconds_of(read_program(SQUARE, PARKED), DRIVE).sum())
    clock.now = 0.97 * asked
    assert status(port)["state"] == "running"
    clock.now = 1.04 * asked
    told = status(port)
    assert told["state"] == "finished"
    assert [float(told[axis]) for axis in "xyz"] == [10, 10, 5]
    assert told["spindle"] == "off"


def test_it_follows_the_path_and_slows_down_where_it_is_held() -> None:
    clock = Clock()
    port = wire(clock)
    fed(port, SQUARE)
    for _ in range(400):
        clock.now += 0.01
        told = status(port)
        if told["line"] == "7" and float(told["x"]) > 18:
            break
    assert float(told["y"]) == 10
    assert float(told["z"]) == -1
    assert float(told["speed"]) == pytest.approx(1200, rel=0.02)
    port.write(b"hold\n")
    clock.now += 0.02
    slower = status(port)
    assert slower["state"] == "held"
    assert 0 < float(slower["speed"]) < 1200
    clock.now += 5
    still = status(port)
    clock.now += 5
    assert status(port) == still
    assert float(still["speed"]) == 0
    assert float(told["x"]) < float(still["x"]) < 30
    port.write(b"resume\n")
    clock.now += 60
    assert status(port)["state"] == "finished"


def test_a_line_waits_for_room_in_its_memory() -> None:
    clock = Clock()
    port = wire(clock)
    many = HEAD + "".join(f"G1 X{10 + i} F600\n" for i in range(90)) + "M30\n"
    answers = fed(port, many)
    assert answers.count("taken") < 90
    assert any("has not been taken yet" in line for line in answers)


def test_it_refuses_what_it_does_not_know_and_stands_still() -> None:
    clock = Clock()
    port = wire(clock)
    port.write(b"G0 X1\n")
    assert heard(port) == ["refused No program has begun; begin comes first."]
    answers = fed(port, HEAD + "G1 X50 F600\nG77 X3\n")
    assert answers[-1].startswith("refused Line 6")
    clock.now += 60
    assert status(port)["state"] == "refused"
    port.write(b"x" * 400)
    assert heard(port)[-1].startswith("refused Lines are up to")


def test_stop_forgets_the_program() -> None:
    clock = Clock()
    port = wire(clock)
    fed(port, SQUARE)
    clock.now += 1
    port.write(b"stop\n")
    assert heard(port) == ["stopped"]
    clock.now += 60
    assert status(port)["state"] == "stopped"


def test_a_reader_gives_moves_waits_and_pauses_line_by_line() -> None:
    reader = LineReader((0, 0, 5))
    assert reader.read("G21 G90 S9000 M3", 1) == []
    assert reader.spinning
    (move,) = reader.read("G1 X3 F600", 2)
    assert (move.place, move.feed, move.rapid) == ((3, 0, 5), 600, False)
    assert [step.wait for step in reader.read("G4 P2", 3)] == [2]
    assert [step.pause for step in reader.read("M0", 4)] == [True]
    arc = reader.read("G2 X3 Y4 I0 J2", 5)
    assert len(arc) > 100
    assert arc[-1].place == (3, 4, 5)
    assert np.allclose([np.hypot(x - 3, y - 2) for (x, y, _), *_ in arc], 2)
    reader.read("M30", 6)
    assert reader.ended


def until(link: RouterLink, reached, seconds: float = 20) -> RouterStanding:
    end = time.monotonic() + seconds
    while not reached(link.standing):
        assert time.monotonic() < end, link.standing
        time.sleep(0.02)
    return link.standing


def test_a_program_is_sent_held_gone_on_with_and_finished() -> None:
    link = RouterLink()
    program = HEAD + "".join(f"G1 X{i} Y{i % 7} F3000\n" for i in range(300)) + "M30\n"
    begun = link.send("square", program, ("job", 1), SimulatedPort(RouterController(DRIVE), 20))
    assert (begun.state, begun.lines, begun.of) == ("running", 305, ("job", 1))
    with pytest.raises(ConflictError, match="busy with square"):
        link.send("other", program, ("job", 2), SimulatedPort(RouterController(DRIVE), 20))
    until(link, lambda standing: standing.line > 40)
    link.say("hold")
    held = until(link, lambda standing: standing.state == "held")
    assert 40 < held.line < 305
    link.say("resume")
    done = until(link, lambda standing: standing.state == "finished")
    assert done.place[0] == 299
    with pytest.raises(ConflictError, match="nothing that could stop"):
        link.say("stop")


def test_a_pause_for_a_bit_waits_for_somebody_and_a_stop_ends_it() -> None:
    link = RouterLink()
    program = f"{HEAD}G1 X5 F3000\nM0\nS9000 M3\nG1 X50\nM30\n"
    link.send("two bits", program, ("job", 0), SimulatedPort(RouterController(DRIVE), 50))
    until(link, lambda standing: standing.state == "waiting")
    link.say("resume")
    until(link, lambda standing: standing.state == "finished")
    link.send("long", HEAD + "G1 X5000 F60\nM30\n", ("job", 0), SimulatedPort(RouterController(DRIVE), 1))
    link.say("stop")
    assert until(link, lambda standing: standing.state == "stopped").name == "long"


def test_what_the_router_refuses_is_told_in_its_words() -> None:
    link = RouterLink()
    link.send("bad", HEAD + "G1 Q7\n", ("job", 0), SimulatedPort(RouterController(DRIVE), 50))
    assert "words that begin with Q" in until(link, lambda standing: standing.state == "refused").why
