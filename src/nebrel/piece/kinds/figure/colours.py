"""From the recipe of a figure's colours to its coloured mesh."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from nebrel.core.figure.colour import behind, colour_figure, colour_places
from nebrel.core.figure.figure import Detail
from nebrel.core.figure.form import FigureForm
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.texture import corner_colours_at
from nebrel.core.picture import Picture
from nebrel.piece.depths.sources import seen
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.figure.document import FigureBack, FigureDetail, FigurePart

LUMA = np.array([0.299, 0.587, 0.114], dtype=np.float32)
Colours = NDArray[np.float32]


def coloured(mesh: TriMesh, form: FigureForm, figure: FigurePart, picture: Picture, sources: Sources) -> TriMesh:
    """The mesh with the picture's colours, where they are asked for."""
    if not figure.colour.on:
        return mesh
    own = picture_behind(figure.back, picture, sources)
    return colour_figure(mesh, form, seen(picture), picture.coverage, figure.colour.back, own)


def painted(
    mesh: TriMesh, form: FigureForm, figure: FigurePart, picture: Picture, sources: Sources
) -> Callable[[NDArray[np.float64], NDArray[np.int64]], NDArray[np.uint8]]:
    """What a texture of a finished figure shows at places of its faces: the colours of its mesh where it has any, else
    the picture at full resolution."""
    if mesh.corner_colours is not None or mesh.colours is not None:
        return lambda places, faces: corner_colours_at(mesh, places, faces)[:, :3]
    own, behind = seen(picture), picture_behind(figure.back, picture, sources)
    return lambda places, _: colour_places(places, form, own, picture.coverage, figure.colour.back, behind)


def colours_told(figure: FigurePart) -> list[object] | None:
    """The same for the key of what comes of it."""
    return (
        [figure.colour.model_dump(mode="json", exclude={"carried", "texture_px"}), figure.back.blob]
        if figure.colour.on
        else None
    )


def picture_behind(back: FigureBack, front: Picture, sources: Sources) -> Colours | None:
    """The picture of the back, float32 (H, W, 3), as it lies behind the front's; None where there is none."""
    if back.blob is None:
        return None
    found = sources.picture(back.blob, back.name)
    return behind(seen(found), found.coverage, front.coverage)


def detail_of(detail: FigureDetail, picture: Picture, own_back: Colours | None) -> Detail | None:
    """The fine relief that is asked for, or None."""
    if not detail.on:
        return None
    strength = detail.strength_mm if detail.tall == "bright" else -detail.strength_mm
    tones = None if own_back is None else np.asarray(own_back @ LUMA, dtype=np.float32)
    return Detail(picture.tones, strength, detail.radius_mm, tones)
