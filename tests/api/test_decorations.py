"""Decorations over the API: placed, snapped, kept, and following their motif."""

import io
import json

import numpy as np
import pytest
from PIL import Image

from nebrel.core.mesh.formats import read_mesh, write_mesh
from nebrel.core.mesh.measure import volume
from tests.api.edits import step
from tests.api.frames import unpack
from tests.core.skins import RADIUS, cylinder, sphere

SQUARE = b"""<svg xmlns="http://www.w3.org/2000/svg" width="20mm" height="10mm" viewBox="0 0 20 10">
<rect width="20" height="10"/></svg>"""
DISC = b"""<svg xmlns="http://www.w3.org/2000/svg" width="12mm" height="12mm" viewBox="0 0 12 12">
<circle cx="6" cy="6" r="6"/></svg>"""


def stl(mesh) -> bytes:
    held = io.BytesIO()
    write_mesh(mesh, held, "stl")
    return held.getvalue()


@pytest.fixture
def drum(client) -> dict:
    """A piece from a cylinder of 60 mm."""
    answer = client.post("/api/models", files={"model": ("drum.stl", stl(cylinder(120)))})
    assert answer.status_code == 201
    return answer.json()


@pytest.fixture
def square(client) -> dict:
    """A drawing taken in to be laid on."""
    answer = client.post("/api/decoration-files", files={"file": ("square.svg", SQUARE)})
    assert answer.status_code == 201
    return answer.json()


def decoration(art: dict, **parts: object) -> dict:
    return {"id": "one", "art": art, "at": [RADIUS, 0, 30], "width_mm": 20, **parts}


def revise(client, piece: dict, change: dict, expected: int = 201) -> dict:
    body = {"base": piece["revision"], "label": "Changed", "change": change}
    answer = client.post(f"/api/pieces/{piece['id']}/revisions", json=body)
    assert answer.status_code == expected, answer.json()
    return answer.json()


def built(client, job_until, piece: dict) -> tuple[dict, bytes]:
    job = client.post(f"/api/pieces/{piece['id']}/build").json()
    done = job_until(job["id"], lambda job: job["state"] in ("done", "failed"))
    assert done["state"] == "done", done
    return done["result"]["report"], client.get(f"/api/jobs/{job['id']}/file").content


def test_a_placement_shows_faces_under_the_box_and_where_to_hold_it(client, drum, square):
    answer = client.post(f"/api/pieces/{drum['id']}/placement", json={"decoration": decoration(square)})
    assert answer.status_code == 200
    head, arrays = unpack(answer.content)
    assert head["at"] == pytest.approx([RADIUS, 0, 30], abs=0.05)
    assert head["size_mm"] == pytest.approx([20, 10])
    assert head["up"] == pytest.approx([0, 0, 1], abs=1e-6)
    assert head["out"] == pytest.approx([1, 0, 0], abs=0.05)
    assert arrays["corners"].shape[1:] == (3, 3)
    assert arrays["shares"].shape == (*arrays["corners"].shape[:2], 2)
    low, high = np.array(head["handles"][0]), np.array(head["handles"][2])
    assert high[2] - low[2] == pytest.approx(10, abs=0.05)
    assert np.degrees(np.arctan2(high[1], high[0]) - np.arctan2(low[1], low[0])) == pytest.approx(
        np.degrees(20 / RADIUS), rel=0.01
    )


def test_copies_of_a_placement_are_shown_up_to_a_number(client, drum, square):
    many = decoration(square, copies={"kind": "ring", "count": 9}, width_mm=8)
    answers = [
        client.post(f"/api/pieces/{drum['id']}/placement", json={"decoration": many, "most_copies": most})
        for most in (1, 9)
    ]
    heads, arrays = zip(*(unpack(answer.content) for answer in answers), strict=True)
    assert [head["copies"] for head in heads] == [9, 9]
    assert len(arrays[1]["corners"]) > 5 * len(arrays[0]["corners"])


