"""Decorations on the bench, in a real browser: on the pot, on the dome and on a mesh from elsewhere."""

import io
import re
from pathlib import Path

import manifold3d
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from nebrel.core.mesh.formats import read_mesh, write_mesh
from nebrel.core.mesh.measure import volume
from nebrel.core.proof import check_soundness
from tests.browser.conftest import looks_changed, settled, stage, station, type_into
from tests.core.skins import mesh_of

# Decorations are laid by hand on the model itself.
pytestmark = pytest.mark.stage
MARK = b"""<svg xmlns="http://www.w3.org/2000/svg" width="20mm" height="10mm" viewBox="0 0 20 10">
<rect width="20" height="10"/></svg>"""


@pytest.fixture(scope="module")
def bowl() -> bytes:
    """A thick bowl as a GLB, as another program would hand it over."""
    solid = manifold3d.Manifold.sphere(40, 160) - manifold3d.Manifold.sphere(34, 160)
    held = io.BytesIO()
    write_mesh(mesh_of(solid.trim_by_plane((0.0, 0.0, -1.0), -12.0)), held, "glb")
    return held.getvalue()


def open_model(page: Page, url: str, title: str) -> None:
    page.goto(url)
    page.get_by_role("link", name=title).first.click()
    expect(page.get_by_test_id("model-note")).to_contain_text("Preview")
    settled(page)


def spot(page: Page, right: float, down: float) -> tuple[float, float]:
    """A place on the stage, in shares of its half sides from its middle."""
    box = stage(page).bounding_box()
    return box["x"] + box["width"] * (0.5 + right / 2), box["y"] + box["height"] * (0.5 + down / 2)


def lay(page: Page, right: float, down: float) -> None:
    """Point at the model until the decoration is seen there, and press."""
    x, y = spot(page, right, down)
    page.mouse.move(x - 6, y - 4)
    with page.expect_response(re.compile("/placement")):
        page.mouse.move(x, y)
    with page.expect_response(re.compile("/revisions")):
        page.mouse.click(x, y)
    settled(page)


def placed(page: Page) -> list[float]:
    """Where the open decoration lies."""
    return [float(page.get_by_label(axis, exact=True).input_value().split()[0]) for axis in "XYZ"]


def deliver(page: Page, folder: Path) -> Path:
    station(page, "Deliver")
    with page.expect_download(timeout=180_000) as download:
        page.get_by_role("button", name=re.compile("^Build and save")).click()
    path = folder / download.value.suggested_filename
    download.value.save_as(path)
    return path


@pytest.mark.deep
def test_the_trail_pot_from_motif_to_file(page, demo, tmp_path):
    """Lay the trail number on a pot, drag it, type its size, repeat it round, fade it, mirror it, deliver it."""
    open_model(page, demo.url, "Trail pot")
    page.get_by_role("button", name="Remove: Trail 7").click()
    settled(page)
    page.get_by_role("button", name="Lay a motif on").click()
    page.get_by_role("button", name="Trail 7").click()
    expect(page.get_by_text("follows the pointer")).to_be_visible()
    lay(page, 0.0, 0.1)
    first = placed(page)
    assert first[1] < -25
    # Taken by its middle and dragged to the right.
    x, y = spot(page, 0.0, 0.1)
    page.mouse.move(x, y)
    page.mouse.down()
    for step in range(1, 7):
        with page.expect_response(re.compile("/placement")):
            page.mouse.move(x + 9 * step, y + step)
    with page.expect_response(re.compile("/revisions")):
        page.mouse.up()
    settled(page)
    second = placed(page)
    assert second[0] > first[0] + 4
    type_into(page, "Width", "24 mm")
    type_into(page, "Depth", "0.6")
    settled(page)
    page.get_by_role("radio", name="Wrap").click()
    expect(page.get_by_text("Here: a cone of 7.5°")).to_be_visible()
    page.get_by_label("Mirror", exact=True).check()
    page.get_by_label("Repeat", exact=True).select_option("ring")
    settled(page)
    type_into(page, "Copies", "7")
    settled(page)
    page.get_by_label("Edge", exact=True).select_option("fade")
    settled(page)
    page.get_by_label("Side that fades").select_option("left")
    type_into(page, "Width of the edge", "20 mm")
    settled(page)
    expect(page.get_by_role("button", name="24 mm wide, 0.6 mm raised, 7 times")).to_be_visible()
    expect(page.get_by_text("triangles stay exactly as they came")).to_be_visible()
    file = deliver(page, tmp_path)
    made = read_mesh(file.read_bytes(), file.name).mesh
    found = check_soundness(made)
    assert found.sound
    assert volume(made) > 39838.6 + 7 * 20


