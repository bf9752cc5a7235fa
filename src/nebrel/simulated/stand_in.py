"""The stand-in for a depth service on a free port of this machine, begun when it is first asked for."""

from __future__ import annotations

import socket
import threading
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from nebrel.simulated.depth_service import Pace

LOOPBACK = "127.0.0.1"


class StandIn:
    """A simulated service in a thread of its own."""

    def __init__(self, pace: Pace | None = None) -> None:
        self._pace = pace
        self._lock = threading.Lock()
        self._address = ""

    @property
    def address(self) -> str:
        """Where it answers, such as `http://127.0.0.1:4711`."""
        with self._lock:
            if not self._address:
                self._address = self._begin()
            return self._address

    def _begin(self) -> str:
        import uvicorn

        from nebrel.simulated.depth_service import depth_service

        listening = socket.create_server((LOOPBACK, 0))
        server = uvicorn.Server(uvicorn.Config(depth_service(self._pace), log_level="error", lifespan="off"))
        threading.Thread(target=server.run, kwargs={"sockets": [listening]}, name="stand-in", daemon=True).start()
        return f"http://{LOOPBACK}:{listening.getsockname()[1]}"