def test_wrapping_what_is_not_round_is_refused_in_one_sentence(client, square):
    block = client.post("/api/models", files={"model": ("ball.stl", stl(sphere(40)))}).json()
    art = decoration(square, at=[0, 0, 30], lie="wrap")
    assert client.post(f"/api/pieces/{block['id']}/placement", json={"decoration": art}).status_code == 200
    flat = client.post(
        "/api/models", files={"model": ("plate.obj", b"v 0 0 0\nv 60 0 0\nv 60 40 0\nv 0 40 0\nf 1 2 3\nf 1 3 4\n")}
    ).json()
    answer = client.post(f"/api/pieces/{flat['id']}/placement", json={"decoration": {**art, "at": [30, 20, 0]}})
    assert answer.status_code == 422
    assert "no part of a cylinder, cone or sphere" in answer.json()["message"]


@pytest.mark.parametrize(
    ("to", "expected"), [("half-height", [29.8, 3.0, 30.0]), ("axis", [30.0, 0.0, 50.0]), ("face-centre", None)]
)
def test_places_snap(client, drum, to, expected):
    answer = client.post(f"/api/pieces/{drum['id']}/snap", json={"at": [29.8, 3.0, 50.0], "to": to})
    assert answer.status_code == 200
    if expected is not None:
        assert answer.json()["at"] == pytest.approx(expected, abs=0.3)


def test_a_decoration_is_built_undone_and_told_about(client, job_until, drum, square):
    kept = revise(client, drum, {"decorations": [decoration(square, lie="wrap")]})
    report, file = built(client, job_until, kept)
    assert report["closed"]
    assert not [finding for finding in report["findings"] if finding["severity"] == "fault"]
    assert any("stay exactly as they came" in finding["what"] for finding in report["findings"])
    assert 0 < report["max_error_mm"] < 0.003 < report["tolerance_mm"]
    assert report["error_where"] == "at samples"
    mesh = read_mesh(file, "a.stl").mesh
    assert volume(mesh) - volume(cylinder(120)) == pytest.approx(200 * 0.6 * 1.01, rel=0.005)
    back = step(client, drum["id"], "undo").json()
    assert back["document"]["decorations"] == []


def test_findings_before_the_build_tell_where(client, drum, square):
    kept = revise(client, drum, {"decorations": [decoration(square, at=[RADIUS, 0, 58], width_mm=30, rim="continue")]})
    found = client.post(f"/api/pieces/{kept['id']}/findings", json={}).json()
    crease = next(finding for finding in found if finding["measure"] == "crease")
    # In coordinates of what is shown, whose lowest corner is the origin.
    assert crease["where"][2] == pytest.approx(60, abs=0.5)
    assert 30 < crease["where"][0] < 62


def test_switched_off_it_is_as_if_it_were_not_there(client, drum, square):
    on = revise(client, drum, {"decorations": [decoration(square)]})
    off = revise(client, on, {"decorations": [decoration(square, on=False)]})
    heads = [unpack(client.post(f"/api/pieces/{off['id']}/model", json={}).content)[0]["triangles"]]
    assert heads == [len(cylinder(120).faces)]


def test_the_shown_solid_tells_what_was_taken_off_its_coordinates(client, drum):
    head, arrays = unpack(client.post(f"/api/pieces/{drum['id']}/model", json={}).content)
    assert head["low_mm"] == pytest.approx([-30, -30, 0], abs=0.05)
    assert head["standing"]
    assert arrays["positions"].min() == pytest.approx(0, abs=1e-5)


