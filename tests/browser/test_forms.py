"""Form from a photograph in the real browser: a badger whose stripes are paint and no form."""

import io

import cv2
import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from nebrel.core.mesh.formats import read_mesh
from nebrel.demo.pictures.badger import draw_badger

STRIPE, BESIDE = (0.5, 0.7), (0.4, 0.62)


def station(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Stations").get_by_role("button", name=name).click()


def at_rest(page: Page) -> None:
    for view in ("Plan", "Model"):
        expect(page.get_by_role("group", name=view)).to_have_attribute("aria-busy", "false")


def small(samples: np.ndarray) -> np.ndarray:
    return np.round(cv2.resize(samples, (360, 400), interpolation=cv2.INTER_AREA) * 255).astype(np.uint8)


def photograph() -> bytes:
    file = io.BytesIO()
    Image.fromarray(small(draw_badger().colours)).save(file, "JPEG", quality=92)
    return file.getvalue()


def cut_out() -> bytes:
    badger, file = draw_badger(), io.BytesIO()
    Image.fromarray(np.dstack([small(badger.colours), small(badger.coverage)])).save(file, "PNG")
    return file.getvalue()


def stroke(page: Page, kind: str, *places: tuple[float, float]) -> None:
    """Draw over the Plan, by way of places in shares of the picture from its lower left corner."""
    page.get_by_role("group", name="What a stroke does").get_by_role("button", name=kind, exact=True).click()
    surface = page.get_by_label(kind, exact=True).and_(page.get_by_test_id("stroke-surface"))
    box = surface.bounding_box()
    assert box is not None
    spots = [(box["x"] + x * box["width"], box["y"] + (1 - y) * box["height"]) for x, y in places]
    page.mouse.move(*spots[0])
    page.mouse.down()
    for spot in spots[1:]:
        page.mouse.move(*spot, steps=6)
    page.mouse.up()


def heights_at(data: bytes, *places: tuple[float, float]) -> list[float]:
    """Of the upper side of an STL, at places in shares of it, mm."""
    corners = read_mesh(data, "badger.stl", "mm").mesh.vertices
    upper = corners[corners[:, 2] > 0.5]
    size = upper[:, :2].max(axis=0)
    return [float(upper[np.argmin(np.hypot(*(upper[:, :2] - np.array(place) * size).T)), 2]) for place in places]


@pytest.mark.stage
def test_a_photograph_of_a_badger_becomes_form_and_not_brightness(page: Page, shared, drop, tmp_path) -> None:
    page.goto(shared.url)
    drop("badger.jpg", photograph())
    station(page, "Height")
    at_rest(page)
    told = (
        page.get_by_role("region", name="Findings").get_by_role("listitem").filter(has_text="Brightness is not height")
    )
    told.get_by_role("button", name="Take the form from depth").click()
    expect(page.get_by_role("radio", name="Both")).to_be_checked()
    expect(told).to_have_count(0)
    findings = page.get_by_role("region", name="Findings")
    expect(findings).to_contain_text("all of it is shown as a scene")

    findings.get_by_role("button", name="Cut it out").click()
    expect(page.get_by_label("Cut out on")).to_be_checked()
    page.get_by_label("What is cut away").select_option(label="All but what I mark")
    page.get_by_role("button", name="Draw a box around it").click()
    at_rest(page)
    station(page, "Height")
    expect(findings).not_to_contain_text("shown as a scene")

    page.get_by_label("Show on the Plan where it is unsure").click()
    expect(page.get_by_test_id("unsure")).to_contain_text("It may be off by")
    expect(page.get_by_test_id("unsure-on-plan")).to_be_visible()
    page.get_by_label("Show on the Plan where it is unsure").click()

    stroke(page, "Nearer", (0.3, 0.55), (0.5, 0.75), (0.7, 0.55))
    stroke(page, "Farther", (0.3, 0.2), (0.7, 0.2))
    expect(page.get_by_test_id("depth-strokes").locator("path")).to_have_count(2)
    at_rest(page)

    station(page, "Deliver")
    with page.expect_download() as saved:
        page.get_by_role("button", name="Build and save STL").click()
    report = page.get_by_test_id("build-report")
    expect(report).to_contain_text("Parts in order")
    stripe, beside = heights_at(saved.value.path().read_bytes(), STRIPE, BESIDE)
    # White beside black: as tones they would be three millimetres apart.
    assert abs(stripe - beside) < 1.2


@pytest.mark.stage
def test_heights_are_shaped_by_hand_on_the_plan_and_on_the_model(page: Page, shared, drop, document) -> None:
    page.goto(shared.url)
    drop("badger.png", cut_out())
    station(page, "Height")
    at_rest(page)
    tools = page.get_by_role("group", name="What the hand does")
    tools.get_by_role("button", name="Line", exact=True).click()
    plan = page.get_by_test_id("plan-picture").bounding_box()
    assert plan is not None
    page.mouse.move(plan["x"] + 0.3 * plan["width"], plan["y"] + 0.5 * plan["height"])
    page.mouse.down()
    page.mouse.move(plan["x"] + 0.6 * plan["width"], plan["y"] + 0.45 * plan["height"], steps=8)
    expect(page.get_by_test_id("modelling-trail")).to_be_visible()
    page.mouse.up()
    card = page.get_by_role("region", name="Shape by hand")
    expect(card.get_by_role("region", name="Line, stroke 1")).to_be_visible()

    tools.get_by_role("button", name="Raise", exact=True).click()
    at_rest(page)
    model = page.get_by_role("group", name="Model").locator("canvas").bounding_box()
    assert model is not None
    raised = card.get_by_role("region", name="Raise, stroke 2")
    # On a slow machine the model may still be replaced by the one with the line while it is drawn on.
    for patience in (30_000, 60_000):
        page.mouse.move(model["x"] + 0.45 * model["width"], model["y"] + 0.5 * model["height"])
        page.mouse.down()
        page.mouse.move(model["x"] + 0.55 * model["width"], model["y"] + 0.55 * model["height"], steps=6)
        page.mouse.up()
        try:
            expect(raised).to_be_visible(timeout=patience)
            break
        except AssertionError:
            if patience == 60_000:
                raise
    at_rest(page)
    piece_id = page.url.rsplit("/", 1)[-1]
    line, boss = document(piece_id)["height"]["hand"]["strokes"]
    assert line["tool"] == "carve" and line["places"][0][:2] == pytest.approx([0.3, 0.5], abs=0.02)
    assert line["places"][-1][0] == pytest.approx(0.6, abs=0.02)
    xs, ys = np.array(boss["places"])[:, 0], np.array(boss["places"])[:, 1]
    # On the model, from the upper left to the lower right of its middle.
    assert 0.2 < xs[0] < xs[-1] < 0.8 and 0.8 > ys[0] > ys[-1] > 0.2

    page.get_by_role("button", name="Undo").click()
    expect(card.get_by_role("region", name="Raise, stroke 2")).to_have_count(0)
    card.get_by_role("button", name="Take the last of 1 back").click()
    expect(card.get_by_role("region", name="Line, stroke 1")).to_have_count(0)


def tones(samples: np.ndarray) -> bytes:
    file = io.BytesIO()
    Image.fromarray(np.round(samples * 255).astype(np.uint8)).save(file, "PNG")
    return file.getvalue()


@pytest.mark.stage
def test_a_picture_and_a_piece_are_laid_on_a_panel_and_moved_by_hand(page: Page, shared, drop, document) -> None:
    y, x = np.mgrid[-1:1:161j, -1:1:161j]
    page.goto(shared.url)
    drop("leaf.png", tones(np.where(np.hypot(x, y) < 0.8, 0.9, 0.1) + 0.05 * x))
    leaf_id = page.url.rsplit("/", 1)[-1]
    page.goto(shared.url)
    drop("ground.png", tones(np.full((121, 161), 0.4) + 0.1 * np.linspace(0, 1, 161)))
    station(page, "Height")
    at_rest(page)
    card = page.get_by_role("region", name="Reliefs laid on it")
    crest = {"name": "crest.png", "mimeType": "image/png", "buffer": tones(np.where(np.hypot(x, y) < 0.6, 0.1, 1.0))}
    page.get_by_label("Picture to lay on the heights").set_input_files([crest])
    expect(card.get_by_role("region", name="crest")).to_be_visible()
    # Black on white: the white is left out and the black stands tall, which is said and can be changed.
    tall = card.get_by_role("radiogroup", name="Which tones stand tall?")
    expect(tall.get_by_role("radio", name="Dark")).to_be_checked()
    expect(card.get_by_role("radio", name="Background")).to_be_checked()
    card.get_by_text("Added", exact=True).click()
    at_rest(page)
    handle = page.get_by_test_id("laid-crest").bounding_box()
    assert handle is not None
    middle = handle["x"] + handle["width"] / 2, handle["y"] + handle["height"] / 2
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0] - 60, middle[1], steps=5)
    page.mouse.up()
    card.get_by_role("button", name="A piece").click()
    page.get_by_role("button", name="leaf", exact=False).filter(has_text="Relief panel").first.click()
    expect(card.get_by_role("region", name="leaf")).to_be_visible()
    at_rest(page)
    first, second = document(page.url.rsplit("/", 1)[-1])["height"]["laid"]
    assert (
        first["blend"] == "add" and 0.1 < first["x_share"] < 0.45 and first["y_share"] == pytest.approx(0.5, abs=0.01)
    )
    assert second["source"]["piece_id"] == leaf_id and second["source"]["follow"]
    station(page, "Deliver")
    with page.expect_download() as saved:
        page.get_by_role("button", name="Build and save STL").click()
    expect(page.get_by_test_id("build-report")).to_be_visible()
    on, beside = heights_at(saved.value.path().read_bytes(), (first["x_share"], 0.5), (0.03, 0.06))
    assert on - beside == pytest.approx(first["rule"]["relief_mm"], abs=0.2)
