"""Carving through the API: the rack, jobs, programs, and what a page shows."""

import io
import zipfile

import numpy as np
import pytest

from nebrel.core.router.interpreter import read_program
from tests.api.frames import unpack

STOCK = {"width_mm": 40, "depth_mm": 40, "thickness_mm": 8}
BALL = {"name": "3 mm ball", "kind": "ball", "diameter_mm": 3}


@pytest.fixture
def carvable(client, started):
    """The hill, 24 mm wide and for a router."""
    change = {
        "body": {"width_mm": 24},
        "height": {"rule": {"relief_mm": 2}},
        "carving": {"on": True, "stock": STOCK, "bits": [BALL], "passes": {"scallop_mm": 0.05}},
    }
    edit = {"base": started["revision"], "label": "For the router", "change": change}
    answer = client.post(f"/api/pieces/{started['id']}/revisions", json=edit)
    assert answer.status_code == 201, answer.text
    return answer.json()


@pytest.fixture
def carved(client, carvable, job_until):
    """A carving job that has finished."""
    answer = client.post(f"/api/pieces/{carvable['id']}/carve")
    assert answer.status_code == 202
    job = job_until(answer.json()["id"], lambda job: job["state"] not in ("waiting", "running"))
    assert job["state"] == "done", job["message"]
    return job


def test_programs_sheet_and_package_are_offered_once_they_have_passed(client, carved):
    result = carved["carving"]
    assert result["faults"] == []
    assert result["facts"]["gouge_max_mm"] <= 0.001
    assert [one["kind"] for one in result["passes"]] == ["finish"]
    program = client.get(f"/api/jobs/{carved['id']}/programs/0")
    assert read_program(program.text, (0, 0, 5)).ended
    assert client.get(f"/api/jobs/{carved['id']}/programs/1").status_code == 404
    sheet = client.get(f"/api/jobs/{carved['id']}/set-up.pdf")
    assert sheet.headers["content-type"] == "application/pdf"
    assert sheet.content.startswith(b"%PDF")
    package = zipfile.ZipFile(io.BytesIO(client.get(f"/api/jobs/{carved['id']}/file").content))
    assert [name.rsplit(".")[-1] for name in package.namelist()] == ["nc", "pdf"]
    assert package.read(package.namelist()[0]).decode() == program.text


def test_the_stock_is_shown_at_every_step_and_as_maps(client, carved):
    told = client.get(f"/api/jobs/{carved['id']}/carving").json()
    assert told["minutes"] == sorted(told["minutes"])
    assert told["minutes"][0] == 0
    assert told["minutes"][-1] == pytest.approx(carved["carving"]["facts"]["minutes"], abs=0.01)
    assert told["stock"][2:] == [40, 40]
    assert told["zero"] == told["stock"][:2]
    address = f"/api/jobs/{carved['id']}/carving/stock"
    heads, tops = [], []
    for step in (0, 1000):
        head, arrays = unpack(client.get(address, params={"step": step}).content)
        heads.append(head)
        tops.append(arrays["positions"][:, 2])
    # The piece's own thickness is 2 + 1.2 mm; at first nothing is cut, at last its lowest places are bare.
    assert tops[0].max() == pytest.approx(3.2, abs=1e-4)
    assert heads[0]["triangles"] == heads[1]["triangles"]
    assert tops[1].sum() < tops[0].sum()
    head, arrays = unpack(client.get(address, params={"shown": "left"}).content)
    assert (head["kind"], head["unit"]) == ("left", "mm")
    assert head["most"] == pytest.approx(carved["carving"]["facts"]["left_max_mm"], rel=0.3)
    assert np.isnan(arrays["values"]).any()


