"""How pieces begin and what they become: sheets, choices by sight, recipes, tags, many on the shelf."""

import base64
import io
import zipfile

import numpy as np
import pytest
from PIL import Image

from nebrel.core.errors import ConflictError
from nebrel.jobs import edits
from nebrel.jobs.lookers import Room
from nebrel.piece.kinds.outline.evaluator import TracedEvaluator
from nebrel.piece.kinds.panel.evaluator import PanelEvaluator
from nebrel.piece.recipes.ready import READY_RECIPES
from tests.api.edits import step

PNG = b"\x89PNG"


def revise(client, piece: dict, change: dict, label: str = "Changed") -> dict:
    answer = client.post(
        f"/api/pieces/{piece['id']}/revisions", json={"base": piece["revision"], "label": label, "change": change}
    )
    assert answer.status_code == 201, answer.json()
    return answer.json()


def sheet(client, expected: int = 201, **more: object) -> dict:
    answer = client.post("/api/sheets", json={"width_mm": 180, "height_mm": 50, **more})
    assert answer.status_code == expected, answer.json()
    return answer.json()


@pytest.fixture(scope="module")
def photograph() -> bytes:
    """Tones that follow light and paint: soft slopes with many narrow dark strokes, in colour."""
    rng = np.random.default_rng(3)
    y, x = np.mgrid[0:420, 0:560] / 420
    light = 0.55 + 0.3 * np.sin(2.3 * x + 1.1 * y) + 0.1 * np.cos(5 * y)
    hair = np.exp(-(((x * 19 + 2 * np.sin(6 * y)) % 1 - 0.5) ** 2) / 0.006) * (x > 0.4)
    tones = np.clip(light - 0.55 * hair + rng.normal(0, 0.01, x.shape), 0, 1)
    colours = np.dstack([tones, 0.8 * tones + 0.05, 0.6 * tones + 0.1])
    held = io.BytesIO()
    Image.fromarray((colours * 255).astype(np.uint8)).save(held, "PNG")
    return held.getvalue()


@pytest.fixture
def portrait(client, photograph) -> dict:
    return client.post("/api/pieces", files={"picture": ("portrait.png", photograph)}).json()


def test_a_sheet_has_the_size_that_was_asked_and_its_lettering_is_a_step(client):
    piece = sheet(client, ground=0.5, text="Fern 12", text_height_mm=20, title="Bookmark")
    card = next(each for each in client.get("/api/pieces").json() if each["id"] == piece["id"])
    assert card["size_mm"] == pytest.approx([180, 50, 4.2], abs=1e-9)
    assert [op["kind"] for op in piece["document"]["ops"]] == ["lettering"]
    assert [step["tone"] for step in piece["document"]["height"]["rule"]["steps"]] == [0, 0.5, 1]


def test_an_empty_sheet_is_a_level_plate_until_something_is_drawn(client):
    piece = sheet(client, ground=0)
    size = next(each for each in client.get("/api/pieces").json() if each["id"] == piece["id"])["size_mm"]
    assert size[2] == pytest.approx(piece["document"]["body"]["backing_mm"] + 3, abs=3.01)
    heart = {"kind": "shape", "id": "heart", "shape": "heart", "width_mm": 20, "height_mm": 20}
    revised = revise(client, piece, {"ops": [heart]})
    assert revised["document"]["picture"]["is_sheet"]


@pytest.mark.parametrize(
    ("asked", "words"),
    [
        ({"ground": None}, "blank sheet has nothing"),
        ({"width_mm": 0.1}, "at least 0.5 mm"),
        ({"text": "Fern", "text_height_mm": 400}, "up to"),
        ({"width_mm": -3}, "greater than 0"),
    ],
)
def test_a_sheet_that_cannot_be_is_refused_and_nothing_kept(client, asked, words):
    assert words in sheet(client, 422, **asked)["message"]
    assert client.get("/api/pieces").json() == []


def test_a_blank_sheet_is_only_what_is_drawn_on_it(client, computing):
    piece = sheet(client, ground=None, text="I", text_height_mm=30)
    mesh = computing.piece(piece["id"]).evaluator.mesh()
    width, depth, _ = np.ptp(mesh.vertices, axis=0)
    assert depth == pytest.approx(30, abs=0.3)
    assert width < 12


