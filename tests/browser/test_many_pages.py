"""Many pages of one browser: they share one stream of news, and all of them work."""

from playwright.sync_api import Browser, BrowserContext, expect
from tools.running import WINDOW

PAGES = 12


def open_streams(context: BrowserContext, url: str) -> int:
    return context.request.get(f"{url}/api/health").json()["pages"]


def test_twelve_pages_take_one_stream_and_hear_of_everything(browser: Browser, own):
    """In a window of its own, in which nothing is let through that the server forbids."""
    context, told = browser.new_context(viewport=WINDOW), list[str]()
    context.on("console", lambda message: told.append(message.text) if message.type == "error" else None)
    pages = [context.new_page() for _ in range(PAGES)]
    for page in pages:
        page.goto(own.url)
    for page in pages:
        expect(page.get_by_role("heading", name="Shelf")).to_be_visible()
    assert open_streams(context, own.url) == 1
    sheet = {"width_mm": 40, "height_mm": 30, "title": "Heard by all", "text": "A"}
    made = context.request.post(f"{own.url}/api/sheets", data=sheet)
    assert made.status == 201, made.text()
    for page in pages:
        expect(page.get_by_text("Heard by all")).to_be_visible()
    for page in pages[1:]:
        page.close()
    # The last one goes on hearing, also of a server that went and came back.
    own.kill()
    expect(pages[0].get_by_role("alert")).to_be_visible()
    own.start()
    expect(pages[0].get_by_role("alert")).to_be_hidden()
    assert open_streams(context, own.url) == 1
    assert not [words for words in told if "Content Security Policy" in words]
    context.close()
