"""The simulated printer as a process of its own, begun when it is first asked for; it ends with its parent."""

import os
import socket
import subprocess
import sys
import threading

from nebrel.core.errors import BusyError

LOOPBACK = "127.0.0.1"


class PrinterProcess:
    """A simulated printer on a free port of this machine."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._process: subprocess.Popen[str] | None = None
        self._address = ""

    @property
    def address(self) -> str:
        """Where it answers, such as `http://127.0.0.1:4711`.

        Raises:
            BusyError: it does not start.
        """
        with self._lock:
            if self._process is None or self._process.poll() is not None:
                self._begin()
            return self._address

    def close(self) -> None:
        """End it."""
        with self._lock:
            if self._process is not None:
                self._process.kill()
                self._process.wait()
                self._process = None

    def _begin(self) -> None:
        # It ends when its standard input does, so it outlives nobody.
        process = subprocess.Popen(
            [sys.executable, "-m", __name__], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
        )
        assert process.stdout is not None
        port = process.stdout.readline().strip()
        if not port.isdigit():
            process.kill()
            raise BusyError("The simulated printer does not start; try again.")
        self._process, self._address = process, f"http://{LOOPBACK}:{port}"


def main() -> None:
    """Answer until standard input ends; the port is told on standard output."""
    import uvicorn

    from nebrel.simulated.printer import printer_service

    listening = socket.create_server((LOOPBACK, 0))
    server = uvicorn.Server(uvicorn.Config(printer_service(), log_level="error", lifespan="off"))
    threading.Thread(target=_end_with_input, name="parent", daemon=True).start()
    print(listening.getsockname()[1], flush=True)
    server.run(sockets=[listening])


def _end_with_input() -> None:
    sys.stdin.buffer.read()
    os._exit(0)


if __name__ == "__main__":
    main()
