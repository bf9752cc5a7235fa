"""Heights, bodies and proof on the bench, in a real browser."""

import io
from pathlib import Path

import manifold3d
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import read_mesh, write_mesh
from nebrel.core.mesh.formats.stl import read_stl
from nebrel.core.proof import check_soundness
from tests.browser.conftest import point_at, settled, stage, station, type_into


@pytest.fixture
def plate(encode) -> bytes:
    """Three tones."""
    tones = np.zeros((90, 120), dtype=np.uint8)
    tones[15:75, 15:105] = 128
    tones[30:60, 40:80] = 255
    return encode(tones)


@pytest.fixture
def opened(page: Page, shared, drop):
    def go(name: str, data: bytes) -> str:
        page.goto(shared.url)
        drop(name, data)
        expect(page.get_by_test_id("model-note")).to_contain_text("Preview")
        return page.url.rsplit("/", 1)[-1]

    return go


def kept(page: Page) -> None:
    """Wait until the last edit is kept and nothing was refused."""
    settled(page)
    expect(page.get_by_test_id("refusal")).to_have_count(0)


def built(page: Page, tmp_path: Path) -> TriMesh:
    station(page, "Deliver")
    with page.expect_download() as download:
        page.get_by_role("button", name="Build and save STL").click()
    path = tmp_path / download.value.suggested_filename
    download.value.save_as(path)
    return read_stl(path.read_bytes())


@pytest.mark.deep
def test_a_stepped_plate_with_an_oval_outline_and_a_frame(page: Page, opened, document, plate, tmp_path: Path):
    piece = opened("plate.png", plate)
    station(page, "Height")
    page.get_by_role("radio", name="Steps").click()
    page.get_by_role("button", name="From the tones present").click()
    expect(page.get_by_role("group", name="Table of steps").locator(".step-line")).to_have_count(3)
    type_into(page, "Height of step 3", "2.5")
    page.get_by_role("button", name="Add a step").click()
    expect(page.get_by_role("group", name="Table of steps").locator(".step-line")).to_have_count(4)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("group", name="Table of steps").locator(".step-line")).to_have_count(3)

    station(page, "Body")
    page.get_by_label("Outline", exact=True).select_option("ellipse")
    page.get_by_label("Frame on").click()
    type_into(page, "Over the backing", "4")
    type_into(page, "Frame width", "3")
    kept(page)
    point_at(page, 0.5, 0.5)
    expect(page.get_by_test_id("readout")).to_contain_text("height 2.5")
    point_at(page, 0.02, 0.02)
    expect(page.get_by_test_id("readout")).to_contain_text("height blank")
    mesh = built(page, tmp_path)
    report = check_soundness(mesh)
    assert report.sound, report.findings
    assert report.size == pytest.approx((80, 80 * 89 / 119, 5.2), abs=0.001)
    rule = document(piece)["height"]["rule"]
    assert [step["mm"] for step in rule["steps"]][-1] == 2.5


def test_what_does_not_fit_is_said_and_the_piece_stays(page: Page, opened, document, plate):
    piece = opened("plate.png", plate)
    station(page, "Body")
    page.get_by_role("button", name="Add a hole or slot").click()
    page.get_by_role("button", name="Keyhole").click()
    expect(page.get_by_test_id("refusal")).to_contain_text("thicker backing is needed")
    assert document(piece)["body"]["openings"] == []
    type_into(page, "Backing", "5")
    kept(page)
    page.get_by_role("button", name="Add a hole or slot").click()
    page.get_by_role("button", name="Keyhole").click()
    expect(page.get_by_role("region", name="Keyhole")).to_be_visible()
    page.get_by_label("Keyhole on").click()
    page.wait_for_function("document.querySelector('[aria-label=\"Keyhole on\"]').checked === false")


