"""Layers of pieces over the API: what they tell, one from above, what would help, how it lies, colours, card, plate."""

import io

import manifold3d
import numpy as np
import pytest

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import read_mesh, write_mesh
from nebrel.core.mesh.measure import volume
from nebrel.core.proof.soundness import check_soundness
from tests.api.edits import edit
from tests.api.frames import unpack

Solid = manifold3d.Manifold
LINE = 0.42


def box(x: float, y: float, z: float, at: tuple[float, float, float] = (0, 0, 0)) -> Solid:
    return Solid.cube((x, y, z)).translate(at)


def stl(mesh: TriMesh) -> bytes:
    held = io.BytesIO()
    write_mesh(mesh, held, "stl")
    return held.getvalue()


@pytest.fixture
def begin(client):
    """A piece that starts from a solid."""

    def begun(solid: Solid | TriMesh, name: str = "part.stl") -> dict:
        mesh = solid if isinstance(solid, TriMesh) else mesh_of(solid)
        answer = client.post("/api/models", files={"model": (name, stl(mesh))}, data={"unit": "mm"})
        assert answer.status_code == 201, answer.text
        return answer.json()

    return begun


@pytest.fixture
def change(client):
    """Keep a change of a piece."""

    def changed(piece: dict, **parts: object) -> dict:
        now = client.get(f"/api/pieces/{piece['id']}").json()
        answer = edit(client, now, parts)
        assert answer.status_code == 201, answer.text
        return answer.json()

    return changed


@pytest.fixture
def ask(client):
    """What a way of a piece answers."""

    def asked(piece: dict, way: str, **more: object) -> object:
        answer = client.post(f"/api/pieces/{piece['id']}/{way}", json=more)
        assert answer.status_code == 200, answer.text
        return answer.json()

    return asked


LEDGE = box(5, 20, 30) + box(20, 20, 4, (0, 0, 26))
RING = Solid.extrude(manifold3d.CrossSection.circle(20, 128) - manifold3d.CrossSection.circle(20 - 2.5 * LINE, 128), 8)


BANDS = {
    "on": True,
    "colour": "#203040",
    "name": "Slate",
    "changes": [{"from_mm": 2.4, "colour": "#f0e8d8", "name": "Chalk"}],
}


