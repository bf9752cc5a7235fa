"""Begin anywhere, become anything: a new sheet, a choice by sight, a bust on a base, the first minute, a full shelf."""

import io
import re
import zipfile

import numpy as np
import pytest
import trimesh
from PIL import Image
from playwright.sync_api import Page, expect

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import write_mesh
from tests.browser.conftest import point_at, settled, station, type_into
from tests.browser.test_access import violations


@pytest.fixture(scope="module")
def bust() -> bytes:
    """A head on shoulders that lies on its back, 60 mm long."""
    parts = [
        trimesh.creation.cylinder(radius=17, height=16, sections=64),
        trimesh.creation.icosphere(subdivisions=4, radius=14),
        trimesh.creation.cylinder(radius=7, height=30, sections=48),
    ]
    parts[1].apply_translation((0, 0, 34))
    parts[2].apply_translation((0, 0, 16))
    whole = trimesh.boolean.union(parts, engine="manifold")
    whole.apply_transform(trimesh.transformations.rotation_matrix(np.pi / 2, (1, 0, 0)))
    held = io.BytesIO()
    write_mesh(TriMesh(np.asarray(whole.vertices, float), np.asarray(whole.faces, np.uint32)), held, "stl")
    return held.getvalue()


@pytest.fixture(scope="module")
def photograph() -> bytes:
    """Soft light with narrow dark strokes in it, in colour."""
    y, x = np.mgrid[0:360, 0:480] / 360
    hair = np.exp(-(((x * 17 + 2 * np.sin(6 * y)) % 1 - 0.5) ** 2) / 0.006) * (x > 0.4)
    tones = np.clip(0.55 + 0.3 * np.sin(2.3 * x + 1.1 * y) + 0.1 * np.cos(5 * y) - 0.5 * hair, 0, 1)
    held = io.BytesIO()
    Image.fromarray((np.dstack([tones, 0.8 * tones, 0.6 * tones + 0.1]) * 255).astype(np.uint8)).save(held, "PNG")
    return held.getvalue()


def here(page: Page, url: str) -> dict:
    """The piece on the bench as the server keeps it."""
    return page.request.get(f"{url}/api/pieces/{page.url.split('/piece/')[1].split('/')[0]}").json()


def add_step(page: Page, name: str) -> None:
    page.get_by_role("button", name="Add a step").click()
    page.get_by_role("button", name=name, exact=True).click()
    settled(page)


def test_a_bookmark_from_a_new_sheet(page: Page, shared) -> None:
    page.goto(shared.url)
    page.get_by_role("button", name="New sheet", exact=True).click()
    page.get_by_label("Width, mm").fill("180")
    page.get_by_label("Height, mm").fill("50")
    page.get_by_role("radio", name="Gray").click()
    page.get_by_label("Lettering, if any").fill("Fern 12")
    assert violations(page, "new sheet") == []
    page.get_by_role("button", name="Begin").click()
    settled(page)
    page.get_by_test_id("place-middle").dblclick()
    page.get_by_label("Words of the lettering").fill("Moss 7")
    page.get_by_label("Words of the lettering").press("Enter")
    settled(page)
    assert here(page, shared.url)["document"]["ops"][0]["text"] == "Moss 7"
    type_into(page, "Width", "90")
    settled(page)
    add_step(page, "Shape")
    page.get_by_role("radio", name="Heart").click()
    settled(page)
    handle = page.get_by_test_id("place-middle")
    box = handle.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    point_at(page, 0.12, 0.5)
    page.mouse.up()
    settled(page)
    add_step(page, "Paint")
    type_into(page, "Mirror axes", "2")
    page.get_by_label("Straight lines").check()
    settled(page)
    point_at(page, 0.8, 0.2)
    page.mouse.down()
    point_at(page, 0.9, 0.4)
    page.mouse.up()
    settled(page)
    add_step(page, "Drawn shape")
    for x, y in ((0.86, 0.55), (0.96, 0.6), (0.91, 0.85)):
        point_at(page, x, y)
        page.mouse.down()
        page.mouse.up()
        settled(page)
    ops = {op["kind"]: op for op in here(page, shared.url)["document"]["ops"]}
    assert ops["shape"]["centre"] == pytest.approx([0.12, 0.5], abs=0.02)
    assert len(ops["paint"]["strokes"][0]["places"]) == 2
    assert len(ops["drawn-shape"]["points"]) == 3
    station(page, "Height")
    expect(page.get_by_role("radio", name="Steps")).to_have_attribute("aria-checked", "true")
    card = next(each for each in page.request.get(f"{shared.url}/api/pieces").json() if each["title"] == "Fern 12")
    assert card["size_mm"] == pytest.approx([180, 50, 4.2])


