"""Height rules: from tones to millimetres."""

from nebrel.core.height.field import HeightField
from nebrel.core.height.rule import Raise, straight_heights
from nebrel.core.height.smooth import smoothed

__all__ = ["HeightField", "Raise", "smoothed", "straight_heights"]
