"""Edits that meet: none is lost, and one press counts once."""

import threading
from concurrent.futures import ThreadPoolExecutor

from starlette.concurrency import run_in_threadpool

from nebrel.api.asking.asking import Asking
from nebrel.api.serving.context import Context
from tests.api.edits import edit, step


def relief(piece: dict) -> float:
    return piece["document"]["height"]["rule"]["relief_mm"]


def deeper(mm: float) -> dict:
    return {"height": {"rule": {"relief_mm": mm}}}


def test_an_edit_lies_on_the_state_that_it_was_made_on_whatever_came_and_went_meanwhile(client, started, monkeypatch):
    """While an edit is checked, another is kept and taken back: the number of the head is the same again."""
    decided, others = Asking.decided, []

    def meanwhile():
        other = edit(client, started, {"title": "Another page was here", **deeper(7)}).json()
        step(client, started["id"], "undo", other["revision"])

    async def held_open(self, *given):
        made = await decided(self, *given)
        if not others:
            others.append(1)
            await run_in_threadpool(meanwhile)
        return made

    monkeypatch.setattr(Asking, "decided", held_open)
    kept = edit(client, started, {"delivery": {"format": "obj"}}).json()
    assert kept["document"]["title"] == started["document"]["title"]
    assert relief(kept) == relief(started)


def test_of_edits_at_once_on_one_state_one_is_kept_and_the_others_are_told(client, started):
    begin = threading.Barrier(8)

    def keep(number: int):
        begin.wait()
        return edit(client, started, deeper(2 + number / 10))

    with ThreadPoolExecutor(8) as pages:
        answers = list(pages.map(keep, range(8)))
    assert sorted(answer.status_code for answer in answers) == [201] + [409] * 7
    (won,) = (answer.json() for answer in answers if answer.status_code == 201)
    now = client.get(f"/api/pieces/{started['id']}").json()
    assert (now["revision"], relief(now)) == (won["revision"], relief(won))


def test_two_pages_that_press_undo_once_undo_once(client, started):
    second = edit(client, started, deeper(5)).json()
    third = edit(client, second, deeper(6)).json()
    begin = threading.Barrier(2)

    def press(_):
        begin.wait()
        return step(client, started["id"], "undo", third["revision"])

    with ThreadPoolExecutor(2) as pages:
        answers = list(pages.map(press, range(2)))
    assert sorted(answer.status_code for answer in answers) == [200, 409]
    assert client.get(f"/api/pieces/{started['id']}").json()["revision"] == second["revision"]
    assert step(client, started["id"], "redo", third["revision"]).status_code == 409
    assert step(client, started["id"], "redo", second["revision"]).json()["revision"] == third["revision"]


def test_a_motif_that_changes_while_its_pieces_do_follows_on_top(client, started, monkeypatch):
    context: Context = client.app.state.context
    pieces, tries = context.workshop.pieces, []

    def made(state):
        if not tries:
            tries.append(1)
            edit(client, started, {"title": "Changed meanwhile"})
        return {**state.document, "delivery": {**state.document["delivery"], "format": "obj"}}

    followed = pieces.follow_up(pieces.get(started["id"]), made, "Followed")
    assert followed.document["title"] == "Changed meanwhile" and followed.document["delivery"]["format"] == "obj"
