"""A real server and a real browser."""

import re
import shutil
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

BROWSER_FLAGS = [
    "--no-sandbox",
    "--use-gl=angle",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
expect.set_options(timeout=20_000)


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, object]:
    """Debian's Chromium, with WebGL in software."""
    return {"executable_path": shutil.which("chromium"), "args": BROWSER_FLAGS}


@pytest.fixture(scope="session")
def browser_context_args() -> dict[str, object]:
    """The window that the bench is first seen in."""
    return {"viewport": {"width": 1280, "height": 800}, "accept_downloads": True}


class Server:
    """`nebrel serve` as a process that can be killed and started again on the same port."""

    def __init__(self, data: Path, *options: str) -> None:
        self.data, self.options, self.port = data, options, "0"
        self.start()

    def start(self) -> None:
        program = [sys.executable, "-c", "from nebrel.cli.main import run; run()"]
        options = ["--data", str(self.data), "--port", self.port, *self.options]
        self.process = subprocess.Popen([*program, "serve", *options], stdout=subprocess.PIPE, text=True)
        assert self.process.stdout is not None
        for line in self.process.stdout:
            ready = re.search(r"http://127\.0\.0\.1:(\d+)", line)
            if ready:
                self.url, self.port = ready.group(), ready.group(1)
                return
        raise AssertionError("The server ended before it was ready.")

    def kill(self) -> None:
        self.process.kill()
        self.process.wait()


@pytest.fixture(scope="session")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """A server with the demo pieces."""
    server = Server(tmp_path_factory.mktemp("demo"), "--demo")
    yield server
    server.kill()


@pytest.fixture
def own(tmp_path: Path) -> Iterator[Server]:
    """A server with an empty shelf that a test may kill."""
    server = Server(tmp_path / "data")
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
    errors: list[str] = []
    page.on("pageerror", lambda error: errors.append(str(error)))
    yield
    assert errors == []
