"""The server that answers on a socket."""

import socket
from collections.abc import Callable

import uvicorn

from nebrel.api.app import create_app
from nebrel.settings import Settings

Told = Callable[[str, int], None]


def answer(settings: Settings, beside: Callable[[Told], object], listening: socket.socket, ready: str) -> None:
    """Serve until interrupted; `ready` is printed as soon as it answers. See `run_server`."""
    config = uvicorn.Config(
        create_app(settings, beside),
        log_level="warning",
        timeout_graceful_shutdown=3,
        ssl_certfile=settings.certificate,
        ssl_keyfile=settings.key,
    )
    _Server(config, ready).run(sockets=[listening])


class _Server(uvicorn.Server):
    """A server that tells when it answers, and not before."""

    def __init__(self, config: uvicorn.Config, ready: str) -> None:
        super().__init__(config)
        self._ready = ready

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        await super().startup(sockets)
        if self.started:
            print(self._ready, flush=True)