def test_a_curve_is_bent_and_a_shallow_rule_tried(page: Page, opened, document, plate):
    piece = opened("plate.png", plate)
    station(page, "Height")
    page.get_by_role("radio", name="Curve").click()
    handle = page.get_by_role("slider", name="Point 2 of the curve")
    handle.press("ArrowUp")
    expect(handle).to_have_attribute("aria-valuenow", "51")
    point_at(page, 0.2, 0.5)
    page.get_by_role("radio", name="Shallow").click()
    expect(page.get_by_test_id("rule-graph")).to_be_visible()
    type_into(page, "How much is held back", "80 %")
    page.get_by_role("radio", name="Curve").click()
    expect(page.get_by_role("slider", name="Point 2 of the curve")).to_have_attribute("aria-valuenow", "51")
    kept(page)
    assert document(piece)["height"]["rule"]["strength"] == pytest.approx(0.8)


def test_walls_lean_edges_round_and_dark_is_cut_through(page: Page, opened, document, plate):
    piece = opened("plate.png", plate)
    station(page, "Height")
    page.get_by_label("Cut through dark on").click()
    type_into(page, "Darker than", "20 %")
    page.get_by_label("Leaning walls on").click()
    type_into(page, "Every wall leans at least", "20")
    page.get_by_label("Round upper edges on").click()
    type_into(page, "Edge radius", "0.5")
    kept(page)
    point_at(page, 0.03, 0.5)
    expect(page.get_by_test_id("readout")).to_contain_text("height blank")
    height = document(piece)["height"]
    assert (height["cut"]["on"], height["draft"]["wall_deg"], height["rounding"]["radius_mm"]) == (True, 20, 0.5)


@pytest.mark.stage
def test_proof_colours_cuts_measures_and_judges(page: Page, opened, plate, tmp_path: Path):
    opened("plate.png", plate)
    station(page, "Proof")
    verdict = page.get_by_role("status", name="Verdict")
    expect(verdict).to_contain_text("proved when it is built")
    page.get_by_label("Colour the model by").select_option("thickness")
    expect(page.get_by_test_id("map-legend")).to_contain_text("thinnest 1.2 mm")
    page.get_by_label("Colour the model by").select_option("overhang-standing")
    expect(page.get_by_test_id("map-legend")).to_contain_text("Overhang, printed standing")
    page.get_by_label("Colour the model by").select_option("")

    page.get_by_role("button", name="Level").click()
    expect(page.get_by_role("group", name="Section")).to_contain_text("leaning")
    type_into(page, "Lean of the plane", "0")
    expect(page.get_by_test_id("section-asked")).to_be_attached()

    page.get_by_role("button", name="Pick two places on the model").click()
    box = stage(page).bounding_box()
    for share in (0.4, 0.6):
        page.mouse.click(box["x"] + share * box["width"], box["y"] + 0.5 * box["height"])
    expect(page.get_by_test_id("measured")).to_contain_text("Apart")
    page.get_by_role("button", name="Stop measuring").click()

    built(page, tmp_path)
    expect(page.get_by_text("Built ·")).to_be_visible()
    station(page, "Proof")
    expect(verdict).to_contain_text("what is delivered is what was checked")
    expect(page.get_by_test_id("weight")).to_contain_text("g")


@pytest.mark.deep
@pytest.mark.stage
def test_a_version_stands_beside_today_and_comes_back(page: Page, opened, document, plate):
    piece = opened("plate.png", plate)
    page.get_by_role("button", name="Versions").click()
    page.get_by_label("Name of the version").fill("Before the frame")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("Before the frame")).to_be_visible()
    page.keyboard.press("Escape")
    station(page, "Body")
    page.get_by_label("Frame on").click()
    kept(page)
    page.get_by_role("button", name="Versions").click()
    page.get_by_role("button", name="Beside").click()
    expect(page.locator(".stage canvas")).to_have_count(2)
    page.get_by_role("button", name="Bring back").click()
    expect(page.get_by_label("Frame on")).not_to_be_checked()
    assert document(piece)["body"]["frame"]["on"] is False
    page.get_by_role("button", name="Away").click()
    expect(page.locator(".stage canvas")).to_have_count(1)


