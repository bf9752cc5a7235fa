"""A relief becomes work for a router, in the real browser."""

import re
import zipfile

from playwright.sync_api import Page, expect


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
    expect(page.get_by_role("alert").filter(has_text="too thin")).to_be_visible()
    thickness.fill("18")
    thickness.press("Enter")
    page.get_by_role("button", name="Plan and prove the carving").click()
    expect(page.get_by_test_id("carved")).to_contain_text("µm at most", timeout=240_000)
    expect(page.get_by_role("link", name="Set-up sheet (PDF)")).to_be_visible()
