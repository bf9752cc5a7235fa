"""What a standing solid touches the bed with."""

from dataclasses import dataclass

import manifold3d
import numpy as np

from nebrel.core.csg.boolean import solid_of
from nebrel.core.mesh import TriMesh

# How far above its lowest place a solid still touches; in which steps, and how much at the most, may be cut off; mm.
TOUCHING, STEP, MOST_CUT = 0.02, 0.2, 6.0


@dataclass(frozen=True)
class Contact:
    """How wide what touches the bed is, mm, all along; and how much cut off below would make it wide enough, mm.

    `cut` is None where nothing has to be cut off, or no cut would do.
    """

    width: float
    cut: float | None


def contact_of(mesh: TriMesh, wide: float) -> Contact:
    """What a closed solid that stands touches the bed with.

    Args:
        mesh: closed, Z up.
        wide: mm that it is to be wide.
    """
    low = float(mesh.vertices[:, 2].min())
    solid = solid_of(mesh)
    width = _mean_width(solid.slice(low + TOUCHING))
    if width >= wide:
        return Contact(width, None)
    for cut in np.arange(STEP, MOST_CUT + STEP / 2, STEP):
        if _mean_width(solid.slice(low + float(cut))) >= wide:
            return Contact(width, round(float(cut), 3))
    return Contact(width, None)


def _mean_width(section: manifold3d.CrossSection) -> float:
    """How wide a section is: a ring's area over half of its outline."""
    outline = sum(
        float(np.linalg.norm(ring - np.roll(ring, 1, axis=0), axis=1).sum())
        for ring in map(np.asarray, section.to_polygons())
    )
    return 2 * float(section.area()) / outline if outline > 0 else 0.0
