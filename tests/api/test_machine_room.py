"""Limits of uploads, and the log: what went wrong is told there and never to a page."""

import json
import logging
from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from nebrel.api.app import create_app
from nebrel.api.serving.uploads import FORM_BYTES, LIMITS, most_bytes
from nebrel.core.errors import BadValueError
from nebrel.jobs import worker
from nebrel.jobs.manager import MISTAKE
from nebrel.logs import close_log, log_path, open_log
from nebrel.settings import Settings
from tests.api.conftest import BASE

KB = 2**10
SMALL = {"picture_bytes": 2 * KB, "mesh_bytes": 9 * KB, "drawing_bytes": 3 * KB, "pack_bytes": 4 * KB}


@pytest.fixture
def tight(settings) -> Settings:
    return settings.model_copy(update={**SMALL, "body_bytes": 8 * KB})


@pytest.fixture
def room(tight) -> Iterator[TestClient]:
    with TestClient(create_app(tight), base_url=BASE, raise_server_exceptions=False) as client:
        yield client


class TestUploads:
    def test_every_route_that_takes_a_file_has_a_limit_of_its_own(self, tight):
        app = create_app(tight)
        taking = [
            path
            for path, ways in app.openapi()["paths"].items()
            if "multipart/form-data" in ways.get("post", {}).get("requestBody", {}).get("content", {})
        ]
        assert len(taking) == 9
        named = {path for path in taking if most_bytes(tight, path) != tight.body_bytes}
        assert set(taking) - named == {"/api/wedge-readings"}
        # Workers of a cluster put their results where no page asks.
        assert len(LIMITS) == len(named) + 1
        assert most_bytes(tight, f"/api/shared/kept/{'a' * 64}") == tight.piece_bytes + FORM_BYTES

    def test_models_may_be_as_large_as_settings_say(self):
        settings = Settings()
        assert most_bytes(settings, "/api/models") == settings.mesh_bytes + FORM_BYTES
        assert most_bytes(settings, "/api/pieces") == settings.picture_bytes + FORM_BYTES
        assert most_bytes(settings, "/api/pieces/abc/revisions") == settings.body_bytes

    @pytest.mark.parametrize(
        ("path", "field", "most"),
        [("/api/pieces", "picture", 2), ("/api/models", "model", 9), ("/api/drawings", "drawing", 3)],
    )
    def test_a_file_beyond_its_own_limit_is_refused(self, room, path, field, most):
        answer = room.post(path, files={field: ("a.stl", b"x" * (most * KB + 1))})
        assert answer.status_code == 413
        assert answer.json()["message"] == "a.stl has more than 0 MiB, which is the most accepted."

    def test_what_announces_no_length_is_cut_off_where_it_becomes_too_much(self, room):
        sent = []

        def endless() -> Iterator[bytes]:
            for _ in range(1000):
                sent.append(1)
                yield b"x" * KB

        answer = room.post("/api/pieces/abc/plan", content=endless(), headers={"Content-Type": "application/json"})
        assert answer.status_code == 413
        assert answer.json() == {"message": "This is too much at once; up to 0 MiB are accepted."}
        assert room.post("/api/pieces/abc/plan", json={}).status_code == 404

    def test_a_form_that_announces_no_length_is_cut_off_too(self, room):
        def endless() -> Iterator[bytes]:
            yield b'--b\r\nContent-Disposition: form-data; name="picture"; filename="a.png"\r\n\r\n'
            for _ in range(3000):
                yield b"x" * KB

        kind = {"Content-Type": "multipart/form-data; boundary=b"}
        answer = room.post("/api/pieces", content=endless(), headers=kind)
        assert answer.status_code == 413
        assert "too much at once" in answer.json()["message"]


def lines_of(settings: Settings) -> list[str]:
    return log_path(settings).read_text(encoding="utf-8").splitlines()


class TestLog:
    def test_a_fault_of_a_request_goes_to_the_log_and_not_to_the_page(self, room, tight, monkeypatch):
        def broken(*_: object) -> object:
            raise ZeroDivisionError("secret detail")

        monkeypatch.setattr("nebrel.store.pieces.Pieces.all", broken)
        answer = room.get("/api/pieces")
        assert answer.status_code == 500
        assert "secret" not in answer.text
        told = "\n".join(lines_of(tight))
        assert "ZeroDivisionError: secret detail" in told
        assert "[path /api/pieces]" in told

    def test_a_mistake_in_a_worker_is_handed_over_with_its_traceback(self):
        def broken() -> dict:
            raise KeyError("secret")

        kind, told = worker.outcome_of(broken)
        assert kind == "broken"
        assert "KeyError: 'secret'" in told
        assert "Traceback" in told
        assert "secret" not in MISTAKE

    def test_a_job_that_breaks_fails_with_a_sentence_and_is_in_the_log(self, client, settings, started, job_until):
        context = client.app.state.context
        job = context.jobs.submit("no such work", started["id"], started["revision"], {})
        ended = job_until(job.id, lambda job: job["state"] == "failed")
        assert (ended["state"], ended["message"]) == ("failed", MISTAKE)
        told = "\n".join(lines_of(settings))
        assert "KeyError: 'no such work'" in told
        assert f"[job {job.id}, piece {started['id']}]" in told

    def test_lines_of_json_hold_what_they_are_about(self, settings):
        handler = open_log(settings.model_copy(update={"log_format": "json"}))
        try:
            logging.getLogger("nebrel.jobs").error("It broke", extra={"job": "j1", "piece": "p1"})
        finally:
            close_log(handler)
        told = json.loads(lines_of(settings)[-1])
        assert {"levelname": "ERROR", "message": "It broke", "job": "j1", "piece": "p1"}.items() <= told.items()

    def test_old_lines_go_to_files_beside_it_and_the_oldest_go(self, settings):
        handler = open_log(settings.model_copy(update={"log_bytes": 4096, "log_files": 2}))
        try:
            for number in range(400):
                logging.getLogger("nebrel").info("Line %d of many that fill the file", number)
        finally:
            close_log(handler)
        folder = log_path(settings).parent
        assert sorted(path.name for path in folder.iterdir()) == ["nebrel.log", "nebrel.log.1", "nebrel.log.2"]
        assert all(path.stat().st_size <= 4096 for path in folder.iterdir())
        assert "Line 399" in lines_of(settings)[-1]

    def test_a_folder_that_cannot_be_written_is_one_sentence(self, settings, tmp_path):
        blocked = tmp_path / "file"
        blocked.write_text("no folder")
        with pytest.raises(BadValueError, match="cannot be written"):
            open_log(settings.model_copy(update={"data_dir": blocked}))
