"""Lithophanes and their materials over the API."""

import io
import math

import numpy as np
import pytest
from PIL import Image

from nebrel.core.mesh.formats import read_mesh
from nebrel.core.picture.srgb import encode_srgb
from nebrel.core.proof import check_soundness
from tests.api.frames import unpack

TO_LITHOPHANE = {"height": None, "body": None, "finish": None, "glow": {}, "form": {"width_mm": 60}}


def revise(client, piece: dict, change: dict) -> dict:
    body = {"base": piece["revision"], "label": "Changed", "change": change}
    answer = client.post(f"/api/pieces/{piece['id']}/revisions", json=body)
    assert answer.status_code == 201, answer.json()
    return answer.json()


@pytest.fixture
def lithophane(client, started) -> dict:
    return revise(client, started, TO_LITHOPHANE)


@pytest.fixture
def lantern(client, lithophane) -> dict:
    return revise(client, lithophane, {"form": {"kind": "cylinder", "width_mm": 120}})


def frame(client, piece: dict, what: str, **draft: object) -> tuple[dict, dict]:
    answer = client.post(f"/api/pieces/{piece['id']}/{what}", json={"change": {}, "longest_px": 320, **draft})
    assert answer.status_code == 200, answer.text
    return unpack(answer.content)


class TestPieces:
    def test_a_panel_becomes_a_lithophane_and_back(self, client, started, lithophane):
        assert lithophane["document"]["glow"]["material"]["name"] == "White filament"
        assert lithophane["document"]["picture"] == started["document"]["picture"]
        (card,) = client.get("/api/pieces").json()
        assert card["body"] == "Lithophane, flat"
        assert card["size_mm"][0] == pytest.approx(60, abs=0.01)
        back = revise(
            client, lithophane,
            {
                "glow": None, "colours": None, "form": None, "parts": None, "lamp": None, "hand": None, "edges": None,
                "body": {"width_mm": 60},
                "height": {},
            },
        )  # fmt: skip
        assert back["document"]["body"]["width_mm"] == 60

    def test_the_plan_is_the_unrolled_sheet(self, client, lantern):
        head, arrays = frame(client, lantern, "plan")
        assert head["size_mm"][0] == pytest.approx(120)
        through, window = arrays["heights"], arrays["window"]
        assert 0.7 < through[window == 1].min() < through.max() <= 3.21
        assert window[:, 5].sum() < len(window)
        rest, measured = frame(client, lantern, "plan", longest_px=720)
        assert rest["size_mm"] == head["size_mm"]
        assert measured["heights"].shape[1] > through.shape[1]

    def test_places_of_the_source_are_found_on_the_sheet(self, client, lithophane):
        head, arrays = frame(client, lithophane, "plan")
        matrix = np.array(head["from_source"])
        columns = arrays["window"].shape[1]
        inside = np.argwhere(arrays["window"] == 1)
        for corner, edge in (((0, 0, 1), inside.min(axis=0)[1]), ((1, 0, 1), inside.max(axis=0)[1])):
            assert (matrix @ corner)[0] * columns == pytest.approx(edge, abs=2)

    def test_the_picture_alone_can_still_be_looked_at(self, client, lithophane):
        head, arrays = frame(client, lithophane, "plan", upto="")
        assert "window" not in arrays
        assert head["size_mm"][0] == pytest.approx(54)

    def test_the_model_brings_its_sheet_along(self, client, lantern):
        head, arrays = frame(client, lantern, "model")
        assert (head["standing"], head["around"]) == (True, True)
        places = arrays["places"]
        assert len(places) == len(arrays["positions"]) == len(arrays["normals"])
        across = places[arrays["faces"], 0]
        assert (across.max(axis=1) - across.min(axis=1)).max() < 0.5
        assert arrays["through"].max() <= 3.3

    @pytest.mark.parametrize("kind", ["thickness", "deviation", "overhang-standing"])
    def test_measures_over_its_surface(self, client, lantern, kind):
        head, arrays = frame(client, lantern, "map", kind=kind)
        assert head["standing"]
        measured = arrays["values"][np.isfinite(arrays["values"])]
        assert len(measured) > 0.2 * len(arrays["values"])
        if kind == "deviation":
            assert np.median(measured) < 0.05

    def test_versions_are_looked_at_in_light_too(self, client, lantern):
        version = client.post(f"/api/pieces/{lantern['id']}/versions", json={"name": "First"}).json()
        head, arrays = unpack(client.get(f"/api/versions/{version['id']}/model").content)
        assert head["standing"]
        assert "places" in arrays

    def test_facts_in_light_and_the_recipe(self, client, lithophane):
        facts = client.post(f"/api/pieces/{lithophane['id']}/lit", json={}).json()
        assert facts["lit"]["ssim_within_reach"] >= 0.97
        assert facts["sheet_mm"][0] == pytest.approx(60)
        assert facts["detail_mm"] == pytest.approx(np.hypot(0.42, 0.4))
        assert facts["recipe"].startswith("Print recipe for ")

    def test_nine_variations(self, client, lithophane):
        head, arrays = frame(client, lithophane, "variations")
        assert len(head["cells"]) == 9
        contrasts = [cell["contrast"] for cell in head["cells"]]
        assert contrasts[0] < contrasts[4] < contrasts[8]
        assert not np.array_equal(arrays["through0"], arrays["through2"])

    def test_a_built_lithophane_is_delivered_with_its_recipe(self, client, lantern, job_until):
        job = client.post(f"/api/pieces/{lantern['id']}/build").json()
        done = job_until(job["id"], lambda job: job["state"] in ("done", "failed"))
        assert done["state"] == "done", done["message"]
        file = client.get(f"/api/jobs/{job['id']}/file")
        assert check_soundness(read_mesh(file.content, "lantern.stl", None).mesh).sound
        recipe = client.get(f"/api/jobs/{job['id']}/recipe.txt")
        assert recipe.headers["content-disposition"].endswith('-recipe.txt"')
        assert "Cylinder" in recipe.text
        assert done["result"]["report"]["lit"]["contrast"] > 1
        head, arrays = unpack(client.get(f"/api/jobs/{job['id']}/model").content)
        assert head["around"]
        assert "places" in arrays

    def test_other_pieces_have_neither(self, client, started):
        for what in ("lit", "variations"):
            answer = client.post(f"/api/pieces/{started['id']}/{what}", json={})
            assert (answer.status_code, "not a lithophane" in answer.json()["message"]) == (409, True)

    @pytest.mark.parametrize(
        ("change", "words"),
        [
            ({"glow": {"thickest_mm": 0.5}}, "a thickest wall above the thinnest"),
            ({"form": {"kind": "arc", "angle_deg": 361}}, "5 to 350"),
            ({"parts": {"name": {"on": True, "text": "A name that goes on and on " * 4}}}, "would fit"),
        ],
    )
    def test_refusals_leave_the_piece_as_it_was(self, client, lithophane, change, words):
        body = {"base": lithophane["revision"], "label": "Changed", "change": change}
        answer = client.post(f"/api/pieces/{lithophane['id']}/revisions", json=body)
        assert answer.status_code == 422
        assert words in answer.json()["message"]
        assert client.get(f"/api/pieces/{lithophane['id']}").json()["revision"] == lithophane["revision"]


