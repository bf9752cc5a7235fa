"""Carving through the API: the rack, jobs, programs, and what a page shows."""

import io
import time
import zipfile

import numpy as np
import pytest

from nebrel.core.carve.asked import Asked
from nebrel.core.outline_files.read import read_drawing
from nebrel.core.router.interpreter import read_program
from nebrel.piece.carving.fixes import _at_samples
from tests.api.frames import unpack

STOCK = {"width_mm": 40, "depth_mm": 40, "thickness_mm": 8}
PLATE = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="30mm" viewBox="0 0 40 30">'
    b'<path fill-rule="evenodd" d="M2 2H38V28H2ZM14 10V20H26V10Z"/></svg>'
)
BALL = {"name": "3 mm ball", "kind": "ball", "diameter_mm": 3}


@pytest.fixture
def carvable(client, started):
    """The hill, 24 mm wide and for a router."""
    change = {
        "title": "Hügel, 2 × geschnitzt",
        "body": {"width_mm": 24},
        "height": {"rule": {"relief_mm": 2}},
        "carving": {"on": True, "stock": STOCK, "bits": [BALL], "passes": {"scallop_mm": 0.05}},
    }
    edit = {"base": started["revision"], "label": "For the router", "change": change}
    answer = client.post(f"/api/pieces/{started['id']}/revisions", json=edit)
    assert answer.status_code == 201, answer.text
    return answer.json()


@pytest.fixture
def drawn(client):
    """A plate with a hole, drawn."""
    answer = client.post("/api/drawings", files={"drawing": ("plate.svg", PLATE)})
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
    assert told["zero"] == [*told["stock"][:2], 0]
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


def test_what_would_help_is_tried_and_measured_before_it_is_offered(client, carvable):
    address = f"/api/pieces/{carvable['id']}/reach"
    before = client.post(address, json={"change": {}, "longest_px": 240}).json()["together"]
    fixes = client.post(f"{address}/fixes", json={"change": {}, "longest_px": 240}).json()
    assert any(fix["words"].startswith("Take ") for fix in fixes)
    assert any(fix["words"].startswith("Make it ") for fix in fixes)
    for fix in fixes:
        assert fix["share"] <= 0.8 * before["share"]
        after = client.post(address, json={"change": fix["change"], "longest_px": 240})
        assert after.status_code == 200, after.text
        assert after.json()["together"]["share"] == pytest.approx(fix["share"], abs=1e-4)


def test_what_would_help_is_tried_on_every_thing_that_a_picture_can_be(client, started):
    """Lithophanes have their width elsewhere, and blurring a traced picture moves its outline."""
    for shape in client.get(f"/api/pieces/{started['id']}").json()["shapes"]:
        piece = client.get(f"/api/pieces/{started['id']}").json()
        order = {"base": piece["revision"], "label": "Become", "shape": shape["name"]}
        client.post(f"/api/pieces/{started['id']}/shape", json=order)
        answer = client.post(f"/api/pieces/{started['id']}/reach/fixes", json={"change": {}, "longest_px": 160})
        assert answer.status_code in (200, 409, 422), (shape, answer.text)


def test_a_grid_of_another_size_is_read_at_the_samples_of_the_first():
    rows, columns = np.mgrid[0:11, 0:21] * 0.5
    wide = Asked(rows + 10 * columns, np.ones((11, 21), bool), 0.5, 0.0, 0.0, (10.0, 5.0))
    narrow = Asked(np.zeros((7, 11)), np.ones((7, 11), bool), 0.5, -0.5, -0.5, (4.0, 2.0))
    found = _at_samples(wide, narrow)
    # The middles of both are one place: 3 mm and 1.5 mm further in.
    assert found[0, 0] == pytest.approx((1.5 - 0.5) + 10 * (3 - 0.5))
    assert np.diff(found, axis=1) == pytest.approx(np.full((7, 10), 5.0))
    assert _at_samples(wide, wide) is wide.heights


def test_ways_of_writing_programs_are_kept_and_names_are_their_own(client):
    ready = client.get("/api/posts").json()
    assert [one["post"]["name"] for one in ready] == ["plain", "tool-changer", "pause", "crlf", "straight"]
    own = {"name": "Yard", "arcs": "radius", "decimals_mm": 3, "line_end": "crlf"}
    added = client.post("/api/posts", json=own).json()
    assert client.post("/api/posts", json={"name": "YARD"}).status_code == 409
    changed = client.put(f"/api/posts/{added['id']}", json={**own, "decimals_mm": 5}).json()
    assert (changed["post"]["arcs"], changed["post"]["decimals_mm"]) == ("radius", 5)
    assert client.delete(f"/api/posts/{added['id']}").status_code == 204
    assert client.put(f"/api/posts/{added['id']}", json=own).status_code == 404
    assert client.get("/api/posts").json() == ready
    assert client.post("/api/posts", json={"name": "Bad", "decimals_mm": 40}).status_code == 422


