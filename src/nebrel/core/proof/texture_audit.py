"""How true a texture is: read back at places of the finished mesh, as a program that shows it would."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from nebrel.core.colour.oklab import oklab_of
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import face_areas
from nebrel.core.mesh.texture import Texture

PLACES = 40_000


def texture_error(
    mesh: TriMesh, texture: Texture, asked: Callable[[NDArray[np.float64], NDArray[np.int64]], NDArray[np.uint8]]
) -> float:
    """Mean distance in OKLab between what a texture shows and what was asked, at 40,000 places even over the surface.

    Args:
        mesh: that carries the texture.
        texture: read between its texels.
        asked: see `bake`.
    """
    import cv2

    rng = np.random.default_rng(0)
    areas = face_areas(mesh)
    faces = rng.choice(len(areas), PLACES, p=areas / areas.sum())
    one, other = np.sqrt(rng.random(PLACES)), rng.random(PLACES)
    shares = np.column_stack([1 - one, one * (1 - other), one * other])[..., np.newaxis]
    points, at = (shares * mesh.corners[faces]).sum(axis=1), (shares * texture.places[faces]).sum(axis=1)
    height, width = texture.image.shape[:2]
    columns, rows = ((at[:, axis] * side - 0.5).astype(np.float32) for axis, side in ((0, width), (1, height)))
    places = columns.reshape(-1, 100), rows.reshape(-1, 100)
    found = cv2.remap(texture.image, *places, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    seen = np.asarray(found, dtype=np.uint8).reshape(-1, 3)
    return float(np.linalg.norm(oklab_of(seen) - oklab_of(asked(points, faces)), axis=1).mean())