MINE = {"name": "My white", "attenuation_per_mm": 0.9, "surface_loss": 0.1, "cast": "#ffffff", "measured": True}


class TestMaterials:
    def test_the_table_can_be_edited(self, client):
        ready = client.get("/api/materials").json()
        assert {"White filament", "Milky resin"} <= {material["name"] for material in ready}
        added = client.post("/api/materials", json=MINE)
        assert added.status_code == 201
        own = added.json()
        changed = client.put(f"/api/materials/{own['id']}", json={**MINE, "attenuation_per_mm": 0.95})
        assert changed.json()["attenuation_per_mm"] == 0.95
        assert client.delete(f"/api/materials/{own['id']}").status_code == 204
        assert client.get("/api/materials").json() == ready
        assert client.delete(f"/api/materials/{own['id']}").status_code == 404

    def test_names_are_taken_once_and_values_must_make_sense(self, client):
        taken = client.post("/api/materials", json={**MINE, "name": "white FILAMENT"})
        assert (taken.status_code, "already" in taken.json()["message"]) == (409, True)
        assert client.post("/api/materials", json={**MINE, "attenuation_per_mm": -1}).status_code == 422

    def test_a_wedge_of_the_light_box_is_fitted(self, client):
        order = {"material": {key: MINE[key] for key in MINE if key != "measured"}, "steps": 10, "seed": 2}
        readings = client.post("/api/light-box", json=order).json()
        assert (
            readings["thickness_mm"] == [0.0, *client.get("/api/wedge").json()] or len(readings["thickness_mm"]) == 11
        )
        fit = client.post("/api/fit-material", json=readings).json()
        assert fit["attenuation_per_mm"] == pytest.approx(0.9, rel=0.01)
        assert fit["bare"]
        assert len(fit["residuals"]) == 11

    def test_the_wedge_is_a_sound_file(self, client):
        file = client.get("/api/wedge.stl", params={"steps": 5})
        assert check_soundness(read_mesh(file.content, "wedge.stl", None).mesh).sound
        assert client.get("/api/wedge.stl", params={"steps": 2}).status_code == 422

    def test_readings_come_from_tables_and_photographs(self, client):
        table = client.post("/api/wedge-readings", files={"readings": ("r.csv", b"mm,light\n0.4,0.6\n1,0.3\n2,0.1\n")})
        assert table.json()["thickness_mm"] == [0.4, 1, 2]
        steps = np.array(client.get("/api/wedge", params={"steps": 6}).json())
        light = encode_srgb(np.repeat(np.exp(-0.5 * steps), 20))
        held = io.BytesIO()
        Image.fromarray(np.tile(np.round(65535 * light).astype(np.uint16), (30, 1))).save(held, "PNG")
        sent = {"photograph": ("wedge.png", held.getvalue())}
        read = client.post("/api/wedge-photograph", files=sent, data={"steps": 6}).json()
        fit = client.post("/api/fit-material", json=read).json()
        assert fit["attenuation_per_mm"] == pytest.approx(0.5, rel=0.01)

    def test_the_spread_of_light_is_read_across_an_edge_and_kept_with_its_material(self, client):
        places = np.linspace(-2, 2, 31)
        edge = [f"edge,{mm:.4f},{0.5 + 0.3 * math.erf(mm / (0.5 * math.sqrt(2))):.6f}" for mm in places]
        lines = "\n".join(["0,1", "0.4,0.6", "1,0.3", "2,0.1", *edge]).encode()
        read = client.post("/api/wedge-readings", files={"readings": ("r.csv", lines)}).json()
        assert len(read["edge"]) == 31
        fit = client.post("/api/fit-material", json=read).json()
        assert fit["spread_mm"] == pytest.approx(0.5, rel=0.02)
        assert client.post("/api/fit-material", json={**read, "edge": []}).json()["spread_mm"] is None
        own = client.post("/api/materials", json={**MINE, "spread_mm": 0.5}).json()
        assert client.get("/api/materials").json()[-1]["spread_mm"] == 0.5
        refused = client.put(f"/api/materials/{own['id']}", json={**MINE, "spread_mm": -1})
        assert refused.status_code == 422
        client.delete(f"/api/materials/{own['id']}")

    @pytest.mark.parametrize("data", [b"\xff\xfe\x00nonsense", b"one,two\nthree,four\n", b""])
    def test_files_that_are_no_readings_are_refused(self, client, data):
        answer = client.post("/api/wedge-readings", files={"readings": ("r.csv", data)})
        assert answer.status_code == 422
        assert "needed" in answer.json()["message"]

    def test_readings_that_rise_are_refused(self, client):
        rising = {"thickness_mm": [1, 2, 3], "brightness": [0.1, 0.2, 0.3]}
        answer = client.post("/api/fit-material", json=rising)
        assert (answer.status_code, "readings that fall" in answer.json()["message"]) == (422, True)
