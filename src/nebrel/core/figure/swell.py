"""Thickness from the outline alone: what a skin over it would swell to."""

from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.figure.silhouette import Silhouette

Profile = Literal["round", "soft", "flat"]
# A crossing nearer to a sample than this share of a cell makes its equation stiff without making it truer.
NEAREST = 0.05
LEAST_RIM = 1e-3

_Floats = NDArray[np.float64]


def swell(silhouette: Silhouette) -> _Floats:
    """Square of the half thickness that the outline swells to, float64 (H, W) mm²; 0 on the outline.

    The solution of Poisson's equation with -4 inside and 0 on the outline: over a disc its square root is a half
    sphere, over a band an ellipse, over anything else as round as that (Johnston, "Lumo: Illumination for Cel
    Animation", 2002, has the idea of height from an outline; the square root makes it meet the outline upright). The
    outline is met between samples (Shortley and Weller, "The numerical solution of Laplace's equation", 1938). Outside
    it goes on falling as steeply as it meets the outline, so that it is 0 where the outline is.
    """
    from scipy import sparse
    from scipy.sparse.linalg import spsolve

    inside = silhouette.inside
    number = np.full(inside.shape, -1, dtype=np.int64)
    number[inside] = np.arange(int(inside.sum()))
    here = number[inside]
    reach = {side: _reach(silhouette.cover, inside, *side) for side in _SIDES}
    rows, columns, values = [], [], []
    diagonal = np.zeros(len(here))
    for axis in (0, 1):
        ahead, behind = reach[axis, 1][inside], reach[axis, -1][inside]
        for direction, own, other in ((1, ahead, behind), (-1, behind, ahead)):
            weight = 2.0 / (own * (own + other))
            diagonal += weight
            beside = np.roll(number, -direction, axis=axis)[inside]
            within = (beside >= 0) & (own == 1.0)
            rows.append(here[within])
            columns.append(beside[within])
            values.append(-weight[within])
    matrix = sparse.csc_matrix(
        (
            np.concatenate([*values, diagonal]),
            (np.concatenate([*rows, here]), np.concatenate([*columns, here])),
        )
    )
    field = np.zeros(inside.shape)
    field[inside] = spsolve(matrix, np.full(len(here), 4.0 * silhouette.pitch**2), permc_spec="MMD_AT_PLUS_A")
    return _beyond(field, inside, reach)


def meet_outline(middle: _Floats, square: _Floats, silhouette: Silhouette) -> tuple[_Floats, _Floats]:
    """Middle depths and squares, the same inside; outside what lets the surface end on the outline between samples.

    The middle goes on as it is beside the outline, and the square so that it is 0 there, however both were changed.
    """
    from scipy import ndimage

    inside = silhouette.inside
    reach = {side: _reach(silhouette.cover, inside, *side) for side in _SIDES}
    row, column = ndimage.distance_transform_edt(~inside, return_distances=False, return_indices=True)
    return middle[row, column], _beyond(np.where(inside, square, 0.0), inside, reach)


def profile_to(field: _Floats, profile: Profile, thickness: float, soft_rim: float) -> _Floats:
    """The same field with a chosen thickness and profile.

    Args:
        field: of `swell`.
        profile: `round` as it swells; `soft` rises slower from the outline; `flat` is level behind a rounded rim.
        thickness: the largest, mm, above 0.
        soft_rim: how wide the rounded rim of `flat` is, mm.

    Returns:
        float64 (H, W) mm², square of the half thickness; its largest is (thickness / 2)².
    """
    top = (thickness / 2) ** 2
    if profile == "flat":
        half = thickness / 2
        rim = max(min(soft_rim, half), LEAST_RIM)
        away = np.sqrt(np.maximum(field, 0)) / rim
        level = top * (1 - np.exp(-(away**2)))
        level *= top / max(float(level.max()), 1e-300)
        return np.where(field > 0, level, field * (top / rim**2))
    share = field / float(field.max())
    if profile == "soft":
        inner = np.maximum(share, 0)
        return top * np.where(share > 0, inner * (0.25 + 0.75 * inner), 0.25 * share)
    return top * share


