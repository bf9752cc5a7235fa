"""Pieces made of outlines over the API."""

import io

import numpy as np
import pytest
from PIL import Image, ImageDraw

from nebrel.core.mesh.formats import read_mesh
from nebrel.core.outline_files.read import read_drawing
from nebrel.core.proof import check_soundness
from nebrel.core.region.curves import figure_region
from tests.api.edits import step
from tests.api.frames import unpack

TO_CUTTER = {"height": None, "body": None, "finish": None, "trace": {}, "width_mm": 60, "solid": {"kind": "cutter"}}


def revise(client, piece: dict, change: dict) -> dict:
    body = {"base": piece["revision"], "label": "Changed", "change": change}
    answer = client.post(f"/api/pieces/{piece['id']}/revisions", json=body)
    assert answer.status_code == 201, answer.json()
    return answer.json()


def outlines(client, piece: dict, change: dict | None = None) -> dict:
    answer = client.post(f"/api/pieces/{piece['id']}/outlines", json={"change": change or {}})
    assert answer.status_code == 200, answer.json()
    return answer.json()


@pytest.fixture
def leaf(client) -> dict:
    """A panel from white paper with a gray leaf, black veins and a speck."""
    sheet = Image.new("L", (600, 480), 255)
    pen = ImageDraw.Draw(sheet)
    pen.ellipse((60, 60, 540, 420), fill=128)
    pen.ellipse((20, 20, 34, 34), fill=128)
    for x in (200, 300, 400):
        pen.rectangle((x - 6, 140, x + 6, 340), fill=0)
    held = io.BytesIO()
    sheet.save(held, "PNG")
    answer = client.post("/api/pieces", files={"picture": ("leaf.png", held.getvalue())})
    assert answer.status_code == 201
    return answer.json()


def start(client, name: str, data: bytes, **more: str):
    return client.post("/api/drawings", files={"drawing": (name, data)}, data=more)


SVG = b'<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">%s</svg>'
BOXES = SVG % b'<rect width="20" height="10"/><rect x="30" width="20" height="10"/><text>Acorn</text>'


def test_a_tone_that_is_left_out_is_a_finding_whose_fix_follows_it(client):
    sheet = Image.new("L", (300, 300), 255)
    pen = ImageDraw.Draw(sheet)
    pen.ellipse((40, 40, 260, 260), fill=190)
    pen.rectangle((120, 60, 180, 240), fill=0)
    held = io.BytesIO()
    sheet.save(held, "PNG")
    piece = client.post("/api/pieces", files={"picture": ("leaf.png", held.getvalue())}).json()
    raised = revise(client, piece, TO_CUTTER | {"solid": {"kind": "raised"}})

    def told(piece: dict) -> list[dict]:
        answer = client.post(f"/api/pieces/{piece['id']}/findings", json={"change": {}})
        assert answer.status_code == 200, answer.json()
        return [each for each in answer.json() if each["measure"] == "differs-from-picture"]

    (found,) = told(raised)
    assert found["fix"]["kind"] == "trace"
    assert told(revise(client, raised, {"trace": found["fix"]["parameters"]})) == []


def test_a_panel_becomes_a_cutter_and_back(client, leaf):
    cutter = revise(client, leaf, TO_CUTTER)
    assert cutter["document"]["solid"]["lines"] == 4
    assert cutter["document"]["picture"] == leaf["document"]["picture"]
    (card,) = client.get("/api/pieces").json()
    assert (card["body"], card["size_mm"][2]) == ("Cutter", pytest.approx(16, abs=0.001))
    back = revise(
        client, cutter, {"trace": None, "mend": None, "solid": None, "width_mm": None, "height": {}, "body": {}}
    )
    assert back["document"]["body"]["kind"] == "panel"
    undone = step(client, leaf["id"], "undo").json()
    assert undone["document"]["solid"]["kind"] == "cutter"


def test_outlines_are_shown_with_their_faults(client, leaf):
    piece = revise(client, leaf, TO_CUTTER)
    found = outlines(client, piece)
    assert found["width_mm"] == 60
    assert len(found["curves"]) == 2
    large = max(found["curves"], key=lambda curve: curve["area_mm2"])
    assert large["path"].startswith("M")
    assert large["path"].endswith("Z")
    assert large["area_mm2"] == pytest.approx(np.pi / 4 * 48.1 * 36.1, rel=0.01)


def test_a_speck_is_taken_away_and_the_step_stays_when_the_piece_grows(client, leaf):
    piece = revise(client, leaf, TO_CUTTER)
    found = outlines(client, piece)
    speck = min(found["curves"], key=lambda curve: curve["area_mm2"])
    place = [coordinate / found["width_mm"] for coordinate in speck["nodes"][0]]
    piece = revise(client, piece, {"mend": [{"kind": "delete", "id": "a", "chosen": [place]}]})
    assert len(outlines(client, piece)["curves"]) == 1
    assert len(outlines(client, piece, {"width_mm": 120})["curves"]) == 1
    assert len(outlines(client, piece, {"trace": {"smooth": 0.8}})["curves"]) == 1


