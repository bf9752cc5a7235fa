"""Addresses that a server listens on, and how they are told."""

import ipaddress
import socket

from nebrel.core.errors import BadValueError

BACKLOG = 128
# Nothing is sent there; it only tells which of this machine's addresses others would see.
ELSEWHERE = {socket.AF_INET: ("192.0.2.1", 9), socket.AF_INET6: ("2001:db8::1", 9)}


def is_loopback(host: str) -> bool:
    """Whether `host`, a name or an address, can only be reached from this machine."""
    name = host.strip("[]").rstrip(".").lower()
    if name == "localhost" or name.endswith(".localhost"):
        return True
    try:
        return ipaddress.ip_address(name).is_loopback
    except ValueError:
        return False


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


def listen_on(host: str, port: int) -> socket.socket:
    """A socket that listens.

    Raises:
        BadValueError: the port is taken, or the address is not this machine's.
    """
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
