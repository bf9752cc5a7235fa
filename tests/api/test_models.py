"""Models, versions, targets and maps over the API."""

import io
import json
import zipfile

import numpy as np
import pytest

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import write_mesh
from tests.api.edits import step
from tests.api.frames import unpack


def stl(scale: float = 1.0, whole: bool = True) -> bytes:
    corners = np.array([[x, y, z] for x in (0, 30) for y in (0, 20) for z in (0, 10)], dtype=np.float64)
    faces = np.array(
        [[0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1],
         [2, 3, 7], [2, 7, 6], [0, 2, 6], [0, 6, 4], [1, 5, 7], [1, 7, 3]], dtype=np.uint32)  # fmt: skip
    held = io.BytesIO()
    write_mesh(TriMesh(corners * scale, faces if whole else faces[1:]), held, "stl")
    return held.getvalue()


@pytest.fixture
def block(client) -> dict:
    """A piece from a block that lacks a face."""
    answer = client.post("/api/models", files={"model": ("block.stl", stl(whole=False))})
    assert answer.status_code == 201
    return answer.json()


def revise(client, piece: dict, change: dict) -> dict:
    body = {"base": piece["revision"], "label": "Changed", "change": change}
    answer = client.post(f"/api/pieces/{piece['id']}/revisions", json=body)
    assert answer.status_code == 201, answer.json()
    return answer.json()


def test_a_model_stands_on_the_shelf(client, block):
    (card,) = client.get("/api/pieces").json()
    assert card["body"] == "Model"
    assert card["size_mm"] == pytest.approx([30, 20, 10])
    assert client.get(f"/api/pieces/{block['id']}/thumbnail.png").content.startswith(b"\x89PNG")


def test_a_missing_unit_is_asked_for_with_the_sizes_it_would_give(client):
    answer = client.post("/api/models", files={"model": ("tiny.stl", stl(0.001))})
    assert answer.status_code == 422
    assert "please say whether its numbers are" in answer.json()["message"]
    assert answer.json()["sizes_mm"]["m"] == pytest.approx([30, 20, 10])
    assert client.get("/api/pieces").json() == []
    told = client.post("/api/models", files={"model": ("tiny.stl", stl(0.001))}, data={"unit": "m"})
    assert told.json()["document"]["model"]["size_mm"] == pytest.approx([30, 20, 10])
    plan = unpack(client.post(f"/api/pieces/{told.json()['id']}/plan", json={}).content)
    assert plan[0]["size_mm"] == pytest.approx([30, 20, 10])


def test_hostile_models_are_refused_in_a_sentence(client):
    for name, data in {"a.stl": b"", "b.obj": b"hello", "c.3mf": b"PK\x03\x04broken", "d.step": b"x"}.items():
        answer = client.post("/api/models", files={"model": (name, data)})
        assert answer.status_code in (413, 422)
        assert answer.json()["message"].endswith((".", "accepted."))
    assert client.get("/api/pieces").json() == []


def test_steps_mend_a_model_and_tell_what_they_did(client, block):
    found = client.post(f"/api/pieces/{block['id']}/findings", json={}).json()
    fault = next(finding for finding in found if finding["measure"] == "closed")
    assert fault["fix"]["kind"] == "repair"
    mended = revise(client, block, {"steps": [{"kind": "repair", "id": "one"}]})
    outcomes = client.post(f"/api/pieces/{block['id']}/outcomes", json={}).json()
    assert outcomes[1]["id"] == "one"
    assert outcomes[1]["description"] == "1 hole filled"
    found = client.post(f"/api/pieces/{block['id']}/findings", json={}).json()
    assert all(finding["severity"] != "fault" for finding in found)
    assert step(client, block["id"], "undo").json()["document"]["steps"] == []
    assert mended["document"]["model"]["name"] == "block.stl"


def test_parts_are_listed_as_they_come_into_a_step(client, block):
    piece = revise(client, block, {"steps": [{"kind": "keep-parts", "id": "some"}]})
    (part,) = client.get(f"/api/pieces/{piece['id']}/parts/some").json()
    assert part["size_mm"] == pytest.approx([30, 20, 10])
    assert (part["number"], part["triangles"], part["closed"]) == (1, 11, False)
    assert client.get(f"/api/pieces/{piece['id']}/parts/other").status_code == 404


def test_a_step_that_cannot_be_done_is_refused_and_the_piece_stays(client, block):
    change = {"steps": [{"kind": "cut", "id": "x", "at_mm": 5}]}
    body = {"base": block["revision"], "label": "Cut", "change": change}
    answer = client.post(f"/api/pieces/{block['id']}/revisions", json=body)
    assert answer.status_code == 422
    assert "repair it first" in answer.json()["message"]
    assert client.get(f"/api/pieces/{block['id']}").json()["revision"] == block["revision"]


