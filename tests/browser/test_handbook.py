"""The handbook in the browser, with no network."""

import re

import pytest
from playwright.sync_api import Page, expect


@pytest.mark.browser_context_args(bypass_csp=False)
def test_help_opens_the_handbook_and_is_searched_offline(page: Page, shared) -> None:
    said: list[str] = []
    page.context.on("console", lambda message: said.append(message.text))
    page.goto(shared.url)
    with page.expect_popup() as opened:
        page.get_by_role("link", name="Help").click()
    handbook = opened.value
    expect(handbook.get_by_role("heading", name="Begin")).to_be_visible()
    handbook.wait_for_load_state("networkidle")
    pictures = handbook.locator("article img")
    assert pictures.evaluate_all("all => all.every(each => each.complete && each.naturalWidth > 300)")
    handbook.get_by_role("textbox", name="Search").press_sequentially("undercut")
    found = handbook.locator(".md-search-result").get_by_role("link").filter(has_text="Moulds and dies")
    expect(found.first).to_be_visible()
    found.first.click()
    expect(handbook).to_have_url(re.compile(r"/help/kinds/mould\.html"))
    assert said == []


def test_the_bench_helps_with_the_kind_of_piece_at_hand(page: Page, demo) -> None:
    page.goto(demo.url)
    page.get_by_text("Hillside fern", exact=True).first.click()
    with page.expect_popup() as opened:
        page.get_by_role("link", name="Help").click()
    expect(opened.value.get_by_role("heading", name="Relief panels")).to_be_visible()
    opened.value.goto(f"{demo.url}/help")
    expect(opened.value).to_have_url(re.compile(r"/help/index\.html"))
    opened.value.goto(f"{demo.url}/help/nowhere.html")
    expect(opened.value.get_by_role("heading", name="404")).to_be_visible()
