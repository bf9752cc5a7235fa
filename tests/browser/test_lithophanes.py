"""Lithophanes on the bench, in a real browser: from a picture to a lantern that is looked at in light and delivered."""

import io
import re
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from nebrel.core.mesh.formats.stl import read_stl
from nebrel.core.proof import check_soundness
from tests.browser.conftest import point_at, settled, stage, station, type_into


@pytest.fixture
def dusk() -> bytes:
    """A bright disc over dark waves, 300 by 180 pixels."""
    across, down = np.meshgrid(np.linspace(0, 1, 300), np.linspace(0, 1, 180))
    tones = 0.75 - 0.3 * down - 0.35 * (down > 0.6 + 0.08 * np.sin(12.57 * across))
    tones[np.hypot((across - 0.5) * 1.67, down - 0.3) < 0.16] = 1.0
    held = io.BytesIO()
    Image.fromarray(np.round(255 * np.clip(tones, 0, 1)).astype(np.uint8)).save(held, "PNG")
    return held.getvalue()


@pytest.fixture
def lithophane(page: Page, shared, drop, dusk) -> Page:
    page.goto(shared.url)
    drop("dusk.png", dusk)
    expect(page.get_by_test_id("model-note")).to_contain_text("Preview")
    station(page, "Body")
    page.get_by_label("What it is").last.select_option("lithophane")
    expect(page.get_by_role("button", name="Light", exact=True)).to_be_visible()
    settled(page)
    return page


def model_brightness(page: Page) -> np.ndarray:
    """What the Model shows, gray, 0 to 255."""
    page.evaluate("new Promise(go => requestAnimationFrame(() => requestAnimationFrame(go)))")
    shot = stage(page).screenshot()
    return np.asarray(Image.open(io.BytesIO(shot)).convert("L")).astype(float)


def plan_pixel(page: Page, x_share: float, y_share: float) -> list[int]:
    return page.get_by_test_id("plan-picture").evaluate(
        """(canvas, [x, y]) => [...canvas.getContext("2d").getImageData(
          Math.floor(x * canvas.width), Math.floor(y * canvas.height), 1, 1).data]""",
        [x_share, y_share],
    )


@pytest.mark.stage
def test_a_picture_becomes_a_lantern_and_is_delivered(lithophane: Page, tmp_path: Path):
    page = lithophane
    page.get_by_label("Form", exact=True).last.select_option("cylinder")
    settled(page)
    expect(page.get_by_label("Diameter", exact=True)).to_have_value("80 mm")
    expect(page.get_by_test_id("sheet-size")).to_contain_text("251.33 mm")
    type_into(page, "Diameter", "40")
    settled(page)
    page.get_by_label("Lantern bottom on").click()
    settled(page)
    expect(page.get_by_label("Hole for the lamp", exact=True)).to_have_value("28 mm")
    expect(page.get_by_text("the smallest visible detail is 0.6 mm")).to_be_visible()

    station(page, "Light")
    expect(page.get_by_test_id("lit-facts")).to_contain_text("Contrast reached")
    lit = model_brightness(page)
    page.get_by_role("button", name="Lamp behind").click()
    unlit = model_brightness(page)
    assert np.abs(lit - unlit).mean() > 10
    page.keyboard.press("l")
    assert np.abs(lit - model_brightness(page)).mean() < 3

    station(page, "Deliver")
    expect(page.get_by_test_id("recipe")).to_contain_text("Finest detail")
    with page.expect_download(timeout=120_000) as saving:
        page.get_by_role("button", name="Build and save STL").click()
    target = tmp_path / saving.value.suggested_filename
    saving.value.save_as(target)
    soundness = check_soundness(read_stl(target.read_bytes()))
    assert soundness.sound
    assert soundness.size[0] == pytest.approx(40, abs=7)
    expect(page.get_by_test_id("model-note")).to_contain_text("Built")
    with page.expect_download() as saving:
        page.get_by_role("link", name="Save the recipe as text").click()
    assert saving.value.suggested_filename.endswith("-recipe.txt")