class TestLayers:
    def test_what_hangs_is_told_in_places_of_the_piece_and_its_layer(self, begin, ask):
        told = ask(begin(LEDGE), "layers")
        assert told["size_mm"] == pytest.approx([20, 20, 30])
        assert told["report"]["layers"] == len(told["bounds_mm"]) - 1 == 188
        [finding] = [each for each in told["findings"] if each["finding"]["measure"] == "overhang"]
        assert told["bounds_mm"][finding["layer"] - 1] == pytest.approx(26, abs=0.3)
        assert told["scars_mm2"][0] == pytest.approx(15 * 20, rel=0.1)

    def test_one_layer_from_above_has_what_it_covers_and_its_walls(self, client, begin):
        piece = begin(RING)
        answer = client.post(f"/api/pieces/{piece['id']}/layer", json={"layer": 20})
        head, arrays = unpack(answer.content)
        whole = manifold3d.CrossSection.circle(20, 128) - manifold3d.CrossSection.circle(20 - 2.5 * LINE, 128)
        assert head["area_mm2"] == pytest.approx(whole.area(), rel=1e-5)
        assert (head["layer"], head["layers"]) == (20, 50)
        assert len(arrays["outline_starts"]) == 2
        assert arrays["wide"] == pytest.approx(2.5 * LINE, abs=0.02)
        assert (arrays["lines"] == 2).all() and arrays["rest"] == pytest.approx(0.5, abs=0.05)
        # Where places lie on the piece: the ring's middle is 20 mm from either side.
        on_piece = np.array(head["origin_mm"]) + arrays["places"] @ np.array([head["x_axis"], head["y_axis"]])
        assert np.hypot(*(on_piece[:, :2] - 20).T).max() == pytest.approx(20, abs=0.01)
        assert on_piece[:, 2] == pytest.approx(20 * 0.16, abs=1e-4)

    def test_a_layer_that_is_not_there_is_refused(self, client, begin):
        piece = begin(box(9, 9, 4))
        answer = client.post(f"/api/pieces/{piece['id']}/layer", json={"layer": 400})
        assert answer.status_code == 422 and "the piece has 25" in answer.json()["message"]

    def test_open_and_crossing_models_are_refused_in_a_sentence(self, client, begin):
        cube = mesh_of(box(9, 9, 9))
        torn = begin(TriMesh(cube.vertices, cube.faces[1:]))
        two = TriMesh(
            np.concatenate([cube.vertices, cube.vertices + 4]),
            np.concatenate([cube.faces, cube.faces + len(cube.vertices)]),
        )
        for piece, words in ((torn, "not closed"), (begin(two), "cross")):
            answer = client.post(f"/api/pieces/{piece['id']}/layers", json={})
            assert answer.status_code == 422 and words in answer.json()["message"]

    def test_a_layer_higher_than_a_line_is_wide_is_refused(self, client, begin, change):
        piece = begin(box(9, 9, 9))
        change(piece, maker={"layer_mm": 0.6})
        answer = client.post(f"/api/pieces/{piece['id']}/layers", json={})
        assert answer.status_code == 422 and "higher than a line" in answer.json()["message"]

    def test_lower_layers_where_slopes_want_them(self, begin, change, ask):
        piece = begin(Solid.sphere(10, 96))
        even = ask(piece, "layers")
        change(piece, printing={"varied": True, "cusp_mm": 0.06, "first_mm": 0.1})
        varied = ask(piece, "layers")
        assert varied["report"]["layers"] > even["report"]["layers"]
        assert varied["report"]["cusp_mm"] < 0.7 * even["report"]["cusp_mm"]
        assert varied["bounds_mm"][1] == pytest.approx(0.1)

    def test_maps_of_lines_and_of_scars(self, client, begin):
        piece = begin(RING)
        head, arrays = unpack(client.post(f"/api/pieces/{piece['id']}/map", json={"kind": "lines"}).content)
        assert head["least"] == pytest.approx(2.5, abs=0.05)
        ledge = begin(LEDGE)
        head, arrays = unpack(client.post(f"/api/pieces/{ledge['id']}/map", json={"kind": "scars"}).content)
        assert head["most"] == 1 and 0 < np.nanmean(arrays["values"]) < 1


class TestHelp:
    def test_a_ledge_is_turned_or_gets_a_slope(self, client, begin, ask):
        piece = begin(LEDGE)
        fixes = ask(piece, "layers/fixes")
        words = {fix["words"]: fix for fix in fixes}
        slope = words["Chamfer what hangs level"]
        assert slope["before"] == pytest.approx(15 * 20 * 26, rel=0.05) and slope["after"] == 0
        best = words["Lay it on its best side"]
        assert best["after"] < 0.2 * best["before"]
        assert sum("with pegs" in each for each in words) <= 1
        assert edit(client, piece, slope["change"], slope["words"]).status_code == 201
        assert ask(piece, "layers")["report"]["overhang_mm2"] == 0

    def test_what_is_offered_is_better_than_what_there_is(self, begin, ask):
        for fix in ask(begin(RING), "layers/fixes"):
            assert fix["after"] <= 0.8 * fix["before"]

    def test_awkward_walls_get_lines_that_fill_them(self, begin, ask):
        piece = begin(RING)
        fixes = [fix for fix in ask(piece, "layers/fixes") if fix["mends"] == "walls"]
        lines = next(fix for fix in fixes if fix["words"].startswith("Lay lines"))
        width = lines["change"]["maker"]["line_width_mm"]
        assert width * round(2.5 * LINE / width) == pytest.approx(2.5 * LINE, abs=0.01)
        assert lines["after"] == 0

    def test_a_cube_needs_no_help(self, begin, ask):
        assert ask(begin(box(20, 20, 20)), "layers/fixes") == []


