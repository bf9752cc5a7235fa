"""A stand-in for a far away service that makes figures of pictures: slow, with a queue, failing one time in five.

The contract is told in `docs/depth-service.md`.
"""

import io
import threading
import time
import uuid
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Annotated, Literal

import cv2
import numpy as np
from fastapi import FastAPI, File, Form, Header, UploadFile
from fastapi.responses import JSONResponse
from numpy.typing import NDArray
from pydantic import BaseModel
from starlette.responses import Response

from nebrel.core.errors import NebrelError
from nebrel.core.figure.figure import FigureWish, shape_figure
from nebrel.core.figure.learned import LearnedDepth
from nebrel.core.figure.silhouette import Silhouette, sampled, silhouette_of
from nebrel.core.figure.surface import surface_of
from nebrel.core.mesh.formats import write_mesh
from nebrel.core.picture import read_picture

State = Literal["waiting", "working", "done", "failed", "expired"]
Gives = Literal["depth", "solid"]
COST, COST_UNIT = 3.0, "credits"
CELLS, STEPS, WHITE = 160, 20, 65535
MOST_WAITING, MOST_BYTES = 20, 32 * 2**20
REASONS = (
    "The machine that made it was switched off half way.",
    "It took longer than one figure is given.",
)


@dataclass(frozen=True)
class Pace:
    """How the stand-in behaves.

    Attributes:
        seconds: that a figure takes.
        fails: whether an attempt fails, by its number from 1.
        keeps_seconds: how long a result is kept.
        others: how many figures of other people stand in the queue before every new one.
    """

    seconds: float = 6.0
    fails: Callable[[int], bool] = lambda attempt: attempt % 5 == 3
    keeps_seconds: float = 600.0
    others: int = 2


class Terms(BaseModel):
    """What a figure costs and how long it is kept."""

    name: str
    cost: float
    cost_unit: str
    keeps_seconds: float


class Standing(BaseModel):
    """Where a figure stands.

    `position` counts those before it in the queue, `fraction` is how far it is, `depth_share` how far apart the darkest
    and the brightest tone of its depth picture are, as a share of the picture's width.
    """

    id: str
    state: State
    position: int
    fraction: float
    cost: float
    reason: str = ""
    depth_share: float | None = None


@dataclass
class _Order:
    picture: bytes
    mask: bytes
    gives: Gives
    id: str = field(default_factory=lambda: uuid.uuid4().hex)
    state: State = "waiting"
    fraction: float = 0.0
    cost: float = COST
    reason: str = ""
    others: int = 0
    depth_share: float | None = None
    result: bytes = b""
    ready: float = 0.0


class _Bench:
    """Works on one order after another."""

    def __init__(self, pace: Pace) -> None:
        self.pace = pace
        self._orders: dict[str, _Order] = {}
        self._waiting: list[_Order] = []
        self._attempts = 0
        self._changed = threading.Condition()
        threading.Thread(target=self._work, name="depth-service", daemon=True).start()

    def take(self, key: str, order: _Order) -> Standing | None:
        """Queue an order, or go on with the one of that key; a failed one is tried again for nothing. None: full."""
        with self._changed:
            known = self._orders.get(key)
            if known is not None and self._standing(known).state in ("waiting", "working", "done"):
                return self._standing(known)
            if len(self._waiting) >= MOST_WAITING:
                return None
            if known is not None and known.state == "failed":
                order.cost = 0.0
            order.others = self.pace.others
            self._orders[key] = order
            self._waiting.append(order)
            self._changed.notify()
            return self._standing(order)

    def find(self, order_id: str) -> tuple[_Order, Standing] | None:
        """An order and where it stands."""
        with self._changed:
            for order in self._orders.values():
                if order.id == order_id:
                    return order, self._standing(order)
        return None

    def drop(self, order_id: str) -> None:
        """Take back an order that waits."""
        with self._changed:
            self._waiting = [order for order in self._waiting if order.id != order_id]
            self._orders = {key: order for key, order in self._orders.items() if order.id != order_id}

    def _standing(self, order: _Order) -> Standing:
        if order.state == "done" and time.monotonic() > order.ready + self.pace.keeps_seconds:
            order.state, order.result = "expired", b""
        before = self._waiting.index(order) if order in self._waiting else 0
        return Standing(
            id=order.id,
            state=order.state,
            position=before + order.others if order.state == "waiting" else 0,
            fraction=order.fraction,
            cost=order.cost,
            reason=order.reason,
            depth_share=order.depth_share,
        )

    def _work(self) -> None:
        while True:
            with self._changed:
                while not self._waiting:
                    self._changed.wait()
                order = self._waiting[0]
                others = order.others
            for left in range(others - 1, -1, -1):
                time.sleep(self.pace.seconds / STEPS)
                order.others = left
            with self._changed:
                if order not in self._waiting:
                    continue
                self._waiting.remove(order)
                order.state = "working"
                self._attempts += 1
                fails = self.pace.fails(self._attempts)
            self._make(order, fails)

    def _make(self, order: _Order, fails: bool) -> None:
        for step in range(STEPS):
            time.sleep(self.pace.seconds / STEPS)
            order.fraction = step / STEPS
            if fails and step == STEPS // 2:
                order.state, order.reason = "failed", REASONS[self._attempts % len(REASONS)]
                return
        try:
            order.result, order.depth_share = _made(order)
        except NebrelError as refusal:
            order.state, order.reason = "failed", str(refusal)
            return
        order.fraction, order.ready, order.state = 1.0, time.monotonic(), "done"


