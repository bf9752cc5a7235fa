"""Pieces over HTTP: start, edit, undo, look."""

import io

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from nebrel.api.app import create_app
from nebrel.store.blobs import blob_name
from tests.api.conftest import BASE
from tests.api.edits import step
from tests.api.frames import unpack


def test_a_dropped_picture_becomes_a_piece(client, started, hill):
    assert started["document"]["title"] == "hill"
    assert started["document"]["picture"]["blob"] == blob_name(hill)
    assert started["undoes"] is None
    (card,) = client.get("/api/pieces").json()
    assert card["id"] == started["id"]
    assert card["size_mm"] == pytest.approx([80, 80 * 89 / 119, 4.2])
    thumbnail = client.get(f"/api/pieces/{card['id']}/thumbnail.png?revision=1")
    assert np.asarray(Image.open(io.BytesIO(thumbnail.content))).std() > 10


def test_edits_are_revisions_and_come_back(client, started, settings):
    url = f"/api/pieces/{started['id']}"

    def edit(base, relief):
        change = {"height": {"rule": {"relief_mm": relief}}}
        return client.post(f"{url}/revisions", json={"base": base, "label": f"Relief {relief}", "change": change})

    second = edit(started["revision"], 5).json()
    assert second["undoes"] == "Relief 5"
    late = edit(started["revision"], 9)
    assert late.status_code == 409
    assert late.json()["message"].endswith(".")
    undone = step(client, started["id"], "undo").json()
    assert (undone["document"], undone["redoes"]) == (started["document"], "Relief 5")
    with TestClient(create_app(settings), base_url=BASE) as again:
        assert step(again, started["id"], "redo").json()["document"]["height"]["rule"]["relief_mm"] == 5


def test_a_bad_edit_is_refused_and_changes_nothing(client, started):
    url = f"/api/pieces/{started['id']}"
    for change in (
        {"body": {"width_mm": 0}},
        {"body": {"width_mm": 1e7}},
        {"picture": {"blob": "../../x"}},
        {"nope": 1},
    ):
        answer = client.post(f"{url}/revisions", json={"base": started["revision"], "label": "x", "change": change})
        assert answer.status_code == 422
        assert answer.json()["message"].endswith(".")
    assert client.get(url).json() == started
    assert client.post(f"{url}/revisions", json={"label": "x"}).status_code == 422
    assert client.get("/api/pieces/none").status_code == 404


def test_bad_pictures_are_refused_and_leave_nothing(client, encode, hill, settings):
    bad = {
        "empty.png": b"",
        "cut.png": hill[:900],
        "words.png": b"hello",
        "one-tone.png": encode(np.full((20, 20), 9, dtype=np.uint8)),
        "clear.png": encode(np.zeros((20, 20, 4), dtype=np.uint8)),
        "dot.png": encode(np.zeros((1, 1), dtype=np.uint8)),
    }
    for name, data in bad.items():
        answer = client.post("/api/pieces", files={"picture": (name, data)})
        assert answer.status_code == 422, name
        assert answer.json()["message"].endswith("."), name
    assert client.get("/api/pieces").json() == []
    assert not (settings.data_dir / "blobs").exists()


def test_a_picture_over_the_limit_is_refused_unread(settings, hill):
    small = settings.model_copy(update={"picture_bytes": 500})
    with TestClient(create_app(small), base_url=BASE) as client:
        answer = client.post("/api/pieces", files={"picture": ("hill.png", hill)})
        assert answer.status_code == 413
        assert "accepted" in answer.json()["message"]


def test_names_with_slashes_stay_names(client, hill):
    for name, title in (("../../etc/fern.png", "fern"), ("C:\\pics\\moss.png", "moss"), (".png", "Untitled")):
        assert client.post("/api/pieces", files={"picture": (name, hill)}).json()["document"]["title"] == title


def test_copy_remove_restore(client, started):
    copied = client.post(f"/api/pieces/{started['id']}/copy").json()
    assert copied["document"]["title"] == "hill (copy)"
    client.delete(f"/api/pieces/{started['id']}")
    assert [card["id"] for card in client.get("/api/pieces").json()] == [copied["id"]]
    client.post(f"/api/pieces/{started['id']}/restore")
    assert len(client.get("/api/pieces").json()) == 2