def test_a_photograph_is_shown_as_all_that_it_could_be(page: Page, shared, photograph) -> None:
    page.goto(shared.url)
    page.get_by_label("Picture or model file").set_input_files(
        [{"name": "portrait.png", "mimeType": "image/png", "buffer": photograph}]
    )
    cards = page.get_by_role("region", name="Choices").get_by_role("button")
    expect(cards).to_have_count(8)
    expect(page.get_by_role("region", name="Choices").locator("img")).to_have_count(8)
    expect(cards.filter(has_text="Relief panel")).to_contain_text("Brightness is not height")
    assert violations(page, "choices") == []
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    expect(page.get_by_role("button", name=re.compile("^Lithophane last time|^Lithophane about"))).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("Light")
    settled(page)
    page.get_by_role("link", name="What else it can be, and recipes").click()
    expect(page.get_by_text("last time")).to_be_visible()
    # Until every choice has its picture, what lies below them moves.
    expect(page.get_by_role("region", name="Choices").locator("img")).to_have_count(8)
    page.get_by_label("Name of the recipe").fill("Window light")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("button", name="Window light Lithophane")).to_be_visible()
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save the recipe Window light as a file").click()
    assert saved.value.suggested_filename == "Window light.json"
    page.get_by_role("button", name="Coin Relief panel").click()
    settled(page)
    assert here(page, shared.url)["document"]["body"]["shape"] == "ellipse"


def test_several_pictures_are_made_by_one_recipe_and_saved_as_one_zip(page: Page, shared, encode) -> None:
    page.goto(shared.url)
    ramp = np.tile(np.linspace(0, 65535, 64).astype(np.uint16), (48, 1))
    tones = {"to windward": ramp, "to leeward": ramp[:, ::-1], "level": np.full((48, 64), 30_000, np.uint16)}
    page.get_by_label("Picture or model file").set_input_files(
        [{"name": f"{name}.png", "mimeType": "image/png", "buffer": encode(each)} for name, each in tones.items()]
    )
    bar = page.get_by_role("toolbar", name="Chosen pieces")
    expect(bar).to_contain_text("2 chosen")
    expect(page.get_by_role("alert")).to_contain_text("same tone")
    bar.get_by_role("button", name="By a recipe").click()
    page.get_by_role("button", name=re.compile("^Coin")).click()
    for title in ("to windward", "to leeward"):
        expect(page.get_by_role("article").filter(has_text=title)).to_contain_text("Relief panel, 40 ×")
    bar.get_by_role("button", name="Save all in one ZIP").click()
    with page.expect_download(timeout=120_000) as saved:
        page.get_by_role("button", name="Build and save ZIP").click()
    assert saved.value.suggested_filename == "2-pieces.zip"
    expect(page.get_by_test_id("parcel-done")).to_have_text("2-pieces.zip: 2 of 2 done, each proved sound.")
    with zipfile.ZipFile(saved.value.path()) as package:
        assert len([name for name in package.namelist() if name.endswith(".stl")]) == 2


@pytest.mark.deep
@pytest.mark.stage
def test_a_bust_is_stood_up_and_put_on_a_lettered_base_in_two_colours(page: Page, shared, drop, bust) -> None:
    page.goto(shared.url)
    drop("bust.stl", bust)
    expect(page.get_by_role("navigation", name="Stations")).to_be_visible()
    settled(page)
    add_step(page, "How it lies")
    add_step(page, "How large it is")
    type_into(page, "Size", "90")
    settled(page)
    page.get_by_role("link", name="Back to the shelf").click()
    page.get_by_role("button", name="Choose several").click()
    page.get_by_role("checkbox", name="Choose bust").check()
    page.get_by_role("button", name="Put together").click()
    expect(page.get_by_role("navigation", name="Stations")).to_contain_text("Parts")
    settled(page)
    page.get_by_role("button", name="Add a ready part").click()
    page.get_by_role("button", name="Disc", exact=True).click()
    settled(page)
    base = page.get_by_role("region", name="Disc", exact=True)
    base.get_by_label("Raised letters").fill("Fern")
    base.get_by_label("Raised letters").press("Enter")
    base.get_by_label("In a colour of its own").check()
    settled(page)
    base.get_by_role("group", name="Colours of the shelf").get_by_role("button").nth(4).click()
    settled(page)
    page.get_by_role("button", name="Change bust").click()
    page.get_by_role("region", name="bust", exact=True).get_by_label("In a colour of its own").check()
    settled(page)
    assert violations(page, "parts") == []
    station(page, "Deliver")
    page.get_by_role("radio", name="one object for each part").or_(page.get_by_label("Delivered as")).first.click()
    settled(page)
    page.get_by_label("File format").select_option("3mf")
    settled(page)
    with page.expect_download(timeout=180_000) as kept:
        page.get_by_role("button", name="Build and save").click()
    model = zipfile.ZipFile(kept.value.path()).read("3D/3dmodel.model").decode()
    colours = {part["colour"].upper() for part in here(page, shared.url)["document"]["assembly"]}
    assert len(colours) == 2
    assert all(colour in model.upper() for colour in colours)
    size = next(
        each for each in page.request.get(f"{shared.url}/api/pieces").json() if each["title"].startswith("bust,")
    )
    assert size["size_mm"][2] == pytest.approx(90 + 5 - 0.05, abs=1.5)


