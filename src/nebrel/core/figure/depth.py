"""Where depth comes from: what every source gives, and the simplest of them."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.figure.hand import HandStroke
from nebrel.core.figure.silhouette import Silhouette

_Floats = NDArray[np.float64]
# A picture of the back makes a figure no thinner or thicker than so many times what its outline swells to.
LEAST_SHARE, MOST_SHARE = 0.15, 3.0


@dataclass(frozen=True)
class Deepened:
    """What a source says of depth, over the grid of a silhouette.

    Attributes:
        square: float64 (H, W) mm², square of the half thickness; at most 0 outside.
        middle: float64 (H, W) mm, halfway between front and back, or None where the source gives the front.
        front: float64 (H, W) mm, or None.
        unsure: float64 (H, W), how far off the front may be, mm, where the source can tell; or None.
        leaps: whether the depth may leap where one thing hides another.
        followed: by how many mm the source itself moved the front under each stroke that it was shown, nearer above 0.
    """

    square: _Floats
    middle: _Floats | None = None
    front: _Floats | None = None
    unsure: _Floats | None = None
    followed: tuple[float, ...] = ()
    leaps: bool = False

    def middle_with(self, square: _Floats) -> _Floats:
        """Halfway between front and back, float64 (H, W) mm, of a figure as thick as this square says."""
        if self.front is not None:
            return self.front - np.sqrt(np.maximum(square, 0))
        return np.zeros_like(square) if self.middle is None else self.middle


# Gives depth over a silhouette that has swollen to a square of the half thickness, mm², with strokes over it.
DepthSource = Callable[[Silhouette, _Floats, Sequence[HandStroke]], Deepened]


def from_outline(silhouette: Silhouette, square: _Floats, strokes: Sequence[HandStroke] = ()) -> Deepened:
    """What the outline swells to, with a level middle."""
    return Deepened(square, middle=np.zeros(square.shape))


@dataclass(frozen=True)
class DepthPicture:
    """Depths of the front that a picture gives.

    Attributes:
        tones: float32 (H, W), as large as the source of the silhouette.
        span: mm from black to white; negative where black is nearer.
        behind: likewise for the back, as it lies behind the front's picture, near tones furthest back; or None.
    """

    tones: NDArray[np.float32]
    span: float
    behind: NDArray[np.float32] | None = None

    def __call__(self, silhouette: Silhouette, square: _Floats, strokes: Sequence[HandStroke] = ()) -> Deepened:
        """The front as the picture has it, its mean in the middle of things; and the back, where there is one of it.

        Front and back are as far apart on average as the outline swells to, and come together towards it.
        """
        inside = silhouette.inside
        nearer = silhouette.on_grid(self.tones) * self.span
        front = nearer - float(nearer[inside].mean())
        if self.behind is None:
            return Deepened(square, front=front, leaps=True)
        further = silhouette.on_grid(self.behind) * self.span
        half = np.sqrt(np.maximum(square, 0))
        apart = front + (further - float(further[inside].mean())) + 2 * float(half[inside].mean())
        # As thick as both say, and no thicker at the rim than twice what swells there: they meet at the outline.
        thick = np.clip(apart / 2, LEAST_SHARE * half, MOST_SHARE * half)
        return Deepened(np.where(square > 0, thick**2, square), front=front, leaps=True)
