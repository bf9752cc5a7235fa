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

_Floats = NDArray[np.float64]


def colour_figure(
    mesh: TriMesh, form: FigureForm, colours: NDArray[np.float32], coverage: NDArray[np.float32], back: BackColour
) -> TriMesh:
    """The mesh with a colour at every vertex.

    Args:
        mesh: of the figure, in its own coordinates.
        form: its front and back.
        colours: float32 (H, W, 3) of the picture that the silhouette comes from, 0 to 1.
        coverage: float32 (H, W), what of it is cut out.
        back: `edges` fills the back from its outline inwards, so that nothing of the front is seen there; `mirror` has
            the front's colours behind too.
    """
    silhouette = form.silhouette
    x, y, z = mesh.vertices.T
    whole = beyond_the_cut(colours, coverage)
    seen = np.column_stack([_at(whole[..., channel], *silhouette.source_at(x, y)) for channel in range(3)])
    if back == "edges":
        columns, rows = silhouette.samples_at(x, y)
        filled = _filled_from_edges(form, whole)
        behind = np.column_stack([_at(filled[..., channel], columns, rows) for channel in range(3)])
        middle, half = _at(form.middle, columns, rows), _at(form.half, columns, rows)
        share = np.clip(((z - middle) / np.maximum(half, 1e-6) - BEHIND) / (BEFORE - BEHIND), 0, 1)
        front = (share * share * (3 - 2 * share))[:, np.newaxis]
        seen = seen * front + behind * (1 - front)
    tints = np.full((len(mesh.vertices), 4), 255, dtype=np.uint8)
    tints[:, :3] = np.round(255 * np.clip(seen, 0, 1))
    return replace(mesh, colours=tints)


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

    The solution of Laplace's equation inside, with the picture's colours on the outline.
    """
    from scipy import ndimage, sparse
    from scipy.sparse.linalg import splu

    silhouette = form.silhouette
    inside = silhouette.inside
    fixed = inside & ~ndimage.binary_erosion(inside)
    free = inside & ~fixed
    found = np.dstack([silhouette.sharp_on_grid(np.ascontiguousarray(colours[..., each])) for each in range(3)])
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