def test_an_empty_shelf_guides_through_a_first_piece(page: Page, own) -> None:
    page.goto(own.url)
    expect(page.get_by_role("heading", name="What will you make first?")).to_be_visible()
    assert violations(page, "greeting") == []
    page.get_by_role("button", name="Show me, in two minutes").click()
    guide = page.get_by_role("status", name="First piece")
    expect(guide).to_contain_text("1 of 4")
    settled(page)
    page.get_by_test_id("op-row").first.or_(page.get_by_role("button", name="Lettering")).first.click()
    page.get_by_label("Text").fill("Alder")
    page.get_by_label("Text").blur()
    expect(guide).to_contain_text("2 of 4")
    guide.get_by_role("button", name="Take me there").click()
    type_into(page, "Height of step 2", "2")
    expect(guide).to_contain_text("3 of 4")
    guide.get_by_role("button", name="Take me there").click()
    page.get_by_label("Outline", exact=True).select_option(label="Rectangle with round corners")
    expect(guide).to_contain_text("4 of 4")
    guide.get_by_role("button", name="Take me there").click()
    with page.expect_download():
        page.get_by_role("button", name="Build and save").click()
    expect(guide).to_contain_text("Done")
    guide.get_by_role("button", name="Close").click()
    expect(guide).to_have_count(0)


def test_pieces_are_found_tagged_and_taken_together(page: Page, own) -> None:
    for title in ("Fern", "Moss", "Alder"):
        sheet = {"width_mm": 30, "height_mm": 20, "text": title, "title": title}
        assert page.request.post(f"{own.url}/api/sheets", data=sheet).ok
    page.goto(own.url)
    tiles = page.get_by_role("article")
    expect(tiles).to_have_count(3)
    page.get_by_role("button", name="Choose several").click()
    page.get_by_role("checkbox", name="Choose Fern").check()
    page.get_by_role("checkbox", name="Choose Moss").check()
    page.get_by_label("Tag", exact=True).fill("green")
    page.get_by_role("button", name="Tag them").click()
    page.get_by_role("button", name="Done choosing").click()
    page.get_by_role("button", name="green 2").click()
    expect(tiles).to_have_count(2)
    page.get_by_label("Look for pieces").fill("mos")
    expect(tiles).to_have_count(1)
    assert violations(page, "shelf") == []


def test_a_piece_is_saved_as_a_file_and_dropped_on_the_shelf_again(page: Page, own, drop, tmp_path) -> None:
    sheet = {"width_mm": 30, "height_mm": 20, "text": "Fern", "title": "Fern"}
    assert page.request.post(f"{own.url}/api/sheets", data=sheet).ok
    page.goto(own.url)
    page.get_by_role("button", name="More for Fern").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Save as a file").click()
    assert download.value.suggested_filename == "Fern.piece.zip"
    download.value.save_as(tmp_path / "fern.zip")
    drop("fern.piece.zip", (tmp_path / "fern.zip").read_bytes())
    page.wait_for_url("**/piece/*")
    assert here(page, own.url)["document"]["title"] == "Fern"
    page.goto(own.url)
    expect(page.get_by_role("article")).to_have_count(2)
    drop("moss.piece.zip", b"PK no piece")
    expect(page.get_by_role("alert")).to_contain_text("holds no piece")