def test_choices_are_listed_with_what_the_piece_is_now(client, portrait):
    choices = client.get(f"/api/pieces/{portrait['id']}/choices").json()
    assert [each["name"] for each in choices] == [
        "panel", "held-back", "by-depth", "lithophane", "figure", "raised", "cutter", "stamp",
    ]  # fmt: skip
    assert [each["name"] for each in choices if each["now"]] == ["panel"]
    assert not any(each["remembered"] for each in choices)


def test_every_choice_is_sketched_of_this_very_picture(client, portrait):
    tiles = {}
    for name in ("panel", "held-back", "by-depth", "lithophane", "raised"):
        tile = client.get(f"/api/pieces/{portrait['id']}/choices/{name}").json()
        tiles[name] = tile
        data = base64.b64decode(tile["picture"].partition(",")[2])
        assert data.startswith(PNG)
        assert Image.open(io.BytesIO(data)).size == (360, 270)
        assert 20 < tile["size_mm"][0] <= 81
        assert tile["word"]
    assert tiles["panel"]["size_mm"][0] == pytest.approx(80)
    assert tiles["panel"]["word"].startswith("Brightness is not height")
    assert "lithophane" in tiles["panel"]["advice"]
    assert not tiles["held-back"]["word"].startswith("Brightness")
    assert not tiles["by-depth"]["word"].startswith("Brightness")
    assert len({tile["picture"] for tile in tiles.values()}) == 5


def test_what_was_chosen_is_remembered_for_such_pictures_alone(client, portrait, photograph, hill):
    answer = client.post(
        f"/api/pieces/{portrait['id']}/choice", json={"base": portrait["revision"], "name": "held-back"}
    )
    assert answer.status_code == 201
    assert answer.json()["document"]["height"]["rule"]["kind"] == "compress"
    alike = client.post("/api/pieces", files={"picture": ("alike.png", photograph[:-12] + photograph[-12:])}).json()
    other = client.post("/api/pieces", files={"picture": ("hill.png", hill)}).json()
    marked = {
        piece["id"]: [
            each["name"] for each in client.get(f"/api/pieces/{piece['id']}/choices").json() if each["remembered"]
        ]
        for piece in (alike, other)
    }
    assert marked == {alike["id"]: ["held-back"], other["id"]: []}


def test_a_held_back_relief_becomes_an_even_one_again_and_undo_brings_it_back(client, portrait):
    address = f"/api/pieces/{portrait['id']}/choice"
    held = client.post(address, json={"base": portrait["revision"], "name": "held-back"}).json()
    plain = client.post(address, json={"base": held["revision"], "name": "panel"}).json()
    assert plain["document"]["height"]["rule"]["kind"] == "straight"
    undone = step(client, portrait["id"], "undo").json()
    assert undone["document"]["height"]["rule"]["kind"] == "compress"


def test_an_unknown_choice_and_a_stale_one_are_refused(client, portrait):
    address = f"/api/pieces/{portrait['id']}/choice"
    assert client.post(address, json={"base": portrait["revision"], "name": "bell"}).status_code == 404
    assert client.post(address, json={"base": portrait["revision"] - 1, "name": "stamp"}).status_code == 409


def test_what_is_based_on_an_old_state_is_not_worked_out_first(computing, portrait, monkeypatch):
    def check(*_: object) -> None:
        raise AssertionError("It was worked out.")

    for evaluator in (PanelEvaluator, TracedEvaluator):
        monkeypatch.setattr(evaluator, "check", check)
    room, old = Room(computing, lambda _stage, _part: None), portrait["revision"] - 1
    for decide, asked in (
        (edits.make_choice, "stamp"),
        (edits.follow_recipe, READY_RECIPES[0]),
        (edits.reshape, "stamp"),
        (edits.edit, {"body": {"width_mm": 50}}),
    ):
        with pytest.raises(ConflictError):
            decide(room, portrait["id"], old, asked)


