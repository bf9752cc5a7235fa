"""Starting the server."""

import secrets
import socket
import ssl
from collections.abc import Callable
from contextlib import closing

import uvicorn

from nebrel.api.app import create_app
from nebrel.api.serving.guard import is_loopback
from nebrel.core.errors import BadValueError
from nebrel.settings import Settings
from nebrel.store.folder import check_database, held_by_server, make_folder

BACKLOG = 128
# Nothing is sent there; it only tells which of this machine's addresses others would see.
ELSEWHERE = {socket.AF_INET: ("192.0.2.1", 9), socket.AF_INET6: ("2001:db8::1", 9)}

Told = Callable[[str, int], None]


def run_server(settings: Settings, beside: Callable[[Told], object] = lambda _: None) -> None:
    """Serve until interrupted, after printing the address as soon as it answers.

    Args:
        settings: of the installation.
        beside: work that is begun as soon as the server answers; it is given what tells every page that a piece has a
            new state, by id and revision.

    Raises:
        BadValueError: the port is taken, the address is not this machine's, the certificate cannot be used, or the data
            folder cannot be worked in.
        ConflictError: another server works in the data folder.
    """
    secure = settings.certificate is not None
    if secure:
        _check_certificate(settings)
    listening = _listen(settings.host, settings.port)
    with closing(listening):
        if not is_loopback(settings.host) and not settings.access_token:
            settings = settings.model_copy(update={"access_token": secrets.token_urlsafe(24)})
        token = f"/?token={settings.access_token}" if settings.access_token else ""
        scheme, port = "https" if secure else "http", listening.getsockname()[1]
        address = f"{scheme}://{shown_host(settings.host)}:{port}"
        make_folder(settings.data_dir)
        with held_by_server(settings.data_dir, address):
            check_database(settings.data_dir)
            config = uvicorn.Config(
                create_app(settings, beside),
                log_level="warning",
                timeout_graceful_shutdown=3,
                ssl_certfile=settings.certificate,
                ssl_keyfile=settings.key,
            )
            _Server(config, f"Nebrel is ready at {address}{token}").run(sockets=[listening])


class _Server(uvicorn.Server):
    """A server that tells when it answers, and not before."""

    def __init__(self, config: uvicorn.Config, ready: str) -> None:
        super().__init__(config)
        self._ready = ready

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        await super().startup(sockets)
        if self.started:
            print(self._ready, flush=True)


def shown_host(host: str) -> str:
    """A host as it stands in an address that opens: brackets round those with colons, and one of this machine's own
    where it listens on all."""
    try:
        all_of = {"0.0.0.0": socket.AF_INET, "::": socket.AF_INET6}.get(host)
        if all_of is not None:
            host = _seen_from_elsewhere(all_of)
    except OSError:
        host = "127.0.0.1" if host == "0.0.0.0" else "::1"
    return f"[{host}]" if ":" in host else host


def _seen_from_elsewhere(family: socket.AddressFamily) -> str:
    with socket.socket(family, socket.SOCK_DGRAM) as asked:
        asked.connect(ELSEWHERE[family])
        return str(asked.getsockname()[0])


def _check_certificate(settings: Settings) -> None:
    certificate, key = settings.certificate, settings.key
    assert certificate is not None
    try:
        ssl.create_default_context(ssl.Purpose.CLIENT_AUTH).load_cert_chain(certificate, key)
    except (OSError, ssl.SSLError) as cause:
        named = certificate if key is None else f"{certificate} and {key}"
        raise BadValueError(
            f"The certificate cannot be used ({cause.strerror or cause}): {named}; a certificate and its key, as PEM, "
            "are needed."
        ) from cause


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