def test_a_motif_that_changes_changes_every_copy(page, demo):
    open_model(page, demo.url, "Dome stone")
    before = page.get_by_test_id("model-note").inner_text()
    open_model(page, demo.url, "Trail mark, drawn")
    page.get_by_role("button", name="Motifs").click()
    page.get_by_role("button", name="Change Acorn into this piece").click()
    open_model(page, demo.url, "Dome stone")
    expect(page.get_by_role("button", name="Undo")).to_have_attribute("title", re.compile("Followed the motif Acorn"))
    # The new solid follows the new revision.
    expect(page.get_by_test_id("model-note")).not_to_have_text(before)


@pytest.mark.deep
def test_on_a_mesh_from_elsewhere_sunk_snapped_and_told_about(page, shared, drop, bowl, tmp_path):
    page.goto(shared.url)
    drop("bowl.glb", bowl)
    expect(page.get_by_test_id("model-note")).to_contain_text("Preview")
    settled(page)
    page.get_by_label("Picture or drawing to lay on").set_input_files(
        [{"name": "mark.svg", "mimeType": "image/svg+xml", "buffer": MARK}]
    )
    expect(page.get_by_text("follows the pointer")).to_be_visible()
    lay(page, -0.1, 0.1)
    page.get_by_label("What it does").select_option("sink")
    type_into(page, "Depth", "20 mm")
    settled(page)
    expect(page.get_by_text("The wall is too thin for the depth")).to_be_visible()
    type_into(page, "Wall that is kept", "2 mm")
    settled(page)
    before = placed(page)
    with page.expect_response(re.compile("/revisions")):
        page.get_by_role("button", name="Every 15° round").click()
    settled(page)
    after = placed(page)
    turned = np.degrees(np.arctan2(after[1], after[0])) % 15
    assert min(turned, 15 - turned) < 0.5
    assert after != before or min(turned, 15 - turned) < 0.5
    page.keyboard.press("Escape")
    file = deliver(page, tmp_path)
    made = read_mesh(file.read_bytes(), file.name).mesh
    found = check_soundness(made)
    assert found.sound
    # 6 mm of wall less the 2 mm that are kept.
    away = np.linalg.norm(made.vertices - np.array([0, 0, 0]), axis=1)
    assert away[(away < 39.5) & (away > 34.5)].min() == pytest.approx(36, abs=0.15)


def test_the_brush_works_within_decorations_and_can_be_taken_back(page, demo):
    open_model(page, demo.url, "Dome stone")
    page.get_by_role("button", name=re.compile("mm wide")).first.click()
    type_into(page, "Depth", "2 mm")
    settled(page)
    page.get_by_label("What the brush does").select_option(label="Smooth")
    page.get_by_role("button", name="Take the brush").click()
    x, y = spot(page, 0.0, -0.1)
    with page.expect_response(re.compile("/revisions")):
        page.mouse.move(x - 30, y)
        page.mouse.down()
        for step in range(8):
            page.mouse.move(x - 30 + 8 * step, y + 2 * step)
        page.mouse.up()
    settled(page)
    back = page.get_by_role("button", name="Take the last of 1 back")
    expect(back).to_be_visible()
    back.click()
    settled(page)
    expect(back).to_have_count(0)


def test_stretch_is_shown_and_escape_lays_nothing(page, demo):
    open_model(page, demo.url, "Cockle shell")
    page.get_by_role("button", name="Lay a motif on").click()
    page.get_by_role("button", name="Acorn").click()
    expect(page.get_by_text("follows the pointer")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_text("follows the pointer")).to_have_count(0)
    page.get_by_role("button", name="Lay a motif on").click()
    page.get_by_role("button", name="Acorn").click()
    lay(page, 0.0, 0.0)
    type_into(page, "Width", "80 mm")
    settled(page)
    expect(page.get_by_text("Stretched by up to")).to_be_visible()
    plain = stage(page).screenshot()
    page.get_by_label("Show stretch on the model").check()
    looks_changed(page, plain)
