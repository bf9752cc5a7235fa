"""Pieces put together of pieces, over the API."""

import io
import json
import zipfile

import numpy as np
import pytest
import trimesh

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import read_mesh, write_mesh
from nebrel.core.mesh.measure import volume
from nebrel.store.pieces import Pieces


def stl_of(made: trimesh.Trimesh) -> bytes:
    held = io.BytesIO()
    write_mesh(TriMesh(np.asarray(made.vertices, float), np.asarray(made.faces, np.uint32)), held, "stl")
    return held.getvalue()


@pytest.fixture
def block(client) -> dict:
    """A piece from a block of 20 × 20 × 10 mm."""
    return client.post("/api/models", files={"model": ("block.stl", stl_of(trimesh.creation.box((20, 20, 10))))}).json()


@pytest.fixture
def whole(client, block) -> dict:
    """A whole of the block alone."""
    answer = client.post("/api/assemblies", json={"pieces": [block["id"]]})
    assert answer.status_code == 201, answer.json()
    return answer.json()


def revise(client, piece: dict, change: dict, expected: int = 201) -> dict:
    body = {"base": piece["revision"], "label": "Changed", "change": change}
    answer = client.post(f"/api/pieces/{piece['id']}/revisions", json=body)
    assert answer.status_code == expected, answer.json()
    return answer.json()


def with_disc(whole: dict, **more: object) -> list[dict]:
    """The parts of a whole with a disc under them."""
    disc = {
        "id": "disc", "name": "Base", "x_mm": 10, "y_mm": 10, **more,
        "source": {"kind": "ready", "shape": "plate", "width_mm": 40, "depth_mm": 40, "height_mm": 5},
    }  # fmt: skip
    [part] = whole["document"]["assembly"]
    return [disc, {**part, "stands": "on", "sink_mm": 0.05}]


def test_several_pieces_lie_side_by_side_on_a_plate(client, block, started):
    answer = client.post("/api/assemblies", json={"pieces": [block["id"], started["id"], block["id"]]})
    assert answer.status_code == 201
    made = answer.json()
    assert made["kind"] == "assembly"
    assert [station["name"] for station in made["stations"]] == ["parts", "body", "proof", "deliver"]
    parts = made["document"]["assembly"]
    assert {part["how"] for part in parts} == {"apart"}
    assert [part["source"]["piece_id"] for part in parts] == [block["id"], started["id"], block["id"]]
    findings = client.post(f"/api/pieces/{made['id']}/findings", json={"change": {}, "longest_px": 360})
    assert "parts_pass" not in findings.text


def test_a_part_stands_on_what_is_under_it_and_both_are_one_solid(client, whole, job_until):
    revised = revise(client, whole, {"assembly": with_disc(whole), "delivery": {"format": "stl"}})
    job = client.post(f"/api/pieces/{revised['id']}/build").json()
    done = job_until(job["id"], lambda job: job["state"] in ("done", "failed"))
    report = done["result"]["report"]
    assert not [each for each in report["findings"] if each["severity"] == "fault"]
    assert report["size_mm"] == pytest.approx([40, 40, 14.95], abs=1e-3)
    mesh = read_mesh(client.get(f"/api/jobs/{job['id']}/file").content, "whole.stl").mesh
    assert volume(mesh) == pytest.approx(40 * 40 * 5 + 20 * 20 * 9.95, rel=1e-5)


def test_parts_that_only_touch_or_float_are_told_with_what_mends_it(client, whole, computing):
    disc, block = with_disc(whole)
    touching = revise(client, whole, {"assembly": [disc, {**block, "stands": "free", "z_mm": 5}]})
    found = computing.piece(touching["id"]).evaluator.findings()
    [touch] = [each for each in found if each.measure == "parts_touch"]
    assert touch.fix is not None
    assert touch.fix.parameters == {"id": block["id"], "mm": 0.05}
    floating = revise(client, touching, {"assembly": [disc, {**block, "stands": "free", "z_mm": 30}]})
    found = computing.piece(floating["id"]).evaluator.findings()
    assert [each.measure for each in found if each.measure.startswith("part")] == ["part_floats"]
    mended = revise(client, floating, {"assembly": [disc, {**block, "stands": "on"}]})
    found = computing.piece(mended["id"]).evaluator.findings()
    assert not [each for each in found if each.measure.startswith("part")]


