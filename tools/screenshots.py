"""Take the pictures in `docs/screenshots/` from the demo pieces."""

import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from tools.running import WINDOW, RunningServer, browser_options

TARGET = Path(__file__).parent.parent / "docs" / "screenshots"
SETTLE_MS = 2500


def main() -> None:
    """Start a server with fresh demo data and photograph every main view."""
    TARGET.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        server = RunningServer(Path(folder), "--demo")
        browser = playwright.chromium.launch(**browser_options())
        try:
            take_all(browser.new_page(viewport=WINDOW, bypass_csp=True), server.url)
        finally:
            browser.close()
            server.kill()


def take_all(page: Page, url: str) -> None:
    """Every main view, in the order of the work."""
    take_panels(page, url)
    take_beginnings(page, url)
    take_outlines(page, url)
    take_lithophanes(page, url)
    take_figures(page, url)
    open_piece(page, url, "Trail pot")
    page.get_by_role("button", name="17 mm wide").click()
    page.wait_for_timeout(SETTLE_MS)
    take(page, "bench-decorations")
    take_mould(page, url)
    open_piece(page, url, "Planter pot, as it came")
    page.get_by_role("button", name="Fix: Repair").first.click(timeout=60_000)
    page.get_by_test_id("outcome-repair").wait_for()
    take(page, "bench-model")


def take_mould(page: Page, url: str) -> None:
    """A figure sunk into two halves."""
    page.goto(url)
    page.get_by_role("button", name="More for Garden hare").click()
    page.get_by_role("button", name="Make a mould of it").click()
    page.get_by_role("navigation", name="Stations").wait_for(timeout=120_000)
    page.wait_for_timeout(SETTLE_MS)
    take(page, "bench-mould")


def take_panels(page: Page, url: str) -> None:
    """The shelf, and relief panels at every station."""
    page.goto(url)
    page.locator(".tile img").first.wait_for()
    page.wait_for_function("[...document.querySelectorAll('.tile img')].every(image => image.complete)")
    take(page, "shelf")
    open_piece(page, url, "Snail sketch, photographed")
    station(page, "Picture")
    for words in ("Even out the light", "Clean the noise"):
        page.get_by_role("button", name=f"Fix: {words}").click(timeout=60_000)
        page.wait_for_timeout(SETTLE_MS)
    page.get_by_role("button", name="Before | after").click()
    take(page, "bench-picture")
    page.get_by_role("button", name="Before | after").click()
    open_piece(page, url, "Badger in the hedge")
    station(page, "Height")
    page.get_by_role("button", name="Light and surface").click()
    take(page, "bench-height")
    page.get_by_role("button", name="Light and surface").click()
    open_piece(page, url, "Ridge view panel")
    station(page, "Body")
    take(page, "bench-body")
    open_piece(page, url, "Shell path marker")
    station(page, "Proof")
    page.get_by_label("Colour the model by").select_option("thickness")
    page.get_by_test_id("map-legend").wait_for()
    picture = page.get_by_test_id("plan-picture").bounding_box()
    assert picture is not None
    page.mouse.move(picture["x"] + picture["width"] * 0.47, picture["y"] + picture["height"] * 0.5)
    take(page, "bench-proof")
    page.get_by_label("Colour the model by").select_option("")
    station(page, "Deliver")
    page.get_by_label("Lightness on").click()
    page.get_by_label("Triangles, about").fill("6000")
    page.get_by_label("Triangles, about").press("Enter")
    page.wait_for_timeout(SETTLE_MS)
    with page.expect_download(timeout=120_000):
        page.get_by_role("button", name="Build and save STL").click()
    page.get_by_text("Built ·").wait_for()
    page.get_by_role("button", name="Before and after, side by side").click()
    page.get_by_role("button", name="Triangles", exact=True).click()
    take(page, "bench-deliver")
    page.get_by_role("button", name="Triangles", exact=True).click()
    take_carving(page, url)


def take_beginnings(page: Page, url: str) -> None:
    """What a picture could be, a sheet that is written and drawn on, and a piece that is put together."""
    open_piece(page, url, "Snail sketch, photographed")
    page.get_by_role("link", name="What else it can be, and recipes").click()
    page.wait_for_function("document.querySelectorAll('.choose-card img').length === 7")
    page.wait_for_function("[...document.querySelectorAll('.recipe-card img')].every(image => image.complete)")
    take(page, "choose")
    open_piece(page, url, "Bookmark, Alder lane")
    station(page, "Picture")
    page.get_by_text("Lettering", exact=True).first.click()
    take(page, "bench-sheet")
    open_piece(page, url, "Shell on its plinth")
    page.get_by_role("button", name="Change Plinth").click()
    take(page, "bench-parts")