def test_a_plan_carries_tones_and_heights_of_a_draft(client, started):
    change = {"height": {"rule": {"relief_mm": 8}}, "body": {"width_mm": 40}}
    answer = client.post(f"/api/pieces/{started['id']}/plan", json={"change": change, "longest_px": 96})
    head, arrays = unpack(answer.content)
    assert head["size_mm"] == pytest.approx([40, 40 * 89 / 119, 9.2])
    assert arrays["tones"].shape == arrays["heights"].shape == (72, 96)
    assert arrays["heights"].max() == pytest.approx(8, abs=0.3)
    assert np.allclose(arrays["heights"], arrays["tones"] / 65535 * 8, atol=1e-3)
    assert client.get(f"/api/pieces/{started['id']}").json() == started


def test_a_model_carries_the_closed_solid_of_a_draft(client, started):
    change = {"body": {"width_mm": 40}}
    answer = client.post(f"/api/pieces/{started['id']}/model", json={"change": change, "longest_px": 96})
    head, arrays = unpack(answer.content)
    assert len(arrays["faces"]) == head["triangles"]
    assert np.ptp(arrays["positions"], axis=0)[:2] == pytest.approx([40, 40 * 71 / 95], abs=1e-4)
    assert arrays["normals"].shape == arrays["positions"].shape


def test_findings_of_a_draft_follow_what_is_dragged(client, started):
    def codes(change):
        answer = client.post(f"/api/pieces/{started['id']}/findings", json={"change": change})
        return {finding["measure"] for finding in answer.json()}

    assert "bed" not in codes({})
    assert "bed" in codes({"body": {"width_mm": 400}})


def test_a_section_tells_asked_and_made_in_mm(client, started):
    line = {"start": [0, 0.5], "end": [1, 0.5], "longest_px": 640}
    cut = client.post(f"/api/pieces/{started['id']}/section", json=line).json()
    assert cut["length_mm"] == pytest.approx(80)
    asked = np.array(cut["asked"], dtype=float)
    (outline,) = (np.array(outline) for outline in cut["made"])
    assert asked[:, 1].max() == pytest.approx(4.2, abs=0.06)
    assert outline[:, 1].max() == pytest.approx(4.2, abs=0.08)
    assert (outline[:, 0].min(), outline[:, 0].max()) == pytest.approx((0, 80), abs=1e-4)
    point = {"start": [0.1, 0.1], "end": [0.1, 0.1]}
    assert client.post(f"/api/pieces/{started['id']}/section", json=point).status_code == 422


def test_a_piece_is_saved_whole_and_put_on_the_shelf_again(client, started):
    client.post(f"/api/pieces/{started['id']}/versions", json={"name": "First"})
    saved = client.get(f"/api/pieces/{started['id']}/file")
    assert saved.headers["content-type"] == "application/zip"
    assert "hill.piece.zip" in saved.headers["content-disposition"]
    again = client.post("/api/piece-files", files={"file": ("hill.piece.zip", saved.content)})
    assert again.status_code == 201
    assert again.json()["id"] != started["id"]
    assert again.json()["document"] == started["document"]
    [version] = client.get(f"/api/pieces/{again.json()['id']}/versions").json()
    assert version["name"] == "First"
    assert client.get(f"/api/pieces/{again.json()['id']}/thumbnail.png").status_code == 200


def test_what_is_no_piece_file_is_refused_and_nothing_is_put_on_the_shelf(client, started):
    saved = client.get(f"/api/pieces/{started['id']}/file").content
    for data in (b"", saved[: len(saved) // 2], b"PK" + bytes(4000)):
        answer = client.post("/api/piece-files", files={"file": ("hill.piece.zip", data)})
        assert answer.status_code == 422
        assert "piece.json" in answer.json()["message"]
    assert len(client.get("/api/pieces").json()) == 1
    assert client.get("/api/pieces/none/file").status_code == 404


def test_a_piece_of_another_version_stays_on_the_shelf_and_hides_no_other(client, started):
    workshop = client.app.state.context.workshop
    document = {**started["document"], "title": "From later", "beyond": {"depth": 4}}
    strange = workshop.pieces.create(document, "Begun")
    cards = {card["id"]: card for card in client.get("/api/pieces").json()}
    assert cards[strange.id]["title"] == "From later" and "another version" in cards[strange.id]["body"]
    assert cards[started["id"]]["body"] == "Relief panel"
    refused = client.get(f"/api/pieces/{strange.id}")
    assert refused.status_code == 422 and "beyond" in refused.json()["message"]
    assert client.delete(f"/api/pieces/{strange.id}").status_code in (200, 422)
    assert workshop.pieces.get(strange.id).document["beyond"] == {"depth": 4}