def test_a_change_of_a_piece_reaches_the_whole_and_what_that_is_part_of(client, block, whole):
    outer = client.post("/api/assemblies", json={"pieces": [whole["id"]]}).json()
    revise(client, block, {"steps": [{"kind": "size", "id": "size", "axis": "z", "size_mm": 30}]})
    for each in (whole, outer):
        now = client.get(f"/api/pieces/{each['id']}").json()
        assert now["revision"] != each["revision"]
        assert now["undoes"].startswith("Followed")
    sizes = {card["id"]: card["size_mm"] for card in client.get("/api/pieces").json()}
    assert sizes[whole["id"]][2] == pytest.approx(30)
    assert sizes[outer["id"]][2] == pytest.approx(30)


def test_a_copy_of_a_piece_stays_as_it_was(client, block, whole):
    [part] = whole["document"]["assembly"]
    copied = revise(client, whole, {"assembly": [{**part, "source": {**part["source"], "follow": False}}]})
    revise(client, block, {"title": "Taller block"})
    assert client.get(f"/api/pieces/{whole['id']}").json()["revision"] == copied["revision"]


def test_a_piece_is_added_on_top_but_never_to_itself(client, block, whole):
    added = client.post(f"/api/pieces/{whole['id']}/parts", json={"base": whole["revision"], "piece_id": block["id"]})
    assert added.status_code == 201
    assert added.json()["document"]["assembly"][1]["stands"] == "on"
    outer = client.post("/api/assemblies", json={"pieces": [whole["id"]]}).json()
    for inside in (whole["id"], outer["id"]):
        order = {"base": added.json()["revision"], "piece_id": inside}
        refused = client.post(f"/api/pieces/{whole['id']}/parts", json=order)
        assert refused.status_code == 409
        assert "part of itself" in refused.json()["message"]
    order = {"base": block["revision"], "piece_id": whole["id"]}
    assert client.post(f"/api/pieces/{block['id']}/parts", json=order).status_code == 409


def test_copies_go_round_in_a_ring_and_along_a_row(client, whole, computing):
    disc, _ = with_disc(whole)
    peg = {"id": "peg", "name": "Peg", "x_mm": 15, "copies": 4, "spread": "ring", "z_mm": 4,
           "source": {"kind": "ready", "shape": "plate", "width_mm": 2, "depth_mm": 2, "height_mm": 6}}  # fmt: skip
    revised = revise(client, whole, {"assembly": [{**disc, "x_mm": 0, "y_mm": 0}, peg]})
    solids = computing.piece(revised["id"]).evaluator.solids(0)
    middles = [(each.mesh.vertices.min(axis=0) + each.mesh.vertices.max(axis=0))[:2] / 2 for each in solids[1:]]
    np.testing.assert_allclose(middles, [[15, 0], [0, 15], [-15, 0], [0, -15]], atol=1e-9)
    row = {**peg, "spread": "row", "copies": 3, "step_x_mm": -4, "step_y_mm": 1}
    revised = revise(client, revised, {"assembly": [{**disc, "x_mm": 0, "y_mm": 0}, row]})
    solids = computing.piece(revised["id"]).evaluator.solids(0)
    middles = [(each.mesh.vertices.min(axis=0) + each.mesh.vertices.max(axis=0))[:2] / 2 for each in solids[1:]]
    np.testing.assert_allclose(middles, [[15, 0], [11, 1], [7, 2]], atol=1e-9)


