"""Where things stand on the bench: menus at their buttons, the section as high as wanted, the stage in its pane."""

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import settled, stage, station
from tests.browser.test_access import first_of, violations

BESIDE_PX = 40


def box_of(part: Locator) -> dict[str, float]:
    found = part.bounding_box()
    assert found is not None
    return found


@pytest.fixture
def bench(page: Page, demo):
    """Open the first piece of a kind."""

    def go(kind: str) -> Page:
        page.goto(f"{demo.url}/piece/{first_of(page, demo.url, kind)}")
        settled(page)
        return page

    return go


@pytest.mark.parametrize(
    ("kind", "name", "button"),
    [
        ("model", "Body", "Add a step"),
        ("model", "Body", "Lay a motif on"),
        ("panel", "Body", "Add a hole or slot"),
        ("traced", "Outlines", "Add a step"),
        ("panel", "Deliver", "Ready targets"),
    ],
)
def test_a_menu_opens_at_its_button_and_inside_the_window(bench, kind: str, name: str, button: str):
    page = bench(kind)
    station(page, name)
    if name == "Deliver" and not page.get_by_role("button", name=button).count():
        page.get_by_label("Lightness on").check()
    toggle = page.get_by_role("button", name=button).first
    toggle.scroll_into_view_if_needed()
    toggle.click()
    menu = page.locator(".dropdown-menu.show")
    expect(menu).to_be_visible()
    at, opened = box_of(toggle), box_of(menu)
    apart = max(opened["y"] - (at["y"] + at["height"]), at["y"] - (opened["y"] + opened["height"]))
    assert apart < BESIDE_PX
    assert opened["x"] < at["x"] + at["width"] and opened["x"] + opened["width"] > at["x"]
    window = page.viewport_size
    assert window is not None
    assert opened["x"] >= 0 and opened["x"] + opened["width"] <= window["width"] + 1
    assert opened["y"] >= 0 and opened["y"] + opened["height"] <= window["height"] + 1


def test_the_section_is_as_high_as_it_is_dragged_and_can_be_folded(bench):
    page = bench("panel")
    section, plan = page.get_by_role("group", name="Section"), page.get_by_role("group", name="Plan")
    first, above = box_of(section)["height"], box_of(plan)["height"]
    edge = box_of(page.locator(".section-edge"))
    page.mouse.move(edge["x"] + 200, edge["y"] + edge["height"] / 2)
    page.mouse.down()
    page.mouse.move(edge["x"] + 200, edge["y"] - 80, steps=4)
    page.mouse.up()
    higher = box_of(section)["height"]
    assert higher == pytest.approx(first + 80, abs=8)
    assert box_of(plan)["height"] == pytest.approx(above - 80, abs=8)
    page.get_by_role("button", name="Fold the section").click()
    expect(page.get_by_test_id("section-surface")).to_have_count(0)
    assert box_of(section)["height"] < 60
    page.get_by_role("button", name="Unfold the section").click()
    expect(page.get_by_test_id("section-made")).to_be_visible()
    assert box_of(section)["height"] == pytest.approx(higher, abs=2)


@pytest.mark.stage
def test_the_stage_fills_its_pane_after_the_window_changed(bench):
    page = bench("panel")
    canvas = stage(page)
    for width, height in ((1000, 700), (1280, 800)):
        page.set_viewport_size({"width": width, "height": height})
        for _ in range(100):
            pane, drawn = box_of(page.get_by_role("group", name="Model", exact=True)), box_of(canvas)
            if drawn == pytest.approx(pane, abs=2):
                break
            page.wait_for_timeout(100)
        assert drawn == pytest.approx(pane, abs=2)


def test_without_3d_the_model_is_told_about_and_pictured(bench):
    page = bench("panel")
    model = page.get_by_role("group", name="Model", exact=True)
    expect(model).to_contain_text("This browser draws nothing in 3D")
    expect(model.locator("canvas")).to_have_count(0)
    expect(page.get_by_test_id("model-note")).to_contain_text("triangles")
    assert violations(page, "without 3D") == []
    model.get_by_role("button", name="Show a picture of it").click()
    picture = model.get_by_role("img", name="The piece as it was last kept")
    expect(picture).to_be_visible()
    page.wait_for_function("picture => picture.complete && picture.naturalWidth > 100", arg=picture.element_handle())
