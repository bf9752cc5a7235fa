"""Making a picture fit to be sculpted, in a real browser on the real server."""

import base64
import io
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Locator, Page, expect

from nebrel.core.mesh.formats import read_mesh
from nebrel.core.picture import read_picture
from nebrel.demo.pictures.plate import draw_ivy
from nebrel.demo.pictures.sketch import photograph
from tests.browser.conftest import point_at, settled, station, type_into

STRAY = [(0.82, 0.79), (0.87, 0.835), (0.92, 0.79)]


@pytest.fixture
def ivy(encode) -> bytes:
    """White leaf on black, clean."""
    return encode(np.round(draw_ivy()[::3, ::3] * 255).astype(np.uint8))


@pytest.fixture
def opened(page: Page, shared, drop) -> Callable[[str, bytes], str]:
    """Drop a picture on the shelf and go to its Picture station; returns the piece's id."""

    def open_piece(name: str, data: bytes) -> str:
        page.goto(shared.url)
        drop(name, data)
        station(page, "Picture")
        expect(page.get_by_test_id("plan-picture")).to_be_visible()
        return page.url.rsplit("/", 1)[-1]

    return open_piece


def steps(page: Page) -> Locator:
    return page.get_by_role("list", name="Picture steps").locator("> li")


def titles(page: Page) -> list[str]:
    return [row.get_attribute("aria-label").split(". ")[1] for row in steps(page).all()]


def add(page: Page, title: str) -> None:
    count = steps(page).count()
    page.get_by_role("button", name="Add a step").click()
    page.get_by_label("Find a step").fill(title)
    page.locator(".add-op-menu").get_by_role("button", name=title, exact=True).click()
    expect(steps(page)).to_have_count(count + 1)
    expect(steps(page).last).to_have_class("op-row is-open")
    settled(page)


def pixels(page: Page) -> np.ndarray:
    """What the Plan shows, (H, W, 4)."""
    address = page.get_by_test_id("plan-picture").evaluate("canvas => canvas.toDataURL('image/png')")
    png = base64.b64decode(address.split(",")[1])
    return np.asarray(Image.open(io.BytesIO(png)).convert("RGBA"))


def drag(page: Page, start: tuple[float, float], end: tuple[float, float]) -> None:
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move(*end, steps=2)
    page.mouse.up()
    settled(page)


def draw(page: Page, *places: tuple[float, float]) -> None:
    point_at(page, *places[0])
    page.mouse.down()
    for place in places[1:]:
        point_at(page, *place)
    page.mouse.up()
    settled(page)


def drag_handle(page: Page, test_id: str, across_px: float, down_px: float) -> None:
    box = page.get_by_test_id(test_id).bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    drag(page, (x, y), (x + across_px, y + down_px))


def switch(page: Page, title: str) -> None:
    page.get_by_label(f"{title} on", exact=True).click()
    settled(page)


def small_photo() -> bytes:
    """The photographed sketch with half as many pixels a side."""
    file = io.BytesIO()
    Image.open(io.BytesIO(photograph())).resize((800, 600)).save(file, "JPEG", quality=88)
    return file.getvalue()


