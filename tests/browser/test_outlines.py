"""Outlines on the bench, in a real browser: from a drawing to a cutter, and from an SVG file to a stamp."""

import io
from pathlib import Path

import pytest
from PIL import Image, ImageDraw
from playwright.sync_api import Page, expect

from nebrel.core.mesh.formats.stl import read_stl
from nebrel.core.outline_files.read import read_drawing
from nebrel.core.proof import check_soundness
from nebrel.core.region.curves import figure_region
from tests.browser.conftest import settled, station, type_into

OPEN = b"""<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">
<rect x="2" y="2" width="30" height="30"/><circle cx="50" cy="20" r="6"/></svg>"""


@pytest.fixture
def leaf() -> bytes:
    """A dark leaf with a thin stem, and two specks."""
    sheet = Image.new("L", (2400, 2000), 255)
    pen = ImageDraw.Draw(sheet)
    pen.ellipse((400, 200, 2000, 1300), fill=40)
    pen.rectangle((1190, 1200, 1208, 1900), fill=40)
    for x, y in ((200, 1700), (2150, 1650)):
        pen.ellipse((x - 30, y - 30, x + 30, y + 30), fill=40)
    held = io.BytesIO()
    sheet.resize((600, 500), Image.Resampling.BOX).save(held, "PNG")
    return held.getvalue()


@pytest.fixture
def opened(page: Page, shared, drop):
    def go(name: str, data: bytes) -> None:
        page.goto(shared.url)
        drop(name, data)
        expect(page.get_by_test_id("model-note")).to_contain_text("Preview")

    return go


def kept(page: Page) -> None:
    """Wait until the last edit is kept and nothing was refused."""
    settled(page)
    expect(page.get_by_test_id("refusal")).to_have_count(0)


def press_outline(page: Page, number: int) -> None:
    """Press the edge of an outline on the Plan, a third of the way along it."""
    page.get_by_test_id(f"outline-{number}").evaluate(
        """(path) => {
          const place = path.getPointAtLength(path.getTotalLength() / 3).matrixTransform(path.getScreenCTM());
          const event = { bubbles: true, clientX: place.x, clientY: place.y, pointerId: 1 };
          path.dispatchEvent(new PointerEvent("pointerdown", event));
          path.dispatchEvent(new PointerEvent("pointerup", event));
        }"""
    )


def test_a_leaf_becomes_a_clay_cutter(page: Page, opened, leaf, tmp_path: Path):
    opened("leaf.png", leaf)
    station(page, "Body")
    page.get_by_label("What it is").last.select_option("cutter")
    expect(page.get_by_role("button", name="Outlines", exact=True)).to_have_attribute("aria-current", "step")
    expect(page.get_by_test_id("outline-count")).to_have_text("3")

    sizes = page.get_by_label("List of outlines").get_by_role("button")
    areas = [float(text.split(" mm²")[0].split()[-1]) for text in sizes.all_inner_texts()]
    specks = [at for at, area in enumerate(areas) if area < 10]
    assert len(specks) == 2
    press_outline(page, specks[0])
    expect(sizes.nth(specks[0])).to_have_attribute("aria-pressed", "true")
    sizes.nth(specks[1]).click(modifiers=["Shift"])
    page.get_by_role("button", name="Take away", exact=True).click()
    kept(page)
    expect(page.get_by_test_id("outline-count")).to_have_text("1")

    type_into(page, "Width of the outlines", "60 mm")
    kept(page)
    expect(page.get_by_test_id("outline-size")).to_contain_text("60.00 mm")
    findings = page.get_by_label("Findings")
    expect(findings).to_contain_text("the dough will tear there")
    findings.get_by_role("button", name="Fix: Widen").click()
    kept(page)
    expect(findings).not_to_contain_text("the dough will tear there")

    station(page, "Body")
    expect(page.get_by_test_id("wall-thickness")).to_have_text("1.80 mm")
    station(page, "Deliver")
    with page.expect_download() as download:
        page.get_by_role("button", name="Build and save STL").click()
    path = tmp_path / download.value.suggested_filename
    download.value.save_as(path)
    found = check_soundness(read_stl(path.read_bytes()))
    assert found.sound
    assert found.shells == 1
    assert found.size[0] == pytest.approx(68, abs=0.2)
    assert found.size[2] == pytest.approx(16, abs=0.001)


def test_a_drawing_is_mended_by_its_nodes_and_handed_on(page: Page, opened, tmp_path: Path):
    opened("plate.svg", OPEN)
    expect(page.get_by_role("button", name="Picture", exact=True)).to_have_count(0)
    expect(page.get_by_test_id("outline-count")).to_have_text("2")
    page.get_by_role("radio", name="Nodes").click()
    page.get_by_label("List of outlines").get_by_role("button").first.click()
    node = page.get_by_test_id("node-0-1")
    box = node.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 4, box["y"] + 4)
    page.mouse.down()
    page.mouse.move(box["x"] + 44, box["y"] + 4, steps=4)
    page.mouse.up()
    kept(page)
    expect(page.get_by_role("region", name="Node")).to_be_visible()
    expect(page.get_by_label("Findings")).to_contain_text("parts that nothing joins")

    station(page, "Body")
    page.get_by_label("What it is").last.select_option("stamp")
    kept(page)
    expect(page.get_by_label("Findings")).not_to_contain_text("parts that nothing joins")
    station(page, "Deliver")
    with page.expect_download() as download:
        page.get_by_role("link", name="SVG").click()
    path = tmp_path / download.value.suggested_filename
    download.value.save_as(path)
    area = figure_region(read_drawing(path.read_bytes(), path.name).figure).area
    assert area != pytest.approx(900 + 36 * 3.14159, rel=0.01)


def test_undo_brings_the_panel_back(page: Page, opened, leaf):
    opened("leaf.png", leaf)
    station(page, "Body")
    page.get_by_label("What it is").last.select_option("raised")
    kept(page)
    expect(page.get_by_test_id("outlines")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    settled(page)
    expect(page.get_by_role("button", name="Height", exact=True)).to_be_visible()
    expect(page.get_by_label("Tone to height")).to_be_visible()


def test_a_motif_is_kept_found_and_followed(page: Page, opened):
    opened("plate.svg", OPEN)
    page.get_by_role("button", name="Motifs").click()
    panel = page.get_by_role("dialog", name="Motifs")
    panel.get_by_label("Name of the motif").fill("Gate plate")
    panel.get_by_label("Tags of the motif").fill("gate, trail")
    panel.get_by_role("button", name="Keep this piece").click()
    panel.get_by_label("Search motifs").fill("trail gate")
    expect(panel.get_by_role("listitem")).to_have_count(1)
    expect(panel.get_by_role("listitem")).to_contain_text("54.00 mm × 30.00 mm · gate, trail")
    panel.get_by_role("button", name="Lay on: Gate plate").click()
    kept(page)
    expect(page.get_by_test_id("outline-count")).to_have_text("4")
    expect(page.get_by_role("region", name="Motif", exact=True)).to_contain_text("Gate plate, followed")
    panel.get_by_label("Pieces follow the motif when it changes").uncheck()
    panel.get_by_role("listitem").drag_to(page.get_by_test_id("plan-surface"), target_position={"x": 120, "y": 160})
    kept(page)
    expect(page.get_by_test_id("outline-count")).to_have_text("6")
    expect(page.get_by_role("region", name="Motif", exact=True).last).to_contain_text("Gate plate, a copy")