def test_what_stands_in_something_round_is_sunk_until_all_of_its_foot_is_inside(client, block, computing):
    ball = client.post(
        "/api/models", files={"model": ("ball.stl", stl_of(trimesh.creation.icosphere(subdivisions=5, radius=20.0)))}
    ).json()
    made = client.post("/api/assemblies", json={"pieces": [ball["id"]]}).json()
    peg = {"id": "peg", "name": "Peg", "x_mm": 20, "y_mm": 20, "sink_mm": 0,
           "source": {"kind": "ready", "shape": "plate", "width_mm": 12, "depth_mm": 12, "height_mm": 10}}  # fmt: skip
    parts = made["document"]["assembly"]
    feet = {}
    for stands in ("on", "into"):
        made = revise(client, made, {"assembly": [*parts, {**peg, "stands": stands}]})
        feet[stands] = computing.piece(made["id"]).evaluator.solids(0)[1].mesh.vertices[:, 2].min()
    assert feet["on"] == pytest.approx(40, abs=0.05)
    assert feet["into"] == pytest.approx(20 + np.sqrt(400 - 72), abs=0.1)


@pytest.mark.parametrize("form", ["3mf", "glb", "obj"])
def test_parts_are_delivered_as_objects_with_their_names_and_colours(client, whole, job_until, form):
    disc, block = with_disc(whole, colour_on=True, colour="#204080")
    revised = revise(client, whole, {"assembly": [disc, block], "objects": "each", "delivery": {"format": form}})
    job = client.post(f"/api/pieces/{revised['id']}/build").json()
    done = job_until(job["id"], lambda job: job["state"] in ("done", "failed"))
    assert done["state"] == "done", done["message"]
    data = client.get(f"/api/jobs/{job['id']}/file").content
    if form == "3mf":
        text = zipfile.ZipFile(io.BytesIO(data)).read("3D/3dmodel.model").decode()
        assert text.count("<object ") == 2
        assert 'name="Base"' in text
        assert 'name="block"' in text
        assert "#204080" in text
    elif form == "glb":
        length = int.from_bytes(data[12:16], "little")
        told = json.loads(data[20 : 20 + length])
        assert [node["name"] for node in told["nodes"]] == ["Base", "block"]
        scene = trimesh.load(io.BytesIO(data), file_type="glb")
        assert len(scene.geometry) == 2
    else:
        package = zipfile.ZipFile(io.BytesIO(data))
        names = package.namelist()
        text = package.read(next(name for name in names if name.endswith(".obj"))).decode()
        assert [line for line in text.splitlines() if line.startswith("o ")] == ["o Base", "o block"]
        assert any(name.endswith(".mtl") for name in names)


def test_steps_and_decorations_work_on_the_whole(client, whole, job_until):
    revised = revise(
        client,
        whole,
        {"assembly": with_disc(whole), "steps": [{"kind": "turn", "id": "t", "way": "typed", "x_deg": 90}]},
    )
    sizes = {card["id"]: card["size_mm"] for card in client.get("/api/pieces").json()}
    assert sizes[revised["id"]] == pytest.approx([40, 14.95, 40], abs=1e-3)


def test_a_piece_that_is_not_closed_is_refused_by_its_name(client):
    made = trimesh.creation.box((20, 20, 10))
    made.update_faces(np.arange(11))
    leaky = client.post("/api/models", files={"model": ("leaky.stl", stl_of(made))}).json()
    answer = client.post("/api/assemblies", json={"pieces": [leaky["id"]]})
    assert answer.status_code == 422
    assert "“leaky” is not a closed solid" in answer.json()["message"]


def test_a_whole_of_nothing_that_is_there_is_refused(client):
    assert client.post("/api/assemblies", json={"pieces": []}).status_code == 422
    assert client.post("/api/assemblies", json={"pieces": ["gone"]}).status_code == 404


def test_a_whole_that_is_changed_at_that_very_moment_keeps_that_change_and_stays_in_step(
    client, block, whole, monkeypatch
):
    holding = Pieces.holding

    def changed_meanwhile(self: Pieces, name: str) -> list:
        found = holding(self, name)
        monkeypatch.setattr(Pieces, "holding", holding)
        revise(client, whole, {"title": "Renamed meanwhile"})
        return found

    monkeypatch.setattr(Pieces, "holding", changed_meanwhile)
    revise(client, block, {"steps": [{"kind": "size", "id": "size", "axis": "z", "size_mm": 20}]})
    now = client.get(f"/api/pieces/{whole['id']}").json()
    assert now["document"]["title"] == "Renamed meanwhile"
    [part] = now["document"]["assembly"]
    assert part["source"]["document"]["steps"][0]["size_mm"] == 20


