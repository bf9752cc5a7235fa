"""Height rules: from tones to millimetres, and what the surface may be like."""

from nebrel.core.height.compress import compressed
from nebrel.core.height.field import HeightField
from nebrel.core.height.rule import Raise, curved_heights, cut_below, scaled_by, straight_heights
from nebrel.core.height.smooth import smoothed
from nebrel.core.height.steps import Terraces, found_steps, step_shares, terraces_of
from nebrel.core.height.surface import drafted, offset_inwards, rounded_edges, smoothed_keeping

__all__ = [
    "HeightField",
    "Raise",
    "Terraces",
    "compressed",
    "curved_heights",
    "cut_below",
    "drafted",
    "found_steps",
    "offset_inwards",
    "rounded_edges",
    "scaled_by",
    "smoothed",
    "smoothed_keeping",
    "step_shares",
    "straight_heights",
    "terraces_of",
]
