"""A real server and a real browser."""

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect
from tools.running import WINDOW, RunningServer, browser_options

expect.set_options(timeout=60_000)


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, object]:
    """Debian's Chromium, with WebGL in software."""
    return browser_options()


@pytest.fixture(scope="session")
def browser_context_args() -> dict[str, object]:
    """The window that the bench is first seen in."""
    return {"viewport": WINDOW, "accept_downloads": True}


@pytest.fixture(scope="session")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[RunningServer]:
    """A server with the demo pieces."""
    server = RunningServer(tmp_path_factory.mktemp("demo"), "--demo")
    yield server
    server.kill()


@pytest.fixture
def own(tmp_path: Path) -> Iterator[RunningServer]:
    """A server with an empty shelf that a test may kill."""
    server = RunningServer(tmp_path / "data")
    yield server
    server.kill()


@pytest.fixture
def drop(page: Page) -> Callable[[str, bytes], None]:
    """Drop a file onto the page."""

    def let_go(name: str, data: bytes) -> None:
        transfer = page.evaluate_handle(
            """([name, bytes]) => {
                const transfer = new DataTransfer();
                transfer.items.add(new File([new Uint8Array(bytes)], name));
                return transfer;
            }""",
            [name, list(data)],
        )
        page.dispatch_event("body", "dragover", {"dataTransfer": transfer})
        page.dispatch_event("body", "drop", {"dataTransfer": transfer})

    return let_go


@pytest.fixture(autouse=True)
def no_page_errors(page: Page) -> Iterator[None]:
    """A script error on any page fails the test."""
    page.set_default_timeout(90_000)
    errors: list[str] = []
    page.on("pageerror", lambda error: errors.append(str(error)))
    yield
    assert errors == []
