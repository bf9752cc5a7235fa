"""Depth by a network of the user's own: an ONNX file that takes a picture and gives depths or normals."""

import threading
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadPictureError, TooLargeError
from nebrel.core.figure.depth import Deepened
from nebrel.core.figure.hand import HandStroke
from nebrel.core.figure.normals import integrated
from nebrel.core.figure.silhouette import Silhouette

Gives = Literal["nearer", "farther", "normals"]
Scale = Literal["one", "both", "photo"]
MOST_BYTES = 512 * 2**20
LEAST_SIDE, MOST_SIDE = 32, 1024
SECONDS = 60.0
# Means and deviations of photographs, by which many networks were taught.
_MEAN, _DEVIATION = np.array([0.485, 0.456, 0.406]), np.array([0.229, 0.224, 0.225])
ROOM = 0.06
PAPER = 1.0
# Of the lowest and highest depths so much is left out of the span.
BEYOND = 0.01


@dataclass(frozen=True)
class NetworkCard:
    """What a network takes and gives.

    Attributes:
        side: of its square picture, pixels.
        gives: depths of which more is nearer or farther, or normals (X right, Y up, Z towards the viewer).
        scale: colours from 0 to 1, from -1 to 1, or less the mean of photographs over their deviation.
    """

    side: int = 256
    gives: Gives = "nearer"
    scale: Scale = "one"


@dataclass(frozen=True)
class OwnNetwork:
    """Depth by a network of the user's own.

    Attributes:
        model: the ONNX file.
        name: what it is called in refusals.
        card: what it takes and gives.
        picture: float32 (H, W, 3), as large as the source of the silhouette, 0 to 1.
        span: mm from the furthest to the nearest, where it gives depths.
        seconds: how long it may take.
    """

    model: bytes
    name: str
    card: NetworkCard
    picture: NDArray[np.float32]
    span: float
    seconds: float = SECONDS

    def __call__(
        self, silhouette: Silhouette, square: NDArray[np.float64], strokes: Sequence[HandStroke] = ()
    ) -> Deepened:
        """The front by depths, over the swollen thickness; or by normals, integrated from the swollen front."""
        window = _Window.of(silhouette, self.card.side)
        said = self._run(window.seen(self.picture, silhouette))
        inside = silhouette.inside
        if self.card.gives == "normals":
            found = np.dstack([window.back(said[each], silhouette) for each in range(3)])
            found /= np.maximum(np.linalg.norm(found, axis=2, keepdims=True), 1e-6)
            swollen = np.sqrt(np.maximum(square, 0))
            trust = np.where(inside, np.clip(found[..., 2] * 4, 0, 1), 0.0)
            front = integrated(found, swollen, inside, silhouette.pitch, trust)
            return Deepened(square, middle=np.where(inside, front - swollen, 0.0))
        depth = window.back(said[0], silhouette)
        low, high = np.quantile(depth[inside], [BEYOND, 1 - BEYOND])
        share = np.clip((depth - low) / max(float(high - low), 1e-12), 0, 1)
        front = self.span * (share if self.card.gives == "nearer" else 1 - share)
        return Deepened(square, front=front - float(front[inside].mean()), leaps=True)

    def _run(self, seen: NDArray[np.float32]) -> NDArray[np.float64]:
        """What the network says, float64 (channels, side, side).

        Raises:
            TooLargeError: the file is larger than is loaded.
            BadPictureError: it is no network, takes or gives something else than its card says, takes too long, or
                answers what is no number.
        """
        if len(self.model) > MOST_BYTES:
            raise TooLargeError(f"{self.name} has {len(self.model) / 2**20:,.0f} MiB; up to 512 MiB are accepted.")
        import onnxruntime

        scaled = {"one": seen, "both": 2 * seen - 1, "photo": (seen - _MEAN) / _DEVIATION}[self.card.scale]
        fed = np.ascontiguousarray(scaled.transpose(2, 0, 1)[np.newaxis], dtype=np.float32)
        options, running = onnxruntime.SessionOptions(), onnxruntime.RunOptions()
        options.log_severity_level = running.log_severity_level = 4
        too_long = threading.Event()

        def stop() -> None:
            too_long.set()
            running.terminate = True

        clock = threading.Timer(self.seconds, stop)
        clock.start()
        try:
            # From bytes, so that nothing beside the file is ever read.
            session = onnxruntime.InferenceSession(self.model, options, providers=["CPUExecutionProvider"])
            said = session.run(None, {session.get_inputs()[0].name: fed}, running)[0]
        except Exception as cause:
            raise self._refusal(too_long.is_set(), cause) from cause
        finally:
            clock.cancel()
        return self._checked(said)

    def _refusal(self, too_long: bool, cause: Exception) -> BadPictureError:
        if too_long:
            return BadPictureError(f"{self.name} took longer than {self.seconds:g} s; a smaller network is needed.")
        if self.model and ("dimension" in str(cause).lower() or "INVALID_ARGUMENT" in str(cause)):
            side = self.card.side
            return BadPictureError(
                f"{self.name} does not take a picture of 3 × {side} × {side}; the side that it was made for, "
                "in its card, would be accepted."
            )
        return BadPictureError(f"{self.name} cannot be run as a network; an ONNX file without other files is needed.")

    def _checked(self, said: Any) -> NDArray[np.float64]:
        wanted = 3 if self.card.gives == "normals" else 1
        found = np.asarray(said, dtype=np.float64)
        if found.ndim == 4:
            found = found[0]
        if found.ndim == 2:
            found = found[np.newaxis]
        if found.ndim != 3 or found.shape[0] != wanted or min(found.shape[1:]) < 2:
            shape = " × ".join(str(side) for side in np.shape(said))
            raise BadPictureError(f"{self.name} answers {shape} numbers; {wanted} × height × width are needed.")
        if not np.isfinite(found).all():
            raise BadPictureError(f"{self.name} answers what is no number; another network or picture is needed.")
        return found


