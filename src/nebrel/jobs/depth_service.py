"""A far away service that makes figures: asked, followed and fetched. The contract is in `docs/depth-service.md`."""

from __future__ import annotations

import hashlib
import json
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Literal, TypeVar

from pydantic import BaseModel, Field, ValidationError

from nebrel.core.errors import NebrelError

if TYPE_CHECKING:
    import httpx

Gives = Literal["depth", "solid"]
Report = Callable[[str, float], None]
CONNECT_SECONDS, ANSWER_SECONDS, PATIENCE_SECONDS, POLL_SECONDS = 5.0, 30.0, 1800.0, 0.5
# A service that does not answer is asked so often before it is given up.
ASKED_AGAIN = 4
MOST_ANSWER_BYTES, MOST_RESULT_BYTES = 2**16, 256 * 2**20
UNHEARD = "The service does not answer at {url}; a service that speaks the contract, or the simulated one, is needed."
RUBBISH = "The service at {url} answered with something that is not in the contract: {what}."
_Message = TypeVar("_Message", bound=BaseModel)


class ServiceError(NebrelError):
    """A service failed, with its reason in words."""


class ServiceTerms(BaseModel):
    """What a service is called, what a figure costs there, and how long its result is kept."""

    name: str = Field(max_length=80)
    cost: float = Field(ge=0)
    cost_unit: str = Field(max_length=20)
    keeps_seconds: float = Field(gt=0)


class _Standing(BaseModel):
    id: str = Field(pattern="^[A-Za-z0-9_-]{1,80}$")
    state: Literal["waiting", "working", "done", "failed", "expired"]
    position: int = Field(0, ge=0)
    fraction: float = Field(0.0, ge=0, le=1)
    cost: float = Field(0.0, ge=0)
    reason: str = Field("", max_length=500)
    depth_share: float | None = Field(None, gt=0, le=10)


@dataclass(frozen=True)
class ServiceOrder:
    """What is sent: a picture and its cut-out as PNG files of one size, and what is to come back."""

    picture: bytes
    mask: bytes
    gives: Gives

    @property
    def key(self) -> str:
        """The same for the same order, so that one which failed is tried again for nothing, and one that was made is
        not made twice."""
        return hashlib.sha256(b"\0".join([self.picture, self.mask, self.gives.encode()])).hexdigest()


@dataclass(frozen=True)
class ServiceAnswer:
    """What came back: a file, whether it is a solid, how deep its tones reach as a share of the width, and its cost."""

    data: bytes
    solid: bool
    depth_share: float | None
    cost: float


class DepthService:
    """One service at an address."""

    def __init__(self, url: str, token: str | None = None, patience: float = PATIENCE_SECONDS) -> None:
        # Loaded once a service is asked: a server starts sooner without.
        import httpx

        self._url = url.rstrip("/")
        self._patience = patience
        self._client = httpx.Client(
            timeout=httpx.Timeout(ANSWER_SECONDS, connect=CONNECT_SECONDS),
            headers={"Authorization": f"Bearer {token}"} if token else {},
            trust_env=False,
        )

    def __enter__(self) -> DepthService:
        return self

    def __exit__(self, *_: object) -> None:
        self._client.close()

    def terms(self) -> ServiceTerms:
        """What a figure costs.

        Raises:
            ServiceError: it does not answer, or not as the contract says.
        """
        return self._told("GET", "/", ServiceTerms)

    def make(self, order: ServiceOrder, report: Report) -> ServiceAnswer:
        """Have a figure made, and fetch it.

        Raises:
            ServiceError: it failed, with the reason that it gave; what it made is gone; it does not answer, or not as
                the contract says.
        """
        report("Sending the picture to the service", 0.0)
        files = {"picture": ("picture.png", order.picture), "mask": ("mask.png", order.mask)}
        headers = {"Idempotency-Key": order.key}
        asked = {"files": files, "data": {"gives": order.gives}, "headers": headers}
        standing = self._told("POST", "/figures", _Standing, **asked)
        until = time.monotonic() + self._patience
        while standing.state in ("waiting", "working"):
            if time.monotonic() > until:
                raise ServiceError(
                    f"The service had not made it after {self._patience / 60:.0f} minutes. Ask again to go on waiting."
                )
            report(_words(standing), standing.fraction)
            time.sleep(POLL_SECONDS)
            standing = self._told("GET", f"/figures/{standing.id}", _Standing)
        if standing.state == "failed":
            reason = standing.reason.strip() or "It gave no reason."
            raise ServiceError(f"The service failed. {reason} Ask again; that costs nothing.")
        if standing.state == "expired":
            raise ServiceError("What the service made was kept for a while, and is gone. Ask again; it is made anew.")
        report("Fetching what it made", 1.0)
        answer = self._send("GET", f"/figures/{standing.id}/result", MOST_RESULT_BYTES)
        media = answer.headers.get("content-type", "").split(";")[0].strip()
        if media not in ("image/png", "model/gltf-binary"):
            raise self._rubbish(f"a result of the type “{media[:60]}”")
        if media == "image/png" and standing.depth_share is None:
            raise self._rubbish("a depth picture without its depth")
        return ServiceAnswer(answer.content, media == "model/gltf-binary", standing.depth_share, standing.cost)

    def _told(self, method: str, path: str, message: type[_Message], **sent: Any) -> _Message:
        answer = self._send(method, path, MOST_ANSWER_BYTES, **sent)
        try:
            return message.model_validate(json.loads(answer.content))
        except (ValueError, ValidationError) as cause:
            raise self._rubbish("an answer that cannot be read") from cause

    def _send(self, method: str, path: str, most_bytes: int, **sent: Any) -> httpx.Response:
        """An answer, asked for again while the service cannot be reached; nothing larger than it may be is taken in."""
        import httpx

        for attempt in range(ASKED_AGAIN):
            try:
                with self._client.stream(method, self._url + path, **sent) as coming:
                    answer = self._taken(coming, most_bytes)
                break
            except httpx.InvalidURL as cause:
                raise ServiceError(UNHEARD.format(url=self._url)) from cause
            except httpx.HTTPError as cause:
                if attempt == ASKED_AGAIN - 1:
                    raise ServiceError(UNHEARD.format(url=self._url)) from cause
                time.sleep(POLL_SECONDS * 2**attempt)
        if answer.status_code >= 300:
            raise ServiceError(f"The service refused: {_reason(answer)}")
        return answer

    def _taken(self, answer: httpx.Response, most_bytes: int) -> httpx.Response:
        import httpx

        parts, taken = [], 0
        for part in answer.iter_bytes():
            taken += len(part)
            if taken > most_bytes:
                raise self._rubbish(f"more than {most_bytes / 2**20:g} MiB")
            parts.append(part)
        return httpx.Response(answer.status_code, headers=_plain(answer), content=b"".join(parts))

    def _rubbish(self, what: str) -> ServiceError:
        return ServiceError(RUBBISH.format(url=self._url, what=what))


def _plain(answer: httpx.Response) -> dict[str, str]:
    return {"content-type": answer.headers.get("content-type", "")}


def _reason(answer: httpx.Response) -> str:
    try:
        told = json.loads(answer.content)
        return str(told["reason"])[:300]
    except (ValueError, KeyError, TypeError):
        return f"status {answer.status_code}, without a reason in words."


def _words(standing: _Standing) -> str:
    if standing.state == "working":
        return "The service makes it"
    before = standing.position
    return f"Waiting at the service, {before} before it" if before else "Waiting at the service, next in turn"
