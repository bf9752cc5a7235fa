"""What a person does, in a real browser on the real server."""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from nebrel.core.mesh.formats.stl import read_stl
from nebrel.core.proof import check_soundness
from tests.browser.conftest import looks_changed, point_at, stage, station, type_into

WIDTH_PX, HEIGHT_PX = 181, 121


@pytest.fixture
def ramp(encode) -> bytes:
    """Tone rises evenly from black at the left to white at the right."""
    row = np.round(np.linspace(0, 65535, WIDTH_PX)).astype(np.uint16)
    return encode(np.broadcast_to(row, (HEIGHT_PX, WIDTH_PX)).copy())


def readings(page: Page) -> dict[str, float]:
    text = page.get_by_test_id("readout").inner_text()
    return {name: float(value) for name, value in re.findall(r"(x|y|tone|height|thickness)\s+([\d.]+)", text)}


def section_top(page: Page) -> str:
    return page.get_by_test_id("section-made").get_attribute("d") or ""


@pytest.mark.stage
def test_from_a_dropped_picture_to_a_true_size_file(page: Page, own, drop, ramp, tmp_path: Path):
    page.goto(own.url)
    expect(page.get_by_role("heading", name="What will you make first?")).to_be_visible()
    drop("Path sign / ramp.png", ramp)
    expect(page.get_by_label("Title of the piece")).to_have_value("ramp")
    expect(page.get_by_test_id("model-note")).to_contain_text("Preview")

    station(page, "Body")
    type_into(page, "Width", "3 in")
    expect(page.get_by_test_id("body-height")).to_have_text(f"{76.2 * (HEIGHT_PX - 1) / (WIDTH_PX - 1):.2f} mm")
    type_into(page, "Backing", "2")
    station(page, "Height")
    type_into(page, "Relief height", "6")

    expect(page.get_by_test_id("section-made")).to_be_attached()
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    page.wait_for_function("document.querySelector('[data-testid=section-made]')?.getAttribute('d')?.length > 20")
    point_at(page, 0.75, 0.5)
    expect(page.get_by_test_id("readout")).to_contain_text("thickness 6.5")
    seen = readings(page)
    assert seen["x"] == pytest.approx(0.75 * 76.2, abs=0.4)
    assert seen["height"] == pytest.approx(0.75 * 6, abs=0.1)
    assert seen["thickness"] == pytest.approx(seen["height"] + 2, abs=0.011)
    assert seen["tone"] == pytest.approx(75, abs=1)

    page.get_by_role("radio", name="Dark").click()
    point_at(page, 0.2, 0.5)
    expect(page.get_by_test_id("readout")).to_contain_text("height 4.8")

    station(page, "Deliver")
    with page.expect_download(timeout=240_000) as download:
        page.get_by_role("button", name="Build and save STL").click()
    assert download.value.suggested_filename == "ramp-76.2x50.8x8mm.stl"
    target = tmp_path / "out.stl"
    download.value.save_as(target)
    report = check_soundness(read_stl(target.read_bytes()))
    assert report.sound
    assert report.size == pytest.approx((76.2, 76.2 * 120 / 180, 8.0), abs=0.001)
    expect(page.get_by_role("region", name="Findings")).to_contain_text("The solid is sound")
    expect(page.get_by_test_id("model-note")).to_contain_text("Built")


def test_the_preview_follows_a_slider_while_it_is_dragged(page: Page, shared, drop, ramp):
    page.goto(shared.url)
    drop("ramp.png", ramp)
    slider = page.get_by_label("Relief height, slider")
    expect(page.get_by_test_id("section-made")).to_be_attached()
    before = section_top(page)
    slider.scroll_into_view_if_needed()
    box = slider.bounding_box()
    middle = box["y"] + box["height"] / 2
    page.mouse.move(box["x"] + box["width"] * 0.19, middle)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.8, middle, steps=4)
    page.wait_for_function(
        "before => document.querySelector('[data-testid=section-made]')?.getAttribute('d') !== before", arg=before
    )
    expect(page.get_by_role("button", name="Undo")).to_be_disabled()
    page.mouse.up()
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    expect(page.get_by_role("button", name="Undo")).to_have_attribute("title", re.compile("Relief height 1[12]"))


def test_every_change_can_be_undone_also_after_a_kill(page: Page, shared, drop, ramp):
    page.goto(shared.url)
    drop("ramp.png", ramp)
    type_into(page, "Relief height", "6")
    expect(page.get_by_role("button", name="Undo")).to_have_attribute("title", "Take back: Relief height 6 mm")
    page.get_by_role("switch", name="Smoothing on").or_(page.get_by_label("Smoothing on")).first.click()
    expect(page.get_by_role("button", name="Undo")).to_have_attribute("title", "Take back: Smoothing off")
    shared.kill()
    expect(page.get_by_text("does not answer")).to_be_visible()
    shared.start()
    expect(page.get_by_text("does not answer")).not_to_be_visible()
    page.reload()
    expect(page.get_by_label("Relief height", exact=True)).to_have_value("6 mm")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_label("Smoothing on")).to_be_checked()
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Relief height", exact=True)).to_have_value("3 mm")
    page.keyboard.press("Control+Shift+Z")
    expect(page.get_by_label("Relief height", exact=True)).to_have_value("6 mm")


