"""What the Picture station asks the server for."""

import io
import time

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from nebrel.api.app import create_app
from nebrel.core.picture import read_picture
from nebrel.demo.pictures.plate import draw_ivy
from tests.api.conftest import BASE
from tests.api.frames import unpack

INVERT = {"kind": "invert", "id": "a"}
LEVELS = {"kind": "levels", "id": "b", "black": 0.2, "white": 0.7}
EMPTYING = {"kind": "crop", "id": "c", "box": {"left": 2, "bottom": 0, "right": 3, "top": 1}}


@pytest.fixture
def edited(client, started):
    """Keep ops of the hill."""

    def keep(*ops: dict) -> dict:
        now = client.get(f"/api/pieces/{started['id']}").json()
        edit = {"base": now["revision"], "label": "Ops", "change": {"ops": list(ops)}}
        answer = client.post(f"/api/pieces/{started['id']}/revisions", json=edit)
        assert answer.status_code in (200, 201), answer.text
        return answer.json()

    return keep


def plan(client, piece, **draft) -> tuple[dict, dict]:
    return unpack(client.post(f"/api/pieces/{piece['id']}/plan", json=draft).content)


def test_the_catalogue_names_every_kind_with_limits(client):
    kinds = {kind["kind"]: kind for kind in client.get("/api/ops").json()}
    assert len(kinds) >= 35
    border = {field["name"]: field for field in kinds["border"]["fields"]}
    assert border["left"]["lowest"] == 0
    assert border["unit"]["choices"]["mm"] == "mm"
    assert kinds["crop"]["tool"] == "box"
    assert all(kind["hint"].endswith(".") for kind in kinds.values())


def test_ops_are_kept_with_the_piece_and_change_its_plan(client, edited):
    piece = edited(INVERT)
    _, before = plan(client, piece, upto="")
    _, after = plan(client, piece)
    assert np.abs(before["tones"].astype(int) + after["tones"] - 65_535).max() <= 1
    again = client.get(f"/api/pieces/{piece['id']}").json()["document"]["ops"]
    assert again == [{"kind": "invert", "id": "a", "on": True}]


def test_the_plan_can_look_between_ops(client, edited):
    piece = edited(INVERT, LEVELS)
    whole, between = plan(client, piece, upto="a")
    _, final = plan(client, piece)
    assert not np.array_equal(between["tones"], final["tones"])
    assert np.array(whole["from_source"]) == pytest.approx(np.eye(3))
    gone = client.post(f"/api/pieces/{piece['id']}/plan", json={"upto": "nothing"})
    assert gone.status_code == 422
    assert "no such picture op" in gone.json()["message"]


def test_the_strip_shows_each_result_and_says_why_one_is_missing(client, edited):
    piece = edited(INVERT)
    draft = {"change": {"ops": [INVERT, EMPTYING]}}
    head, arrays = unpack(client.post(f"/api/pieces/{piece['id']}/strip", json=draft).content)
    assert head["ids"] == ["", "a", "c"]
    assert max(arrays["gray0"].shape) == 96
    assert np.abs(arrays["gray0"].astype(int) + arrays["gray1"] - 255).max() <= 1
    assert "gray2" not in arrays
    assert head["failed"]["c"].startswith("Crop: ")


def test_content_tones_and_curves(client, edited):
    piece = edited({"kind": "border", "id": "rim", "tone": 0, "left": 8, "right": 8, "top": 8, "bottom": 8}, LEVELS)
    box = client.post(f"/api/pieces/{piece['id']}/content-box", json={"upto": "rim"}).json()
    assert 0.05 < box["left"] < 0.3
    tones = client.post(f"/api/pieces/{piece['id']}/tones/b", json={"count": 4}).json()
    assert len(tones) == 4
    assert tones == sorted(tones)
    assert client.post(f"/api/pieces/{piece['id']}/tones/x", json={"count": 4}).status_code == 404
    curve = client.post("/api/ops/curve", json=[[0, 0.2], [1, 0.8]]).json()
    assert curve[50] == pytest.approx(0.5)
    refused = client.post("/api/ops/curve", json=[[0.5, 0], [0.5, 1]])
    assert "two points" in refused.json()["message"]


