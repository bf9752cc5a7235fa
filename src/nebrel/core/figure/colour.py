"""Colours of the picture on a figure: on the front as they are, behind as no picture shows them."""

from dataclasses import replace
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.figure.form import FigureForm
from nebrel.core.mesh import TriMesh

BackColour = Literal["edges", "mirror"]
# Of the half thickness: behind this the back's colours count alone, before the other the front's.
BEHIND, BEFORE = -0.35, -0.05
# A line of ink along an outline is no wider than this, as a share of the figure's longer side.
INK_SHARE = 0.014

_Floats = NDArray[np.float64]


def colour_places(
    places: _Floats,
    form: FigureForm,
    colours: NDArray[np.float32],
    coverage: NDArray[np.float32],
    back: BackColour,
    own_back: NDArray[np.float32] | None = None,
) -> NDArray[np.uint8]:
    """Colours of places on a figure, sRGB, uint8 (N, 3).

    Args:
        places: float64 (N, 3) mm, in the figure's own coordinates.
        form: its front and back.
        colours: float32 (H, W, 3) of the picture that the silhouette comes from, 0 to 1.
        coverage: float32 (H, W), what of it is cut out.
        back: `edges` fills the back from its outline inwards, so that nothing of the front is seen there; `mirror` has
            the front's colours behind too.
        own_back: float32 (H, W, 3) of a picture of the back, see `behind`; it comes before `back`.
    """
    silhouette = form.silhouette
    x, y, z = places.T
    whole = beyond_the_cut(colours, coverage)
    seen = np.column_stack([_at(whole[..., channel], *silhouette.source_at(x, y)) for channel in range(3)])
    columns, rows = silhouette.samples_at(x, y)
    behind = None
    if own_back is not None:
        behind = np.column_stack([_at(own_back[..., channel], *silhouette.source_at(x, y)) for channel in range(3)])
    elif back == "edges":
        filled = _filled_from_edges(form, whole)
        behind = np.column_stack([_at(filled[..., channel], columns, rows) for channel in range(3)])
    if behind is not None:
        middle, half = _at(form.middle, columns, rows), _at(form.half, columns, rows)
        share = np.clip(((z - middle) / np.maximum(half, 1e-6) - BEHIND) / (BEFORE - BEHIND), 0, 1)
        front = (share * share * (3 - 2 * share))[:, np.newaxis]
        seen = seen * front + behind * (1 - front)
    return np.round(255 * np.clip(seen, 0, 1)).astype(np.uint8)


def colour_figure(
    mesh: TriMesh,
    form: FigureForm,
    colours: NDArray[np.float32],
    coverage: NDArray[np.float32],
    back: BackColour,
    own_back: NDArray[np.float32] | None = None,
) -> TriMesh:
    """The mesh with a colour at every vertex; see `colour_places`."""
    tints = np.full((len(mesh.vertices), 4), 255, dtype=np.uint8)
    tints[:, :3] = colour_places(mesh.vertices, form, colours, coverage, back, own_back)
    return replace(mesh, colours=tints)


def behind(
    picture: NDArray[np.float32], coverage: NDArray[np.float32], front_coverage: NDArray[np.float32]
) -> NDArray[np.float32]:
    """A picture of the back as it lies behind the front's: mirrored, its box laid over the box of the front's.

    Args:
        picture: float32 (H, W, …) of the back as one sees it from there.
        coverage: float32 (H, W), what of it is cut out; its box is that, or all of it.
        front_coverage: float32 (h, w) of the front's picture.

    Returns:
        float32 (h, w, …).
    """
    own, asked = _box(coverage), _box(front_coverage)
    whole = beyond_the_cut(picture, coverage)
    down = (np.arange(front_coverage.shape[0]) + 0.5 - asked[0]) / (asked[1] - asked[0])
    across = 1 - (np.arange(front_coverage.shape[1]) + 0.5 - asked[2]) / (asked[3] - asked[2])
    at = np.meshgrid(own[2] + across * (own[3] - own[2]) - 0.5, own[0] + down * (own[1] - own[0]) - 0.5)
    columns, rows = (each.astype(np.float32) for each in at)
    return np.asarray(cv2.remap(whole, columns, rows, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))


