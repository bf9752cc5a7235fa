"""A relief becomes work for a router, in the real browser."""

import re
import zipfile

import pytest
from playwright.sync_api import Page, expect


@pytest.mark.deep
@pytest.mark.stage
def test_the_fern_is_carved_and_its_programs_are_saved(page: Page, demo) -> None:
    page.goto(demo.url)
    page.get_by_role("link", name="Hillside fern").first.click()
    page.get_by_role("navigation", name="Stations").get_by_role("button", name="Deliver").click()
    page.get_by_role("radio", name="Yard router").click()
    expect(page.get_by_test_id("router-plan")).to_be_visible()
    expect(page.get_by_test_id("reach")).to_contain_text("of the surface")
    page.get_by_role("button", name="Plan and prove the carving").click()
    expect(page.get_by_test_id("carve-stage")).to_be_visible()
    expect(page.get_by_test_id("carved")).to_contain_text("µm at most", timeout=240_000)
    expect(page.get_by_test_id("model-note")).to_contain_text("Simulated stock")
    expect(page.get_by_test_id("ways-finish")).to_be_visible()
    page.get_by_role("radio", name="Left").click()
    expect(page.get_by_test_id("map-legend")).to_contain_text("Left over the asked surface")
    page.get_by_label("Time of the cutting").fill("3")
    expect(page.get_by_test_id("carve-time")).to_have_text(re.compile(r"^\d+(\.\d)? (s|min)$"))
    with page.expect_download() as saved:
        page.get_by_role("link", name="All of it in a ZIP").click()
    names = zipfile.ZipFile(saved.value.path()).namelist()
    assert [name.rsplit(".")[-1] for name in names] == ["nc", "nc", "pdf"]
    page.get_by_role("radio", name="Workshop printer").click()
    expect(page.get_by_test_id("router-plan")).to_have_count(0)


@pytest.mark.deep
def test_a_dropped_picture_is_refused_by_a_stock_that_is_too_thin_and_carved_from_a_thicker_one(
    page: Page, shared, drop, hill
) -> None:
    page.goto(shared.url)
    drop("hill to carve.png", hill)
    page.get_by_role("navigation", name="Stations").get_by_role("button", name="Deliver").click()
    page.get_by_role("radio", name="Yard router").click()
    thickness = page.get_by_label("Thickness", exact=True)
    thickness.fill("2")
    thickness.press("Enter")
    page.get_by_role("button", name="Plan and prove the carving").click()
    carve = page.get_by_role("region", name="Carve", exact=True)
    expect(carve.get_by_role("alert")).to_contain_text("too thin")
    thickness.fill("18")
    thickness.press("Enter")
    page.get_by_role("button", name="Plan and prove the carving").click()
    expect(page.get_by_test_id("carved")).to_contain_text("µm at most", timeout=240_000)
    expect(page.get_by_role("link", name="Set-up sheet (PDF)")).to_be_visible()


def test_a_drawn_mark_is_v_carved_and_sent_to_the_router_line_by_line(page: Page, demo) -> None:
    page.goto(demo.url)
    page.get_by_role("link", name="Trail mark, drawn").first.click()
    page.get_by_role("navigation", name="Stations").get_by_role("button", name="Deliver").click()
    page.get_by_role("radio", name="Yard router").click()
    page.get_by_role("radio", name="V-carved").click()
    page.get_by_role("button", name="Plan and prove the carving").click()
    for card in ("Bits", "Carve"):
        told = page.get_by_role("region", name=card, exact=True).get_by_role("alert")
        expect(told).to_contain_text("does not cut V walls")
    page.get_by_role("button", name="Put 6 mm ball back").click()
    expect(page.get_by_role("button", name="Take 6 mm ball")).to_be_enabled()
    page.get_by_role("button", name="Take 60° V").click()
    expect(page.get_by_role("button", name="Take 60° V")).to_be_disabled()
    page.get_by_role("button", name="Plan and prove the carving").click()
    expect(page.get_by_test_id("carved")).to_contain_text("0.0 µm at most", timeout=120_000)
    expect(page.get_by_test_id("ways-v-carve")).to_be_visible()
    # The section shows the wood that was cut, not the solid that the outlines would make.
    expect(page.get_by_test_id("section-cut")).to_be_visible()
    page.get_by_role("radio", name="× 100").click()
    page.get_by_role("button", name="Send it line by line").click()
    page.get_by_role("button", name="Hold").click()
    expect(page.get_by_test_id("router-standing")).to_contain_text("It is held")
    expect(page.get_by_test_id("router-tip")).to_be_visible()
    page.get_by_role("button", name="Go on").click()
    expect(page.get_by_test_id("router-standing")).to_contain_text("It has finished", timeout=30_000)
    expect(page.get_by_test_id("router-tip")).to_have_count(0)
    page.get_by_role("radio", name="Workshop printer").click()
