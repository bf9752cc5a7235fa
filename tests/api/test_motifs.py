"""The library of motifs over the API."""

import io
import json
import zipfile

import numpy as np
import pytest
from PIL import Image

from tests.api.edits import step

SVG = b'<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">%s</svg>'
BOX = SVG % b'<rect width="20" height="10"/>'
DISC = SVG % b'<circle cx="10" cy="10" r="10"/>'


def drawing(client, data: bytes, name: str) -> dict:
    answer = client.post("/api/drawings", files={"drawing": (name, data)})
    assert answer.status_code == 201, answer.json()
    return answer.json()


def kept(client, piece: dict, name: str, *tags: str, **more) -> dict:
    order = {"piece_id": piece["id"], "name": name, "tags": list(tags), **more}
    answer = client.post("/api/motifs", json=order)
    assert answer.status_code == 201, answer.json()
    return answer.json()


def lay(client, piece: dict, motif: dict, **more) -> dict:
    answer = client.post(f"/api/pieces/{piece['id']}/motifs", json={"motif_id": motif["id"], **more})
    assert answer.status_code == 201, answer.json()
    return answer.json()


def area(client, piece: dict) -> float:
    found = client.post(f"/api/pieces/{piece['id']}/outlines", json={}).json()
    return sum(layer["area_mm2"] for layer in found["layers"])


@pytest.fixture
def box(client) -> dict:
    return drawing(client, BOX, "box.svg")


@pytest.fixture
def disc(client) -> dict:
    return drawing(client, DISC, "disc.svg")


def test_motifs_are_found_by_name_and_tags(client, box, disc):
    kept(client, box, "Signpost", "trail", "wood")
    kept(client, disc, "Moon", "night", "trail")
    names = lambda words: [motif["name"] for motif in client.get("/api/motifs", params={"words": words}).json()]  # noqa: E731
    assert sorted(names("")) == ["Moon", "Signpost"]
    assert names("wood") == ["Signpost"]
    assert names("moon TRAIL") == ["Moon"]
    assert names("fern") == []


def test_a_motif_has_a_size_and_a_thumbnail(client, box):
    motif = kept(client, box, "Signpost")
    assert (motif["width_mm"], motif["height_mm"], motif["outlines"]) == (
        pytest.approx(20, rel=1e-4),
        pytest.approx(10, rel=1e-4),
        True,
    )
    answer = client.get(f"/api/motifs/{motif['id']}/thumbnail.png")
    shown = np.asarray(Image.open(io.BytesIO(answer.content)), np.int16)
    assert shown.shape[1] == 2 * shown.shape[0]
    assert shown.max() < 120


def test_motifs_are_renamed_and_removed(client, box):
    motif = kept(client, box, "Signpost")
    renamed = client.put(f"/api/motifs/{motif['id']}", json={"name": "Post", "tags": ["a", "a", " "]}).json()
    assert (renamed["name"], renamed["tags"]) == ("Post", ["a"])
    assert client.delete(f"/api/motifs/{motif['id']}").status_code == 204
    assert client.get("/api/motifs").json() == []
    gone = client.put(f"/api/motifs/{motif['id']}", json={"name": "Post"})
    assert (gone.status_code, gone.json()["message"]) == (404, "There is no such motif any more.")


def test_a_motif_is_laid_on_outlines_at_its_size(client, box, disc):
    motif = kept(client, box, "Signpost")
    laid = lay(client, disc, motif, x=2.0, y=0.5, width_mm=10)
    assert laid["document"]["mend"][0]["file"]["motif"] == motif["id"]
    assert area(client, laid) == pytest.approx(np.pi * 100 + 50, rel=2e-3)
    undone = step(client, disc["id"], "undo").json()
    assert undone["document"]["mend"] == []


def test_pieces_follow_a_motif_or_keep_their_copy(client, box, disc):
    motif = kept(client, box, "Signpost")
    other = drawing(client, DISC.replace(b"10", b"11"), "other.svg")
    lay(client, disc, motif, x=2.0, y=0.5)
    lay(client, other, motif, x=2.0, y=0.5, follow=False)
    before = area(client, other)
    larger = drawing(client, SVG % b'<rect width="20" height="20"/>', "square.svg")
    assert client.post(f"/api/motifs/{motif['id']}/from/{larger['id']}").status_code == 200
    assert area(client, disc) == pytest.approx(np.pi * 100 + 400, rel=2e-3)
    assert area(client, other) == pytest.approx(before, rel=1e-9)
    piece = client.get(f"/api/pieces/{disc['id']}").json()
    assert piece["undoes"] == "Followed the motif Signpost"


def test_a_motif_is_laid_on_a_panel_as_a_picture(client, started, box):
    motif = kept(client, box, "Signpost")
    laid = lay(client, started, motif, width_mm=30)
    (op,) = laid["document"]["ops"]
    assert (op["kind"], op["width_mm"], op["file"]["motif"]) == ("picture", 30, motif["id"])
    assert client.post(f"/api/pieces/{started['id']}/plan", json={}).status_code == 200


def test_a_panel_is_kept_as_a_motif(client, started):
    motif = kept(client, started, "Hill", "hill")
    assert motif["width_mm"] == pytest.approx(80)


def test_only_chosen_outlines_are_kept(client):
    two = drawing(client, SVG % b'<rect width="20" height="10"/><rect x="30" width="5" height="5"/>', "two.svg")
    motif = kept(client, two, "Small", chosen=[1])
    assert motif["width_mm"] == pytest.approx(5, rel=1e-4)


def test_a_pack_carries_motifs_to_another_library(client, box, disc):
    kept(client, box, "Signpost", "trail")
    kept(client, disc, "Moon")
    pack = client.get("/api/motif-pack.zip").content
    names = zipfile.ZipFile(io.BytesIO(pack)).namelist()
    assert sorted(names) == ["001.png", "001.svg", "002.png", "002.svg", "motifs.json"]
    for motif in client.get("/api/motifs").json():
        client.delete(f"/api/motifs/{motif['id']}")
    opened = client.post("/api/motif-pack", files={"pack": ("garden.zip", pack)})
    assert opened.status_code == 201
    back = {motif["name"]: motif for motif in client.get("/api/motifs").json()}
    assert set(back) == {"Signpost", "Moon"}
    assert back["Signpost"]["tags"] == ["trail"]
    laid = lay(client, disc, back["Signpost"], x=2.0)
    assert area(client, laid) == pytest.approx(np.pi * 100 + 200, rel=2e-3)


def packed(index: object, **files: bytes) -> bytes:
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as archive:
        archive.writestr("motifs.json", json.dumps(index))
        for name, data in files.items():
            archive.writestr(name, data)
    return held.getvalue()


@pytest.mark.parametrize(
    "data",
    [
        b"no zip",
        packed({"version": 9, "motifs": [{}]}),
        packed({"version": 1, "motifs": []}),
        packed({"version": 1, "motifs": [{"name": "A", "picture": "../../etc/passwd", "width_mm": 1, "height_mm": 1}]}),
        packed(
            {"version": 1, "motifs": [{"name": "A", "picture": "a.png", "width_mm": 1, "height_mm": 1}]},
            **{"a.png": b"x"},
        ),
    ],
)
def test_bad_packs_leave_the_library_as_it_was(client, data):
    answer = client.post("/api/motif-pack", files={"pack": ("garden.zip", data)})
    assert answer.status_code == 422
    assert client.get("/api/motifs").json() == []