class TestLying:
    def test_ways_side_by_side_and_the_one_that_is_taken(self, begin, change, ask):
        piece = begin(LEDGE)
        ways = ask(piece, "turns")
        named = {name: way for way in ways for name in way["names"]}
        assert named["as made"]["taken"] and {"lying", "standing", "best", "best but 1", "best but 2"} <= set(named)
        assert named["lying"]["built"]["height_mm"] <= min(way["built"]["height_mm"] for way in ways) + 1e-6
        best = named["best"]
        assert best["built"]["support_mm3"] < named["as made"]["built"]["support_mm3"]
        change(piece, printing={"down": best["turn"]["down"]})
        taken = next(way for way in ask(piece, "turns") if way["taken"])
        assert taken["turn"]["down"] == pytest.approx(best["turn"]["down"], abs=1e-6)
        assert ask(piece, "layers")["report"]["support_mm3"] == pytest.approx(best["built"]["support_mm3"], abs=1)

    def test_weights_change_what_is_best(self, begin, ask):
        piece = begin(box(10, 12, 60))
        none = dict.fromkeys(("support", "height", "footprint", "wobble", "steps", "scars"), 0)
        low = next(way for way in ask(piece, "turns", weights={**none, "height": 1}) if "best" in way["names"])
        assert low["built"]["height_mm"] == pytest.approx(10)

    def test_its_picture_shows_it_turned(self, client, begin):
        piece = begin(box(10, 12, 60))
        address = f"/api/pieces/{piece['id']}/turned.png"
        up, aside = (
            client.get(address, params=down).content for down in ({"x": 0, "y": 0, "z": -1}, {"x": 0, "y": -2, "z": 0})
        )
        assert up[:4] == aside[:4] == b"\x89PNG" and up != aside
        assert client.get(address, params={"x": 0, "y": 0, "z": 0}).status_code == 422

    @pytest.mark.parametrize("form", ["stl", "3mf", "obj", "ply", "off", "glb"])
    def test_files_of_every_format_stand_as_it_lies(self, client, begin, change, build, form):
        piece = begin(LEDGE)
        change(piece, printing={"down": [1, 0, 0]}, delivery={"format": form})
        job = build(piece["id"])
        printed = job["result"]["report"]["printed"]
        assert printed["size_mm"] == pytest.approx([30, 20, 20], abs=1e-4) and printed["sound"]
        found = read_mesh(client.get(f"/api/jobs/{job['id']}/file").content, f"a.{form}", "mm").mesh
        assert np.ptp(found.vertices, axis=0) == pytest.approx([30, 20, 20], abs=1e-3)
        assert volume(found) == pytest.approx(LEDGE.volume(), rel=1e-4)

    def test_a_piece_as_it_was_made_has_the_file_that_it_had(self, begin, build):
        assert build(begin(LEDGE)["id"])["result"]["report"]["printed"] is None

    def test_a_side_without_a_direction_is_refused(self, client, begin):
        piece = begin(box(9, 9, 9))
        answer = edit(client, piece, {"printing": {"down": [0, 0, 0]}})
        assert answer.status_code == 422 and "no direction" in answer.json()["message"]


@pytest.fixture
def build(client, job_until):
    """Build a piece, and wait for it."""

    def built(piece_id: str) -> dict:
        job = client.post(f"/api/pieces/{piece_id}/build").json()
        done = job_until(job["id"], lambda each: each["state"] not in ("waiting", "running"))
        assert done["state"] == "done", done["message"]
        return done

    return built