def test_a_program_is_sent_to_the_simulated_router_held_and_stopped(client, carved):
    address = f"/api/jobs/{carved['id']}/programs/0/send"
    assert client.get("/api/router").json()["state"] == "idle"
    assert client.post("/api/router/hold").status_code == 409
    assert client.post(f"/api/jobs/{carved['id']}/programs/7/send", json={}).status_code == 404
    sent = client.post(address, json={"speed": 2})
    assert (sent.status_code, sent.json()["state"]) == (202, "running")
    assert client.post(address, json={"speed": 2}).status_code == 409
    assert client.post("/api/router/dance").status_code == 422
    client.post("/api/router/hold")
    held = _standing(client, "held")
    assert (held["job_id"], held["program"]) == (carved["id"], carved["carving"]["programs"][0]["name"])
    client.post("/api/router/resume")
    assert _standing(client, "running")["lines"] > 20
    client.post("/api/router/stop")
    assert _standing(client, "stopped")["line"] < held["lines"]


def _standing(client, state):
    end = time.monotonic() + 20
    while (standing := client.get("/api/router").json())["state"] != state:
        assert time.monotonic() < end, standing
        time.sleep(0.02)
    return standing


@pytest.mark.deep
def test_outlines_are_sunk_and_a_section_tells_what_was_asked(client, drawn, job_until):
    bits = [{"name": "V", "kind": "v", "diameter_mm": 12, "angle_deg": 60}]
    change = {"on": True, "stock": {"width_mm": 60, "depth_mm": 60}, "bits": bits, "outlines": {"way": "v"}}
    edit = {"base": drawn["revision"], "label": "V-carved", "change": {"carving": change}}
    assert client.post(f"/api/pieces/{drawn['id']}/revisions", json=edit).status_code == 201
    reach = client.post(f"/api/pieces/{drawn['id']}/reach", json={"change": {}, "longest_px": 240}).json()
    assert reach["together"]["share"] < 0.001
    job = job_until(
        client.post(f"/api/pieces/{drawn['id']}/carve").json()["id"],
        lambda job: job["state"] not in ("waiting", "running"),
    )
    assert job["state"] == "done", job["message"]
    assert [one["kind"] for one in job["carving"]["passes"]] == ["v-carve"]
    assert job["carving"]["facts"]["gouge_max_mm"] == 0
    line = {"start": [0, 0.5], "end": [1, 0.5], "tilt_deg": 0, "lift_mm": 0}
    section = client.post(f"/api/jobs/{job['id']}/carving/section", json=line).json()
    asked, cut = (np.array([up for _, up in section[name]], dtype=float) for name in ("asked", "cut"))
    assert np.nanmin(asked) < np.nanmax(asked) - 1
    assert np.nanmax(np.abs(asked - cut)) < 0.1
    change["bits"] = [{**BALL, "role": "finish"}]
    edit = {"base": drawn["revision"] + 1, "label": "A ball", "change": {"carving": change}}
    client.post(f"/api/pieces/{drawn['id']}/revisions", json=edit)
    refused = client.post(f"/api/pieces/{drawn['id']}/carve")
    assert (refused.status_code, "does not cut V walls" in refused.json()["message"]) == (422, True)


def test_a_cut_out_comes_with_its_outline_as_drawings(client, carvable, job_until):
    flat = {"name": "4 mm flat", "role": "rough", "kind": "flat", "diameter_mm": 4}
    change = {"bits": [flat, BALL], "cut_out": {"on": True}}
    edit = {"base": carvable["revision"], "label": "Cut out", "change": {"carving": change}}
    client.post(f"/api/pieces/{carvable['id']}/revisions", json=edit)
    answer = client.post(f"/api/pieces/{carvable['id']}/carve")
    assert answer.status_code == 202, answer.text
    job = job_until(answer.json()["id"], lambda job: job["state"] not in ("waiting", "running"))
    package = zipfile.ZipFile(io.BytesIO(client.get(f"/api/jobs/{job['id']}/file").content))
    names = [name for name in package.namelist() if "cut-out." in name]
    assert [name.rsplit(".")[-1] for name in names] == ["svg", "dxf"]
    for name in names:
        drawing = read_drawing(package.read(name), name)
        assert drawing.size == pytest.approx((24, 18), abs=0.1)
