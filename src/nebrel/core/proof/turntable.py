"""A solid turned once round before the eye, picture by picture."""

from collections.abc import Iterator
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.shading import shade
from nebrel.core.proof.render import Viewpoint, render

Up = Literal["y", "z"]
FEWEST_FRAMES, MOST_FRAMES = 4, 720
LEAST_PX, MOST_PX = 64, 2048
LIGHT_FROM_DEG, LIGHT_ABOVE_DEG = 128.0, 34.0


def likely_up(mesh: TriMesh) -> Up:
    """Which way is up: Y where the mesh is taller that way than deep, as figures and what lies on a bed are."""
    _, tall, deep = np.ptp(mesh.vertices, axis=0)
    return "y" if tall > deep else "z"


def from_front(mesh: TriMesh, size_px: tuple[int, int]) -> NDArray[np.uint8]:
    """A mesh whose Y points up as the viewer sees it who looks against Z, uint8 (H, W, 3) sRGB."""
    view = Viewpoint(turn_deg=0, tilt_deg=0, light_from_deg=LIGHT_FROM_DEG, light_above_deg=LIGHT_ABOVE_DEG)
    return render(shade(mesh), *size_px, view)


def turntable(
    mesh: TriMesh, frames: int, size_px: tuple[int, int], up: Up, tilt_deg: float = 12.0
) -> Iterator[NDArray[np.uint8]]:
    """Pictures of a mesh turned once round its upright axis, evenly, beginning from in front.

    The lamp stays where it is, and the mesh is as large in every picture.

    Args:
        mesh: in its own colours, or as plaster.
        frames: 4 to 720.
        size_px: width and height, 64 to 2048 each.
        up: the axis that points up; in front of it the viewer looks against Z where Y is up, and along Y where Z is.
        tilt_deg: how far the eye looks down on it, -80 to 80.

    Yields:
        uint8 (H, W, 3) sRGB.

    Raises:
        BadValueError: something is out of range.
    """
    if not FEWEST_FRAMES <= frames <= MOST_FRAMES:
        raise BadValueError(f"{frames} frames; {FEWEST_FRAMES} to {MOST_FRAMES} would be accepted.")
    if not all(LEAST_PX <= side <= MOST_PX for side in size_px):
        raise BadValueError(f"{size_px[0]} × {size_px[1]} pixels; {LEAST_PX} to {MOST_PX} a side would be accepted.")
    if not -80 <= tilt_deg <= 80:
        raise BadValueError(f"The eye looks down by {tilt_deg:g}°; -80 to 80 would be accepted.")
    return _turned(mesh, frames, size_px, up, tilt_deg)


def _turned(
    mesh: TriMesh, frames: int, size_px: tuple[int, int], up: Up, tilt_deg: float
) -> Iterator[NDArray[np.uint8]]:
    middle = (mesh.vertices.min(axis=0) + mesh.vertices.max(axis=0)) / 2
    centred = TriMesh(mesh.vertices - middle, mesh.faces, mesh.colours, mesh.corner_colours)
    shaded = shade(centred)
    across = 2 * float(np.linalg.norm(centred.vertices, axis=1).max())
    for frame in range(frames):
        view = Viewpoint(
            turn_deg=360.0 * frame / frames,
            # From in front is 0 where Y is up, and 90 where Z is.
            tilt_deg=-tilt_deg if up == "y" else 90.0 - tilt_deg,
            light_from_deg=LIGHT_FROM_DEG,
            light_above_deg=LIGHT_ABOVE_DEG,
            upright=up == "z",
            lamp_stays=True,
            across=across,
        )
        yield render(shaded, *size_px, view)