def test_changing_a_motif_reaches_every_copy_that_follows_it(client, job_until, drum):
    drawing = client.post("/api/drawings", files={"drawing": ("square.svg", SQUARE)}).json()
    motif = client.post("/api/motifs", json={"piece_id": drawing["id"], "name": "Mark", "tags": []}).json()
    assert motif["drawing_blob"]
    art = {"kind": "outline", "blob": motif["drawing_blob"], "name": "Mark", "motif": motif["id"]}
    ring = decoration(art, width_mm=12, copies={"kind": "ring", "count": 5})
    fixed = {**decoration({**art, "motif": None}, width_mm=12, at=[RADIUS, 0, 50]), "id": "two"}
    revise(client, drum, {"decorations": [ring, fixed]})
    other = client.post("/api/drawings", files={"drawing": ("disc.svg", DISC)}).json()
    assert client.post(f"/api/motifs/{motif['id']}/from/{other['id']}").status_code == 200
    now = client.get(f"/api/pieces/{drum['id']}").json()
    assert now["undoes"] == "Followed the motif Mark"
    first, second = now["document"]["decorations"]
    assert first["art"]["blob"] != motif["drawing_blob"]
    assert second["art"]["blob"] == motif["drawing_blob"]
    report, _ = built(client, job_until, now)
    # Five discs and one rectangle of half their height.
    added = report["volume_mm3"] - volume(cylinder(120))
    assert added == pytest.approx((5 * np.pi * 36 + 12 * 6) * 0.6 * 1.01, rel=0.01)


def test_a_motif_is_laid_in_front_of_what_stands(client, drum):
    drawing = client.post("/api/drawings", files={"drawing": ("square.svg", SQUARE)}).json()
    motif = client.post("/api/motifs", json={"piece_id": drawing["id"], "name": "Mark", "tags": []}).json()
    laid = client.post(f"/api/pieces/{drum['id']}/motifs", json={"motif_id": motif["id"]})
    assert laid.status_code == 201, laid.json()
    (one,) = laid.json()["document"]["decorations"]
    assert one["at"] == pytest.approx([0, -30, 30], abs=0.5)
    assert one["art"]["motif"] == motif["id"]


def test_strokes_are_steps_that_can_be_taken_back(client, job_until, drum, square):
    laid = revise(client, drum, {"decorations": [decoration(square, depth_mm=2)]})
    stroke = {"id": "s", "tool": "lower", "places": [[32, 0, 30]], "radius_mm": 4, "strength": 1}
    plain = unpack(client.post(f"/api/pieces/{laid['id']}/model", json={}).content)[0]["triangles"]
    brushed = revise(client, laid, {"strokes": [stroke]})
    assert unpack(client.post(f"/api/pieces/{laid['id']}/model", json={}).content)[0]["triangles"] > plain
    report, _ = built(client, job_until, brushed)
    assert report["error_how"].endswith("before the strokes of the brush")
    step(client, brushed["id"], "undo")
    assert unpack(client.post(f"/api/pieces/{laid['id']}/model", json={}).content)[0]["triangles"] == plain


def test_colours_travel_with_the_solid(client, drum, square):
    painted = revise(client, drum, {"decorations": [decoration(square, effect="colour", colour="#0a7850")]})
    _, arrays = unpack(client.post(f"/api/pieces/{painted['id']}/model", json={}).content)
    assert (arrays["colours"] == [10, 120, 80, 255]).all(axis=1).any()


@pytest.mark.parametrize(
    ("part", "sentence"),
    [
        ({"width_mm": 0}, "Width is 0 mm; 0.1 to 3,000 mm would be accepted."),
        ({"depth_mm": -1}, "Depth is -1 mm"),
        ({"colour": "green"}, "Colour is “green”"),
        ({"lie": "hover"}, "Lie is “hover”"),
        ({"at": [0, 0, float("nan")]}, "holds NaN, which is no number"),
    ],
)
def test_bad_values_are_refused_in_one_sentence(client, drum, square, part, sentence):
    body = {"base": 1, "label": "x", "change": {"decorations": [decoration(square, **part)]}}
    answer = client.post(
        f"/api/pieces/{drum['id']}/revisions", content=json.dumps(body), headers={"content-type": "application/json"}
    )
    assert answer.status_code == 422
    assert sentence in answer.json()["message"]
    assert client.get(f"/api/pieces/{drum['id']}").json()["document"]["decorations"] == []


def test_art_that_is_broken_is_refused_and_nothing_is_kept(client):
    for name, data in (("a.svg", b"<svg"), ("a.png", b"\x89PNG broken"), ("a.dxf", b"nothing")):
        answer = client.post("/api/decoration-files", files={"file": (name, data)})
        assert answer.status_code == 422, name
        assert answer.json()["message"].endswith(".")