def test_thin_places_come_as_a_map(client, encode):
    ivy = encode(np.round(draw_ivy() * 255).astype(np.uint8))
    piece = client.post("/api/pieces", files={"picture": ("ivy.png", ivy)}).json()
    change = {"body": {"width_mm": 20}}
    _, arrays = unpack(client.post(f"/api/pieces/{piece['id']}/thin-map", json={"change": change}).content)
    assert arrays["strokes"].shape == arrays["gaps"].shape == (720, 720)
    assert 0 < (arrays["gaps"] > 0).mean() < 0.2
    _, wide = unpack(client.post(f"/api/pieces/{piece['id']}/thin-map", json={}).content)
    assert (wide["gaps"] > 0).sum() < (arrays["gaps"] > 0).sum()


def test_a_second_picture_is_kept_and_laid_over(client, edited, encode):
    other = encode(np.full((20, 30), 255, dtype=np.uint8))
    kept = client.post("/api/pictures", files={"picture": ("patch.png", other)})
    assert kept.status_code == 201
    layer = {"kind": "picture", "id": "p", "file": kept.json(), "width_mm": 20}
    piece = edited(layer)
    _, without = plan(client, piece, upto="")
    _, arrays = plan(client, piece)
    rows, columns = arrays["tones"].shape
    assert arrays["tones"][rows // 2, columns // 2] == 65_535
    assert (arrays["tones"] != without["tones"]).any()
    refused = client.post("/api/pictures", files={"picture": ("patch.png", b"no picture")})
    assert refused.status_code == 422


def test_the_source_is_shown_in_its_colours(client, encode):
    colours = np.tile(np.array([200, 30, 40], dtype=np.uint8), (700, 900, 1))
    colours[400:] = 10
    red = encode(colours)
    piece = client.post("/api/pieces", files={"picture": ("red.png", red)}).json()
    shown = Image.open(io.BytesIO(client.get(f"/api/pieces/{piece['id']}/source.png").content))
    assert max(shown.size) == 512
    assert shown.getpixel((20, 20))[:3] == (200, 30, 40)


@pytest.mark.parametrize("form", ["png", "tiff"])
def test_the_prepared_picture_is_saved_at_true_size(client, edited, job_until, form):
    piece = edited(INVERT, {"kind": "border", "id": "rim", "tone": 1.0})
    job = client.post(f"/api/pieces/{piece['id']}/export-picture", json={"format": form}).json()
    done = job_until(job["id"], lambda job: job["state"] not in ("waiting", "running"))
    assert done["state"] == "done", done["message"]
    assert done["result"] is None
    answer = client.get(f"/api/jobs/{job['id']}/file")
    assert done["picture"]["file_name"].endswith(form)
    assert answer.headers["content-type"] == f"image/{form}"
    back = read_picture(answer.content)
    assert (back.facts.width_px, back.facts.height_px) == tuple(done["picture"]["size_px"])
    assert (back.facts.width_px - 1) / back.facts.dpi * 25.4 == pytest.approx(80, rel=2e-3)
    assert back.facts.bit_depth == 16


def test_findings_offer_fixes_that_are_ops(client, encode):
    y, x = np.mgrid[0:300, 0:400]
    drawing = 1 - np.clip(12.5 - np.abs(np.hypot(x - 200, y - 150) - 90), 0, 1)
    gray = encode(np.round(drawing * 0.88 * 255).astype(np.uint8))
    piece = client.post("/api/pieces", files={"picture": ("gray.png", gray)}).json()
    (found,) = [
        finding
        for finding in client.post(f"/api/pieces/{piece['id']}/findings", json={}).json()
        if finding["measure"] == "near-white"
    ]
    op = {"kind": found["fix"]["kind"], "id": "f", **found["fix"]["parameters"]}
    draft = {"change": {"ops": [op]}}
    mended = client.post(f"/api/pieces/{piece['id']}/findings", json=draft).json()
    assert "near-white" not in {finding["measure"] for finding in mended}


def test_slow_previews_tell_how_far_they_are(settings, hill):
    app = create_app(settings)
    with TestClient(app, base_url=BASE) as client:
        piece = client.post("/api/pieces", files={"picture": ("hill.png", hill)}).json()
        told = []
        app.state.context.newsroom.tell = told.append
        tell = app.state.context.following(piece["id"])
        tell("Preparing the picture", 0.0)
        assert told == []
        deadline = time.monotonic() + 30
        while not told and time.monotonic() < deadline:
            tell("Preparing the picture: cut out", 0.5)
    (news,) = [news for news in told if news is not None and news.event == "preview"]
    assert news.data == {"piece_id": piece["id"], "stage": "Preparing the picture: cut out", "fraction": 0.5}
