"""A figure in the round from a cut-out picture, step by step."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadPictureError
from nebrel.core.figure.depth import DepthSource, from_outline
from nebrel.core.figure.form import Back, BackKind, FigureForm, back_of, with_detail
from nebrel.core.figure.hand import HandStroke, left_to_move, moved_by, pierce, shaped_front, swelled
from nebrel.core.figure.order import PartMark, Shift, come_nearer, shift_of, stepped
from nebrel.core.figure.parts import find_parts
from nebrel.core.figure.silhouette import Silhouette
from nebrel.core.figure.swell import Profile, meet_outline, profile_to, swell, thicken, widen
from nebrel.core.figure.symmetry import MirrorLine, alike, both_sides


@dataclass(frozen=True)
class Detail:
    """Fine relief of the picture for the front.

    Attributes:
        tones: float32 (H, W), as large as the source of the silhouette, 0 to 1.
        strength, radius: mm, see `with_detail`.
        behind: tones of the back likewise, as the front's picture lies, or None.
    """

    tones: NDArray[np.float32]
    strength: float
    radius: float
    behind: NDArray[np.float32] | None = None


@dataclass(frozen=True)
class Hand:
    """Strokes, and the picture by whose edges they tell parts.

    Attributes:
        strokes: in the order in which they were drawn.
        guide: float32 (H, W, C), as large as the source of the silhouette, 0 to 1.
        order: parts that stand before others, nearest first.
    """

    strokes: Sequence[HandStroke]
    guide: NDArray[np.float32]
    order: Sequence[PartMark] = ()


@dataclass(frozen=True)
class FigureWish:
    """What a figure is to be; lengths in mm.

    Attributes:
        profile, soft_rim: how it rises from its outline, and how wide the rim of a flat one is.
        thickness: the largest; None for `roundness` times as thick as it would swell to.
        roundness: see there.
        back, bulge, fade: what is behind, see `Back`.
        thinnest: least thickness everywhere.
        may_widen: whether parts that are narrower than that, seen from the front, are widened, or refused.
    """

    profile: Profile = "round"
    soft_rim: float = 3.0
    thickness: float | None = None
    roundness: float = 1.0
    back: BackKind = "mirror"
    bulge: float = 0.6
    fade: float = 0.0
    thinnest: float = 1.2
    may_widen: bool = True


@dataclass(frozen=True)
class ShapedFigure:
    """A figure before it has a surface.

    Attributes:
        form: its front and back.
        asked: the silhouette before hair-thin parts were widened.
        widened, thickened: how much of it, seen from the front, was added, and was made thicker, mm².
        unsure: see `Deepened`.
    """

    form: FigureForm
    asked: Silhouette
    widened: float
    thickened: float
    unsure: NDArray[np.float64] | None = None


def shape_figure(
    asked: Silhouette,
    wish: FigureWish,
    source: DepthSource = from_outline,
    hand: Hand | None = None,
    detail: Detail | None = None,
    line: MirrorLine | None = None,
) -> ShapedFigure:
    """Front and back over a silhouette.

    Args:
        asked: the outline.
        wish: what it is to be.
        source: where depth comes from.
        hand: strokes over it, or None.
        detail: fine relief, or None.
        line: about which both sides are alike, strokes too; None where they need not be.

    Raises:
        BadPictureError: parts are thinner than is to be made, and must not be widened.
    """
    strokes = () if hand is None else tuple(hand.strokes)
    if line is not None:
        strokes = both_sides(strokes, asked, line)
    asked = pierce(asked, strokes)
    if not asked.inside.any():
        raise BadPictureError("The holes take away all of the figure; smaller ones would be accepted.")
    silhouette, widened = widen(asked, wish.thinnest)
    if widened > 0 and not wish.may_widen:
        raise BadPictureError(
            f"{widened:.1f} mm² would have to be added to parts narrower than {wish.thinnest:g} mm; "
            "a wider figure, a smaller least thickness, or widening them would be accepted."
        )
    swollen = swell(silhouette)
    thickness = wish.thickness
    if thickness is None:
        thickness = 2 * wish.roundness * float(np.sqrt(swollen.max()))
    square = profile_to(swollen, wish.profile, max(thickness, wish.thinnest), wish.soft_rim)
    found = source(silhouette, square, strokes)
    square, parts = found.square, None
    if wish.thickness is not None:
        square = square * ((max(thickness, wish.thinnest) / 2) ** 2 / max(float(square.max()), 1e-12))
    if hand is not None and (strokes or hand.order):
        channels = [silhouette.sharp_on_grid(hand.guide[:, :, channel]) for channel in range(hand.guide.shape[2])]
        meant = [*strokes, *(mark.spot(silhouette) for mark in hand.order)]
        parts = find_parts(silhouette, np.dstack(channels), [stroke.on(silhouette) for stroke in meant])
        square = swelled(silhouette, square, strokes, parts)
    if line is not None:
        square = np.where(square > 0, alike(silhouette, np.sqrt(np.maximum(square, 0)), line) ** 2, square)
    square, thickened = thicken(square, silhouette, wish.thinnest)
    middle = found.middle_with(square)
    shifts: tuple[Shift, ...] = ()
    if parts is not None and hand is not None:
        by = moved_by(silhouette, middle, left_to_move(strokes, found.followed), parts)
        order = stepped(silhouette, middle + np.sqrt(np.maximum(square, 0)) + by, hand.order, parts)
        shifts = shift_of(by, silhouette.inside), order
    if line is not None:
        middle = alike(silhouette, middle, line)
        shifts = tuple(Shift(*(alike(silhouette, side, line) for side in (each.front, each.back))) for each in shifts)
    form = back_of(silhouette, middle, square, Back(wish.back, wish.bulge, wish.fade))
    form = come_nearer(form, *shifts)
    form = shaped_front(form, strokes)
    if detail is not None:
        form = with_detail(form, silhouette.on_grid(detail.tones), detail.strength, detail.radius)
        if detail.behind is not None:
            form = with_detail(form, silhouette.on_grid(detail.behind), detail.strength, detail.radius, -1)
    square, again = thicken(form.square, silhouette, wish.thinnest)
    middle, square = meet_outline(form.middle, square, silhouette)
    form = replace(form, middle=middle, square=square)
    area = float((thickened | again).sum()) * silhouette.pitch**2
    return ShapedFigure(form, asked, widened, area, found.unsure)
