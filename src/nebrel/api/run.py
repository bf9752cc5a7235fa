"""Starting the server."""

import secrets
import socket
from collections.abc import Callable

import uvicorn

from nebrel.api.app import create_app
from nebrel.api.serving.guard import is_loopback
from nebrel.core.errors import BadValueError
from nebrel.settings import Settings

BACKLOG = 128


Told = Callable[[str, int], None]


def run_server(settings: Settings, beside: Callable[[Told], object] = lambda _: None) -> None:
    """Serve until interrupted, after printing the address.

    Args:
        settings: of the installation.
        beside: work that is begun as soon as the server answers; it is given what tells every page that a piece has a
            new state, by id and revision.

    Raises:
        BadValueError: the port is taken or the address is not this machine's.
    """
    listening = _listen(settings.host, settings.port)
    if not is_loopback(settings.host) and not settings.access_token:
        settings = settings.model_copy(update={"access_token": secrets.token_urlsafe(24)})
    token = f"/?token={settings.access_token}" if settings.access_token else ""
    print(f"Nebrel is ready at http://{settings.host}:{listening.getsockname()[1]}{token}", flush=True)
    app = create_app(settings, beside)
    server = uvicorn.Server(uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=3))
    server.run(sockets=[listening])


def _listen(host: str, port: int) -> socket.socket:
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    # With its protocol named, asyncio turns off Nagle's algorithm, which would hold every answer back by 40 ms.
    listening = socket.socket(family, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listening.bind((host, port))
        listening.listen(BACKLOG)
    except (OSError, OverflowError) as cause:
        listening.close()
        raise BadValueError(
            f"Nebrel cannot listen on {host}:{port}, perhaps another program does; choose another with --port."
        ) from cause
    return listening