@pytest.mark.stage
def test_lit_stands_beside_wanted_and_straight(lithophane: Page):
    page = lithophane
    station(page, "Light")
    settled(page)
    red, _, blue, _ = plan_pixel(page, 0.5, 0.3)
    assert red > 230 > blue
    page.get_by_label("Show", exact=True).select_option("wanted")
    assert plan_pixel(page, 0.5, 0.3)[:3] == [255, 255, 255]
    page.get_by_label("Beside it").select_option("straight")
    expect(page.get_by_role("slider", name="Divider between straight and wanted")).to_be_visible()
    expect(page.get_by_test_id("plan-beside")).to_be_visible()
    page.get_by_label("Show", exact=True).select_option("difference")
    expect(page.get_by_text("brighter than wanted")).to_be_visible()
    point_at(page, 0.5, 0.7)
    expect(page.get_by_test_id("readout")).to_contain_text("wall 0.8")


def test_lamp_and_room_are_seen_at_once(lithophane: Page):
    page = lithophane
    station(page, "Light")
    type_into(page, "Light of the room", "0")
    type_into(page, "Power of the lamp", "0")
    settled(page)
    assert max(plan_pixel(page, 0.5, 0.3)[:3]) == 0
    type_into(page, "Light of the room", "100")
    settled(page)
    assert min(plan_pixel(page, 0.5, 0.3)[:3]) > 220


def test_a_material_is_measured_and_kept(lithophane: Page):
    page = lithophane
    station(page, "Light")
    page.get_by_role("button", name="Measure a material").click()
    page.get_by_label("Brightness of 0.40 mm").fill("0.5")
    page.get_by_label("Brightness of 1.07 mm").fill("0.6")
    page.get_by_label("Brightness of 1.73 mm").fill("0.1")
    page.get_by_role("button", name="Fit", exact=True).click()
    expect(page.get_by_role("dialog").get_by_role("alert")).to_contain_text("readings that fall")
    page.get_by_role("button", name="Read the simulated light box").click()
    expect(page.get_by_label("Brightness of the bare light")).not_to_have_value("")
    page.get_by_role("button", name="Fit", exact=True).click()
    told = page.get_by_test_id("fit-facts").inner_text()
    assert float(re.search(r"([\d.]+) per mm", told)[1]) == pytest.approx(1.05, rel=0.01)
    page.get_by_label("Name of the measured material").fill("Measured at dusk")
    page.get_by_role("button", name="Keep and use").click()
    expect(page.get_by_label("Material", exact=True).last).to_have_value("Measured at dusk")
    expect(page.get_by_label("Material", exact=True).last).to_contain_text("Measured at dusk (measured)")


def test_one_of_nine_variations_is_taken(lithophane: Page):
    page = lithophane
    station(page, "Light")
    page.get_by_role("button", name="Compare nine variations").click()
    cells = page.locator(".variation")
    expect(cells).to_have_count(9)
    expect(page.locator(".variation[aria-pressed=true]")).to_have_count(1)
    cells.nth(7).click()
    settled(page)
    expect(page.get_by_label("Thickest wall", exact=True)).to_have_value("4.4 mm")
    expect(page.get_by_label("Strength against the straight rule", exact=True)).to_have_value("50 %")


def test_parts_that_do_not_fit_are_refused_in_a_sentence(lithophane: Page):
    page = lithophane
    page.get_by_label("Foot on").click()
    settled(page)
    type_into(page, "Name on the border", "Dusk")
    settled(page)
    expect(page.get_by_label("Letter height", exact=True)).to_have_value("2 mm")
    type_into(page, "Letter height", "9")
    expect(page.get_by_test_id("refusal")).to_contain_text("letters up to 3 mm fit")
    expect(page.get_by_label("Letter height", exact=True)).to_have_value("2 mm")
