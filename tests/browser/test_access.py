"""Whether all can use the pages: every station of every kind, and the shelf, looked through by axe."""

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import settled

AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
SEEN = [pytest.param(kind, marks=pytest.mark.stage) for kind in ("panel", "model")]
KINDS = [*SEEN, "lithophane", "figure", "traced", "drawn", "assembly"]
# Of the Web Content Accessibility Guidelines 2.1, levels A and AA.
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa"]


def violations(page: Page, where: str) -> list[str]:
    """What axe finds on the page as it is: rule, what it is about, and the first places."""
    if not page.evaluate("typeof window.axe === 'object'"):
        page.evaluate(AXE.read_text(encoding="utf-8"))
    found = page.evaluate("rules => axe.run(document, { runOnly: rules })", RULES)["violations"]
    return [
        f"{where}: {each['id']} ({each['help']}) at {' | '.join(str(node['target'][0]) for node in each['nodes'][:4])}"
        for each in found
    ]


def first_of(page: Page, url: str, kind: str) -> str:
    """The first piece of a kind on the shelf."""
    for each in page.request.get(f"{url}/api/pieces").json():
        if page.request.get(f"{url}/api/pieces/{each['id']}").json()["kind"] == kind:
            return str(each["id"])
    raise AssertionError(f"The demo has no piece of the kind {kind}.")


def test_the_shelf(page: Page, demo):
    page.goto(demo.url)
    expect(page.get_by_role("link").first).to_be_visible()
    expect(page.get_by_role("navigation").or_(page.get_by_role("main")).first).to_be_visible()
    assert violations(page, "shelf") == []


def test_storage_and_problems(page: Page, demo):
    page.goto(demo.url)
    page.get_by_role("link", name="Storage and problems").click()
    expect(page.get_by_role("table", name="What the data folder holds")).to_be_visible()
    page.get_by_role("button", name="Thin out the past …").click()
    assert violations(page, "keeping") == []


@pytest.mark.parametrize("kind", KINDS)
def test_every_station_of(kind: str, page: Page, demo):
    page.goto(f"{demo.url}/piece/{first_of(page, demo.url, kind)}")
    settled(page)
    stations = page.get_by_role("navigation", name="Stations").get_by_role("button")
    found = []
    for name in stations.all_inner_texts():
        stations.filter(has_text=name).first.click()
        settled(page)
        found += violations(page, name.strip())
    assert found == []
