"""Figures over the wire: few colours, and the table of filaments."""

import base64
import io

import numpy as np
import pytest
from PIL import Image


@pytest.fixture
def figure(client) -> dict:
    """A piece with a figure of a two-coloured disc."""
    x, y = np.meshgrid(np.arange(120), np.arange(120))
    picture = np.zeros((120, 120, 4), dtype=np.uint8)
    picture[np.hypot(x - 60, y - 60) < 50] = (160, 48, 32, 255)
    picture[(np.hypot(x - 60, y - 60) < 50) & (x < 50)] = (64, 128, 208, 255)
    held = io.BytesIO()
    Image.fromarray(picture).save(held, "PNG")
    piece = client.post("/api/pieces", files={"picture": ("disc.png", held.getvalue())}).json()
    order = {"shape": "figure", "base": piece["revision"], "label": "Figure"}
    piece = client.post(f"/api/pieces/{piece['id']}/shape", json=order).json()
    change = {"figure": {"cells": 64, "colour": {"on": True}}}
    edit = {"base": piece["revision"], "label": "Figure", "change": change}
    answer = client.post(f"/api/pieces/{piece['id']}/revisions", json=edit)
    assert answer.status_code < 300, answer.text
    return {"id": piece["id"]}


def look(client, piece: dict, **few) -> dict | None:
    draft = {"change": {"figure": {"few": few}}, "longest_px": 400}
    answer = client.post(f"/api/pieces/{piece['id']}/few-colours", json=draft)
    assert answer.status_code == 200, answer.text
    return answer.json()


def picture_in(url: str) -> np.ndarray:
    head, data = url.split(",")
    assert head == "data:image/png;base64"
    return np.asarray(Image.open(io.BytesIO(base64.b64decode(data))))


def test_few_colours_are_shown_before_and_after_with_what_they_cost(client, figure):
    found = look(client, figure, on=True, count=2)
    assert len(found["report"]["tints"]) == 2
    assert found["report"]["swaps"] > 10
    before, after = (picture_in(found[name]) for name in ("before", "after"))
    assert before.shape == after.shape
    assert (before != after).any()


def test_nothing_is_told_where_few_are_not_asked_for(client, figure):
    assert look(client, figure, on=False) is None


def test_a_piece_of_another_kind_has_no_few_colours(client, started):
    refused = client.post(f"/api/pieces/{started['id']}/few-colours", json={"longest_px": 400})
    assert refused.status_code == 409
    assert "no colours" in refused.json()["message"]


def test_filaments_are_ready_can_be_edited_and_stay(client):
    ready = client.get("/api/filaments").json()
    assert len(ready) >= 4
    added = client.post("/api/filaments", json={"name": "Mine", "colour": "#123456"}).json()
    edit = {"name": "Mine", "colour": "#654321"}
    changed = client.put(f"/api/filaments/{added['id']}", json=edit).json()
    assert changed == {**edit, "id": added["id"]}
    assert changed in client.get("/api/filaments").json()
    assert client.post("/api/filaments", json={"name": "mine", "colour": "#000000"}).status_code == 409
    assert client.delete(f"/api/filaments/{added['id']}").status_code == 204
    assert client.get("/api/filaments").json() == ready
    assert client.put(f"/api/filaments/{added['id']}", json=edit).status_code == 404
    assert client.delete(f"/api/filaments/{added['id']}").status_code == 404


@pytest.mark.parametrize("edit", [{"name": "", "colour": "#123456"}, {"name": "Mine", "colour": "blue"}, {}])
def test_filaments_without_name_or_colour_are_refused(client, edit):
    assert client.post("/api/filaments", json=edit).status_code == 422