def test_a_model_has_no_picture_routes(client, block, started):
    assert client.post(f"/api/pieces/{block['id']}/steps", json={}).status_code == 409
    assert client.post(f"/api/pieces/{started['id']}/outcomes", json={}).status_code == 409
    assert client.get(f"/api/pieces/{block['id']}/source.png").status_code == 409


def test_building_a_light_model(client, block, job_until):
    light = {"on": True, "by": "triangles", "triangles": 12}
    revise(client, block, {"steps": [{"kind": "repair", "id": "one"}], "light": light, "delivery": {"format": "3mf"}})
    job = client.post(f"/api/pieces/{block['id']}/build").json()
    done = job_until(job["id"], lambda job: job["state"] in ("done", "failed"))
    assert done["state"] == "done", done["message"]
    assert done["result"]["report"]["closed"]
    assert done["result"]["file_name"].endswith(".3mf")
    head, arrays = unpack(client.get(f"/api/jobs/{job['id']}/model").content)
    assert head["triangles"] == 12
    assert arrays["positions"].min() == 0
    head, arrays = unpack(client.get(f"/api/jobs/{job['id']}/map?kind=thickness").content)
    assert head["least"] == pytest.approx(10)
    assert len(arrays["values"]) == len(arrays["positions"])


def test_steps_and_maps_of_a_relief(client, started):
    tables = client.post(f"/api/pieces/{started['id']}/steps", json={}).json()
    assert sum(row["share"] for row in tables["found"]) == pytest.approx(1)
    head, arrays = unpack(client.post(f"/api/pieces/{started['id']}/map", json={"kind": "thickness"}).content)
    assert head["unit"] == "mm"
    assert head["limit"] == pytest.approx(0.42)
    assert np.isfinite(arrays["values"]).any()
    level = {"start": [0, 0.5], "end": [1, 0.5], "tilt_deg": 90, "lift_mm": 2.0}
    section = client.post(f"/api/pieces/{started['id']}/section", json=level).json()
    assert section["asked"] == []
    assert len(section["made"]) >= 1


def test_versions_are_named_looked_at_and_brought_back(client, started):
    url = f"/api/pieces/{started['id']}/versions"
    version = client.post(url, json={"name": "First"}).json()
    later = revise(client, started, {"height": {"rule": {"relief_mm": 8}}})
    assert [each["name"] for each in client.get(url).json()] == ["First"]
    head, _ = unpack(client.get(f"/api/versions/{version['id']}/model").content)
    assert head["triangles"] > 10
    back = client.post(f"/api/versions/{version['id']}/restore", params={"base": later["revision"]}).json()
    assert back["document"]["height"]["rule"]["relief_mm"] == 3
    assert back["undoes"] == "Back to First"
    assert step(client, started["id"], "undo").json()["document"]["height"]["rule"]["relief_mm"] == 8
    assert client.delete(f"/api/versions/{version['id']}").status_code == 204
    assert client.get(url).json() == []
    assert client.get(f"/api/versions/{version['id']}/model").status_code == 404


def test_targets_are_ready_can_be_edited_and_stay(client):
    ready = client.get("/api/light-targets").json()
    assert len(ready) >= 4
    added = client.post("/api/light-targets", json={"name": "Mine", "by": "tolerance", "amount": 0.1}).json()
    changed = {**added, "amount": 0.2}
    assert client.put(f"/api/light-targets/{added['id']}", json=changed).json() == changed
    assert changed in client.get("/api/light-targets").json()
    assert client.delete(f"/api/light-targets/{added['id']}").status_code == 204
    assert client.get("/api/light-targets").json() == ready
    refused = client.post("/api/light-targets", json={"name": "", "by": "tolerance", "amount": -1})
    assert refused.status_code == 422


def test_heights_are_exported_with_their_facts(client, started, block, job_until):
    job = client.post(f"/api/pieces/{started['id']}/export-heights", json={"format": "png"}).json()
    done = job_until(job["id"], lambda job: job["state"] in ("done", "failed"))
    assert done["state"] == "done", done["message"]
    package = zipfile.ZipFile(io.BytesIO(client.get(f"/api/jobs/{job['id']}/file").content))
    picture, facts = sorted(package.namelist(), reverse=True)
    assert (picture[-4:], facts[-5:]) == (".png", ".json")
    assert json.loads(package.read(facts))["highest_mm"] == pytest.approx(4.2, abs=1e-3)
    assert client.post(f"/api/pieces/{block['id']}/export-heights", json={"format": "png"}).status_code == 409