@pytest.fixture
def pot() -> TriMesh:
    """A pot that a ball sticks through, with a hole in its side."""
    solid = manifold3d.Manifold.cylinder(30, 14, 18, 96) - manifold3d.Manifold.cylinder(30, 12, 16, 96).translate(
        (0, 0, 2)
    )
    parts = [mesh_of(solid), mesh_of(manifold3d.Manifold.sphere(4, 48).translate((16, 0, 20)))]
    faces = np.vstack([parts[0].faces[3:], parts[1].faces + len(parts[0].vertices)])
    return TriMesh(np.vstack([part.vertices for part in parts]), faces.astype(np.uint32))


def as_stl(mesh: TriMesh, scale: float = 1.0) -> bytes:
    held = io.BytesIO()
    write_mesh(TriMesh(mesh.vertices * scale, mesh.faces), held, "stl")
    return held.getvalue()


@pytest.mark.stage
def test_a_model_in_metres_is_asked_about_mended_made_light_and_delivered(
    page: Page, shared, drop, document, pot, tmp_path: Path
):
    page.goto(shared.url)
    drop("pot.stl", as_stl(pot, 0.001))
    expect(page.get_by_role("heading", name="How large is it?")).to_be_visible()
    page.get_by_role("button", name="numbers are metres").click()
    expect(page.get_by_test_id("model-note")).to_contain_text("Preview")
    expect(page.get_by_role("button", name="Height", exact=True)).to_have_count(0)
    piece = page.url.rsplit("/", 1)[-1]
    page.get_by_role("button", name="Fix: Repair").first.click(timeout=240_000)
    expect(page.get_by_test_id("outcome-repair")).to_contain_text("2 parts joined")
    expect(page.get_by_text("The solid is sound")).to_be_visible()

    station(page, "Deliver")
    page.get_by_label("Lightness on").click()
    page.get_by_role("button", name="Ready targets").click()
    page.get_by_label("Name of a new target").fill("For the garden")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("button", name="For the garden · 100,000 triangles")).to_be_visible()
    page.keyboard.press("Escape")
    type_into(page, "Triangles, about", "500")
    mesh = built(page, tmp_path)
    expect(page.get_by_test_id("lightness")).to_contain_text("and now")
    page.get_by_role("button", name="Before and after, side by side").click()
    expect(page.locator(".stage canvas")).to_have_count(2)
    report = check_soundness(mesh)
    assert report.sound, report.findings
    assert report.triangles <= 500
    assert report.size[2] == pytest.approx(30, abs=0.2)
    assert document(piece)["light"]["triangles"] == 500


def test_the_steps_of_a_model_are_added_moved_and_switched(page: Page, shared, drop, document, pot, tmp_path: Path):
    page.goto(shared.url)
    drop("pot.stl", as_stl(pot))
    expect(page.get_by_test_id("model-note")).to_contain_text("Preview")
    piece = page.url.rsplit("/", 1)[-1]
    for kind in ("Make the surface anew", "Cut by a plane", "Keep some parts"):
        page.get_by_role("button", name="Add a step").click()
        page.locator(".dropdown-menu.show").get_by_role("button", name=kind, exact=True).click()
        expect(page.get_by_role("region", name=kind)).to_be_visible()
        if kind == "Make the surface anew":
            type_into(page, "Voxel", "1.2")
        kept(page)
    expect(page.get_by_test_id("outcome-remesh")).to_contain_text("triangles")
    page.get_by_role("button", name="Keep some parts: earlier").click()
    page.get_by_role("radio", name="Below").click()
    kept(page)
    expect(page.get_by_test_id("outcome-cut")).to_contain_text("on that side")
    assert [step["kind"] for step in document(piece)["steps"]] == ["remesh", "keep-parts", "cut"]
    page.get_by_label("Cut by a plane on").click()
    expect(page.get_by_test_id("outcome-cut")).to_have_count(0)
    page.get_by_role("button", name="Remove: Make the surface anew").click()
    expect(page.get_by_role("region", name="Make the surface anew")).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("region", name="Make the surface anew")).to_be_visible()
    station(page, "Deliver")
    page.get_by_label("File format").select_option("3mf")
    with page.expect_download() as download:
        page.get_by_role("button", name="Build and save 3MF").click()
    path = tmp_path / "pot.3mf"
    download.value.save_as(path)
    assert read_mesh(path.read_bytes(), path.name).unit_given
