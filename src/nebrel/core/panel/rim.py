"""Cross-sections of frames and edges, as heights over the distance from the outline."""

import math

import numpy as np

from nebrel.core.panel.body import Frame, PanelBody

STEPS = 10
Profile = list[tuple[float, float]]


def frame_profile(frame: Frame, backing: float) -> Profile:
    """(distance inwards, height) in mm of a frame's top, from the outline to its inner edge."""
    top, width = backing + frame.height, frame.width
    if frame.profile == "flat":
        return [(0.0, top), (width, top)]
    if frame.profile == "bevel":
        return [(0.0, top), (width / 2, top), (width, backing)]
    turns = np.linspace(0, 1, STEPS + 1)
    if frame.profile == "round":
        return [
            (width * (1 - math.cos(math.pi * turn)) / 2, backing + frame.height * math.sin(math.pi * turn))
            for turn in turns.tolist()
        ]
    return [
        (width * (1 - math.cos(math.pi / 2 * turn)), top - frame.height * math.sin(math.pi / 2 * turn))
        for turn in turns.tolist()
    ]


def edge_profile(body: PanelBody, top: float, edge_top: float) -> Profile | None:
    """(distance inwards, greatest height) in mm that bevel and leaning walls leave, or None when they leave all.

    Args:
        body: with its bevel and wall draft.
        top: above everything.
        edge_top: the highest point along the outline, from which the bevel is taken.
    """
    lean = math.tan(math.radians(body.wall_draft_deg))
    bevel = min(body.bevel, 0.95 * edge_top)
    if bevel <= 0 and lean <= 0:
        return None
    foot = edge_top - bevel
    profile: Profile = [(0.0, 0.0)] if lean > 0 else [(0.0, foot)]
    if lean > 0:
        profile.append((foot * lean, foot))
    if bevel > 0:
        profile.append((foot * lean + bevel, edge_top))
    if top > edge_top:
        last, height = profile[-1]
        slope = max(lean, 1e-3)
        profile.append((last + (top - height) * slope, top))
    return profile