def test_the_art_is_shown_with_what_stands_out(client, square):
    answer = client.get(f"/api/decoration-art/outline/{square['blob']}.png")
    assert answer.headers["content-type"] == "image/png"
    alpha = np.asarray(Image.open(io.BytesIO(answer.content)))[..., 3]
    assert alpha.mean() > 240


def test_decorations_belong_on_models(client, started, square):
    answer = client.post(f"/api/pieces/{started['id']}/placement", json={"decoration": decoration(square)})
    assert answer.status_code == 409
    assert "no skin" in answer.json()["message"]


class TestCarriedAlong:
    """What is laid on a model goes with it where steps turn, size or mirror it."""

    def laid(self, client, drum, square) -> dict:
        return revise(client, drum, {"decorations": [decoration(square)]})

    def outward(self, piece: dict, computing) -> tuple[float, float]:
        """How far the decoration is from the skin, and how many mm³ it adds."""
        evaluator = computing.piece(piece["id"]).evaluator
        [at] = [each.at for each in evaluator.document.decorations]
        skin = evaluator.skin().mesh.vertices
        return float(np.linalg.norm(skin - np.array(at), axis=1).min()), volume(evaluator.made(0)) - volume(
            evaluator.skin().mesh
        )

    def test_turned(self, client, drum, square, computing):
        before = self.laid(client, drum, square)
        off, added = self.outward(before, computing)
        turn = {"kind": "turn", "id": "turn", "way": "typed", "y_deg": 90, "z_deg": 25}
        after = revise(client, before, {"steps": [turn]})
        assert after["document"]["decorations"][0]["at"] != before["document"]["decorations"][0]["at"]
        assert self.outward(after, computing) == (pytest.approx(off, abs=1e-6), pytest.approx(added, rel=0.02))
        back = revise(client, after, {"steps": []})
        place = back["document"]["decorations"][0]
        np.testing.assert_allclose(place["at"], before["document"]["decorations"][0]["at"], atol=1e-6)
        np.testing.assert_allclose(place["up"], [0, 0, 1], atol=1e-9)

    def test_sized_and_mirrored(self, client, drum, square, computing):
        before = self.laid(client, drum, square)
        steps = [{"kind": "size", "id": "s", "by": "factor", "factor": 2}, {"kind": "mirror", "id": "m", "axis": "x"}]
        after = revise(client, before, {"steps": steps})
        [laid] = after["document"]["decorations"]
        assert laid["width_mm"] == pytest.approx(40)
        assert laid["mirror"]
        assert self.outward(after, computing)[0] == pytest.approx(
            2 * self.outward(before, computing)[0], rel=0.5, abs=0.5
        )

    def test_steps_that_change_the_surface_leave_it_where_it_is(self, client, drum, square):
        before = self.laid(client, drum, square)
        after = revise(
            client, before, {"steps": [{"kind": "cut", "id": "c", "axis": "z", "at_mm": 50, "keep": "below"}]}
        )
        assert after["document"]["decorations"] == before["document"]["decorations"]


@pytest.mark.parametrize(
    ("step", "factor"),
    [
        ({"by": "unit", "unit": "in"}, 25.4),
        ({"by": "unit", "unit": "cm"}, 10),
        ({"by": "bed", "bed_mm": [120, 120, 1000], "bed_share": 0.5}, 1.0),
    ],
)
def test_a_model_is_sized_by_its_unit_or_to_fill_the_bed(client, drum, step, factor):
    revised = revise(client, drum, {"steps": [{"kind": "size", "id": "size", **step}]})
    size = next(each for each in client.get("/api/pieces").json() if each["id"] == revised["id"])["size_mm"]
    before = drum["document"]["model"]["size_mm"]
    wanted = factor if step["by"] == "unit" else 60 / max(before[:2])
    np.testing.assert_allclose(size, np.array(before) * wanted, rtol=1e-6)
