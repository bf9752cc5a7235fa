"""What a hand said of a figure, as the core takes it: strokes, parts in order, a line of symmetry."""

from dataclasses import replace

import numpy as np

from nebrel.core.figure.colour import beyond_the_cut
from nebrel.core.figure.figure import Hand
from nebrel.core.figure.hand import HandStroke
from nebrel.core.figure.order import PartMark
from nebrel.core.figure.silhouette import Silhouette, silhouette_of
from nebrel.core.figure.symmetry import MirrorLine, find_line
from nebrel.piece.kinds.figure.document import FigurePart, FigureSymmetry
from nebrel.piece.ops import PictureView

LINE_CELLS = 80


def hand_over(figure: FigurePart, view: PictureView) -> Hand | None:
    """What was said by hand over a view of the picture, or None where nothing was."""
    drawn = [
        HandStroke(
            stroke.kind,
            np.array([view.place((x, y)) for x, y, _ in stroke.places]),
            max(0.5, view.px(stroke.size_mm) / 2),
            stroke.amount_mm,
        )
        for stroke in figure.strokes
        if stroke.on
    ]
    order = [PartMark(np.array(view.place(part.at)), part.step_mm) for part in figure.order if part.on]
    if not drawn and not order:
        return None
    picture = view.picture
    seen = picture.tones[..., np.newaxis] if picture.rgb is None else picture.rgb
    # What was cut away is no part beside the outline.
    return Hand(drawn, beyond_the_cut(seen, picture.coverage), order)


def hand_told(figure: FigurePart) -> list[object]:
    """The same for the key of what comes of it."""
    strokes = [each.model_dump(mode="json", exclude={"id", "on"}) for each in figure.strokes if each.on]
    order = [each.model_dump(mode="json", exclude={"id", "on"}) for each in figure.order if each.on]
    return [strokes, order]


def mirror_line(symmetry: FigureSymmetry, view: PictureView, silhouette: Silhouette) -> MirrorLine | None:
    """About which both sides are alike; None where they need not be."""
    if not symmetry.on:
        return None
    if symmetry.by == "outline":
        coarse = silhouette_of(view.picture.coverage, view.mm_per_px, LINE_CELLS)
        return replace(find_line(coarse)[0], strength=symmetry.strength)
    width, tall = silhouette.box
    return MirrorLine(symmetry.at * width, tall / 2, symmetry.lean_deg, symmetry.strength)
