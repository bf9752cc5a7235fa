"""From the recipe of a depth to the source that gives it."""

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadPictureError
from nebrel.core.figure.colour import behind as laid_behind
from nebrel.core.figure.colour import beyond_the_cut
from nebrel.core.figure.depth import DepthPicture, DepthSource, from_outline
from nebrel.core.figure.learned import LearnedDepth
from nebrel.core.figure.own_network import OwnNetwork
from nebrel.core.figure.shading import Shading
from nebrel.core.picture import Picture
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.parts.depth import DepthKind, DepthPart

# Sources of depth that need no file.
ALWAYS_THERE: tuple[DepthKind, ...] = ("swell", "learned", "light")
NO_NETWORK = "No network is chosen; put one into the folder of models and choose it, or take depth from the outline."
NO_DEPTHS = "No depth picture is chosen; choose one, or take depth from the outline."
NOT_ASKED = "The service has not made depths yet; ask it, or take depth from the outline."
# What is said where a source needs a file and has none.
LACKING = {"own": NO_NETWORK, "picture": NO_DEPTHS, "service": NOT_ASKED}


def compared_kinds(depth: DepthPart) -> list[DepthKind]:
    """The source of a depth, and those others that need no file."""
    return [depth.kind, *(kind for kind in ALWAYS_THERE if kind != depth.kind)]


def depth_source(
    depth: DepthPart, picture: Picture, sources: Sources, behind: tuple[str, str] | None = None
) -> DepthSource:
    """Where depth comes from.

    Args:
        depth: what is asked for.
        picture: the prepared picture.
        sources: of files.
        behind: blob and name of a depth picture of the back, or None.

    Raises:
        BadPictureError: a file is needed, and none is chosen.
    """
    if depth.kind == "swell":
        return from_outline
    if depth.kind in LACKING and depth.blob is None:
        raise BadPictureError(LACKING[depth.kind])
    if depth.kind in ("picture", "service"):
        assert depth.blob is not None
        tones = cv2.resize(
            sources.picture(depth.blob, depth.name).tones, picture.shape[::-1], interpolation=cv2.INTER_AREA
        )
        span = -depth.span_mm if depth.kind == "picture" and depth.near == "dark" else depth.span_mm
        back = None
        if depth.kind == "picture" and behind is not None:
            own = sources.picture(*behind)
            back = laid_behind(own.tones, own.coverage, picture.coverage)
        return DepthPicture(np.asarray(tones, dtype=np.float32), span, back)
    whole = beyond_the_cut(seen(picture), picture.coverage)
    if depth.kind == "learned":
        return LearnedDepth(whole)
    if depth.kind == "light":
        return Shading(whole, depth.shading)
    assert depth.blob is not None
    return OwnNetwork(sources.read(depth.blob), depth.name, depth.card.to_core(), whole, depth.span_mm)


def seen(picture: Picture) -> NDArray[np.float32]:
    """Colours of a picture, float32 (H, W, 3); gray where it has none."""
    return np.repeat(picture.tones[..., np.newaxis], 3, axis=2) if picture.rgb is None else picture.rgb
