"""Layers in the real browser: a cutter's lines, a relief in two colours on the printer, a model laid otherwise."""

import io
import re

import manifold3d
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.mesh.formats import read_mesh, write_mesh
from nebrel.core.mesh.measure import volume


def station(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Stations").get_by_role("button", name=name).click()


def test_a_cutter_is_looked_through_and_its_lines_made_to_fit(page: Page, demo) -> None:
    pieces = page.request.get(f"{demo.url}/api/pieces").json()
    cutter = next(piece for piece in pieces if piece["title"] == "Ginkgo clay cutter")
    copy = page.request.post(f"{demo.url}/api/pieces/{cutter['id']}/copy").json()
    page.goto(f"{demo.url}/piece/{copy['id']}")
    station(page, "Proof")
    told = page.get_by_role("group", name="What layers tell")
    expect(told).to_contain_text("fits 4.3 lines")
    told.get_by_role("button", name="Show").first.click()
    canvas = page.locator("canvas[data-layer]")
    expect(canvas).to_be_visible()
    box = canvas.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    expect(page.get_by_test_id("layer-wall")).to_contain_text("4 lines, and 0.3 of one hollow")
    slider = page.get_by_label("Layer", exact=True)
    slider.fill("40")
    slider.press("ArrowRight")
    expect(page.get_by_test_id("layer-number")).to_contain_text("layer 41 of 100, 6.4–6.56 mm")
    expect(page.locator("canvas[data-layer='41']")).to_be_visible()
    page.keyboard.press(",")
    expect(page.locator("canvas[data-layer='40']")).to_be_visible()
    fix = page.get_by_test_id("layer-fix").filter(has_text="whole lines of 0.42 mm").first
    # Each of them is tried on the piece before it is offered, which waits for its turn on a busy machine.
    expect(fix).to_be_visible(timeout=240_000)
    fix.get_by_role("button").click()
    expect(told).not_to_contain_text("4.3 lines")
    page.mouse.move(box["x"] + box["width"] / 2 + 3, box["y"] + box["height"] / 2)
    expect(page.get_by_test_id("layer-wall")).to_contain_text("4 lines, no gap")
    page.get_by_role("button", name="along the line").click()
    expect(page.get_by_test_id("section-made")).to_be_visible()


@pytest.mark.stage
def test_a_relief_gets_a_dark_ground_and_is_printed_after_a_jam(page: Page, shared, drop, hill) -> None:
    page.goto(shared.url)
    drop("hill in two colours.png", hill)
    station(page, "Deliver")
    page.get_by_label("Colours by layers on").click()
    page.get_by_role("button", name="Propose from the heights").click()
    expect(page.get_by_label("What each colour takes").get_by_role("listitem")).to_have_count(2)
    page.get_by_label("File format").select_option("3mf")
    with page.expect_download() as saved:
        page.get_by_role("button", name="Build and save 3MF").click()
    data = saved.value.path().read_bytes()
    assert len(read_mesh(data, "hill.3mf", "mm").objects) == 2
    expect(page.get_by_test_id("build-report")).to_contain_text("Bodies")
    with page.expect_download() as saved:
        page.get_by_role("link", name="Text", exact=True).click()
    assert "Colours by layers, from below:" in saved.value.path().read_text("utf-8")
    for _ in range(2):
        page.get_by_role("button", name="Send the file to it").click()
        expect(page.get_by_role("button", name="Send the file to it")).to_be_enabled()
    prints = page.get_by_role("list", name="Prints")
    expect(prints.get_by_role("alert")).to_contain_text("filament stopped moving", timeout=120_000)
    prints.get_by_role("button", name="Retry").click()
    expect(prints.get_by_role("alert")).to_have_count(0)
    expect(prints.get_by_role("listitem").first).to_contain_text(re.compile("prints|is done"))


@pytest.mark.stage
def test_a_model_is_laid_on_its_best_side_and_its_file_stands_so(page: Page, shared, drop) -> None:
    ledge = manifold3d.Manifold.cube((5, 20, 30)) + manifold3d.Manifold.cube((20, 20, 4)).translate((0, 0, 26))
    held = io.BytesIO()
    write_mesh(mesh_of(ledge), held, "stl")
    page.goto(shared.url)
    drop("ledge.stl", held.getvalue())
    station(page, "Proof")
    expect(page.get_by_test_id("layer-facts")).to_contain_text("7.")
    page.get_by_role("button", name="Compare ways to lay it").click()
    ways = page.get_by_role("list", name="Ways to lay it")
    expect(ways.get_by_role("listitem", name="As made")).to_contain_text("taken")
    best = ways.get_by_role("listitem", name=re.compile("Best"))
    best.get_by_role("button", name=re.compile("Take")).click()
    expect(page.get_by_text("It is printed turned; files hold it so.")).to_be_visible()
    expect(best).to_contain_text("taken")
    page.keyboard.press("Escape")
    expect(page.get_by_test_id("layer-facts")).to_contain_text("none")
    station(page, "Deliver")
    with page.expect_download() as saved:
        page.get_by_role("button", name="Build and save STL").click()
    found = read_mesh(saved.value.path().read_bytes(), "ledge.stl", "mm").mesh
    assert volume(found) == pytest.approx(ledge.volume(), rel=1e-4)
    normals = np.cross(*(found.corners[:, at] - found.corners[:, 0] for at in (1, 2)))
    below = found.corners[:, :, 2].max(axis=1) < 1e-3
    assert np.linalg.norm(normals[below], axis=1).sum() / 2 == pytest.approx(20 * 20, rel=0.05) or below.any()
    expect(page.get_by_test_id("build-report")).to_contain_text("The file stands")
