"""From the recipe of a figure's depth to the source that gives it."""

import cv2
import numpy as np

from nebrel.core.errors import BadPictureError
from nebrel.core.figure.colour import behind as laid_behind
from nebrel.core.figure.colour import beyond_the_cut
from nebrel.core.figure.depth import DepthPicture, DepthSource, from_outline
from nebrel.core.figure.learned import LearnedDepth
from nebrel.core.figure.own_network import OwnNetwork
from nebrel.core.figure.shading import Shading
from nebrel.core.picture import Picture
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.figure.document import FigureDepth

NO_NETWORK = "No network is chosen; put one into the folder of models and choose it, or take depth from the outline."
NO_DEPTHS = "No depth picture is chosen; choose one, or take depth from the outline."
NOT_ASKED = "The service has not made depths yet; ask it, or take depth from the outline."
# What is said where a source needs a file and has none.
LACKING = {"own": NO_NETWORK, "picture": NO_DEPTHS, "service": NOT_ASKED}


def depth_source(depth: FigureDepth, picture: Picture, sources: Sources) -> DepthSource:
    """Where depth comes from.

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
        behind = None
        if depth.kind == "picture" and depth.behind_blob is not None:
            own = sources.picture(depth.behind_blob, depth.behind_name)
            behind = laid_behind(own.tones, own.coverage, picture.coverage)
        return DepthPicture(np.asarray(tones, dtype=np.float32), span, behind)
    seen = np.repeat(picture.tones[..., np.newaxis], 3, axis=2) if picture.rgb is None else picture.rgb
    whole = beyond_the_cut(seen, picture.coverage)
    if depth.kind == "learned":
        return LearnedDepth(whole)
    if depth.kind == "light":
        return Shading(whole, depth.shading)
    assert depth.blob is not None
    return OwnNetwork(sources.read(depth.blob), depth.name, depth.card.to_core(), whole, depth.span_mm)
