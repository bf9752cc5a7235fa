"""The server tells how it is, what it keeps and what went wrong."""

import logging
import sqlite3

from sqlalchemy.exc import OperationalError

from nebrel.jobs.housekeeper import Housekeeper
from nebrel.store.copies import copies_in
from tests.api.edits import edit


def test_health_says_what_works(client, started, monkeypatch):
    told = client.get("/api/health")
    assert told.status_code == 200
    health = told.json()
    assert (health["ok"], health["queue"], health["database"], health["pages"]) == (True, True, True, 0)
    assert health["free_bytes"] > 0 and health["version"]

    def refuse(*_, **__):
        raise OperationalError("SELECT", {}, sqlite3.OperationalError("gone"))

    monkeypatch.setattr("nebrel.store.jobs.JobRecords.count", refuse)
    told = client.get("/api/health")
    assert (told.status_code, told.json()["ok"], told.json()["database"]) == (503, False, False)


def test_storage_is_told_and_made_room_in(client, started):
    edit(client, started, {"title": "Another"})
    gone = client.post(f"/api/pieces/{started['id']}/copy").json()
    client.delete(f"/api/pieces/{gone['id']}")
    before = client.get("/api/storage").json()
    parts = {part["name"]: part for part in before["parts"]}
    assert set(parts) == {"database", "sources", "results", "copies", "logs"}
    assert parts["sources"]["files"] == 1 and parts["database"]["bytes"] > 0
    assert (before["removed"], before["states"], before["copied"]) == (1, 3, None)
    after = client.post("/api/storage/removed").json()
    assert (after["removed"], after["states"]) == (0, 2)
    assert client.get(f"/api/pieces/{gone['id']}").status_code == 404
    assert client.post("/api/storage/history").json()["states"] == 2
    client.post(f"/api/pieces/{started['id']}/plan", json={})
    assert {part["name"]: part["files"] for part in client.post("/api/storage/results").json()["parts"]}["results"] == 0
    assert client.post("/api/storage/everything").status_code == 422


def test_problems_are_told_in_words_and_saved_without_what_is_whose(client, started, settings, job_until):
    assert client.get("/api/problems").json() == []
    context = client.app.state.context
    job = context.jobs.submit("no such work", started["id"], started["revision"], {})
    job_until(job.id, lambda job: job["state"] == "failed")
    logging.getLogger("nebrel.api").error("A request failed", extra={"path": "/api/pieces"})
    problems = client.get("/api/problems").json()
    assert {problem["about"] for problem in problems} == {
        "Jobs", "Request of /api/pieces", f"no such work of {started['document']['title']}",
    }  # fmt: skip
    assert [problem["when"] for problem in problems] == sorted((each["when"] for each in problems), reverse=True)
    report = client.get("/api/problem-report.txt")
    assert 'filename="nebrel-report.txt"' in report.headers["content-disposition"]
    for words in ("KeyError: 'no such work'", '"queue": true', '"sources"', "A request failed"):
        assert words in report.text
    assert "access_token" not in report.text and started["document"]["title"] not in report.text


def test_the_housekeeper_copies_once_a_day_and_goes_on_after_a_mishap(client, started, settings, monkeypatch):
    context = client.app.state.context
    keeper = Housekeeper(context.workshop)
    for _ in range(2):
        keeper.work()
    (copy,) = copies_in(settings.data_dir)
    assert client.get("/api/storage").json()["copied"] is not None
    copy.unlink()

    def stumble(*_):
        raise OSError("no room")

    monkeypatch.setattr("nebrel.jobs.housekeeper.copy_when_due", stumble)
    keeper.work()
    assert "could not be looked after" in client.get("/api/problems").json()[0]["what"]
