"""The real server as a process, and how to start the browser that looks at it."""

import re
import shutil
import subprocess
import sys
from pathlib import Path

from nebrel.demo.load import COMPLETE, INCOMPLETE

WINDOW = {"width": 1280, "height": 800}
PROGRAM = [sys.executable, "-c", "from nebrel.cli.main import run; run()"]
BROWSER_FLAGS = [
    "--no-sandbox",
    "--use-gl=angle",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    # Only the stage needs WebGL; all else of a page is drawn faster without it where no graphics card is.
    "--disable-gpu-compositing",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


def browser_options() -> dict[str, object]:
    """Launch options for Playwright: the Chromium on PATH, with WebGL in software."""
    return {"executable_path": shutil.which("chromium"), "args": BROWSER_FLAGS}


class RunningServer:
    """`nebrel serve` on a free port; it can be killed and started again on the same one.

    With `drawn` off, a demo is not waited for.
    """

    def __init__(self, data: Path, *options: str, drawn: bool = True) -> None:
        self.data, self.options, self.port, self.url = data, options, "0", ""
        self.drawn = drawn
        self.start()

    def start(self) -> None:
        """Start, and return once the address is printed and, where a demo is asked for, all of it is drawn."""
        options = ["--data", str(self.data), "--port", self.port, *self.options]
        self.process = subprocess.Popen([*PROGRAM, "serve", *options], stdout=subprocess.PIPE, text=True)
        assert self.process.stdout is not None
        awaited = {"address", *(["demo"] if self.drawn and "--demo" in self.options else [])}
        for line in self.process.stdout:
            ready = re.search(r"http://127\.0\.0\.1:(\d+)", line)
            if ready:
                self.url, self.port = ready.group(), ready.group(1)
                awaited.discard("address")
            if INCOMPLETE in line and "demo" in awaited:
                break
            if COMPLETE in line:
                awaited.discard("demo")
            if not awaited:
                return
        raise AssertionError("The server ended before it was ready.")

    def kill(self) -> None:
        """End it without warning."""
        self.process.kill()
        self.process.wait()