class TestColours:
    def test_every_colour_is_a_body_of_the_3mf(self, client, begin, change, build):
        piece = begin(box(20, 20, 2.4) + box(8, 8, 4, (6, 6, 0)))
        change(piece, printing={"bands": BANDS}, delivery={"format": "3mf"})
        job = build(piece["id"])
        printed = job["result"]["report"]["printed"]
        assert [body["name"] for body in printed["bodies"]] == ["1 Slate", "2 Chalk"]
        assert [body["volume_mm3"] for body in printed["bodies"]] == pytest.approx([960, 64 * 1.6], rel=1e-4)
        file = read_mesh(client.get(f"/api/jobs/{job['id']}/file").content, "a.3mf", "mm", sharp=True)
        assert [name for name, _ in file.objects] == ["1 Slate", "2 Chalk"]
        colours = {tuple(each) for each in file.mesh.corner_colours[:, 0, :3].tolist()}
        assert colours == {(0x20, 0x30, 0x40), (0xF0, 0xE8, 0xD8)}

    def test_what_they_take_is_told_and_the_changes_too(self, begin, change, ask):
        piece = begin(box(20, 20, 4))
        change(piece, printing={"bands": BANDS, "colour_change_s": 120})
        told = ask(piece, "layers")
        below, above = told["bands"]
        assert (below["layers"], above["layers"]) == ([1, 15], [16, 25])
        assert below["grams"] + above["grams"] == pytest.approx(told["report"]["grams"], abs=0.02)
        assert (told["swaps"], told["swap_minutes"]) == (1, 2)

    def test_a_relief_gets_a_proposal_from_its_heights(self, client, started, ask):
        found = ask(started, "bands/suggested", colours=3)
        assert len(found["changes"]) == 2 and found["on"]
        assert edit(client, started, {"printing": {"bands": found}}).status_code == 201
        assert len(ask(started, "layers")["bands"]) == 3

    @pytest.mark.parametrize(("tall", "rises"), [("bright", True), ("dark", False)])
    def test_its_greys_are_those_of_the_picture(self, started, change, ask, tall, rises):
        change(started, height={"rule": {"tall": tall}})
        found = ask(started, "bands/suggested", colours=2)
        below, above = (int(each[1:3], 16) for each in (found["colour"], found["changes"][0]["colour"]))
        assert (above > below) == rises

    def test_what_has_objects_of_its_own_is_not_cut_in_silence(self, client, begin, change, job_until):
        one, other = begin(box(9, 9, 9)), begin(box(9, 9, 9))
        order = {"pieces": [one["id"], other["id"]]}
        whole = client.post("/api/assemblies", json=order).json()
        change(whole, objects="each", printing={"bands": BANDS}, delivery={"format": "3mf"})
        job = client.post(f"/api/pieces/{whole['id']}/build").json()
        done = job_until(job["id"], lambda each: each["state"] not in ("waiting", "running"))
        assert done["state"] == "failed" and "not cut into colours by layers" in done["message"]

    def test_nothing_is_proposed_for_what_is_printed_standing(self, client, started, change):
        change(started, printing={"down": [0, -1, 0]})
        answer = client.post(f"/api/pieces/{started['id']}/bands/suggested", json={})
        assert answer.status_code == 409 and "type heights" in answer.json()["message"]


class TestCard:
    def test_the_text_tells_how_it_is_printed(self, client, begin, change):
        piece = begin(LEDGE, "ledge.stl")
        change(piece, printing={"bands": BANDS, "down": [0, -1, 0]})
        card = client.get(f"/api/pieces/{piece['id']}/print-card.txt").content.decode()
        for words in (
            "Line width:",
            "0.42 mm",
            "Infill:",
            "15%",
            "standing on its lower edge",
            "Price:",
            "Slate from layer 1",
            "Chalk from layer 16",
            "estimates",
        ):
            assert words in card, words

    def test_the_page_is_a_pdf_with_a_picture(self, client, started):
        answer = client.get(f"/api/pieces/{started['id']}/print-card.pdf")
        assert answer.headers["content-type"] == "application/pdf"
        assert answer.content.startswith(b"%PDF") and b"/Image" in answer.content

    def test_other_forms_are_refused(self, client, started):
        assert client.get(f"/api/pieces/{started['id']}/print-card.docx").status_code == 422


class TestPlate:
    def test_pieces_and_copies_lie_on_one_bed_as_objects(self, client, begin, change, job_until):
        plate, ledge = begin(box(30, 20, 4), "plate.stl"), begin(LEDGE, "ledge.stl")
        change(plate, printing={"bands": BANDS})
        order = {
            "items": [{"piece_id": plate["id"], "copies": 2}, {"piece_id": ledge["id"]}],
            "bed_mm": [90, 90],
            "gap_mm": 5,
        }
        job = client.post("/api/plates", json=order)
        assert job.status_code == 202
        done = job_until(job.json()["id"], lambda each: each["state"] not in ("waiting", "running"))
        assert done["state"] == "done", done["message"]
        result = done["plate"]
        assert result["sound"] and len(result["report"]["pieces"]) == 3
        file = read_mesh(client.get(f"/api/jobs/{done['id']}/file").content, "plate.3mf", "mm")
        assert [name for name, _ in file.objects] == [
            "plate 1, 1 Slate",
            "plate 1, 2 Chalk",
            "plate 2, 1 Slate",
            "plate 2, 2 Chalk",
            "ledge",
        ]
        assert check_soundness(file.mesh).volume_mm3 == pytest.approx(2 * 2400 + LEDGE.volume(), rel=1e-3)

    def test_what_does_not_fit_is_told(self, client, begin, job_until):
        piece = begin(box(30, 20, 4))
        order = {"items": [{"piece_id": piece["id"], "copies": 9}], "bed_mm": [60, 60]}
        job = client.post("/api/plates", json=order).json()
        done = job_until(job["id"], lambda each: each["state"] not in ("waiting", "running"))
        assert done["state"] == "failed" and "pieces fit on a bed of 60 × 60 mm" in done["message"]


