"""A shield with a rounded rim and a bar across, as heights, for a crest to lie on."""

import cv2
import numpy as np

from nebrel.demo.pictures.stamps import Grid

WIDTH_PX, HEIGHT_PX = 900, 1060
FIELD, RIM, BAR = 0.55, 1.0, 0.72
RIM_PX, BAR_PX, SWELL = 34.0, 26.0, 0.12


def draw_shield() -> Grid:
    """Tones (1060, 900), black around the shield."""
    outline = np.zeros((HEIGHT_PX, WIDTH_PX), np.uint8)
    cv2.fillPoly(outline, [np.round(_outline() * 16).astype(np.int32)], 255, cv2.LINE_AA, shift=4)
    away = cv2.distanceTransform((outline > 127).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    away = cv2.GaussianBlur(away, (0, 0), 1.2).astype(np.float64)
    field = FIELD + SWELL * np.clip((away - RIM_PX) / (away.max() - RIM_PX), 0, 1) ** 0.6
    row = np.arange(HEIGHT_PX)[:, None]
    bar = BAR * np.sqrt(np.clip(1 - ((row - 0.31 * HEIGHT_PX) / BAR_PX) ** 2, 0, 1))
    field = np.maximum(field, np.where(bar > 0, bar + SWELL, 0))
    bead = FIELD + (RIM - FIELD) * np.sqrt(np.clip(1 - (2 * away / RIM_PX - 1) ** 2, 0, 1))
    heights = np.where(away < RIM_PX, np.maximum(bead, np.where(away > RIM_PX / 2, FIELD, 0)), field)
    return np.asarray(heights * (outline / 255.0), dtype=np.float64)


def _outline() -> Grid:
    """Corners along the shield, (K, 2) pixels: level above with a dip on either side of its middle, a point below."""
    across = np.linspace(-1, 1, 241)
    above = 0.085 - 0.028 * np.cos(2 * np.pi * across) * (1 - across**2)
    down = np.linspace(0, 1, 241)
    side = np.cos(np.pi / 2 * np.clip((down - 0.25) / 0.75, 0, 1)) ** 0.72
    right = np.column_stack([side, above[-1] + down * (0.955 - above[-1])])
    left = (right * (-1, 1))[::-1]
    points = np.vstack([np.column_stack([across, above]), right[1:], left[:-1]])
    return np.column_stack([WIDTH_PX * (0.5 + 0.44 * points[:, 0]), HEIGHT_PX * points[:, 1]])
