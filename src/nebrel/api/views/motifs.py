"""Motifs as small pictures."""

import io

from PIL import Image

from nebrel.core.picture import read_picture
from nebrel.jobs.lookers import Room

THUMB_PX = 220
PAPER, INK = 0.93, 0.25


def motif_png(room: Room, motif_id: str) -> bytes:
    """A motif on paper."""
    motif = room.workshop.motifs.get(motif_id)
    data = room.workshop.blobs.read(motif.content.picture_blob)
    small = read_picture(data, "motif.png", room.workshop.settings.read_limits, longest_px=THUMB_PX)
    shade = INK + (1 - INK) * (1 - small.tones) * 0.6
    gray = small.coverage * shade + (1 - small.coverage) * PAPER
    held = io.BytesIO()
    Image.fromarray((gray.clip(0, 1) * 255).round().astype("uint8")).save(held, "PNG")
    return held.getvalue()
