"""A small server that does nothing but lend a folder of results to workers, while a command has work for them."""

import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from urllib.parse import urlsplit

import uvicorn
from fastapi import FastAPI

from nebrel.api.app import refuse
from nebrel.api.routes import shared
from nebrel.api.serving.addresses import listen_on, shown_host
from nebrel.core.errors import NebrelError
from nebrel.store.shared.lent import Lent

LEAVE_SECONDS = 5.0


@contextmanager
def lending(lent: Lent, host: str) -> Iterator[str]:
    """Lend results as long as the context lasts.

    Args:
        lent: the results.
        host: that workers reach this machine by.

    Yields:
        The address to ask them at.
    """
    app = FastAPI(openapi_url=None)
    app.state.lent = lent
    app.add_exception_handler(NebrelError, refuse)
    app.include_router(shared.router, prefix="/api")
    listening = listen_on(host, 0)
    server = uvicorn.Server(uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=1))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listening]}, daemon=True, name="lending")
    thread.start()
    try:
        yield f"http://{shown_host(host)}:{listening.getsockname()[1]}"
    finally:
        server.should_exit = True
        thread.join(LEAVE_SECONDS)
        listening.close()


def own_host_towards(scheduler: str) -> str:
    """The address of this machine that a scheduler, and with it its workers, would see."""
    asked = urlsplit(scheduler)
    try:
        family, kind, _, _, address = socket.getaddrinfo(asked.hostname, asked.port or 0, type=socket.SOCK_DGRAM)[0]
        with socket.socket(family, kind) as towards:
            towards.connect(address)
            return str(towards.getsockname()[0])
    except (OSError, ValueError):
        return "127.0.0.1"
