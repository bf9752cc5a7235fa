"""What a hand said of a depth, as the core takes it: strokes, and parts in order."""

from collections.abc import Sequence

import numpy as np

from nebrel.core.figure.colour import beyond_the_cut
from nebrel.core.figure.figure import Hand
from nebrel.core.figure.hand import HandStroke
from nebrel.core.figure.order import PartMark
from nebrel.piece.ops import PictureView
from nebrel.piece.parts.depth_strokes import DepthStroke, OrderedPart


def hand_over(strokes: Sequence[DepthStroke], order: Sequence[OrderedPart], view: PictureView) -> Hand:
    """What was said by hand over a view of the picture, and the picture by whose edges it is meant."""
    drawn = [
        HandStroke(
            stroke.kind,
            np.array([view.place((x, y)) for x, y, _ in stroke.places]),
            max(0.5, view.px(stroke.size_mm) / 2),
            stroke.amount_mm,
        )
        for stroke in strokes
        if stroke.on
    ]
    marks = [PartMark(np.array(view.place(part.at)), part.step_mm) for part in order if part.on]
    picture = view.picture
    seen = picture.tones[..., np.newaxis] if picture.rgb is None else picture.rgb
    # What was cut away is no part beside the outline.
    return Hand(drawn, beyond_the_cut(seen, picture.coverage), marks)


def hand_told(strokes: Sequence[DepthStroke], order: Sequence[OrderedPart]) -> list[object]:
    """The same for the key of what comes of it."""
    told: list[object] = []
    for items in (strokes, order):
        told.append([each.model_dump(mode="json", exclude={"id", "on"}) for each in items if each.on])
    return told
