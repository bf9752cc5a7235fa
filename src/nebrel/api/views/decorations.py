"""Decorations as messages: where one would lie, what it snaps to, what it lays."""

import io
import math
from typing import Literal

import numpy as np
from PIL import Image

from nebrel.api.messages.models import PlacementDraft, PlacementHead, SnapDraft, SnapView
from nebrel.api.serving.frames import pack_frame
from nebrel.api.views.look import Look
from nebrel.core.outline_files.read import read_drawing
from nebrel.core.picture import read_picture, shrink_to
from nebrel.jobs.library import painted
from nebrel.jobs.lookers import Room
from nebrel.piece.evaluation.abilities import HasSkin

MASK_PX = 512


def placement_frame(look: Look, draft: PlacementDraft) -> bytes:
    """Where a decoration would lie, as `place_decoration` tells it."""
    skin = look.piece.having(HasSkin)
    found = skin.placement(draft.decoration, draft.most_copies, draft.quick)
    first = found.copies[0]
    stretch = np.minimum(np.nan_to_num(found.stretch, posinf=9.0), 9.0)
    head = PlacementHead(
        at=_three(first.place.point),
        out=_three(first.tangents.out),
        up=_three(first.tangents.up),
        right=_three(first.tangents.right),
        size_mm=skin.art_size(draft.decoration),
        handles=found.handles,
        copies=len(found.copies),
        description=found.description,
        most_stretch=found.most_stretch,
    )
    arrays: dict[str, np.ndarray] = {
        "corners": found.corners.astype(np.float32),
        "shares": found.shares.astype(np.float32),
        "stretch": stretch.astype(np.float32),
    }
    return pack_frame(head, arrays)


def snapped(look: Look, draft: SnapDraft) -> SnapView:
    """The place that a decoration snaps to from where it is."""
    found = look.piece.having(HasSkin).snapped(draft.at, draft.up, draft.to)
    return SnapView(at=_three(found.point))


def art_png(room: Room, kind: Literal["picture", "outline"], blob: str) -> bytes:
    """What a decoration lays, white and see-through where nothing stands out."""
    data = room.workshop.blobs.read(blob)
    if kind == "outline":
        picture, _ = painted(read_drawing(data, "motif.svg").figure)
        alpha = shrink_to(picture, MASK_PX).coverage
    else:
        picture = read_picture(data, "picture", room.workshop.settings.read_limits, longest_px=MASK_PX)
        alpha = picture.coverage * picture.tones
    samples = np.full((*alpha.shape, 4), 255, np.uint8)
    samples[..., 3] = np.round(alpha.clip(0, 1) * 255)
    held = io.BytesIO()
    Image.fromarray(samples, "RGBA").save(held, "PNG")
    return held.getvalue()


def _three(values: np.ndarray) -> tuple[float, float, float]:
    x, y, z = (float(value) for value in values)
    return (x, y, z) if all(map(math.isfinite, (x, y, z))) else (0.0, 0.0, 0.0)
