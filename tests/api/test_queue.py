"""The queue goes on, whatever happens to one job or to what is written down of it."""

import errno
import sqlite3

import pytest
from sqlalchemy.exc import OperationalError

from nebrel.jobs import local_executor, manager, notebook, worker
from nebrel.jobs.local_executor import LocalExecutor
from nebrel.jobs.manager import MISTAKE
from nebrel.store.jobs import JobRecords
from nebrel.store.means import BUSY, NO_SPACE
from nebrel.store.tables import JobRow


@pytest.fixture(autouse=True)
def impatient(monkeypatch):
    monkeypatch.setattr(notebook, "PATIENCE_SECONDS", (0.01, 0.02))
    monkeypatch.setattr(manager, "IDLE_SECONDS", 0.1)


def refused(code: int) -> OperationalError:
    cause = sqlite3.OperationalError("refused")
    cause.sqlite_errorcode = code
    return OperationalError("UPDATE jobs", {}, cause)


@pytest.fixture
def refusing(monkeypatch):
    """Let notes of some state be refused so many times; counts how often they were."""
    true_update, refusals = JobRecords.update, []

    def refuse(error: Exception, state: str, times: int) -> list[str]:
        def update(self, job_id, new_state, **changes):
            if new_state == state and len(refusals) < times:
                refusals.append(job_id)
                raise error
            return true_update(self, job_id, new_state, **changes)

        monkeypatch.setattr(JobRecords, "update", update)
        return refusals

    return refuse


def has_ended(job) -> bool:
    return job["state"] not in ("waiting", "running")


def build(client, piece) -> str:
    return client.post(f"/api/pieces/{piece['id']}/build").json()["id"]


def test_a_note_that_is_refused_twice_is_written_the_third_time(client, started, job_until, refusing):
    refusals = refusing(refused(sqlite3.SQLITE_BUSY), "done", 2)
    assert job_until(build(client, started), has_ended)["state"] == "done"
    assert len(refusals) == 2


@pytest.mark.parametrize("state", ["running", "done"])
@pytest.mark.parametrize(
    ("error", "words"),
    [
        (refused(sqlite3.SQLITE_FULL), NO_SPACE),
        (refused(sqlite3.SQLITE_BUSY), BUSY),
        (OSError(errno.ENOSPC, "no room"), NO_SPACE),
        (OSError(errno.EIO, "broken"), notebook.UNKEPT),
    ],
)
def test_what_cannot_be_written_down_fails_with_a_sentence_and_the_next_is_served(
    client, started, job_until, refusing, state, error, words
):
    refusals = refusing(error, state, 3)
    first = build(client, started)
    failed = job_until(first, has_ended)
    assert (failed["state"], failed["message"]) == ("failed", words)
    assert set(refusals) == {first}
    assert job_until(build(client, started), has_ended)["state"] == "done"
    # It is written down as soon as it can be, and can be asked for again.
    records = client.app.state.context.workshop.jobs
    job_until(first, lambda _: records.get(first).state == "failed")
    assert records.get(first).message == words
    again = client.post(f"/api/jobs/{first}/again").json()
    assert job_until(again["id"], has_ended)["state"] == "done"


def test_no_mistake_of_ours_ends_the_queue(client, started, job_until, monkeypatch):
    true_run, broken = LocalExecutor._run, []

    def run(self, *work):
        if not broken:
            broken.append(work)
            raise ZeroDivisionError
        return true_run(self, *work)

    monkeypatch.setattr(LocalExecutor, "_run", run)
    first = job_until(build(client, started), has_ended)
    assert (first["state"], first["message"]) == ("failed", MISTAKE)
    assert job_until(build(client, started), has_ended)["state"] == "done"
    assert client.app.state.context.jobs.alive


def test_a_listener_that_stumbles_stops_nothing(client, started, job_until):
    def stumble(_):
        raise ZeroDivisionError

    client.app.state.context.jobs._notes._listener = stumble
    assert job_until(build(client, started), has_ended)["state"] == "done"


def test_a_worker_that_cannot_be_started_is_waited_for(client, started, job_until, monkeypatch):
    true_start, tries = LocalExecutor._start_worker, []

    def start(self):
        tries.append(1)
        if len(tries) < 3:
            raise OSError(errno.EAGAIN, "too many processes")
        return true_start(self)

    jobs = client.app.state.context.jobs
    monkeypatch.setattr(LocalExecutor, "_start_worker", start)
    monkeypatch.setattr(LocalExecutor, "_run", lambda *_: None)
    monkeypatch.setattr(local_executor, "LEAVE_SECONDS", 0.05)
    build(client, started)
    job_until(build(client, started), lambda _: len(tries) >= 3)
    assert jobs.alive


def test_a_full_disk_in_a_worker_is_told_as_that():
    def full():
        raise OSError(errno.ENOSPC, "no room")

    assert worker.outcome_of(full) == ("failed", NO_SPACE)


@pytest.mark.parametrize(
    ("error", "status", "words"),
    [
        (refused(sqlite3.SQLITE_FULL), 507, NO_SPACE),
        (refused(sqlite3.SQLITE_BUSY), 503, BUSY),
        (OSError(errno.ENOSPC, "no room"), 507, NO_SPACE),
    ],
)
def test_what_the_disk_refuses_a_request_is_told_as_that(client, hill, monkeypatch, error, status, words):
    def refuse(*_, **__):
        raise error

    monkeypatch.setattr("nebrel.store.pieces.Pieces.create", refuse)
    answer = client.post("/api/pieces", files={"picture": ("hill.png", hill)})
    assert (answer.status_code, answer.json()["message"]) == (status, words)


def test_a_result_of_an_earlier_version_is_no_mistake(client, started, job_until):
    done = job_until(build(client, started), has_ended)
    context = client.app.state.context
    with context.workshop.database.writing() as session:
        row = session.get(JobRow, done["id"])
        row.result = {"report": {"triangles": 5}}
    (told,) = client.get("/api/jobs").json()
    assert told["result"] is None and "earlier version" in told["message"]
    assert client.get(f"/api/jobs/{done['id']}/file").status_code == 409
