"""Height rules: from tones to millimetres, and what the surface may be like."""

from nebrel.core.height.compress import compress_heights
from nebrel.core.height.field import HeightField
from nebrel.core.height.lined import with_lines
from nebrel.core.height.rule import (
    Raise,
    curved_heights,
    cut_below,
    level_heights,
    one_tone,
    scale_by,
    straight_heights,
)
from nebrel.core.height.smooth import smooth
from nebrel.core.height.steps import Terraces, found_steps, step_shares, terraces_of
from nebrel.core.height.surface import add_draft, offset_inwards, round_edges, smooth_keeping

__all__ = [
    "HeightField",
    "Raise",
    "Terraces",
    "add_draft",
    "compress_heights",
    "curved_heights",
    "cut_below",
    "found_steps",
    "level_heights",
    "offset_inwards",
    "one_tone",
    "round_edges",
    "scale_by",
    "smooth",
    "smooth_keeping",
    "step_shares",
    "straight_heights",
    "terraces_of",
    "with_lines",
]