def thicken(field: _Floats, silhouette: Silhouette, thinnest: float) -> tuple[_Floats, NDArray[np.bool_]]:
    """At least `thinnest` mm thick everywhere, with a rounded rim.

    Args:
        field: square of the half thickness, mm².
        silhouette: where it was swollen; hair-thin parts have to be widened before (`widen`).
        thinnest: mm; 0 changes nothing.

    Returns:
        the field, and where the figure became thicker, bool (H, W).
    """
    if thinnest <= 0:
        return field, np.zeros(field.shape, dtype=np.bool_)
    radius = thinnest / 2
    deep = silhouette.deep
    least = radius**2 - (radius - np.clip(deep, 0, radius)) ** 2
    thicker = silhouette.inside & (least > np.maximum(field, 0) * (1 + 1e-6))
    return np.where(thicker, least, field), thicker


def widen(silhouette: Silhouette, thinnest: float) -> tuple[Silhouette, float]:
    """The silhouette with parts narrower than `thinnest` mm made that wide about their middle.

    Returns:
        the silhouette, and how much it grew, mm².
    """
    from scipy import ndimage
    from skimage.morphology import medial_axis

    inside = silhouette.inside
    radius = thinnest / 2 / silhouette.pitch
    if radius <= 0.5:
        return silhouette, 0.0
    middle, deep = medial_axis(inside, return_distance=True, rng=0)
    # Where the outline is only rough, the middle has short branches to it; those lie within a disc of a deeper place.
    kept = ndimage.grey_dilation(np.where(middle, deep, 0), footprint=_disc(radius)) < radius
    thin = middle & (deep < radius) & kept
    if not thin.any():
        return silhouette, 0.0
    away = ndimage.distance_transform_edt(~thin)
    cover = np.maximum(silhouette.cover, np.clip(radius + 0.5 - away, 0, 1))
    cover[:2], cover[-2:], cover[:, :2], cover[:, -2:] = 0, 0, 0, 0
    wider = replace(silhouette, cover=cover)
    return wider, float((wider.inside & ~inside).sum()) * silhouette.pitch**2


_SIDES = ((0, 1), (0, -1), (1, 1), (1, -1))


def _disc(radius: float) -> NDArray[np.bool_]:
    reach = int(np.ceil(radius))
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    disc: NDArray[np.bool_] = np.hypot(x, y) <= radius
    return disc


def _reach(cover: _Floats, inside: NDArray[np.bool_], axis: int, direction: int) -> _Floats:
    """How far the next sample, or the outline before it, is, in cells."""
    beside = np.roll(cover, -direction, axis=axis)
    crossed = inside & (beside < 0.5)
    share = (cover - 0.5) / np.maximum(cover - beside, 1e-12)
    return np.where(crossed, np.clip(share, NEAREST, 1.0 - 1e-9), 1.0)


def _beyond(field: _Floats, inside: NDArray[np.bool_], reach: dict[tuple[int, int], _Floats]) -> _Floats:
    """The field with values outside that put its zero on the outline, falling further away."""
    from scipy import ndimage

    total, count = np.zeros(field.shape), np.zeros(field.shape)
    for (axis, direction), share in reach.items():
        crossed = inside & (share < 1.0)
        past = np.where(crossed, -field * (1 - share) / share, 0.0)
        total += np.roll(past, direction, axis=axis)
        count += np.roll(crossed, direction, axis=axis)
    rim = count > 0
    outside = np.where(rim, total / np.maximum(count, 1), 0.0)
    away, (row, column) = ndimage.distance_transform_edt(~rim & ~inside, return_indices=True)
    steep = max(1e-12, float(-outside[rim].min())) if rim.any() else 1.0
    far = outside[row, column] - steep * away
    return np.where(inside, np.maximum(field, 1e-12), np.where(rim, np.minimum(outside, -1e-12), far))
