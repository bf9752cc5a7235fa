"""Who may talk to the server: this machine's own pages, or whoever holds the access token."""

import ipaddress
import secrets
from http.cookies import SimpleCookie
from urllib.parse import parse_qs, urlsplit

from starlette.datastructures import Headers
from starlette.responses import JSONResponse, RedirectResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from nebrel.api.serving.uploads import most_bytes, too_much
from nebrel.settings import Settings

COOKIE = "nebrel_token"
LOCAL_NAMES = {"localhost", "127.0.0.1", "[::1]"}


def is_loopback(host: str) -> bool:
    """Whether `host` can only be reached from this machine."""
    if host == "localhost":
        return True
    try:
        return ipaddress.ip_address(host.strip("[]")).is_loopback
    except ValueError:
        return False


class _TooMuchError(Exception):
    """More came than is accepted."""


class Guard:
    """Middleware that checks Host, Origin, access token and announced size before anything else runs.

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
        headers = Headers(scope=scope)
        refusal = self._refusal(scope, headers)
        if refusal is not None:
            status, message = refusal
            await JSONResponse({"message": message}, status)(scope, receive, send)
            return
        if self._settings.access_token and self._query_token(scope):
            answer = RedirectResponse(scope["path"], 303)
            answer.set_cookie(COOKIE, self._settings.access_token, httponly=True, samesite="strict")
            await answer(scope, receive, send)
            return
        await self._pass_within_limit(scope, receive, send)

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
        if is_loopback(self._settings.host) and _name_of(host) not in LOCAL_NAMES:
            return 400, "This server answers only to the name of this machine, such as 127.0.0.1."
        origin = headers.get("origin")
        if origin is not None and urlsplit(origin).netloc != host:
            return 403, "Only Nebrel's own pages may ask this server."
        if self._settings.access_token and not self._has_token(scope, headers):
            return (
                401,
                "The access token is missing or wrong; open the address that Nebrel printed at its start.",
            )
        announced, limit = headers.get("content-length", "0"), most_bytes(self._settings, scope["path"])
        if not announced.isdigit() or int(announced) > limit:
            return 413, too_much(limit)
        return None

    def _has_token(self, scope: Scope, headers: Headers) -> bool:
        token = self._settings.access_token or ""
        cookie = SimpleCookie(headers.get("cookie", "")).get(COOKIE)
        given = self._query_token(scope) or (cookie.value if cookie else "")
        return secrets.compare_digest(given.encode(), token.encode())

    @staticmethod
    def _query_token(scope: Scope) -> str:
        query: bytes = scope.get("query_string", b"")
        return parse_qs(query.decode("latin-1")).get("token", [""])[0]


def _name_of(host: str) -> str:
    return host[: host.index("]") + 1] if host.startswith("[") and "]" in host else host.rsplit(":", 1)[0]
