"""Edges as curves in the real browser, and how form is judged there."""

import base64
import io
import re

import numpy as np
import pytest
from PIL import Image, ImageDraw
from playwright.sync_api import Page, expect

from nebrel.core.mesh.formats import read_mesh
from nebrel.core.region.typefaces import folder_of


def station(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Stations").get_by_role("button", name=name).click()


def lettering(width: int, height: int) -> bytes:
    """Soft letters on black, as at 4 pixels to the millimetre."""
    from PIL import ImageFont

    picture = Image.new("L", (width, height), 0)
    font = ImageFont.truetype(folder_of("font_source_sans_pro") / "SourceSansPro-Semibold.ttf", height // 2)
    ImageDraw.Draw(picture).text((width / 2, height / 2), "Fern 7", 255, font, "mm")
    file = io.BytesIO()
    picture.save(file, "PNG")
    return file.getvalue()


def triangles(page: Page) -> int:
    found = re.search(r"([\d,]+) triangles", page.get_by_test_id("model-note").inner_text())
    assert found is not None
    return int(found[1].replace(",", ""))


def on_stage(page: Page) -> np.ndarray:
    """What the model's canvas shows where it is drawn on, as gray."""
    shown = page.evaluate("document.querySelector('.pane-model canvas').toDataURL().split(',')[1]")
    with Image.open(io.BytesIO(base64.b64decode(shown))) as picture:
        rgba = np.asarray(picture.convert("RGBA").resize((160, 160)), dtype=float)
    return np.where(rgba[..., 3] > 250, rgba[..., :3].mean(axis=2), 0.0)


@pytest.mark.stage
def test_letters_have_walls_without_teeth_and_are_judged_in_bronze(page: Page, shared, drop) -> None:
    page.goto(shared.url)
    drop("fern 7.png", lettering(320, 120))
    station(page, "Height")
    switch = page.get_by_label("Edges as curves on")
    expect(switch).to_be_checked()
    expect(page.get_by_role("group", name="Model")).to_have_attribute("aria-busy", "false")
    lined = triangles(page)
    switch.click()
    expect(page.get_by_test_id("model-note")).not_to_contain_text(f"{lined:,} triangles")
    assert triangles(page) > 1.5 * lined
    switch.click()
    expect(page.get_by_test_id("model-note")).to_contain_text(f"{lined:,} triangles")

    page.get_by_role("button", name="Light and surface").click()
    page.get_by_role("button", name="Bronze").click()
    page.get_by_role("button", name="Light 2").click()
    with page.expect_download() as saved:
        page.get_by_role("button", name="Save as picture").click()
    with Image.open(saved.value.path()) as picture:
        assert picture.width == 3840
        seen = np.asarray(picture.convert("RGB").resize((96, 64)), dtype=float)
    # The stage is a cold grey; bronze is redder than it is blue.
    assert np.mean(seen[..., 0] > 1.15 * seen[..., 2]) > 0.2
    page.get_by_role("button", name="Plaster").click()

    page.get_by_label("Beside it").select_option(label="Without: Edges as curves")
    expect(page.locator(".stage-name")).to_have_text(["Without: Edges as curves", "Today"])
    page.get_by_label("Beside it").select_option(label="Nothing")
    expect(page.locator(".stage-name")).to_have_count(0)
    expect(page.get_by_role("group", name="Model")).to_have_attribute("aria-busy", "false")
    sharp = on_stage(page)
    page.get_by_role("button", name="Soft", exact=True).click()
    soft = sharp
    for _ in range(60):
        page.wait_for_timeout(1000)
        soft = on_stage(page)
        if np.abs(soft - sharp).max() > 20:
            break
    assert np.abs(soft - sharp).max() > 20, "the light is gathered once nothing moves"
    assert soft.mean() == pytest.approx(sharp.mean(), rel=0.15)
    page.get_by_role("button", name="Sharp", exact=True).click()

    station(page, "Deliver")
    with page.expect_download() as saved:
        page.get_by_role("button", name="Build and save STL").click()
    expect(page.get_by_test_id("build-report")).to_contain_text("Walls along curves")
    mesh = read_mesh(saved.value.path().read_bytes(), "fern.stl", "mm").mesh
    corners = mesh.vertices[mesh.faces.astype(np.int64)]
    area = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])[:, 2] / 2
    level = np.isin(corners[:, :, 2].round(2), [1.2, 4.2]).all(axis=1) & (area > 0)
    assert area[level].sum() > 0.98 * area[area > 0].sum(), "letters are level, and so is what they stand on"