def test_ready_recipes_fit_pictures_and_show_what_they_make(client, started):
    listed = client.get("/api/recipes", params={"piece_id": started["id"]}).json()
    assert [each["name"] for each in listed] == [each.name for each in READY_RECIPES]
    assert all(each["fits"] and each["ready"] for each in listed)
    picture = client.get(f"/api/recipes/{listed[0]['key']}/thumbnail.png")
    assert picture.content.startswith(PNG)


@pytest.mark.parametrize("recipe", READY_RECIPES, ids=lambda recipe: recipe.name)
def test_every_ready_recipe_is_laid_on_a_picture(client, started, recipe):
    key = f"ready-{READY_RECIPES.index(recipe)}"
    answer = client.post(f"/api/pieces/{started['id']}/recipe", json={"base": started["revision"], "key": key})
    assert answer.status_code == 201, answer.json()
    made = answer.json()
    assert made["shape"] == recipe.shape
    assert made["document"]["title"] == started["document"]["title"]
    assert made["document"]["picture"] == started["document"]["picture"]


def test_settings_are_kept_without_the_picture_and_laid_on_another(client, started, hill):
    crop = {"kind": "crop", "id": "crop", "box": {"left": 0.1, "bottom": 0.1, "right": 0.9, "top": 0.9}}
    changed = revise(
        client, started, {"ops": [{"kind": "invert", "id": "invert"}, crop], "body": {"width_mm": 111, "backing_mm": 4}}
    )
    kept = client.post("/api/recipes", json={"piece_id": changed["id"], "name": "Wide"})
    assert kept.status_code == 201
    file = client.get(f"/api/recipes/{kept.json()['key']}/file").json()
    assert "picture" not in file["parts"]
    assert [op["kind"] for op in file["parts"]["ops"]] == ["invert"]
    assert base64.b64decode(file["thumbnail"]).startswith(PNG)
    other = client.post("/api/pieces", files={"picture": ("other.png", hill)}).json()
    own = revise(client, other, {"ops": [crop]})
    order = {"base": own["revision"], "key": kept.json()["key"]}
    made = client.post(f"/api/pieces/{other['id']}/recipe", json=order).json()
    assert [op["kind"] for op in made["document"]["ops"]] == ["crop", "invert"]
    assert made["document"]["body"]["width_mm"] == 111
    assert made["document"]["title"] == "other"


def test_a_recipe_travels_as_one_file(client, started):
    key = client.post("/api/recipes", json={"piece_id": started["id"], "name": "Mine"}).json()["key"]
    file = client.get(f"/api/recipes/{key}/file").json()
    assert client.post("/api/recipe-files", json=file).status_code == 409
    assert client.delete(f"/api/recipes/{key}").status_code == 204
    brought = client.post("/api/recipe-files", json=file)
    assert brought.status_code == 201
    assert client.get(f"/api/recipes/{brought.json()['key']}/file").json() == file


@pytest.mark.parametrize(
    ("file", "words"),
    [
        ({"name": "x"}, "This is no recipe"),
        ({"recipe": 1, "name": "x", "kind": "bell", "parts": {}}, "not known here"),
        (
            {"recipe": 1, "name": "x", "kind": "panel", "shape": "panel", "parts": {"body": {"width_mm": -4}}},
            "Width is -4 mm",
        ),
        ({"recipe": 1, "name": "x", "kind": "panel", "parts": {"petals": 3}}, "petals is not part of a piece"),
        ({"recipe": 1, "name": "x", "kind": "panel", "parts": {}, "thumbnail": "AAAA"}, "no PNG"),
        ({"recipe": 2, "name": "x", "kind": "panel", "parts": {}}, "Version of the recipe"),
    ],
)
def test_a_file_that_is_no_recipe_is_refused_in_a_sentence(client, file, words):
    answer = client.post("/api/recipe-files", json=file)
    assert answer.status_code == 422
    assert words in answer.json()["message"]
    assert all(each["ready"] for each in client.get("/api/recipes").json())


