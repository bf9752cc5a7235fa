"""How groups of routes are made: bodies in JSON hold numbers only, and refusals have one shape."""

import json
import re
from collections.abc import Callable, Coroutine
from typing import Any, NoReturn

from fastapi import APIRouter, HTTPException, Request
from fastapi.routing import APIRoute
from starlette.responses import Response

UNREADABLE = 422
_NO_NUMBER = "The request holds {}, which is no number that can be worked with; an ordinary number is needed."
_NO_TEXT = "The request holds half of a character, which is no text; please send whole characters."
# What numbers, or texts, that are none could be written as; all else is read as it is, which is many times as fast.
_SUSPECT = re.compile(rb"NaN|Infinity|[eE]\+?0*[1-9]\d\d|\d{19}|\\u[dD][89a-fA-F]")
# As much as databases and files keep of a whole number.
MOST_WHOLE = 2**63 - 1


class _StrictRequest(Request):
    """A request whose JSON holds no infinities, no numbers that are none, and no whole numbers beyond 64 bits."""

    async def json(self) -> Any:
        if not hasattr(self, "_json"):
            body = await self.body()
            self._json = _strictly(body) if _SUSPECT.search(body) else json.loads(body)
        return self._json


class _StrictRoute(APIRoute):
    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        handle = super().get_route_handler()

        async def strictly(request: Request) -> Response:
            return await handle(_StrictRequest(request.scope, request.receive))

        return strictly


def group(name: str) -> APIRouter:
    """A group of routes."""
    return APIRouter(tags=[name], route_class=_StrictRoute)


def _strictly(body: bytes) -> Any:
    read = json.loads(body, parse_constant=_refuse, parse_float=_float, parse_int=_whole)
    try:
        json.dumps(read, ensure_ascii=False).encode()
    except UnicodeEncodeError as cause:
        raise HTTPException(UNREADABLE, _NO_TEXT) from cause
    return read


def _refuse(words: str) -> NoReturn:
    raise HTTPException(UNREADABLE, _NO_NUMBER.format(words[:40]))


def _float(words: str) -> float:
    number = float(words)
    return number if abs(number) < float("inf") else _refuse(words)


def _whole(words: str) -> int:
    # Longer than any whole number that is kept; reading it would take its time.
    number = int(words) if len(words) <= len(str(MOST_WHOLE)) + 1 else MOST_WHOLE + 1
    return number if abs(number) <= MOST_WHOLE else _refuse(words)
