"""Garden figures of the demo: their pictures show what their solids are."""

import numpy as np
import pytest

from nebrel.core.heightfield.from_above import heights_from_above
from nebrel.core.proof import check_soundness
from nebrel.demo.models.garden import GARDEN, garden_mesh
from nebrel.demo.pictures.garden import draw_garden


@pytest.mark.parametrize("name", GARDEN)
def test_solids_are_sound_and_seen_as_they_are_drawn(name):
    mesh = garden_mesh(name)
    assert check_soundness(mesh).sound
    _, covered = draw_garden(name, "left")
    rows, columns = (np.flatnonzero((covered > 0.5).any(axis=axis)) for axis in (1, 0))
    seen = heights_from_above(mesh, max(np.ptp(rows), np.ptp(columns)) + 1).material > 0.5
    drawn = covered[rows[0] : rows[0] + seen.shape[0], columns[0] : columns[0] + seen.shape[1]] > 0.5
    assert (drawn == seen[: drawn.shape[0], : drawn.shape[1]]).mean() > 0.98


def test_lamps_light_their_own_side_and_drawings_none():
    sides = {}
    for look in ("left", "right", "drawing"):
        colours, covered = draw_garden("jug", look)
        inside = covered > 0.99
        columns = np.flatnonzero(inside.any(axis=0))
        middle = int(columns[len(columns) // 3])
        tones = colours.mean(axis=2)
        row = tones[tones.shape[0] // 2]
        there = np.flatnonzero(inside[tones.shape[0] // 2])
        sides[look] = row[there[there < middle]].mean() - row[there[(there > middle) & (there < 2 * middle)]].mean()
    assert sides["left"] > sides["drawing"] > sides["right"]