def _box(coverage: NDArray[np.float32]) -> tuple[int, int, int, int]:
    """First row, one past the last, first column and one past the last of what is covered, or of all."""
    there = coverage >= 0.5
    if not there.any():
        return 0, coverage.shape[0], 0, coverage.shape[1]
    rows, columns = np.flatnonzero(there.any(axis=1)), np.flatnonzero(there.any(axis=0))
    return int(rows[0]), int(rows[-1]) + 1, int(columns[0]), int(columns[-1]) + 1


def colour_edges(mesh: TriMesh, least: float = 0.08) -> NDArray[np.bool_]:
    """Vertices beside which the colour changes, bool (N,): those that must stay where colours end.

    Args:
        mesh: with a colour at every vertex.
        least: difference of channels from 0 to 1 that is seen.
    """
    assert mesh.colours is not None
    tints = mesh.colours[:, :3].astype(np.int16)[mesh.faces]
    spread = (tints.max(axis=1) - tints.min(axis=1)).max(axis=1)
    changed = np.zeros(len(mesh.vertices), dtype=np.bool_)
    changed[mesh.faces[spread > 255 * least]] = True
    return changed


def beyond_the_cut(colours: NDArray[np.float32], coverage: NDArray[np.float32]) -> NDArray[np.float32]:
    """Colours or tones, (H, W, …), where nothing is covered taken from the nearest place that is: none bleeds in."""
    from scipy import ndimage

    there = coverage >= 0.98
    if there.all() or not there.any():
        return colours
    row, column = ndimage.distance_transform_edt(~there, return_distances=False, return_indices=True)
    return np.asarray(colours[row, column])


def _filled_from_edges(form: FigureForm, colours: NDArray[np.float32]) -> _Floats:
    """Colours over the grid that go on evenly from the outline inwards, float64 (H, W, 3).

    The solution of Laplace's equation inside, with the picture's colours on the outline: those a little inside it, for
    many drawings have a line of ink there.
    """
    from scipy import ndimage, sparse
    from scipy.sparse.linalg import splu
    from skimage.morphology import medial_axis

    silhouette = form.silhouette
    inside = silhouette.inside
    fixed = inside & ~ndimage.binary_erosion(inside)
    free = inside & ~fixed
    found = np.dstack([silhouette.sharp_on_grid(np.ascontiguousarray(colours[..., each])) for each in range(3)])
    clear = (silhouette.deep >= silhouette.pitch * max(1.5, INK_SHARE * max(inside.shape))) | medial_axis(inside, rng=0)
    if clear.any():
        row, column = ndimage.distance_transform_edt(~clear, return_distances=False, return_indices=True)
        found = np.where(fixed[..., np.newaxis], found[row, column], found)
    if free.any():
        number = np.full(inside.shape, -1, dtype=np.int64)
        number[free] = np.arange(int(free.sum()))
        here, right = number[free], np.zeros((int(free.sum()), 3))
        rows, columns = [here], [here]
        values = [np.full(len(here), 4.0)]
        for axis in (0, 1):
            for way in (-1, 1):
                beside = np.roll(number, way, axis=axis)[free]
                rows.append(here[beside >= 0])
                columns.append(beside[beside >= 0])
                values.append(np.full(int((beside >= 0).sum()), -1.0))
                right += np.where((beside < 0)[:, np.newaxis], np.roll(found, way, axis=axis)[free], 0.0)
        links = (np.concatenate(values), (np.concatenate(rows), np.concatenate(columns)))
        found[free] = splu(sparse.csc_matrix(links), permc_spec="MMD_AT_PLUS_A").solve(right)
    row, column = ndimage.distance_transform_edt(~inside, return_distances=False, return_indices=True)
    return np.asarray(found[row, column])


def _at(values: NDArray[np.floating], columns: _Floats, rows: _Floats) -> _Floats:
    """Bilinear at places, float64 (N,)."""
    at = (columns.astype(np.float32)[:, np.newaxis], rows.astype(np.float32)[:, np.newaxis])
    parts = []
    # The library takes no more than 32,767 rows at once.
    for first in range(0, len(columns), 32_000):
        part = slice(first, first + 32_000)
        parts.append(
            cv2.remap(
                values.astype(np.float32), at[0][part], at[1][part], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
            )
        )
    return np.asarray(np.concatenate(parts)[:, 0] if parts else np.empty(0), dtype=np.float64)
