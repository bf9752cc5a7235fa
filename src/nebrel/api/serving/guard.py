"""Who may talk to the server: this machine's own pages, or whoever holds an access token."""

import html
import secrets
from collections.abc import Iterator
from urllib.parse import parse_qsl, urlencode, urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import HTMLResponse, JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from nebrel.api.serving.addresses import is_loopback
from nebrel.api.serving.uploads import most_bytes, too_much
from nebrel.settings import Settings

COOKIE = "nebrel_token"
WORKERS = "/api/shared/"
# Pages load what comes with them and nothing else, and no other page may hold them in a frame.
CONTENT = {
    "default-src": "'self'",
    "img-src": "'self' data: blob:",
    "media-src": "'self' blob:",
    "object-src": "'none'",
    "base-uri": "'none'",
    "form-action": "'self'",
    "frame-ancestors": "'none'",
}
HEADERS = {
    "Content-Security-Policy": "; ".join(f"{what} {where}" for what, where in CONTENT.items()),
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Permissions-Policy": "camera=(), microphone=(), geolocation=(), payment=(), usb=(), serial=()",
    "Cross-Origin-Opener-Policy": "same-origin",
}
# A cookie that only this site's own pages send does not come along where another site led here, until a page of this
# site leads on.
OPENED = """<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Nebrel</title><meta http-equiv="refresh" content="0; url={0}"></head>
<body><p><a href="{0}">Open the shelf</a></p></body></html>
"""


class _TooMuchError(Exception):
    """More came than is accepted."""


class Guard:
    """Middleware that checks Host, Origin, access token and announced size before anything else runs, and tells
    browsers what pages may do.

    A page of another site may make a browser send requests here; their Origin betrays them. A name that another site
    lets point to this machine is betrayed by Host.
    """

    def __init__(self, app: ASGIApp, settings: Settings) -> None:
        self._app = app
        self._settings = settings

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass the request on, or refuse it."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return

        async def headed(message: Message) -> None:
            if message["type"] == "http.response.start":
                MutableHeaders(scope=message).update(HEADERS)
            await send(message)

        headers = Headers(scope=scope)
        refusal = self._refusal(scope, headers)
        if refusal is not None:
            status, message = refusal
            await JSONResponse({"message": message}, status)(scope, receive, headed)
        elif _query_token(scope) and self._needs_token() and not scope["path"].startswith("/api/"):
            await self._opened(scope)(scope, receive, headed)
        else:
            await self._pass_within_limit(scope, receive, headed)

    def _opened(self, scope: Scope) -> HTMLResponse:
        """A page that keeps the token and leads on to where it was asked for, on this server."""
        rest = urlencode([pair for pair in _query(scope) if pair[0] != "token"])
        path = "/" + scope["path"].replace("\\", "/").lstrip("/")
        onwards = html.escape(path + (f"?{rest}" if rest else ""), quote=True)
        answer = HTMLResponse(OPENED.format(onwards), headers={"Cache-Control": "no-store"})
        answer.set_cookie(
            COOKIE, _query_token(scope), httponly=True, samesite="strict", secure=scope.get("scheme") == "https"
        )
        return answer

    async def _pass_within_limit(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass the request on, and refuse it as soon as more comes than is accepted: not every length is announced."""
        limit, taken, refused = most_bytes(self._settings, scope["path"]), 0, False

        async def counted() -> Message:
            nonlocal taken
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > limit:
                raise _TooMuchError
            return message

        async def answered(message: Message) -> None:
            # Whatever the application makes of the broken-off body, what was wrong is told once.
            nonlocal refused
            if taken <= limit:
                await send(message)
            elif not refused:
                refused = True
                refusal = JSONResponse({"message": too_much(limit)}, 413, headers={"Connection": "close"})
                await refusal(scope, receive, send)

        await self._app(scope, counted, answered)

    def _refusal(self, scope: Scope, headers: Headers) -> tuple[int, str] | None:
        host = headers.get("host", "")
        if is_loopback(self._settings.host) and not is_loopback(_name_of(host)):
            return 400, "This server answers only to the name of this machine, such as 127.0.0.1."
        origin = headers.get("origin")
        if origin is not None and urlsplit(origin).netloc.lower() != host.lower():
            return 403, "Only Nebrel's own pages may ask this server."
        # Workers have a token of their own, which that route asks for.
        if self._needs_token() and not scope["path"].startswith(WORKERS) and not self._has_token(scope, headers):
            return (
                401,
                "The access token is missing or wrong; open the address that Nebrel printed at its start.",
            )
        announced, limit = headers.get("content-length", "0"), most_bytes(self._settings, scope["path"])
        if not announced.isdecimal() or len(announced) > MOST_DIGITS or int(announced) > limit:
            return 413, too_much(limit)
        return None

    def _needs_token(self) -> bool:
        return bool(self._settings.access_token)

    def _has_token(self, scope: Scope, headers: Headers) -> bool:
        given = _query_token(scope) or next(_cookies(headers), "")
        if secrets.compare_digest(given.encode(), (self._settings.access_token or "").encode()):
            return True
        return bool(given) and scope["app"].state.context.workshop.tokens.holder(given) is not None


MOST_DIGITS = 18


def _query(scope: Scope) -> list[tuple[str, str]]:
    query: bytes = scope.get("query_string", b"")
    return parse_qsl(query.decode("latin-1"), keep_blank_values=True)


def _query_token(scope: Scope) -> str:
    return next((value for name, value in _query(scope) if name == "token"), "")


def _cookies(headers: Headers) -> Iterator[str]:
    """What our cookie holds, whatever cookies of other programs at this address look like."""
    for line in headers.getlist("cookie"):
        for each in line.split(";"):
            name, _, value = each.strip().partition("=")
            if name == COOKIE:
                yield value.strip().strip('"')


def _name_of(host: str) -> str:
    return host[: host.index("]") + 1] if host.startswith("[") and "]" in host else host.rsplit(":", 1)[0]