def test_two_tabs_stay_in_step_and_lose_nothing(page: Page, shared, drop, ramp):
    page.goto(shared.url)
    drop("ramp.png", ramp)
    expect(page.get_by_label("Relief height", exact=True)).to_have_value("3 mm")
    other = page.context.new_page()
    other.goto(page.url)
    type_into(other, "Relief height", "5")
    expect(page.get_by_label("Relief height", exact=True)).to_have_value("5 mm")
    type_into(page, "Radius", "0.4")
    expect(other.get_by_label("Radius", exact=True)).to_have_value("0.4 mm")
    expect(other.get_by_label("Relief height", exact=True)).to_have_value("5 mm")


def test_the_section_line_is_dragged_and_stepped(page: Page, shared, drop, ramp):
    page.goto(shared.url)
    drop("ramp.png", ramp)
    station(page, "Proof")
    length = page.get_by_text(re.compile(r"Section, [\d.]+ mm long"))
    expect(length).to_have_text("Section, 80.00 mm long")
    handle = page.get_by_test_id("line-end")
    box = handle.bounding_box()
    picture = page.get_by_test_id("plan-picture").bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(picture["x"] + picture["width"] / 2, box["y"] + box["height"] / 2, steps=5)
    page.mouse.up()
    expect(length).to_have_text(re.compile(r"Section, (39\.|40\.)"))
    handle.focus()
    page.keyboard.press("ArrowRight")
    expect(length).to_have_text(re.compile(r"Section, (40\.|41\.)"))
    page.get_by_role("button", name="Upwards").click()
    expect(length).to_have_text("Section, 53.33 mm long")


@pytest.mark.stage
def test_lamp_wire_and_inches(page: Page, shared, drop, ramp):
    page.goto(shared.url)
    drop("ramp.png", ramp)
    lit = stage(page).screenshot()
    lamp = page.get_by_role("slider", name="Lamp")
    lamp.focus()
    for _ in range(6):
        page.keyboard.press("Shift+ArrowLeft")
    expect(lamp).to_have_attribute("aria-valuenow", "230")
    turned = looks_changed(page, lit)
    page.get_by_role("button", name="Triangles").click()
    looks_changed(page, turned)
    page.get_by_role("radio", name="in", exact=True).click()
    expect(page.get_by_label("Relief height", exact=True)).to_have_value("0.1181 in")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("Triangles of the model")


@pytest.mark.stage
def test_pointing_at_the_model_reads_the_same_piece(page: Page, shared, drop, ramp):
    page.goto(shared.url)
    drop("ramp.png", ramp)
    box = stage(page).bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.5)
    page.mouse.move(box["x"] + box["width"] * 0.5 + 2, box["y"] + box["height"] * 0.5)
    expect(page.get_by_test_id("readout")).to_contain_text("thickness")
    seen = readings(page)
    assert seen["height"] == pytest.approx(3 * seen["x"] / 80, abs=0.05)


def test_refusals_are_sentences_and_lose_nothing(page: Page, own, drop, ramp):
    page.goto(own.url)
    for name, data in (("words.png", b"not a picture"), ("cut.png", ramp[: len(ramp) // 2]), ("empty.png", b"")):
        drop(name, data)
        expect(page.get_by_role("alert")).to_contain_text(name)
        expect(page.get_by_role("alert")).to_contain_text("accepted")
    expect(page.get_by_role("heading", name="What will you make first?")).to_be_visible()
    drop("ramp.png", ramp)
    station(page, "Body")
    type_into(page, "Width", "0")
    expect(page.get_by_role("alert")).to_contain_text("1 mm to 3000 mm would be accepted")
    type_into(page, "Width", "broad")
    expect(page.get_by_role("alert")).to_contain_text("is not understood; try 3.5 or 1/8 in.")
    page.get_by_label("Width", exact=True).press("Escape")
    expect(page.get_by_label("Width", exact=True)).to_have_value("80 mm")
    expect(page.get_by_role("button", name="Undo")).to_be_disabled()


def test_a_build_can_be_cancelled(page: Page, shared, drop, encode):
    noise = encode(np.random.default_rng(1).integers(0, 255, (800, 800), dtype=np.uint8))
    page.goto(shared.url)
    drop("noise.png", noise)
    station(page, "Deliver")
    page.get_by_role("button", name="Build and save STL").click()
    page.get_by_role("button", name="Cancel", exact=True).click()
    expect(page.get_by_text("The last build was cancelled.")).to_be_visible()
    expect(page.get_by_role("button", name="Build and save STL")).to_be_enabled()


def test_the_demo_shelf(page: Page, demo):
    page.goto(demo.url)
    pictures = page.locator(".tile img")
    expect(pictures).to_have_count(28)
    page.wait_for_function("[...document.querySelectorAll('.tile img')].every(i => i.complete && i.naturalWidth > 300)")
    for title in ("Hillside fern", "Ridge view panel", "Ginkgo planter mark", "Shell path marker"):
        expect(page.get_by_role("link", name=title)).to_be_visible()
    page.get_by_role("button", name="More for Hillside fern").click()
    page.get_by_role("button", name="Take off the shelf").click()
    expect(pictures).to_have_count(27)
    page.get_by_role("button", name="Put it back").click()
    expect(pictures).to_have_count(28)


def test_a_cut_out_picture_makes_a_cut_out_piece(page: Page, demo, tmp_path: Path):
    page.goto(demo.url)
    page.get_by_role("link", name="Ginkgo planter mark").click()
    station(page, "Deliver")
    with page.expect_download(timeout=240_000) as download:
        page.get_by_role("button", name="Build and save STL").click()
    download.value.save_as(tmp_path / "leaf.stl")
    report = check_soundness(read_stl((tmp_path / "leaf.stl").read_bytes()))
    assert report.sound
    assert report.shells == 1
    assert report.volume_mm3 < 0.6 * np.prod(report.size)