def test_a_piece_laid_on_a_panel_is_followed_and_a_panel_on_itself_refused(client, started, hill):
    other = client.post("/api/pieces", files={"picture": ("hill.png", hill)}).json()
    answer = client.post(
        f"/api/pieces/{started['id']}/parts", json={"base": started["revision"], "piece_id": other["id"]}
    )
    assert answer.status_code == 201, answer.json()
    (laid,) = answer.json()["document"]["height"]["laid"]
    assert laid["source"]["piece_id"] == other["id"] and laid["source"]["follow"]
    revise(client, other, {"title": "Another hill"})
    now = client.get(f"/api/pieces/{started['id']}").json()
    assert now["document"]["height"]["laid"][0]["source"]["document"]["title"] == "Another hill"
    assert now["undoes"] == "Followed Another hill"
    order = {"base": now["revision"], "piece_id": started["id"]}
    refused = client.post(f"/api/pieces/{started['id']}/parts", json=order)
    assert refused.status_code == 409 and "part of itself" in refused.json()["message"]
    # Nor round about: what holds it cannot be laid on it.
    order = {"base": client.get(f"/api/pieces/{other['id']}").json()["revision"], "piece_id": started["id"]}
    assert client.post(f"/api/pieces/{other['id']}/parts", json=order).status_code == 409


def test_a_picture_is_laid_on_a_panel_and_only_on_one(client, started, block, hill):
    blob = client.post("/api/pictures", files={"picture": ("crest.png", hill)}).json()["blob"]
    order = {"base": started["revision"], "blob": blob, "name": "crest.png"}
    answer = client.post(f"/api/pieces/{started['id']}/reliefs", json=order)
    assert answer.status_code == 201, answer.json()
    assert answer.json()["document"]["height"]["laid"][0]["name"] == "crest"
    order["base"] = block["revision"]
    refused = client.post(f"/api/pieces/{block['id']}/reliefs", json=order)
    assert refused.status_code == 409 and "no relief can be laid" in refused.json()["message"]
    gone = {"base": answer.json()["revision"], "blob": "0" * 64, "name": "gone.png"}
    assert client.post(f"/api/pieces/{started['id']}/reliefs", json=gone).status_code in (404, 422)


def test_a_mould_is_begun_as_suits_the_piece_and_follows_it(client, started, block, job_until):
    flat = client.post("/api/moulds", json={"piece_id": started["id"]})
    assert flat.status_code == 201, flat.json()
    made = flat.json()
    assert made["kind"] == "mould" and made["document"]["mould"]["kind"] == "open"
    assert [each["name"] for each in made["stations"]] == ["mould", "body", "proof", "deliver"]
    revise(client, started, {"title": "Steeper"})
    now = client.get(f"/api/pieces/{made['id']}").json()
    assert now["document"]["mould"]["source"]["document"]["title"] == "Steeper"
    order = {"base": now["revision"], "piece_id": block["id"]}
    other = client.post(f"/api/pieces/{made['id']}/parts", json=order).json()
    assert other["document"]["mould"]["source"]["piece_id"] == block["id"]
    job = client.post(f"/api/pieces/{made['id']}/build").json()
    done = job_until(job["id"], lambda job: job["state"] in ("done", "failed"))
    assert done["result"]["report"]["mould"]["parts"] == 1
    ball = client.post("/api/models", files={"model": ("ball.stl", stl_of(trimesh.creation.icosphere(3, 12)))}).json()
    assert client.post("/api/moulds", json={"piece_id": ball["id"]}).json()["document"]["mould"]["kind"] == "halves"
    assert client.post("/api/moulds", json={"piece_id": "nothing"}).status_code == 404
