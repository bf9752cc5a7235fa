"""A solid seen from the front against the picture that it comes from."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.heightfield.from_above import raise_on_grid
from nebrel.core.mesh import TriMesh

FINEST_PX = 2048


def silhouette_overlap(
    mesh: TriMesh, covered: NDArray[np.bool_], mm_per_px: float, corner: tuple[float, float]
) -> float:
    """Intersection over union of what a solid hides, looked at against Z, and what a picture covers.

    Args:
        mesh: in mm, X right and Y up.
        covered: bool (H, W), top row first.
        mm_per_px: mm from pixel to pixel.
        corner: X and Y of the middle of the lower left pixel, mm.

    Returns:
        0 to 1, counted at the middles of pixels, of every second or so of a picture beyond 2048.
    """
    every = max(1, -(-max(covered.shape) // FINEST_PX))
    # From the lower left pixel on, so that every n-th is where the mesh is asked, too.
    some = covered[::-1][::every, ::every][::-1]
    places = (mesh.vertices - [*corner, float(mesh.vertices[:, 2].min())]) / [every * mm_per_px, every * mm_per_px, 1.0]
    places[:, 1] = some.shape[0] - 1 - places[:, 1]
    heights = np.full(some.shape, -1.0, dtype=np.float32)
    raise_on_grid(places, mesh.faces, heights)
    seen = heights >= 0
    either = int((seen | some).sum())
    return float((seen & some).sum() / either) if either else 1.0
