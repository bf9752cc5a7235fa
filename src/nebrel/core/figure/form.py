"""Front and back of a figure, from its thickness and what the back is to be."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.figure.silhouette import Silhouette

BackKind = Literal["mirror", "flat", "bulge"]
# How far the rim of a flat back is rounded, as a share of the half thickness.
RIM_SHARE = 0.08
LEAST_HALF = 0.05
# However its back is smoothed, a figure stays so thick, as a share of the half thickness of its front's mirror.
LEAST_SHARE = 0.2
_Floats = NDArray[np.float64]


@dataclass(frozen=True)
class FigureForm:
    """A figure as two surfaces over its silhouette; they meet where their product changes its sign.

    The figure is where `square` is above the square of the distance from `middle`, so both surfaces meet upright.

    Attributes:
        silhouette: where it is.
        middle: float64 (H, W) mm, halfway between front and back; towards the viewer is positive.
        square: float64 (H, W) mm², of the half thickness; negative outside.
    """

    silhouette: Silhouette
    middle: _Floats
    square: _Floats

    @property
    def half(self) -> _Floats:
        """Half thickness, float64 (H, W) mm; 0 outside."""
        half: _Floats = np.sqrt(np.maximum(self.square, 0))
        return half

    @property
    def front(self) -> _Floats:
        """Float64 (H, W) mm; NaN outside."""
        return np.where(self.square > 0, self.middle + self.half, np.nan)

    @property
    def back(self) -> _Floats:
        """Float64 (H, W) mm; NaN outside."""
        return np.where(self.square > 0, self.middle - self.half, np.nan)


def with_detail(form: FigureForm, tones: _Floats, strength: float, radius: float, side: int = 1) -> FigureForm:
    """The form with the picture's fine tones as a relief on its front, or on its back where `side` is -1.

    Args:
        form: front and back.
        tones: float64 (H, W) of the picture on the grid, 0 to 1.
        strength: mm from black to white; negative where dark stands tall.
        radius: mm; what is broader than that is light and shade, and no form.
        side: 1 for the front, -1 for the back.
    """
    from scipy import ndimage

    inside = form.square > 0
    sigma = max(0.5, radius / form.silhouette.pitch)
    weight = np.maximum(ndimage.gaussian_filter(inside.astype(np.float64), sigma), 1e-6)
    broad = ndimage.gaussian_filter(np.where(inside, tones, 0.0), sigma) / weight
    half = form.half
    # Towards the outline there is no room for it: front and back meet there.
    room = np.clip(half / max(2 * abs(strength), 1e-9), 0, 1)
    by = np.where(inside, strength * (tones - broad) * room, 0.0)
    thick = np.maximum(half + by / 2, LEAST_HALF * half)
    moved = np.where(inside, form.middle + side * (thick - half), form.middle)
    return FigureForm(form.silhouette, moved, np.where(inside, thick**2, form.square))


@dataclass(frozen=True)
class Back:
    """What is behind.

    Attributes:
        kind: `mirror` as thick behind as in front; `flat` level behind, with a rounded rim; `bulge` as `mirror`, times
            `bulge`.
        bulge: 0 or more.
        fade: mm, how far what the front's mirror shows is smoothed away behind; 0 leaves all of it.
    """

    kind: BackKind = "mirror"
    bulge: float = 0.6
    fade: float = 0.0


def back_of(silhouette: Silhouette, middle: _Floats, square: _Floats, back: Back) -> FigureForm:
    """A figure whose front is given, with a back of a kind.

    Args:
        silhouette: where it is.
        middle: float64 (H, W) mm, halfway between front and back of a figure as thick behind as in front.
        square: float64 (H, W) mm², square of the half thickness of such a figure.
        back: what is behind.
    """
    from scipy import ndimage

    half = np.sqrt(np.maximum(square, 0))
    smooth = half, middle
    if back.fade > 0 and back.kind != "flat":
        sigma = back.fade / silhouette.pitch
        # At the outline it stays the mirror of the front, so that both meet there; further in it is smooth.
        inwards = np.clip(silhouette.deep / (2 * back.fade), 0, 1)
        share = inwards * inwards * (3 - 2 * inwards)
        soft = share * ndimage.gaussian_filter(square, sigma, mode="nearest") + (1 - share) * square
        away = _faded(middle, square > 0, sigma)
        smooth = np.sqrt(np.maximum(soft, 0)), share * away + (1 - share) * middle
    if back.kind == "mirror" and back.fade <= 0:
        return FigureForm(silhouette, middle, square)
    factor = 0.0 if back.kind == "flat" else back.bulge if back.kind == "bulge" else 1.0
    # At the outline as round behind as in front, however level the back is further in.
    rim = RIM_SHARE * float(half.max())
    behind = np.maximum(factor * smooth[0], rim * half / np.maximum(rim + half, 1e-12))
    behind += middle - smooth[1]
    behind = np.maximum(behind, LEAST_SHARE * half - half)
    thick = (half + behind) / 2
    at_outline = (1 + max(factor, 1.0)) / 2
    return FigureForm(silhouette, middle + (half - behind) / 2, np.where(square > 0, thick**2, square * at_outline**2))


def _faded(values: _Floats, inside: NDArray[np.bool_], sigma: float) -> _Floats:
    """Values smoothed among those inside."""
    from scipy import ndimage

    weight = np.maximum(ndimage.gaussian_filter(inside.astype(np.float64), sigma), 1e-9)
    return np.where(inside, ndimage.gaussian_filter(np.where(inside, values, 0.0), sigma) / weight, values)
