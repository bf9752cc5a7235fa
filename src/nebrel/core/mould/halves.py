"""The faces of a mould as height fields: the cavity sunk, with draft, keys and a channel to pour through."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.height import HeightField, add_draft, with_lines
from nebrel.core.mould.cavity import Cavity, Depths
from nebrel.core.mould.wish import MouldWish

# Cones narrow to this share of their foot and are as tall as this share of it; one of them stands further in.
NARROWS, TALL, OFF_CORNER = 0.6, 0.5, 1.8
FUNNEL = 1.7
# Slopes are held to about that.
DRAFT_SPARE_DEG = 0.75


@dataclass(frozen=True)
class Half:
    """One part of a mould.

    Attributes:
        name: what it is called.
        field: heights over its floor, seen from the cavity.
        parting: mm over its floor, the level of its rim.
        keyed: bool (H, W), samples that belong to a key or its hole.
    """

    name: str
    field: HeightField
    parting: float
    keyed: NDArray[np.bool_]


def mould_halves(cavity: Cavity, wish: MouldWish, tolerance: float, lined: bool = True) -> list[Half]:
    """The parts of a mould around a cavity.

    Parts are seen from their cavity: the front is turned over for that, so left and right change places.

    Args:
        cavity: with room for the rim around it.
        wish: what it is to be like.
        tolerance: mm, how true lines along which it jumps are to be.
        lined: whether walls follow curves where it jumps.

    Raises:
        BadValueError: keys do not fit the rim.
    """
    if wish.kind == "halves" and wish.keys > 0 and wish.keys > wish.rim - 2 * cavity.pitch:
        raise BadValueError(
            f"Keys of {wish.keys:g} mm do not fit on a rim of {wish.rim:g} mm; narrower ones, or a wider rim, would be "
            "accepted."
        )
    channel = _channel(cavity, wish) if wish.kind == "halves" else np.zeros_like(cavity.front)
    cones = _cones(cavity, wish) if wish.kind == "halves" and wish.keys > 0 else None
    names = {"open": ("Mould",), "die": ("Die",), "halves": ("Front half", "Back half")}[wish.kind]
    made = []
    for name, depths in zip(names, (cavity.front, cavity.back), strict=False):
        front = name != "Back half"
        sunk = _turned_over(np.maximum(depths, channel)) if front else np.maximum(depths, channel)
        field = _sunk(sunk, cavity.pitch, wish.draft_deg, tolerance if lined else None)
        parting = float(field.heights.max())
        keyed = np.zeros(sunk.shape, dtype=bool)
        if cones is not None:
            field, keyed = _with_keys(field, cones, front)
        made.append(Half(name, field, parting, keyed))
    return made


def _sunk(depths: Depths, pitch: float, draft_deg: float, tolerance: float | None) -> HeightField:
    """Heights over the deepest place, with walls that lean as asked: wider towards the parting; without a tolerance
    they do not follow curves."""
    field = HeightField(depths, np.ones_like(depths), pitch)
    field = field if tolerance is None else with_lines(field, tolerance)
    if draft_deg > 0:
        field = add_draft(field, 90 - min(draft_deg + DRAFT_SPARE_DEG, 89.0))
    deepest = np.float32(max(float(field.heights.max()), float(depths.max())))
    lines = field.lines
    if lines is not None:
        lines = replace(lines, beside=float(deepest) - lines.beside, heights=deepest - lines.heights)
    return replace(field, heights=deepest - field.heights, lines=lines)


def _with_keys(field: HeightField, cones: Depths, raised: bool) -> tuple[HeightField, NDArray[np.bool_]]:
    """The field with cones on its rim, or with holes for them, which are wider and deeper by the gap."""
    shown = _turned_over(cones[0]) if raised else cones[1]
    by = shown if raised else -shown
    lines = field.lines
    if lines is not None:
        lines = replace(lines, heights=lines.heights + by)
    return replace(field, heights=field.heights + by, lines=lines), shown > 0


def _cones(cavity: Cavity, wish: MouldWish) -> Depths:
    """Heights of the cones and depths of their holes, float32 (2, H, W), in the frame of the solid."""
    rows, columns = cavity.front.shape
    width, depth = (columns - 1) * cavity.pitch, (rows - 1) * cavity.pitch
    x = np.arange(columns) * cavity.pitch
    y = (rows - 1 - np.arange(rows))[:, None] * cavity.pitch
    inset, radius = wish.rim / 2, wish.keys / 2
    places = [(inset, inset), (width - inset, inset), (inset, depth - inset), (width - inset, depth - inset)]
    # One is off its corner, so that halves close one way round only.
    places[3] = (width - inset - min(OFF_CORNER * wish.keys, width / 3), depth - inset)
    made = np.zeros((2, rows, columns), dtype=np.float32)
    for across, up in places:
        away = np.hypot(x - across, y - up)
        # Holes are wider by half a sample besides, since both are straight between samples.
        for number, room in enumerate((0.0, wish.gap + cavity.pitch / 2)):
            tall, reach = TALL * wish.keys + room, radius + room
            steep = tall / ((1 - NARROWS) * radius)
            cone = np.clip((reach - away) * steep, 0, tall)
            made[number] = np.maximum(made[number], cone)
    return made


def _channel(cavity: Cavity, wish: MouldWish) -> Depths:
    """Depths of the channel that halves are poured through, half a round each, in the frame of the solid."""
    none = np.zeros_like(cavity.front)
    if wish.spout == "none":
        return none
    turns = {"below": 0, "right": -1, "above": 2, "left": 1}[wish.spout]
    there = np.rot90((cavity.front > 0) | (cavity.back > 0), turns)
    rows = np.flatnonzero(there.any(axis=1))
    if not len(rows):
        return none
    last = int(rows[-1])
    middle = float(np.flatnonzero(there[last]).mean())
    radius = wish.spout_width / 2 / cavity.pitch
    down, across = np.arange(there.shape[0])[:, None], np.arange(there.shape[1])
    # It begins within the cavity, and widens to the edge of the block.
    from_cavity = np.clip((down - last) / max(there.shape[0] - 1 - last, 1), 0, 1)
    reach = radius * (1 + (FUNNEL - 1) * from_cavity)
    round_ = np.sqrt(np.maximum(reach**2 - (across - middle) ** 2, 0)) * cavity.pitch
    made = np.where(down >= last - radius, round_, 0).astype(np.float32)
    return np.ascontiguousarray(np.rot90(made, -turns))


def _turned_over(depths: Depths) -> Depths:
    return np.ascontiguousarray(depths[:, ::-1])
