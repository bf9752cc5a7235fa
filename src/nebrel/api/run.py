"""Starting the server."""

import secrets
import ssl
from collections.abc import Callable
from contextlib import closing

from nebrel.api.serving.addresses import is_loopback, listen_on, shown_host
from nebrel.core.errors import BadValueError
from nebrel.settings import Settings

Told = Callable[[str, int], None]


def run_server(settings: Settings, beside: Callable[[Told], object] = lambda _: None) -> None:
    """Serve until interrupted, after printing the address as soon as it answers.

    Args:
        settings: of the installation.
        beside: work that is begun as soon as the server answers; it is given what tells every page that a piece has a
            new state, by id and revision.

    Raises:
        BadValueError: the port is taken, the address is not this machine's, the certificate cannot be used, or the data
            folder cannot be worked in, or the cluster does not answer.
        ConflictError: another server works in the data folder.
    """
    secure = settings.certificate is not None
    if secure:
        _check_certificate(settings)
    listening = listen_on(settings.host, settings.port)
    with closing(listening):
        if not is_loopback(settings.host) and not settings.access_token:
            settings = settings.model_copy(update={"access_token": secrets.token_urlsafe(24)})
        token = f"/?token={settings.access_token}" if settings.access_token else ""
        scheme, port = "https" if secure else "http", listening.getsockname()[1]
        address = f"{scheme}://{shown_host(settings.host)}:{port}"

        from nebrel.store.folder import check_database, held_by_server, make_folder

        make_folder(settings.data_dir)
        with held_by_server(settings.data_dir, address):
            check_database(settings.data_dir)
            # What takes seconds to load comes after everything that may have to be refused.
            from nebrel.api.answering import answer

            answer(settings, beside, listening, f"Nebrel is ready at {address}{token}", address)


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
