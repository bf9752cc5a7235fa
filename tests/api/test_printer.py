"""The simulated printer, and the client that would speak to any other."""

import io

import httpx
import manifold3d
import numpy as np
import pytest
from fastapi import FastAPI, Response
from fastapi.testclient import TestClient

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.errors import ConflictError, NotFoundError
from nebrel.core.layers.plate import as_one
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import write_mesh
from nebrel.jobs.printer_link import Printer, PrinterError
from nebrel.simulated.printer import PrinterTraits, RefusedError, SimulatedPrinter, printer_service


def block(*size: float) -> TriMesh:
    return mesh_of(manifold3d.Manifold.cube(size))


def file_of(mesh: TriMesh, form: str = "stl", **options: object) -> bytes:
    held = io.BytesIO()
    write_mesh(mesh, held, form, **options)
    return held.getvalue()


def painted(colours: int) -> bytes:
    """So many blocks side by side, each in a colour of its own."""
    parts = []
    for number in range(colours):
        mesh = block(5, 5, 5)
        paint = np.tile(np.array([number * 40, 90, 200 - number * 30, 255], np.uint8), (len(mesh.faces), 3, 1))
        parts.append(TriMesh(mesh.vertices + np.array([9.0 * number, 0, 0]), mesh.faces, None, paint))
    whole, objects = as_one([f"part {number}" for number in range(colours)], parts)
    return file_of(whole, "3mf", objects=objects)


@pytest.fixture
def printer() -> SimulatedPrinter:
    return SimulatedPrinter(PrinterTraits(jams=lambda _number, _attempt: False))


class TestPrinter:
    def test_a_file_is_printed_layer_by_layer(self, printer):
        taken = printer.take("block.stl", file_of(block(20, 20, 10)))
        assert (taken.state, taken.layers, taken.layer) == ("printing", 50, 1)
        printer.advance(60 * taken.minutes_left / 2)
        half = printer.one(taken.id)
        assert half.fraction == pytest.approx(0.5, abs=0.01)
        assert half.layer == pytest.approx(25, abs=1)
        printer.advance(60 * half.minutes_left + 1)
        done = printer.one(taken.id)
        assert (done.state, done.fraction, done.minutes_left) == ("done", 1, 0)
        assert printer.view().state == "idle"

    def test_others_wait_for_their_turn(self, printer):
        first, second, third = (printer.take(f"{n}.stl", file_of(block(9, 9, 4))) for n in range(3))
        assert [printer.one(each.id).position for each in (first, second, third)] == [0, 1, 2]
        printer.advance(60 * first.minutes_left + 1)
        assert printer.one(second.id).state == "printing"
        printer.say(second.id, "cancel")
        assert printer.one(third.id).state == "printing"
        assert [each.name for each in printer.view().prints] == ["2.stl", "0.stl", "1.stl"]

    def test_a_pause_holds_time_and_goes_on_where_it_was(self, printer):
        taken = printer.take("block.stl", file_of(block(9, 9, 9)))
        printer.advance(30)
        before = printer.say(taken.id, "pause")
        printer.advance(10_000)
        assert printer.one(taken.id).fraction == before.fraction
        printer.say(taken.id, "resume")
        printer.advance(10_000)
        assert printer.one(taken.id).state == "done"

    def test_a_jam_waits_for_a_hand(self):
        printer = SimulatedPrinter(PrinterTraits(jams=lambda _number, attempt: attempt == 1))
        taken = printer.take("block.stl", file_of(block(9, 9, 9)))
        printer.advance(100_000)
        jammed = printer.one(taken.id)
        assert (jammed.state, jammed.fraction) == ("jammed", pytest.approx(0.5))
        assert "retry" in jammed.reason and printer.view().state == "jammed"
        printer.say(taken.id, "retry")
        printer.advance(100_000)
        assert printer.one(taken.id).state == "done"

    @pytest.mark.parametrize(("state", "word"), [("printing", "resume"), ("printing", "retry"), ("done", "cancel")])
    def test_words_that_do_not_fit_are_refused(self, printer, state, word):
        taken = printer.take("block.stl", file_of(block(9, 9, 9)))
        if state == "done":
            printer.advance(100_000)
        with pytest.raises(RefusedError, match=f"nothing to {word}"):
            printer.say(taken.id, word)

    def test_what_cannot_be_printed_is_told_why(self, printer):
        cube = block(9, 9, 9)
        for name, data, words in (
            ("open.stl", file_of(TriMesh(cube.vertices, cube.faces[1:])), "not closed"),
            ("wide.stl", file_of(block(300, 10, 10)), "300.0 × 10.0 × 10.0 mm, more than the 220.0"),
            ("many.3mf", painted(5), "5 colours; the printer holds 4"),
            ("none.stl", b"", "empty"),
        ):
            with pytest.raises(RefusedError, match=words):
                printer.take(name, data)
        assert printer.take("few.3mf", painted(3)).colours == 3

    def test_too_many_that_wait_are_refused(self, printer):
        data = file_of(block(5, 5, 1))
        for number in range(20):
            printer.take(f"{number}.stl", data)
        with pytest.raises(RefusedError, match="20 prints wait"):
            printer.take("one more.stl", data)


class _Wire(httpx.BaseTransport):
    """Lets the client speak to an application without a network."""

    def __init__(self, app: FastAPI) -> None:
        self._client = TestClient(app, base_url="http://printer")

    def handle_request(self, request: httpx.Request) -> httpx.Response:
        answer = self._client.request(
            request.method, request.url.path, content=request.read(), headers=dict(request.headers)
        )
        return httpx.Response(answer.status_code, content=answer.content)


def spoken_to(app: FastAPI) -> Printer:
    printer = Printer("http://printer")
    printer._client = httpx.Client(base_url="http://printer", transport=_Wire(app))
    return printer


class TestLink:
    def test_a_print_from_end_to_end(self):
        moment = [0.0]
        traits = PrinterTraits(jams=lambda _number, attempt: attempt == 1)
        with spoken_to(printer_service(traits, lambda: moment[0])) as printer:
            assert (printer.standing().state, printer.standing().slots) == ("idle", 4)
            sent = printer.send("block.stl", file_of(block(9, 9, 9)))
            assert sent.state == "printing"
            moment[0] += 60
            assert printer.one(sent.id).state == "jammed"
            printer.say(sent.id, "retry")
            moment[0] += 60
            assert printer.one(sent.id).state == "done"
            assert [each.id for each in printer.standing().prints] == [sent.id]

    def test_refusals_come_as_what_they_are(self):
        with spoken_to(printer_service(clock=lambda: 0.0)) as printer:
            with pytest.raises(PrinterError, match="empty"):
                printer.send("none.stl", b"")
            with pytest.raises(NotFoundError):
                printer.one("nobody")
            sent = printer.send("block.stl", file_of(block(9, 9, 9)))
            with pytest.raises(ConflictError, match="nothing to retry"):
                printer.say(sent.id, "retry")

    @pytest.mark.parametrize("answer", [b"hello", b"{}", b'{"name": 1}', b"x" * 300_000])
    def test_what_is_not_agreed_is_told(self, answer):
        app = FastAPI()

        @app.get("/printer")
        def odd() -> Response:
            return Response(answer)

        with spoken_to(app) as printer, pytest.raises(PrinterError, match="not in the contract"):
            printer.standing()

    def test_nobody_there_is_one_sentence(self):
        with Printer("http://127.0.0.1:9") as printer, pytest.raises(PrinterError, match="does not answer"):
            printer.standing()