def test_a_step_that_leaves_nothing_is_refused_and_nothing_is_lost(client, leaf):
    piece = revise(client, leaf, TO_CUTTER)
    body = {"base": piece["revision"], "label": "Eaten", "change": {"mend": [{"kind": "offset", "by_mm": -80}]}}
    answer = client.post(f"/api/pieces/{piece['id']}/revisions", json=body)
    assert answer.status_code == 422
    assert "leaves nothing" in answer.json()["message"]
    assert client.get(f"/api/pieces/{piece['id']}").json()["revision"] == piece["revision"]


def test_plan_and_model_of_outlines(client, leaf):
    piece = revise(client, leaf, TO_CUTTER)
    head, arrays = unpack(client.post(f"/api/pieces/{piece['id']}/plan", json={"longest_px": 200}).content)
    assert head["size_mm"][0] > 60
    assert np.nanmax(arrays["heights"]) == pytest.approx(16, abs=0.01)
    head, arrays = unpack(client.post(f"/api/pieces/{piece['id']}/plan", json={"longest_px": 200, "upto": ""}).content)
    assert head["size_mm"][0] == pytest.approx(60)
    assert client.post(f"/api/pieces/{piece['id']}/model", json={}).status_code == 200
    findings = client.post(f"/api/pieces/{piece['id']}/findings", json={}).json()
    assert all(finding["what"] for finding in findings)


def test_a_drawing_stands_on_the_shelf_and_names_what_it_left_out(client):
    piece = start(client, "two.svg", BOXES).json()
    assert piece["document"]["drawing"]["size_mm"] == pytest.approx([50, 10], rel=1e-4)
    findings = client.post(f"/api/pieces/{piece['id']}/findings", json={}).json()
    assert any("Text was left out" in finding["what"] for finding in findings)
    assert any("2 parts that nothing joins" in finding["what"] for finding in findings)
    head, _ = unpack(client.post(f"/api/pieces/{piece['id']}/plan", json={"upto": ""}).content)
    assert head["size_mm"][:2] == pytest.approx([50, 10], rel=1e-4)


def test_a_drawing_without_a_size_is_asked_for_its_unit(client):
    silent = BOXES.replace(b' width="60mm" height="40mm"', b"")
    answer = start(client, "two.svg", silent)
    assert answer.status_code == 422
    assert answer.json()["sizes_mm"]["in"][0] == pytest.approx(50 * 25.4, rel=1e-4)
    told = start(client, "two.svg", silent, unit="cm").json()
    assert told["document"]["width_mm"] == pytest.approx(500, rel=1e-4)


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("a.svg", b"<svg", "damaged at line"),
        ("a.dxf", b"nothing", "cannot be read as DXF"),
        ("a.svg", SVG % b"", "no shapes"),
    ],
)
def test_bad_drawings_leave_nothing_on_the_shelf(client, name, data, words):
    answer = start(client, name, data)
    assert answer.status_code == 422
    assert words in answer.json()["message"]
    assert client.get("/api/pieces").json() == []


@pytest.mark.parametrize(("address", "name"), [("svg", "a.svg"), ("dxf", "a.dxf"), ("dxf?splines=true", "a.dxf")])
def test_outlines_are_handed_on_as_files(client, address, name):
    piece = start(client, "two.svg", BOXES).json()
    answer = client.get(f"/api/pieces/{piece['id']}/outlines.{address}")
    assert answer.status_code == 200
    assert "attachment" in answer.headers["content-disposition"]
    assert figure_region(read_drawing(answer.content, name).figure).area == pytest.approx(400, rel=1e-4)


def test_a_solid_that_was_not_made_lighter_is_nowhere_off(client):
    piece = start(client, "two.svg", BOXES).json()
    head, arrays = unpack(client.post(f"/api/pieces/{piece['id']}/map", json={"kind": "deviation"}).content)
    assert head["most"] == pytest.approx(0, abs=1e-3)
    assert np.isfinite(arrays["values"]).all()


def test_other_pieces_have_no_outlines(client, leaf):
    answer = client.post(f"/api/pieces/{leaf['id']}/outlines", json={})
    assert answer.status_code == 409
    assert "not made of outlines" in answer.json()["message"]


def test_a_stamp_is_built_and_sound(client, job_until):
    piece = start(client, "two.svg", BOXES).json()
    gone = dict.fromkeys(piece["document"]["solid"])
    piece = revise(client, piece, {"solid": {**gone, "kind": "stamp"}})
    started = client.post(f"/api/pieces/{piece['id']}/build").json()
    job = job_until(started["id"], lambda job: job["state"] not in ("waiting", "running"))
    assert job["state"] == "done", job
    file = client.get(f"/api/jobs/{job['id']}/file").content
    assert check_soundness(read_mesh(file, "stamp.stl").mesh).sound
    assert job["result"]["report"]["max_error_mm"] <= 0.01