def test_sources_of_depth_are_compared_its_own_first(client, figure):
    draft = {"change": {"figure": {"depth": {"kind": "learned"}}}, "longest_px": 400}
    found = client.post(f"/api/pieces/{figure['id']}/depth-sources", json=draft).json()
    assert [each["source"] for each in found] == ["learned", "swell", "light"]
    own, swell, _ = found
    assert own["mean_mm"] == own["nearer_mm"] == 0
    assert own["unsure_mm"] > 0
    assert swell["unsure_mm"] is None
    assert swell["most_mm"] == pytest.approx(max(swell["nearer_mm"], swell["farther_mm"]), abs=0.01)
    assert swell["mean_mm"] > 0
    assert picture_in(swell["picture"]).shape == (360, 300, 3)
    assert len(np.unique(picture_in(swell["difference"]).reshape(-1, 3), axis=0)) > 20


def test_where_it_is_unsure_is_told_by_a_source_that_can(client, figure):
    url = f"/api/pieces/{figure['id']}/unsure"
    found = client.post(url, json={"change": {"figure": {"depth": {"kind": "learned"}}}}).json()
    seen = picture_in(found["picture"])
    assert seen.shape[2] == 4
    assert seen[0, 0, 3] == 0
    assert seen[..., 3].max() > 150
    assert 0 < found["mean_mm"] < found["most_mm"]
    assert client.post(url, json={"change": {"figure": {"depth": {"kind": "swell"}}}}).json() is None


def test_networks_in_the_folder_are_listed_with_their_cards_and_taken(client, settings, figure):
    assert client.get("/api/models").json() == []
    folder = settings.data_dir / "models"
    folder.mkdir(parents=True)
    (folder / "mine.onnx").write_bytes(b"no network")
    (folder / "mine.json").write_text('{"side": 128, "gives": "farther"}', encoding="utf-8")
    (folder / "plain.onnx").write_bytes(b"x")
    (folder / "wrong.onnx").write_bytes(b"x")
    (folder / "wrong.json").write_text('{"side": "huge"}', encoding="utf-8")
    mine, plain, wrong = client.get("/api/models").json()
    assert (mine["name"], mine["size_bytes"]) == ("mine.onnx", 10)
    assert mine["card"] == {"side": 128, "gives": "farther", "scale": "one"}
    assert plain["card"]["side"] == 256
    assert wrong["card"] is None
    assert wrong["problem"]
    taken = client.post("/api/models/mine.onnx/take").json()
    assert taken["card"] == mine["card"]
    assert client.post("/api/models/wrong.onnx/take").status_code == 422
    for name in ("other.onnx", "..\\nebrel.db", "mine.json"):
        assert client.post(f"/api/models/{name}/take").status_code == 404
    change = {"figure": {"depth": {"kind": "own", "blob": taken["blob"], "name": "mine.onnx", "card": taken["card"]}}}
    refused = client.post(f"/api/pieces/{figure['id']}/plan", json={"change": change, "longest_px": 200})
    assert refused.status_code == 422
    assert "mine.onnx cannot be run as a network" in refused.json()["message"]


def test_a_panel_that_follows_depth_is_compared_and_tells_where_it_is_unsure(client, figure):
    order = {"shape": "panel", "base": 2, "label": "Panel"}
    piece = client.get(f"/api/pieces/{figure['id']}").json()
    order["base"] = piece["revision"]
    made = client.post(f"/api/pieces/{figure['id']}/shape", json=order)
    assert made.status_code < 300 and "depth-sources" in made.json()["abilities"]
    draft = {"change": {"height": {"form": {"of": "depth"}}}, "longest_px": 400}
    compared = client.post(f"/api/pieces/{figure['id']}/depth-sources", json=draft).json()
    assert [each["source"] for each in compared] == ["learned", "swell", "light"]
    assert picture_in(compared[1]["difference"]).ndim == 3
    unsure = client.post(f"/api/pieces/{figure['id']}/unsure", json=draft).json()
    assert picture_in(unsure["picture"]).shape[2] == 4 and 0 < unsure["mean_mm"] < 5
    by_tones = {"change": {"height": {"form": {"of": "tones"}}}, "longest_px": 400}
    assert client.post(f"/api/pieces/{figure['id']}/unsure", json=by_tones).json() is None
