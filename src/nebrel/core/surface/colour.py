"""Colours of decorations: one colour up to its outline, or those of a picture."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh import TriMesh
from nebrel.core.surface.displace.raise_mesh import Raised
from nebrel.core.surface.subdivide.carving import Carving, Field, Laid

PLASTER = (233, 223, 205, 255)
_Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Looks:
    """What a decoration looks like.

    Attributes:
        colour: red, green, blue and opacity, 0 to 255, or None for that of the model.
        picture: float32 (H, W, 3) in 0..1, colours over the samples of the art's tones, or None.
    """

    colour: tuple[int, int, int, int] | None = None
    picture: NDArray[np.float32] | None = None


def colour_faces(
    carving: Carving, result: Raised, looks: list[Looks], laid: list[list[Laid]], of_decoration: _Ints
) -> TriMesh:
    """The mesh with the colours of its decorations, which end exactly at its edges; what has none keeps the model's."""
    mesh = result.mesh
    if not any(look.colour or look.picture is not None for look in looks):
        return mesh
    base = np.array(PLASTER, dtype=np.uint8)
    plain = np.broadcast_to(base, (len(mesh.faces), 3, 4)) if mesh.colours is None else mesh.colours[mesh.faces]
    corners, owner, first = plain.copy(), carving.owner, 1
    for number, (look, parts) in enumerate(zip(looks, laid, strict=True), start=1):
        if look.colour:
            corners[of_decoration == number] = look.colour
        for at, part in enumerate(parts, start=first):
            if look.picture is not None and part.field is not None:
                faces = np.flatnonzero((result.piece >= 0) & ~result.wall & (owner[np.maximum(result.piece, 0)] == at))
                carving.show(part.chart)
                corners[faces] = _look_up(look.picture, part.field, carving.pieces.corner_place[result.piece[faces]])
        first += len(parts)
    return replace(mesh, colours=None, corner_colours=corners)


def _look_up(picture: NDArray[np.float32], field: Field, places: NDArray[np.float64]) -> NDArray[np.uint8]:
    """Colours at the corners of pieces, float64 (K, 3, 2) mm in their chart, as uint8 (K, 3, 4)."""
    from scipy.ndimage import map_coordinates

    where = places.reshape(-1, 2) @ field.to_grid[:, :2].T + field.to_grid[:, 2]
    rows_columns = np.stack([where[:, 1], where[:, 0]])
    found = [
        map_coordinates(
            picture[..., channel].astype(np.float64), rows_columns, order=1,
            mode="grid-wrap" if field.tiled else "nearest",
        )
        for channel in range(3)
    ]  # fmt: skip
    colours = np.full((len(where), 4), 255, dtype=np.uint8)
    colours[:, :3] = np.round(np.stack(found, axis=1).clip(0, 1) * 255)
    return colours.reshape(-1, 3, 4)