@pytest.mark.deep
def test_from_a_phone_photo_to_a_clean_three_toned_plate(page: Page, shared, opened, document):
    piece = opened("snail.jpg", small_photo())
    expect(page.get_by_text("The light on the sheet runs from")).to_be_visible()
    page.get_by_role("button", name="Fix: Even out the light").click()
    expect(steps(page)).to_have_count(1)
    expect(page.get_by_text("The light on the sheet runs from")).to_have_count(0)

    add(page, "Crop")
    expect(page.get_by_test_id("box-size")).to_have_text("80.0 mm × 60.0 mm")
    drag_handle(page, "grip-bottom", 0, -30)
    box = next(op for op in document(piece)["ops"] if op["kind"] == "crop")["box"]
    assert 0.05 < box["bottom"] < 0.2
    expect(page.get_by_test_id("box-size")).not_to_have_text("80.0 mm × 60.0 mm")
    assert float(page.get_by_test_id("box-size").text_content().split(" × ")[1].split()[0]) == pytest.approx(
        60 * (1 - box["bottom"]), abs=0.2
    )

    add(page, "Heal")
    rows, columns = pixels(page).shape[:2]
    mark = (round(rows * 0.18), round(columns * 0.87))
    around = np.s_[mark[0] - 20 : mark[0] + 20, mark[1] - 12 : mark[1] + 12, 0]
    assert pixels(page)[around].min() < 120
    raised = [(x, (y - box["bottom"]) / (1 - box["bottom"])) for x, y in STRAY]
    draw(page, *raised)
    expect(page.get_by_text("1 stroke")).to_be_visible()
    page.wait_for_function("!document.querySelector('.plan-progress')")
    assert pixels(page)[around].min() > 120

    add(page, "Lettering")
    page.get_by_label("Text", exact=True).fill("7")
    page.get_by_label("Text", exact=True).press("Control+Enter")
    type_into(page, "Width", "5")
    drag_handle(page, "place-middle", 120, -60)
    letters = document(piece)["ops"][-1]
    assert letters["text"] == "7"
    assert letters["width_mm"] == 5
    assert letters["centre"][0] > 0.6

    add(page, "Border")
    settled(page)
    add(page, "Few tones")
    settled(page)
    shown = pixels(page)
    assert len(np.unique(shown[..., 0])) == 3
    rim = shown[shown.shape[0] // 2, :, 0] == shown[0, 0, 0]
    wide_mm = (np.argmin(rim) - 0.5) * 80 / (shown.shape[1] - 1)
    assert wide_mm == pytest.approx(4, abs=0.15)

    switch(page, "Heal")
    expect(steps(page).nth(2)).to_have_class("op-row is-off")
    expect(page.get_by_text("Nothing is done to the picture yet")).to_have_count(0)
    names = ["Even out the light", "Crop", "Heal", "Lettering", "Border", "Few tones"]
    assert titles(page) == names
    shared.kill()
    shared.start()
    page.goto(f"{shared.url}/piece/{piece}")
    station(page, "Picture")
    expect(steps(page)).to_have_count(6)
    assert titles(page) == names
    assert [op["on"] for op in document(piece)["ops"]] == [True, True, False, True, True, True]
    expect(page.get_by_test_id("model-note")).to_be_visible()


def test_steps_are_moved_copied_removed_and_brought_back(page: Page, opened):
    opened("ivy.png", encode_ramp())
    for title in ("Invert", "Snap black and white", "Blur"):
        add(page, title)
    head = page.get_by_role("button", name="Blur", exact=True)
    head.focus()
    head.press("Alt+ArrowUp")
    expect(steps(page).nth(1)).to_have_attribute("aria-label", "2. Blur")
    steps(page).nth(0).locator(".op-head").drag_to(steps(page).nth(2).locator(".op-head"))
    expect(steps(page).nth(2)).to_have_attribute("aria-label", "3. Invert")
    assert titles(page) == ["Blur", "Snap black and white", "Invert"]
    page.get_by_role("button", name="More for Blur").click()
    page.get_by_role("button", name="Duplicate").click()
    expect(steps(page)).to_have_count(4)
    page.get_by_role("button", name="More for Invert").click()
    page.get_by_role("button", name="Remove").click()
    expect(steps(page)).to_have_count(3)
    page.keyboard.press("Control+z")
    expect(steps(page)).to_have_count(4)
    assert titles(page) == ["Blur", "Blur", "Snap black and white", "Invert"]


def encode_ramp() -> bytes:
    file = io.BytesIO()
    row = np.round(np.linspace(0, 65535, 181)).astype(np.uint16)
    Image.fromarray(np.tile(row, (121, 1))).save(file, "PNG")
    return file.getvalue()


def test_a_switched_off_step_changes_nothing_and_each_step_can_be_looked_at(page: Page, opened):
    opened("ramp.png", encode_ramp())
    before = pixels(page)
    add(page, "Invert")
    expect(page.get_by_role("img", name="After invert")).to_be_visible()
    assert pixels(page)[60, 0, 0] == 255
    page.get_by_role("radio", name="Before it").click()
    settled(page)
    assert np.array_equal(pixels(page), before)
    page.get_by_role("radio", name="Finished").click()
    settled(page)
    switch(page, "Invert")
    assert np.array_equal(pixels(page), before)


def test_looking_closely(page: Page, opened):
    opened("ivy.png", encode_ramp())
    add(page, "Invert")
    page.get_by_role("button", name="Invert", exact=True).click()
    page.get_by_role("button", name="Before | after").click()
    expect(page.get_by_test_id("plan-before")).to_be_visible()
    clip = page.get_by_test_id("plan-before").evaluate("c => c.style.clipPath")
    page.get_by_test_id("divider").focus()
    page.keyboard.press("ArrowRight")
    page.wait_for_function(
        "clip => document.querySelector('[data-testid=plan-before]').style.clipPath !== clip", arg=clip
    )
    page.get_by_role("button", name="Before | after").click()
    expect(page.get_by_test_id("plan-before")).to_have_count(0)

    page.get_by_label("Grid").select_option(label="Grid 10 mm")
    expect(page.get_by_test_id("grid")).to_be_attached()
    point_at(page, 0.25, 0.5)
    expect(page.get_by_test_id("readout")).to_contain_text("level 49,")
    expect(page.get_by_test_id("tone-mark")).to_be_attached()

    page.get_by_role("button", name="True size").click()
    wide = page.get_by_test_id("plan-picture").bounding_box()["width"]
    assert wide * 180 / 181 == pytest.approx(80 * 96 / 25.4, abs=1)
    type_into(page, "Hold a ruler to the bar; it is", "50")
    page.get_by_role("button", name="Whole").click()
    page.get_by_role("button", name="True size").click()
    wide = page.get_by_test_id("plan-picture").bounding_box()["width"]
    assert wide * 180 / 181 == pytest.approx(80 * 240 / 50, abs=1)


def test_thin_places_are_shown_and_thickened(page: Page, opened):
    opened("ivy.png", encode_thin())
    expect(page.get_by_text("The thinnest stroke is")).to_be_visible()
    page.get_by_role("listitem").filter(has_text="The thinnest stroke is").get_by_role("button", name="Show").click()
    expect(page.get_by_test_id("plan-thin")).to_be_visible()
    expect(page.get_by_text("strokes too thin")).to_be_visible()
    page.get_by_role("button", name="Fix: Thicken the strokes").click()
    expect(page.get_by_text("The thinnest stroke is")).to_have_count(0)


def encode_thin() -> bytes:
    y, x = np.mgrid[0:300, 0:400]
    ring = np.clip(8.5 - np.abs(np.hypot(x - 200, y - 150) - 90), 0, 1)
    line = np.clip(1.2 - np.abs(y - 150), 0, 1) * (np.abs(x - 200) < 170)
    file = io.BytesIO()
    Image.fromarray(np.round(255 * (1 - np.maximum(ring, line))).astype(np.uint8)).save(file, "PNG")
    return file.getvalue()


def test_levels_curve_and_tone_table_by_hand(page: Page, opened, document):
    piece = opened("ramp.png", encode_ramp())
    add(page, "Levels")
    white = page.get_by_role("slider", name="Becomes white, on the histogram")
    white.focus()
    for _ in range(3):
        white.press("ArrowLeft")
        settled(page)
    assert document(piece)["ops"][0]["white"] == pytest.approx(0.97)

    add(page, "Curve")
    graph = page.get_by_role("group", name="Tone curve")
    graph.scroll_into_view_if_needed()
    box = graph.bounding_box()
    x = box["x"] + box["width"] / 2
    drag(page, (x, box["y"] + box["height"] / 2), (x, box["y"] + box["height"] / 4))
    points = document(piece)["ops"][1]["points"]
    assert len(points) == 3
    assert points[1] == pytest.approx([0.5, 0.77], abs=0.04)
    page.get_by_role("slider", name="Point 2 of the curve").press("Delete")
    settled(page)
    assert len(document(piece)["ops"][1]["points"]) == 2

    add(page, "Few tones")
    first = page.get_by_label("Tone 1, 17 %, becomes", exact=True)
    expect(first).to_be_visible()
    first.fill("50 %")
    first.press("Enter")
    settled(page)
    assert document(piece)["ops"][2]["becomes"] == [0.5, None, None]


def test_cut_out_by_a_box_and_by_another_file(page: Page, opened, document, ivy, tmp_path: Path):
    piece = opened("ivy.png", ivy)
    add(page, "Cut out")
    assert (pixels(page)[..., 3] == 0).mean() > 0.5
    page.get_by_label("What is cut away").select_option(label="All but what I mark")
    settled(page)
    page.get_by_role("button", name="Draw a box around it").click()
    settled(page)
    drag_handle(page, "grip-left-top", 6, 6)
    box = document(piece)["ops"][0]["box"]
    assert box["left"] > 0.085
    assert box["top"] < 0.915
    page.get_by_role("radio", name="Goes").click()
    draw(page, (0.48, 0.12), (0.52, 0.12))
    (stroke,) = document(piece)["ops"][0]["strokes"]
    assert stroke["inside"] is False
    assert stroke["places"][0][:2] == pytest.approx([0.48, 0.12], abs=0.01)
    page.get_by_role("button", name="Take back the last").click()
    settled(page)
    assert document(piece)["ops"][0]["strokes"] == []

    mask = tmp_path / "mask.png"
    half = np.zeros((60, 90), dtype=np.uint8)
    half[:, 45:] = 255
    Image.fromarray(half).save(mask)
    page.get_by_label("What is cut away").select_option(label="Black in another file")
    page.get_by_label("Mask file").set_input_files(mask)
    expect(page.get_by_text("· mask.png")).to_be_visible()
    page.get_by_role("radio", name="Finished").click()
    settled(page)
    cover = pixels(page)[..., 3]
    assert cover[:, : cover.shape[1] // 2 - 8].max() == 0
    assert cover[:, cover.shape[1] // 2 + 8 :].min() == 255


def test_steps_added_by_another_page_at_the_same_moment_stay(page: Page, shared, opened, document):
    piece = opened("ramp.png", encode_ramp())
    add(page, "Invert")

    def be_faster(route):
        now = page.request.get(f"{shared.url}/api/pieces/{piece}").json()
        ops = [*now["document"]["ops"], {"kind": "gaussian", "id": "theirs", "radius_mm": 0.5}]
        edit = {"base": now["revision"], "label": "Add blur", "change": {"ops": ops}}
        assert page.request.post(f"{shared.url}/api/pieces/{piece}/revisions", data=edit).ok
        route.continue_()

    page.route("**/revisions", be_faster, times=1)
    switch(page, "Invert")
    expect(steps(page)).to_have_count(2)
    assert [(op["kind"], op["on"]) for op in document(piece)["ops"]] == [("invert", False), ("gaussian", True)]


def test_what_would_leave_nothing_is_refused_and_the_rest_is_kept(page: Page, opened, document):
    piece = opened("ramp.png", encode_ramp())
    add(page, "Erase to blank")
    type_into(page, "Brush size", "400")
    draw(page, (0.2, 0.5), (0.8, 0.5))
    expect(page.get_by_test_id("refusal")).to_contain_text("leaves nothing of the picture")
    assert document(piece)["ops"][0]["strokes"] == []


def test_the_prepared_picture_is_saved(page: Page, opened, tmp_path: Path):
    opened("ramp.png", encode_ramp())
    add(page, "Invert")
    with page.expect_download() as download:
        page.get_by_role("button", name="Save the picture").click()
    download.value.save_as(tmp_path / "prepared.png")
    saved = read_picture((tmp_path / "prepared.png").read_bytes())
    assert saved.facts.bit_depth == 16
    assert saved.facts.dpi == pytest.approx(180 / 80 * 25.4, abs=0.1)
    assert saved.tones[60, [0, -1]] == pytest.approx([1, 0])


def test_a_sheet_is_straightened_by_its_corners(page: Page, opened, document):
    piece = opened("ramp.png", encode_ramp())
    add(page, "Straighten a sheet")
    drag_handle(page, "corner-0", 30, -20)
    corner = document(piece)["ops"][0]["corners"][0]
    assert corner[0] > 0.05
    assert corner[1] > 0.05
    page.get_by_role("radio", name="Finished").click()
    settled(page)
    assert pixels(page)[-1, 0, 0] > 10


def test_filling_a_spot_and_taking_it_back(page: Page, opened, document, ivy):
    piece = opened("ivy.png", ivy)
    before = pixels(page)
    add(page, "Fill")
    draw(page, (0.05, 0.95))
    assert document(piece)["ops"][0]["spots"][0] == pytest.approx([0.05, 0.95], abs=0.01)
    assert pixels(page)[5, 5, 0] == 255
    page.get_by_role("button", name="Take back the last").click()
    settled(page)
    assert np.array_equal(pixels(page), before)


def test_the_piece_is_delivered_in_another_format(page: Page, opened, tmp_path: Path):
    opened("ramp.png", encode_ramp())
    station(page, "Deliver")
    page.get_by_label("File format").select_option("glb")
    settled(page)
    with page.expect_download(timeout=120_000) as download:
        page.get_by_role("button", name="Build and save GLB").click()
    assert download.value.suggested_filename.endswith(".glb")
    download.value.save_as(tmp_path / "ramp.glb")
    mesh = read_mesh((tmp_path / "ramp.glb").read_bytes(), "ramp.glb").mesh
    assert np.ptp(mesh.vertices, axis=0) == pytest.approx((80, 80 * 120 / 180, 4.2), abs=0.001)
