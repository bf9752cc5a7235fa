"""About which line both sides of a figure are alike."""

from dataclasses import replace

from nebrel.core.figure.silhouette import Silhouette, silhouette_of
from nebrel.core.figure.symmetry import MirrorLine, find_line
from nebrel.piece.kinds.figure.document import FigureSymmetry
from nebrel.piece.ops import PictureView

LINE_CELLS = 80


def mirror_line(symmetry: FigureSymmetry, view: PictureView, silhouette: Silhouette) -> MirrorLine | None:
    """About which both sides are alike; None where they need not be."""
    if not symmetry.on:
        return None
    if symmetry.by == "outline":
        coarse = silhouette_of(view.picture.coverage, view.mm_per_px, LINE_CELLS)
        return replace(find_line(coarse)[0], strength=symmetry.strength)
    width, tall = silhouette.box
    return MirrorLine(symmetry.at * width, tall / 2, symmetry.lean_deg, symmetry.strength)
