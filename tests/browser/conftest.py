"""A real server and a real browser."""

import base64
import fcntl
import os
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Locator, Page, expect
from tools.running import WINDOW, RunningServer, browser_options

expect.set_options(timeout=60_000)

WITHOUT_3D = """
const context = HTMLCanvasElement.prototype.getContext;
HTMLCanvasElement.prototype.getContext = function (kind, ...more) {
  return kind.startsWith("webgl") ? null : context.call(this, kind, ...more);
};
"""


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, object]:
    """Debian's Chromium, with WebGL in software."""
    return browser_options()


@pytest.fixture(scope="session")
def browser_context_args() -> dict[str, object]:
    """The window that the bench is first seen in. What waits for a condition evaluates words, which pages may not."""
    return {"viewport": WINDOW, "accept_downloads": True, "bypass_csp": True}


@pytest.fixture(scope="session")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[RunningServer]:
    """A server with the demo pieces, which are drawn once for all processes of a run."""
    ours = tmp_path_factory.getbasetemp()
    drawn = (ours if "PYTEST_XDIST_WORKER" not in os.environ else ours.parent) / "demo-drawn"
    with drawn.with_suffix(".lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not drawn.exists():
            RunningServer(drawn.with_suffix(".begun"), "--demo").kill()
            drawn.with_suffix(".begun").rename(drawn)
    server = RunningServer(shutil.copytree(drawn, ours / "demo"), "--demo")
    yield server
    server.kill()


@pytest.fixture(scope="session")
def shared(tmp_path_factory: pytest.TempPathFactory) -> Iterator[RunningServer]:
    """A server whose shelf fills up; a test may kill it, and starts it again then."""
    server = RunningServer(tmp_path_factory.mktemp("shared"))
    yield server
    server.kill()


@pytest.fixture
def own(tmp_path: Path) -> Iterator[RunningServer]:
    """A server with an empty shelf."""
    server = RunningServer(tmp_path / "data")
    yield server
    server.kill()


@pytest.fixture
def drop(page: Page) -> Callable[[str, bytes], None]:
    """Drop a file onto the page; what begins with a picture goes to the bench as it is."""

    def let_go(name: str, data: bytes) -> None:
        transfer = page.evaluate_handle(
            """([name, coded]) => {
                const transfer = new DataTransfer();
                const bytes = Uint8Array.from(atob(coded), letter => letter.charCodeAt(0));
                transfer.items.add(new File([bytes], name));
                return transfer;
            }""",
            [name, base64.b64encode(data).decode()],
        )
        page.dispatch_event("body", "dragover", {"dataTransfer": transfer})
        page.dispatch_event("body", "drop", {"dataTransfer": transfer})
        if name.lower().endswith((".png", ".jpg", ".jpeg", ".tif", ".tiff", ".webp")):
            page.wait_for_function("location.pathname.endsWith('/choose') || document.querySelector('[role=alert]')")
            if page.url.endswith("/choose"):
                page.get_by_role("button", name="To the bench as it is").click()

    return let_go


@pytest.fixture
def document(page: Page, shared) -> Callable[[str], dict]:
    """The piece's document as the server keeps it."""
    return lambda piece_id: page.request.get(f"{shared.url}/api/pieces/{piece_id}").json()["document"]


@pytest.fixture(autouse=True)
def flat_unless_looked_at(request: pytest.FixtureRequest, page: Page) -> None:
    """Where a test does not look at the model, the page draws nothing in 3D: in software that takes longest of all."""
    if request.node.get_closest_marker("stage") is None:
        page.context.add_init_script(WITHOUT_3D)


@pytest.fixture(autouse=True)
def no_page_errors(page: Page) -> Iterator[None]:
    """A script error on any page fails the test."""
    page.set_default_timeout(90_000)
    errors: list[str] = []
    page.on("pageerror", lambda error: errors.append(str(error)))
    yield
    assert errors == []


def station(page: Page, name: str) -> None:
    """Go to a station of the bench."""
    page.get_by_role("navigation", name="Stations").get_by_role("button", name=name).click()


def settled(page: Page) -> None:
    """Wait until the server has kept the last edit and the Plan shows it."""
    plan = page.get_by_role("group", name="Plan")
    for _ in range(2):
        expect(plan).to_have_attribute("aria-busy", "false")
        page.evaluate("new Promise(go => requestAnimationFrame(() => requestAnimationFrame(go)))")


def stage(page: Page) -> Locator:
    """Where the model is seen, once the newest solid is drawn there."""
    expect(page.get_by_test_id("model-note")).to_be_visible()
    expect(page.get_by_role("group", name="Model", exact=True)).to_have_attribute("aria-busy", "false")
    return page.get_by_role("group", name="Model", exact=True).locator("canvas")


def looks_changed(page: Page, before: bytes) -> bytes:
    """Wait until the stage looks other than before; how it looks then."""
    for _ in range(100):
        if (shot := stage(page).screenshot()) != before:
            return shot
        page.wait_for_timeout(100)
    raise AssertionError("The stage still looks as it did.")


def type_into(page: Page, label: str, text: str) -> None:
    """Type into a number field."""
    field = page.get_by_label(label, exact=True)
    field.fill(text)
    field.press("Enter")


def point_at(page: Page, x_share: float, y_share: float) -> None:
    """Move the mouse over the Plan, in shares from its lower left corner."""
    box = page.get_by_test_id("plan-picture").bounding_box()
    page.mouse.move(box["x"] + x_share * box["width"], box["y"] + (1 - y_share) * box["height"])
