"""A printer on the network: files sent to it, its queue, and words to it. The contract is in `docs/printer-link.md`."""

from __future__ import annotations

from typing import TYPE_CHECKING, Literal, TypeVar

from pydantic import BaseModel, Field, ValidationError

from nebrel.core.errors import ConflictError, NebrelError, NotFoundError

if TYPE_CHECKING:
    import httpx

PrintState = Literal["waiting", "printing", "paused", "jammed", "done", "cancelled"]
PrintWord = Literal["pause", "resume", "retry", "cancel"]
CONNECT_SECONDS, ANSWER_SECONDS, SENDING_SECONDS = 5.0, 15.0, 300.0
MOST_ANSWER_BYTES = 2**18
UNHEARD = "The printer does not answer at {url}; one that speaks the contract, or the simulated one, is needed."
RUBBISH = "The printer at {url} answered with something that is not in the contract: {what}."
_Message = TypeVar("_Message", bound=BaseModel)


class PrinterError(NebrelError):
    """A printer refused something, or does not answer, in words."""


class PrintStanding(BaseModel):
    """Where a print stands; `position` counts those before it, `layer` is the one at work, 1 the first."""

    id: str = Field(pattern="^[A-Za-z0-9_-]{1,80}$")
    name: str = Field(max_length=255)
    state: PrintState
    position: int = Field(0, ge=0)
    layer: int = Field(0, ge=0)
    layers: int = Field(0, ge=0)
    fraction: float = Field(0.0, ge=0, le=1)
    minutes_left: float = Field(0.0, ge=0)
    grams: float = Field(0.0, ge=0)
    colours: int = Field(1, ge=1)
    reason: str = Field("", max_length=500)


class PrinterStanding(BaseModel):
    """What a printer is, and what it does."""

    name: str = Field(max_length=80)
    bed_mm: tuple[float, float, float]
    slots: int = Field(ge=1)
    state: Literal["idle", "printing", "paused", "jammed"]
    prints: list[PrintStanding] = Field(max_length=1000)


class Printer:
    """A printer at an address, for as long as it is used in a `with`."""

    def __init__(self, url: str) -> None:
        import httpx

        self._url = url.rstrip("/")
        patience = httpx.Timeout(ANSWER_SECONDS, connect=CONNECT_SECONDS)
        self._client = httpx.Client(base_url=self._url, timeout=patience, follow_redirects=False)

    def __enter__(self) -> Printer:
        return self

    def __exit__(self, *_: object) -> None:
        self._client.close()

    def standing(self) -> PrinterStanding:
        """What it is, and what it does.

        Raises:
            PrinterError: it does not answer, or not as agreed.
        """
        return self._told("GET", "/printer", PrinterStanding)

    def send(self, name: str, data: bytes) -> PrintStanding:
        """Have a file printed.

        Raises:
            PrinterError: it refuses the file, with its reason.
        """
        files = {"file": (name, data, "application/octet-stream")}
        return self._told("POST", "/prints", PrintStanding, files=files, timeout=SENDING_SECONDS)

    def one(self, print_id: str) -> PrintStanding:
        """Where a print stands.

        Raises:
            NotFoundError: the printer knows of none.
        """
        return self._told("GET", f"/prints/{print_id}", PrintStanding)

    def say(self, print_id: str, word: PrintWord) -> PrintStanding:
        """Pause, resume, retry after a jam, or cancel.

        Raises:
            ConflictError: the print is in no state for that.
            NotFoundError: the printer knows of none.
        """
        return self._told("POST", f"/prints/{print_id}/{word}", PrintStanding)

    def _told(self, way: str, path: str, kind: type[_Message], **sent: object) -> _Message:
        import httpx

        try:
            answer = self._client.request(way, path, **sent)  # type: ignore[arg-type]
        except (httpx.HTTPError, httpx.InvalidURL) as cause:
            raise PrinterError(UNHEARD.format(url=self._url)) from cause
        if len(answer.content) > MOST_ANSWER_BYTES:
            raise PrinterError(RUBBISH.format(url=self._url, what="more than it may"))
        if answer.status_code >= 400:
            raise self._refusal(answer)
        try:
            return kind.model_validate_json(answer.content)
        except ValidationError as cause:
            what = f"{path} is no {kind.__name__}"
            raise PrinterError(RUBBISH.format(url=self._url, what=what)) from cause

    def _refusal(self, answer: httpx.Response) -> NebrelError:
        try:
            reason = str(answer.json()["reason"])[:500]
        except (ValueError, KeyError, TypeError):
            return PrinterError(RUBBISH.format(url=self._url, what=f"status {answer.status_code} without a reason"))
        kinds: dict[int, type[NebrelError]] = {404: NotFoundError, 409: ConflictError}
        return kinds.get(answer.status_code, PrinterError)(reason)