def test_reach_follows_a_change_that_is_not_kept(client, carvable):
    address = f"/api/pieces/{carvable['id']}/reach"
    coarse = client.post(address, json={"change": {}, "longest_px": 360}).json()
    fine = {**BALL, "name": "Fine", "diameter_mm": 0.5}
    both = client.post(address, json={"change": {"carving": {"bits": [BALL, fine]}}, "longest_px": 360}).json()
    assert [bit["name"] for bit in both["bits"]] == ["3 mm ball", "Fine"]
    assert both["together"]["most_mm"] < coarse["together"]["most_mm"]
    assert both["bits"][0] == coarse["bits"][0]


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"stock": {"thickness_mm": 2}}, "too thin"),
        ({"stock": {"width_mm": 10}}, "a stock as large as the piece"),
        ({"router": {"travel_x_mm": 20}}, "goes 20 mm"),
        ({"bits": [{**BALL, "flute_mm": 1, "shank_mm": 3}]}, "flutes of the ball 3 mm bit"),
    ],
)
def test_what_cannot_be_carved_fails_with_one_sentence(client, carvable, job_until, change, says):
    edit = {"base": carvable["revision"], "label": "Smaller", "change": {"carving": change}}
    assert client.post(f"/api/pieces/{carvable['id']}/revisions", json=edit).status_code == 201
    answer = client.post(f"/api/pieces/{carvable['id']}/carve")
    job = job_until(answer.json()["id"], lambda job: job["state"] not in ("waiting", "running"))
    assert job["state"] == "failed"
    assert says in job["message"]
    assert client.get(f"/api/jobs/{job['id']}/programs/0").status_code == 409


def test_a_piece_for_a_printer_or_without_a_finishing_bit_is_not_carved(client, started, carvable):
    edit = {"base": carvable["revision"], "label": "No bit", "change": {"carving": {"bits": []}}}
    client.post(f"/api/pieces/{started['id']}/revisions", json=edit)
    answer = client.post(f"/api/pieces/{started['id']}/carve")
    assert (answer.status_code, "No bit finishes" in answer.json()["message"]) == (422, True)
    off = {"base": carvable["revision"] + 1, "label": "Printer", "change": {"carving": {"on": False}}}
    client.post(f"/api/pieces/{started['id']}/revisions", json=off)
    answer = client.post(f"/api/pieces/{started['id']}/carve")
    assert (answer.status_code, "not for a router" in answer.json()["message"]) == (409, True)


def test_the_rack_is_kept_and_names_are_its_own(client):
    ready = client.get("/api/bits").json()
    assert {"6 mm flat", "6 mm ball", "Tapered ball R0.5"} <= {one["bit"]["name"] for one in ready}
    added = client.post("/api/bits", json={**BALL, "name": "Old ball"}).json()
    assert client.post("/api/bits", json={**BALL, "name": "old BALL"}).status_code == 409
    changed = client.put(f"/api/bits/{added['id']}", json={**BALL, "name": "Old ball", "feed_mm_min": 800}).json()
    assert changed["bit"]["feed_mm_min"] == 800
    assert client.delete(f"/api/bits/{added['id']}").status_code == 204
    assert client.delete(f"/api/bits/{added['id']}").status_code == 404
    assert client.get("/api/bits").json() == ready
    refused = client.post("/api/bits", json={**BALL, "diameter_mm": -1})
    assert refused.status_code == 422


def test_a_section_tells_the_stock_and_where_the_finest_tip_may_go(client, carved):
    address = f"/api/jobs/{carved['id']}/carving/section"
    line = {"start": [0, 0.5], "end": [1, 0.5], "tilt_deg": 0, "lift_mm": 0}
    before = client.post(address, json=line, params={"step": 0}).json()
    after = client.post(address, json=line).json()
    assert all(up == pytest.approx(3.2) for _, up in before["cut"])
    cut, offset = (np.array([up for _, up in after[name]]) for name in ("cut", "offset"))
    assert cut.min() < 3.0
    # The tip stands over what it leaves: never far below the stock.
    assert (offset <= 3.2 + 1e-6).all()
    assert np.abs(cut - offset).max() < 1.5
    assert after["cut"][-1][0] == pytest.approx(24)