def take_carving(page: Page, url: str) -> None:
    """A relief as work for a router, half carved."""
    open_piece(page, url, "Hillside fern")
    station(page, "Deliver")
    page.get_by_role("radio", name="Yard router").click()
    page.get_by_role("button", name="Take Tapered ball R0.5").click()
    page.wait_for_timeout(SETTLE_MS)
    page.get_by_role("button", name="Plan and prove the carving").click()
    page.get_by_test_id("carved").wait_for(timeout=240_000)
    page.get_by_label("Time of the cutting").fill("12")
    page.wait_for_timeout(2 * SETTLE_MS)
    take(page, "bench-carve")


def take_outlines(page: Page, url: str) -> None:
    """Outlines, what becomes of them, and motifs."""
    open_piece(page, url, "Ginkgo clay cutter")
    station(page, "Outlines")
    page.get_by_label("List of outlines").get_by_role("button").nth(8).click()
    take(page, "bench-outlines")
    take_layers(page)
    open_piece(page, url, "Garden shield")
    station(page, "Height")
    page.get_by_role("button", name="Change Ginkgo planter mark").click()
    page.get_by_role("button", name="Motifs").click()
    page.get_by_role("region", name="Reliefs laid on it").evaluate("card => card.scrollIntoView({ block: 'start' })")
    take(page, "bench-motifs")


def take_layers(page: Page) -> None:
    """The lines in the walls of a cutter, seen closely, and what would help."""
    station(page, "Proof")
    page.get_by_test_id("layer-fix").first.wait_for(timeout=120_000)
    page.get_by_role("group", name="What layers tell").get_by_role("button", name="Show").first.click()
    page.locator("canvas[data-layer]").wait_for()
    page.get_by_label("Layer", exact=True).fill("41")
    page.get_by_role("region", name="Layers").evaluate("card => card.scrollIntoView({ block: 'end' })")
    page.wait_for_timeout(SETTLE_MS)
    take(page, "bench-layers")


def take_lithophanes(page: Page, url: str) -> None:
    """A window of colour layers in light."""
    open_piece(page, url, "Mill pond window")
    station(page, "Light")
    page.get_by_role("region", name="Colour layers").evaluate("card => card.scrollIntoView({ block: 'start' })")
    take(page, "bench-lithophane-lit")


def take_figures(page: Page, url: str) -> None:
    """The owl in the round in four filaments, the strokes that bring its wings forward, and its sources of depth."""
    open_piece(page, url, "Little owl, in the round")
    station(page, "Figure")
    stage = page.get_by_role("group", name="Model").bounding_box()
    assert stage is not None
    x, y = stage["x"] + stage["width"] / 2, stage["y"] + stage["height"] * 0.93
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 70, y, steps=6)
    page.mouse.up()
    page.get_by_test_id("colour-changes").evaluate("line => line.scrollIntoView({ block: 'end' })")
    take(page, "bench-figure")
    page.get_by_role("button", name="Ridge", exact=True).click()
    page.get_by_label("Show on the Plan where it is unsure").click()
    page.get_by_test_id("unsure-on-plan").wait_for()
    sources = page.get_by_role("region", name="Sources of depth, side by side")
    sources.get_by_role("button", name="Compare").click()
    sources.get_by_alt_text("Where it is nearer").first.wait_for()
    sources.evaluate("card => card.scrollIntoView({ block: 'start' })")
    take(page, "bench-figure-sources")


def open_piece(page: Page, url: str, title: str) -> None:
    """Go to a piece and wait until its model is shown."""
    page.goto(url)
    page.get_by_role("link", name=title).click()
    page.get_by_test_id("model-note").wait_for(timeout=60_000)


def station(page: Page, name: str) -> None:
    """Go to a station."""
    page.get_by_role("navigation", name="Stations").get_by_role("button", name=name).click()


def take(page: Page, name: str) -> None:
    """One picture, after the stage has come to rest."""
    page.wait_for_timeout(SETTLE_MS)
    page.screenshot(path=TARGET / f"{name}.png")
    print(f"docs/screenshots/{name}.png", file=sys.stderr)


if __name__ == "__main__":
    main()