@dataclass(frozen=True)
class _Window:
    """The square round a silhouette that a network sees: row and column of the source at its corner, pixels a pixel."""

    top: float
    left: float
    step: float
    side: int

    @staticmethod
    def of(silhouette: Silhouette, side: int) -> "_Window":
        top, left, step = silhouette.corner
        rows, columns = (np.flatnonzero(silhouette.inside.any(axis=axis)) for axis in (1, 0))
        middle = (top + step * (rows[0] + rows[-1]) / 2, left + step * (columns[0] + columns[-1]) / 2)
        longer = step * max(rows[-1] - rows[0] + 1, columns[-1] - columns[0] + 1) * (1 + 2 * ROOM)
        return _Window(middle[0] - longer / 2, middle[1] - longer / 2, longer / side, side)

    def seen(self, picture: NDArray[np.float32], silhouette: Silhouette) -> NDArray[np.float32]:
        """The picture on white paper, float32 (side, side, 3)."""
        soft = np.asarray(picture, dtype=np.float32)
        if self.step > 1:
            soft = np.asarray(cv2.GaussianBlur(soft, (0, 0), 0.5 * self.step), dtype=np.float32)
        places = (np.arange(self.side, dtype=np.float32) + 0.5) * np.float32(self.step)
        columns, rows = np.meshgrid(places + np.float32(self.left), places + np.float32(self.top))
        found = cv2.remap(soft, columns, rows, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        top, left, step = silhouette.corner
        at = ((columns - np.float32(left)) / np.float32(step), (rows - np.float32(top)) / np.float32(step))
        cover = cv2.remap(silhouette.cover.astype(np.float32), *at, cv2.INTER_LINEAR, borderValue=0)[..., np.newaxis]
        return np.asarray(found * cover + PAPER * (1 - cover), dtype=np.float32)

    def back(self, values: NDArray[np.float64], silhouette: Silhouette) -> NDArray[np.float64]:
        """What it says, on the grid of the silhouette, float64 (H, W)."""
        top, left, step = silhouette.corner
        height, width = values.shape
        rows, columns = np.indices(silhouette.cover.shape).astype(np.float32)
        down = (top + step * rows - self.top) / (self.step * self.side) * height - 0.5
        across = (left + step * columns - self.left) / (self.step * self.side) * width - 0.5
        found = cv2.remap(
            values.astype(np.float32), across.astype(np.float32), down.astype(np.float32), cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_REPLICATE,
        )  # fmt: skip
        return np.asarray(found, dtype=np.float64)
