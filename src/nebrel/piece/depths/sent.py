"""What is sent to a service that makes figures, and the depth picture that its answer comes to."""

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadMeshError, BadPictureError
from nebrel.core.figure.colour import beyond_the_cut
from nebrel.core.heightfield.from_above import heights_from_above
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import read_mesh
from nebrel.core.mesh.place import at_origin
from nebrel.core.picture import Picture, read_picture, shrink_to
from nebrel.piece.depths.sources import seen
from nebrel.piece.ops import PictureView

MOST_PX, WHITE = 1024, 65535
# A solid whose outline is longer or wider than what was cut out by more than this is another thing.
UNLIKE_SHARE = 0.2
_Floats = NDArray[np.float64]


def sent_files(picture: Picture) -> tuple[bytes, bytes]:
    """A cut-out picture and its cut-out as PNG files of one size."""
    small = shrink_to(picture, MOST_PX)
    colours = beyond_the_cut(seen(small), small.coverage)
    return _png(np.round(np.clip(colours[..., ::-1], 0, 1) * 255).astype(np.uint8)), _png(
        np.round(np.clip(small.coverage, 0, 1) * 255).astype(np.uint8)
    )


def depths_of_picture(data: bytes, depth_share: float) -> tuple[bytes, float]:
    """The answer as a depth picture.

    Args:
        data: a PNG file, near places bright.
        depth_share: from black to white, as a share of its width.

    Returns:
        a PNG file, and from its darkest to its brightest as a share of its width.

    Raises:
        BadPictureError: it cannot be read, or is even.
    """
    tones = read_picture(data, "depths.png").tones.astype(np.float64)
    return _depth_png(tones * depth_share * tones.shape[1])


def depths_of_solid(data: bytes, picture: Picture) -> tuple[bytes, float]:
    """The same of a solid that is seen from the front as what was cut out; its own size is of no matter.

    Args:
        data: a GLB file, Y up and Z towards the viewer.
        picture: what was sent.

    Raises:
        BadMeshError: it cannot be read, or is another thing than was cut out.
    """
    covered = shrink_to(picture, MOST_PX).coverage >= 0.5
    rows, columns = np.flatnonzero(covered.any(axis=1)), np.flatnonzero(covered.any(axis=0))
    tall, wide = len(range(rows[0], rows[-1] + 1)), len(range(columns[0], columns[-1] + 1))
    mesh = at_origin(read_mesh(data, "answer.glb").mesh)
    sides = np.ptp(mesh.vertices, axis=0)
    if sides[0] <= 0 or sides[1] <= 0 or abs(np.log(sides[0] / sides[1] * tall / wide)) > UNLIKE_SHARE:
        raise BadMeshError(
            f"The solid that came back is {sides[0]:.0f} × {sides[1]:.0f} seen from the front, and what was cut out is "
            f"{wide} × {tall}; a solid of the picture, Y up and Z towards the viewer, would be accepted."
        )
    scaled = TriMesh(mesh.vertices * [wide / sides[0], tall / sides[1], wide / sides[0]], mesh.faces)
    found = heights_from_above(scaled, max(wide, tall))
    there = found.material >= 0.5
    heights = np.where(there, found.heights, float(found.heights[there].min()))
    whole = np.full(covered.shape, float(heights.min()))
    inside = whole[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
    inside[:] = cv2.resize(heights, inside.shape[::-1], interpolation=cv2.INTER_LINEAR)
    return _depth_png(whole)


def depths_received(data: bytes, depth_share: float | None, view: PictureView) -> tuple[bytes, float]:
    """A depth picture of an answer, and from its darkest to its brightest, mm.

    Args:
        data: a depth picture; or a solid as GLB, where `depth_share` is None.
        depth_share: of the depth picture, as a share of its width.
        view: of the picture that was sent.
    """
    solid = depth_share is None
    found = depths_of_solid(data, view.picture) if solid else depths_of_picture(data, depth_share or 0.0)
    return found[0], found[1] * view.mm_per_px * view.picture.shape[1]


def _depth_png(nearer: _Floats) -> tuple[bytes, float]:
    """Depths in pixels as a PNG file of 16 bits, and how far they reach as a share of its width."""
    low, high = float(nearer.min()), float(nearer.max())
    if not high > low:
        raise BadPictureError("The depth picture that came back is even; one with near and far places is needed.")
    return _png(np.round((nearer - low) / (high - low) * WHITE).astype(np.uint16)), (high - low) / nearer.shape[1]


def _png(samples: NDArray[np.uint8] | NDArray[np.uint16]) -> bytes:
    return cv2.imencode(".png", samples)[1].tobytes()