class TestPrinter:
    def test_a_built_file_is_sent_printed_and_paused(self, client, begin, build):
        # So large that it is still being printed when it is paused, however slow this machine.
        piece = begin(box(150, 150, 10))
        job = build(piece["id"])
        sent = client.post(f"/api/jobs/{job['id']}/print")
        assert sent.status_code == 202, sent.text
        told = sent.json()
        assert told["state"] == "printing" and told["layers"] > 10
        assert client.post(f"/api/printer/prints/{told['id']}/pause").json()["state"] == "paused"
        assert client.post(f"/api/printer/prints/{told['id']}/pause").status_code == 409
        [listed] = client.get("/api/printer").json()["prints"]
        assert listed["id"] == told["id"] and listed["state"] == "paused"
        assert client.post(f"/api/printer/prints/{told['id']}/cancel").json()["state"] == "cancelled"

    def test_what_the_printer_refuses_is_said(self, client, begin, build, change):
        piece = begin(box(300, 20, 10))
        job = build(piece["id"])
        answer = client.post(f"/api/jobs/{job['id']}/print")
        assert answer.status_code == 422 and "more than the 220.0" in answer.json()["message"]
        assert client.post("/api/printer/prints/none/pause").status_code == 404


LEAF = b"""<svg xmlns="http://www.w3.org/2000/svg" width="70mm" height="60mm" viewBox="0 0 70 60">
<path d="M35 3 C55 3 68 18 66 34 C64 50 50 57 35 57 C20 57 8 50 4 34 C2 20 15 3 35 3 Z"/></svg>"""
STAR = b"""<svg xmlns="http://www.w3.org/2000/svg" width="70mm" height="70mm" viewBox="0 0 70 70">
<path d="M35 3 L44 26 L68 27 L49 42 L56 66 L35 52 L14 66 L21 42 L2 27 L26 26 Z"/></svg>"""


class TestCutter:
    # The wall about a sharp corner that turns inwards is thicker than it was asked for.
    @pytest.mark.parametrize(("drawing", "share"), [(LEAF, 0.99), (STAR, 0.96)])
    def test_walls_asked_for_four_lines_read_four_nearly_everywhere(self, client, change, drawing, share):
        piece = client.post("/api/drawings", files={"drawing": ("leaf.svg", drawing)}).json()
        order = {"base": piece["revision"], "shape": "cutter", "label": "As a cutter"}
        piece = client.post(f"/api/pieces/{piece['id']}/shape", json=order).json()
        change(piece, solid={"lines": 4, "line_mm": LINE})
        layers = client.post(f"/api/pieces/{piece['id']}/layers", json={}).json()
        middle = int(np.searchsorted(layers["bounds_mm"], 8.0))
        _, arrays = unpack(client.post(f"/api/pieces/{piece['id']}/layer", json={"layer": middle}).content)
        # Places lie about evenly along the outlines, so their share is that of the length.
        assert (arrays["lines"] == 4).mean() >= share
        assert not any(each["finding"]["measure"] == "awkward-wall" for each in layers["findings"])


def test_the_shelf_shows_a_piece_in_the_colours_of_its_layers(client, begin, change):
    piece = begin(box(20, 20, 4))
    plain = client.get(f"/api/pieces/{piece['id']}/thumbnail.png").content
    change(piece, printing={"bands": BANDS})
    banded = client.get(f"/api/pieces/{piece['id']}/thumbnail.png").content
    assert banded[:4] == b"\x89PNG" and banded != plain
    change(piece, printing={"bands": {"changes": [{"from_mm": 90, "colour": "#ffffff"}]}})
    assert client.get(f"/api/pieces/{piece['id']}/thumbnail.png").content == plain
