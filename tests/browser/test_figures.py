"""From a drawing to a figure in the round, in a real browser on the real server."""

import io
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from nebrel.core.mesh.formats import read_mesh
from nebrel.core.proof import check_soundness
from nebrel.demo.pictures.owl import draw_owl
from tests.browser.conftest import looks_changed, point_at, settled, stage, station, type_into


def owl_on_paper() -> bytes:
    """The owl on white, as a person would scan it: nothing is cut out yet."""
    colours, coverage = draw_owl()
    white = colours * coverage[..., np.newaxis] + 1 - coverage[..., np.newaxis]
    held = io.BytesIO()
    Image.fromarray(np.round(white * 255).astype(np.uint8)).resize((450, 530)).save(held, "PNG")
    return held.getvalue()


@pytest.mark.deep
@pytest.mark.stage
def test_the_owl_in_the_round_from_drawing_to_file(page: Page, shared, drop, document, tmp_path: Path):
    page.goto(shared.url)
    drop("owl.png", owl_on_paper())
    expect(page.get_by_label("Title of the piece")).to_have_value("owl")
    station(page, "Body")
    page.get_by_label("What it is").last.select_option("figure")

    # It is cut out of its paper, and stands on the stage.
    expect(page.get_by_role("navigation", name="Stations").get_by_role("button", name="Figure")).to_have_attribute(
        "aria-current", "step"
    )
    expect(page.get_by_test_id("figure-size")).to_be_visible()
    settled(page)
    before = stage(page).screenshot()
    piece_id = page.url.rsplit("/", 1)[1]
    assert [op["kind"] for op in document(piece_id)["ops"]] == ["cut-out"]

    # The left wing comes forward by one stroke.
    page.get_by_role("button", name="Nearer").click()
    box = page.get_by_test_id("plan-picture").bounding_box()
    page.mouse.move(box["x"] + 0.13 * box["width"], box["y"] + 0.45 * box["height"])
    page.mouse.down()
    page.mouse.move(box["x"] + 0.17 * box["width"], box["y"] + 0.75 * box["height"], steps=6)
    page.mouse.up()
    expect(page.get_by_role("region", name="Nearer, stroke 1")).to_be_visible()
    page.get_by_role("button", name="Nearer", exact=True).click()
    settled(page)
    with_wing = looks_changed(page, before)
    assert document(piece_id)["figure"]["strokes"][0]["amount_mm"] == 6
    page.get_by_role("region", name="Nearer, stroke 1").get_by_label("Nearer on").click()
    looks_changed(page, with_wing)
    page.get_by_role("button", name="Undo").click()

    # Sources of depth stand side by side, and another one is taken.
    sources = page.get_by_role("region", name="Sources of depth, side by side")
    sources.get_by_role("button", name="Compare").click()
    expect(sources.get_by_role("listitem")).to_have_count(3)
    sources.get_by_role("button", name="Take Its outline").click()
    settled(page)
    assert document(piece_id)["figure"]["depth"]["kind"] == "swell"

    # It gets its picture's colours, and few of them.
    page.get_by_label("Colour on").click()
    page.get_by_label("Few colours on").click()
    expect(page.get_by_test_id("colour-changes")).to_contain_text("changes of colour")
    expect(page.get_by_role("list", name="Colours of the figure").get_by_role("listitem")).to_have_count(4)

    page.get_by_role("radio", name="Flat", exact=True).click()
    type_into(page, "Cells along the longer side", "96")
    settled(page)
    station(page, "Deliver")
    with page.expect_download(timeout=120_000) as download:
        page.get_by_role("button", name="Build and save").click()
    path = tmp_path / download.value.suggested_filename
    download.value.save_as(path)
    made = read_mesh(path.read_bytes(), path.name, None).mesh
    assert check_soundness(made).sound
    expect(page.get_by_test_id("build-report")).to_contain_text("% as cut out")


def test_what_is_not_cut_out_is_refused_and_the_piece_stays(page: Page, shared, drop, document):
    page.goto(shared.url)
    drop("owl.png", owl_on_paper())
    station(page, "Body")
    page.get_by_label("What it is").last.select_option("figure")
    expect(page.get_by_test_id("figure-size")).to_be_visible()
    piece_id = page.url.rsplit("/", 1)[1]
    station(page, "Picture")
    page.get_by_label("Cut out on").click()
    expect(page.get_by_text("Nothing is cut out of its background")).to_be_visible()
    assert document(piece_id)["ops"][0]["on"]


@pytest.mark.deep
@pytest.mark.stage
def test_the_garden_hare_by_marked_parts_by_a_service_and_on_its_turntable(page: Page, demo):
    page.goto(demo.url)
    page.get_by_role("link", name="Garden hare").click()
    station(page, "Figure")
    piece_id = page.url.rsplit("/", 1)[1]

    def figure() -> dict:
        return page.request.get(f"{demo.url}/api/pieces/{piece_id}").json()["document"]["figure"]

    # A part is marked on the Plan, and stands before the rest.
    before = stage(page).screenshot()
    page.get_by_role("button", name="Mark a part on the Plan").click()
    point_at(page, 0.35, 0.1)
    page.mouse.down()
    page.mouse.up()
    expect(page.get_by_role("region", name="Part 1")).to_be_visible()
    page.get_by_role("button", name="Press on a part on the Plan").click()
    settled(page)
    looks_changed(page, before)
    assert len(figure()["order"]) == 1

    # The service stands in a queue, works, and what it made is taken; one time in five it has to be asked again.
    page.get_by_label("Where depth comes from").select_option("service")
    service = page.get_by_test_id("service")
    service.get_by_role("button", name="Ask it, for 3 credits").click()
    expect(service.get_by_test_id("service-stage")).to_contain_text("service")
    again = service.get_by_role("button", name="Try again")
    for _ in range(3):
        expect(service.get_by_test_id("service-made").or_(again)).to_be_visible()
        if again.is_visible():
            again.click()
    expect(service.get_by_test_id("service-made")).to_contain_text("for 3 credits")
    settled(page)
    assert figure()["depth"]["kind"] == "service"

    # It turns on the stage, and a decoration finds its skin.
    station(page, "Surface")
    expect(page.get_by_role("region", name="Decorations")).to_be_visible()
    before = stage(page).screenshot()
    page.get_by_role("button", name="Turn", exact=True).click()
    looks_changed(page, before)
    page.get_by_role("button", name="Turn", exact=True).click()
    page.get_by_role("button", name="Add a step").click()
    page.get_by_role("button", name="Cut by a plane").click()
    expect(page.get_by_text("triangles on that side")).to_be_visible()