def test_a_recipe_for_pictures_does_not_fit_a_model_and_ready_ones_stay(client):
    ends = [(0, 0, 0), (9, 0, 0), (0, 9, 0), (0, 0, 9)]
    faces = [(0, 2, 1), (0, 1, 3), (0, 3, 2), (1, 2, 3)]
    corner = "\n".join([f"v {x} {y} {z}" for x, y, z in ends] + [f"f {a + 1} {b + 1} {c + 1}" for a, b, c in faces])
    model = client.post("/api/models", files={"model": ("corner.obj", corner.encode())}).json()
    listed = client.get("/api/recipes", params={"piece_id": model["id"]}).json()
    assert not any(each["fits"] for each in listed)
    order = {"base": model["revision"], "key": "ready-0"}
    refused = client.post(f"/api/pieces/{model['id']}/recipe", json=order)
    assert refused.status_code == 422
    assert "needs a picture" in refused.json()["message"]
    assert client.delete("/api/recipes/ready-0").status_code == 409
    assert client.get("/api/recipes/77/file").status_code == 404
    assert client.get(f"/api/pieces/{model['id']}/choices").json() == []


def test_tags_are_of_the_shelf_and_no_revision(client, started):
    answer = client.put(f"/api/pieces/{started['id']}/tags", json={"tags": ["garden", " sold ", "garden", " "]})
    assert answer.json()["revision"] == started["revision"]
    card = client.get("/api/pieces").json()[0]
    assert card["tags"] == ["garden", "sold"]
    assert client.put(f"/api/pieces/{started['id']}/tags", json={"tags": ["x" * 41]}).status_code == 422


def test_the_shelf_tells_what_redo_would_bring_back_without_asking_each_piece(client, started):
    revise(client, started, {"body": {"width_mm": 50}}, "Narrower")
    step(client, started["id"], "undo")
    context = client.app.state.context
    [state] = context.workshop.pieces.all()
    assert (state.redoes, state.undoes) == ("Narrower", None)
    assert state == context.workshop.pieces.get(started["id"])


def test_a_painted_piece_carries_its_colour_where_the_format_can(client, started, job_until):
    for form, marks in (("3mf", b"#4C7A3D"), ("ply", b"uchar red"), ("obj", b"")):
        piece = client.get(f"/api/pieces/{started['id']}").json()
        paint = {"paint": {"on": True, "colour": "#4c7a3d"}, "delivery": {"format": form}}
        revise(client, piece, paint)
        job = client.post(f"/api/pieces/{started['id']}/build").json()
        done = job_until(job["id"], lambda job: job["state"] in ("done", "failed"))
        assert done["state"] == "done", done["message"]
        data = client.get(f"/api/jobs/{job['id']}/file").content
        if form == "ply":
            assert marks in data
            continue
        package = zipfile.ZipFile(io.BytesIO(data))
        if form == "3mf":
            assert marks in package.read("3D/3dmodel.model").upper()
        else:
            materials = next(name for name in package.namelist() if name.endswith(".mtl"))
            assert b"Kd 0.298039 0.478431 0.239216" in package.read(materials)


def test_layers_of_outlines_have_colours_of_their_own(client, encode, computing):
    y, x = np.mgrid[0:200, 0:200] / 200
    tones = np.where(np.hypot(x - 0.5, y - 0.5) < 0.2, 1.0, np.where(np.hypot(x - 0.5, y - 0.5) < 0.4, 0.5, 0.0))
    picture = encode((tones * 65535).astype(np.uint16))
    piece = client.post("/api/pieces", files={"picture": ("rings.png", picture)}).json()
    order = {"base": piece["revision"], "label": "x", "shape": "raised"}
    piece = client.post(f"/api/pieces/{piece['id']}/shape", json=order).json()
    solid = {"heights_mm": [0, 2, 4], "colours": [None, "#204080", "#d0a030"]}
    piece = revise(client, piece, {"trace": {"by": "tones", "tones": 3}, "solid": solid})
    evaluator = computing.piece(piece["id"]).evaluator
    mesh = evaluator.painted(evaluator.mesh())
    heights = mesh.corners[:, :, 2].max(axis=1)
    for top, colour in ((2.0, [0x20, 0x40, 0x80, 255]), (4.0, [0xD0, 0xA0, 0x30, 255])):
        level = np.abs(mesh.corners[:, :, 2] - top).max(axis=1) < 1e-6
        assert level.any()
        assert (mesh.corner_colours[level] == colour).all()
    assert set(np.round(heights, 3)) <= {2.0, 4.0, 0.0}
