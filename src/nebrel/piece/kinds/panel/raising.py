"""From the prepared picture to heights: rule, mask, and what the surface may be like, in that order."""

from collections.abc import Callable
from dataclasses import replace

import cv2
import numpy as np

from nebrel.core.bas_relief.heights import add_fine_tones, relief_heights, room_for_tones
from nebrel.core.bas_relief.nearness import Nearness
from nebrel.core.bas_relief.stage import is_scene
from nebrel.core.errors import BadValueError
from nebrel.core.height import (
    HeightField,
    add_draft,
    compress_heights,
    curved_heights,
    cut_below,
    level_heights,
    one_tone,
    round_edges,
    scale_by,
    smooth_keeping,
    straight_heights,
    terraces_of,
    with_lines,
)
from nebrel.core.height.from_edge import edge_heights
from nebrel.core.height.textures import textured
from nebrel.core.picture import Picture
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.kinds.panel.height import HeightMask
from nebrel.piece.kinds.panel.rule import HeightRule

Progress = Callable[[str, float], None]
MaskReader = Callable[[str, str], Picture]
LONGEST_SIDE_MM = 3000.0
RULE, SURFACE = "Raising the heights", "Shaping the surface"


def raise_heights(
    picture: Picture,
    document: PanelDocument,
    near: Callable[[], Nearness],
    read_mask: MaskReader,
    progress: Progress,
) -> HeightField:
    """Heights above the backing of a piece, before the hand and what its surface is to be like.

    Args:
        picture: the prepared one.
        document: of the piece.
        near: how near everything in the picture is; asked where heights follow that.
        read_mask: reads the height mask by its blob and name.
        progress: told by stage and fraction.

    Raises:
        BadValueError: the piece would be too long, or its rule cannot be followed.
        BadPictureError: nothing would stand out.
    """
    _refuse_long(picture, document)
    height = document.height
    cut = cut_below(picture, height.cut.tone) if height.cut.on else picture
    if height.form.on:
        field = _by_form(picture, cut, document, near(), lambda part: progress(RULE, part))
    else:
        field = _by_own_rule(cut, document, lambda part: progress(RULE, part))
    if height.mask.on and height.mask.blob is not None:
        field = scale_by(field, _mask(height.mask, read_mask, picture.shape))
    if height.smooth_on:
        field = smooth_keeping(field, height.smooth_mm, height.smooth_keep_mm, height.smooth_where)
    return textured(field, height.texture.to_core()) if height.texture.on else field


def shape_heights(raised: HeightField, document: PanelDocument, tolerance: float, progress: Progress) -> HeightField:
    """Heights after what the surface is to be like: lines along edges, walls that lean, rounding.

    Args:
        raised: of `raise_heights`, after strokes.
        document: of the piece.
        tolerance: mm, how true lines along which heights jump are to be.
        progress: told by stage and fraction.
    """
    height, field = document.height, raised
    # Terraces whose walls lean have outlines of their own.
    if height.edges.on and not height.rounding.on and not (height.draft.on and field.terraces is not None):
        field = with_lines(field, tolerance)
    if height.draft.on:
        field = add_draft(field, 90 - height.draft.wall_deg, lambda part: progress(SURFACE, part))
    if height.rounding.on:
        field = round_edges(field, height.rounding.radius_mm, lambda part: progress(SURFACE, part))
        field = with_lines(field, tolerance) if height.edges.on else field
    return field


def _by_form(
    picture: Picture, cut: Picture, document: PanelDocument, near: Nearness, progress: Callable[[float], None]
) -> HeightField:
    form, pitch = document.height.form, document.width_mm / (picture.shape[1] - 1)
    grounded = not is_scene(picture.coverage)
    heights = relief_heights(near, picture.coverage, form.shallow(grounded), progress)
    if form.of == "both" and form.fine.strength_mm > 0:
        room = room_for_tones(near, picture.shape, form.step_mm)
        heights = add_fine_tones(heights, picture.tones, picture.coverage, pitch, form.fine.to_core(), room)
    coverage = np.ones_like(picture.coverage) if grounded and form.ground else picture.coverage
    if cut is not picture:
        coverage = np.minimum(coverage, np.where(picture.coverage >= 0.5, cut.coverage, 1)).astype(np.float32)
    return HeightField(heights, coverage, pitch)


def _by_own_rule(picture: Picture, document: PanelDocument, progress: Callable[[float], None]) -> HeightField:
    rule, width = document.height.rule, document.width_mm
    tone = one_tone(picture) if document.picture.is_sheet or document.height.laid else None
    if tone is not None:
        return level_heights(picture, rule.height_of(tone), width)
    return by_rule(picture, rule, width, progress)


def by_rule(
    picture: Picture, rule: HeightRule, width: float, progress: Callable[[float], None] = lambda _: None
) -> HeightField:
    """Heights of a picture over the lowest that a rule can give.

    Args:
        picture: of more than one tone.
        rule: which tone stands how tall.
        width: of the picture, mm.
        progress: told by the fraction done.

    Raises:
        BadPictureError, BadValueError: the rule cannot be followed.
    """
    if rule.kind == "curve":
        return curved_heights(picture, rule.tall, rule.relief_mm, width, rule.points, progress)
    if rule.kind == "steps":
        terraces = terraces_of(picture, [(step.tone, step.mm) for step in rule.steps])
        heights = terraces.levels[terraces.labels].astype(np.float32)
        return HeightField(heights, picture.coverage, width / (picture.shape[1] - 1), terraces)
    if rule.kind == "edge":
        return edge_heights(picture, rule.tall, width, rule.from_edge(), progress)
    field = straight_heights(picture, rule.tall, rule.relief_mm, width, lambda part: progress(part / 3))
    if rule.kind == "straight" or rule.strength == 0:
        progress(1.0)
        return field
    return replace(
        field,
        heights=compress_heights(
            field.heights, field.material, rule.strength, lambda part: progress((1 + 2 * part) / 3)
        ),
    )


def _mask(mask: HeightMask, read_mask: MaskReader, shape: tuple[int, ...]) -> np.ndarray:
    tones = read_mask(mask.blob or "", mask.name).tones
    smaller = shape[0] < tones.shape[0]
    fitted = cv2.resize(tones, (shape[1], shape[0]), interpolation=cv2.INTER_AREA if smaller else cv2.INTER_LINEAR)
    scale = np.clip(fitted, 0, 1).astype(np.float32)
    return 1 - scale if mask.invert else scale


def _refuse_long(picture: Picture, document: PanelDocument) -> None:
    rows, columns = picture.shape
    depth = document.width_mm * (rows - 1) / (columns - 1)
    if depth > LONGEST_SIDE_MM:
        raise BadValueError(
            f"At {document.width_mm:g} mm wide this tall picture would be {depth:,.0f} mm high; "
            f"up to {LONGEST_SIDE_MM:,.0f} mm are accepted."
        )
