"""The server that answers on a socket."""

import socket
from collections.abc import Callable

import uvicorn

from nebrel.api.app import create_app
from nebrel.api.serving.cluster import ClusterAccess
from nebrel.jobs.cluster.choosing import executor_for
from nebrel.settings import Settings
from nebrel.store.shared.lent import lent_from

Told = Callable[[str, int], None]


def answer(
    settings: Settings, beside: Callable[[Told], object], listening: socket.socket, ready: str, address: str
) -> None:
    """Serve until interrupted; `ready` is printed as soon as it answers at `address`. See `run_server`."""
    lent = lent_from(settings.data_dir, settings.folder_cache_bytes) if settings.scheduler else None
    cluster = ClusterAccess(executor_for(settings, lent, address), lent)
    config = uvicorn.Config(
        create_app(settings, beside, cluster=cluster),
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