def depth_service(pace: Pace | None = None) -> FastAPI:
    """The stand-in as an application."""
    app = FastAPI(title="Simulated depth service", docs_url=None, redoc_url=None)
    bench = _Bench(pace or Pace())

    @app.get("/")
    def terms() -> Terms:
        return Terms(name="Simulated service", cost=COST, cost_unit=COST_UNIT, keeps_seconds=bench.pace.keeps_seconds)

    @app.post("/figures", status_code=202, response_model=Standing)
    def order(
        picture: Annotated[UploadFile, File()],
        mask: Annotated[UploadFile, File()],
        gives: Annotated[Gives, Form()] = "depth",
        idempotency_key: Annotated[str | None, Header()] = None,
    ) -> Response | Standing:
        made = _Order(picture.file.read(MOST_BYTES), mask.file.read(MOST_BYTES), gives)
        taken = bench.take(idempotency_key or made.id, made)
        return _refused("The queue is full; try again later.", 503) if taken is None else taken

    @app.get("/figures/{order_id}", response_model=Standing)
    def standing(order_id: str) -> Response | Standing:
        found = bench.find(order_id)
        return _refused("There is no such figure.", 404) if found is None else found[1]

    @app.delete("/figures/{order_id}", status_code=204)
    def drop(order_id: str) -> None:
        bench.drop(order_id)

    @app.get("/figures/{order_id}/result", response_class=Response)
    def result(order_id: str) -> Response:
        found = bench.find(order_id)
        if found is None:
            return _refused("There is no such figure.", 404)
        order, standing = found
        if standing.state == "expired":
            return _refused("The result was kept for a while and is gone.", 410)
        if standing.state != "done":
            return _refused("The figure is not made yet.", 409)
        media = "image/png" if order.gives == "depth" else "model/gltf-binary"
        return Response(order.result, media_type=media)

    return app


def _refused(reason: str, status: int) -> Response:
    return JSONResponse({"reason": reason}, status)


def _made(order: _Order) -> tuple[bytes, float | None]:
    """The result of an order, and how deep it is as a share of the picture's width."""
    picture, mask = read_picture(order.picture, "picture.png"), read_picture(order.mask, "mask.png")
    tones = np.repeat(picture.tones[..., np.newaxis], 3, axis=2) if picture.rgb is None else picture.rgb
    silhouette = silhouette_of(mask.tones, 1.0, CELLS)
    form = shape_figure(silhouette, FigureWish(profile="soft", thinnest=0.0), LearnedDepth(tones)).form
    if order.gives == "solid":
        held = io.BytesIO()
        write_mesh(surface_of(form), held, "glb")
        return held.getvalue(), None
    front = _over_pixels(silhouette, np.nan_to_num(form.front, nan=float(np.nanmin(form.front))), mask.tones.shape)
    low, high = float(front.min()), float(front.max())
    samples = np.round((front - low) / max(high - low, 1e-9) * WHITE).astype(np.uint16)
    return cv2.imencode(".png", samples)[1].tobytes(), (high - low) / mask.tones.shape[1]


def _over_pixels(silhouette: Silhouette, values: NDArray[np.float64], shape: tuple[int, ...]) -> NDArray[np.float64]:
    """Values of the grid at every pixel of its source, float64 (H, W)."""
    top, left, step = silhouette.corner
    rows, columns = (np.arange(side, dtype=np.float64) for side in shape)
    return sampled(values, ((columns - left) / step, (rows - top) / step))
