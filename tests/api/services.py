"""Depth services that misbehave, each at an address of its own."""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

Answer = tuple[int, str, bytes]
TERMS = b'{"name": "Odd", "cost": 1, "cost_unit": "coins", "keeps_seconds": 60}'


@contextmanager
def service_that(answers: Callable[[str, str], Answer]) -> Iterator[str]:
    """A service that answers a method and a path with a status, a media type and a body."""

    class Handler(BaseHTTPRequestHandler):
        def _answer(self) -> None:
            self.rfile.read(int(self.headers.get("Content-Length") or 0))
            status, media, body = answers(self.command, self.path)
            self.send_response(status)
            self.send_header("Content-Type", media)
            self.send_header("Content-Length", str(len(body)))
            self.end_headers()
            self.wfile.write(body)

        do_GET = do_POST = do_DELETE = _answer  # noqa: N815

        def log_message(self, *_: object) -> None:
            pass

    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.server_address[1]}"
    server.shutdown()
    server.server_close()


def told(text: str) -> Answer:
    """An answer as JSON."""
    return 200, "application/json", text.encode()
