"""What became of decorations on a model."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.surface_error import Deviation
from nebrel.core.surface.displace.limits import Limited
from nebrel.core.surface.faults import CameWith
from nebrel.core.surface.layout_error import Layout

Joined = Literal["displacement", "boolean", "nothing"]
_Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Outcome:
    """What became of one decoration.

    Attributes:
        copies: how many were laid.
        told: what the skin was taken for.
        most_stretch: the largest share by which skin under it is stretched or squeezed.
        missing: share of its area that has no skin under it.
        covered: share of the skin meant that a texture all over it covers; 1 for everything else.
        row_ends: at how many places rows of a texture end.
        follows: whether it is a texture that follows the skin in rows.
        open_edge: whether the skin ends where some is missing.
        rim: whether the skin goes on beyond a sharp edge at which it was ended.
        layout: how large the copy that is furthest off lies; None for textures and what is projected.
        creased: whether it lies over a sharp crease, and where.
        where: (x, y, z) mm of the first copy.
        copies_asked: how many were asked for.
        width: mm, as asked.
        away: mm from the place given to the place where it lies.
        undecided: whether other places of the skin were as near to the place given.
        up_says_nothing: whether the way up given points straight out of the skin.
    """

    copies: int
    description: str
    most_stretch: float
    missing: float
    covered: float
    row_ends: int
    follows: bool
    open_edge: bool
    rim: bool
    layout: Layout | None
    creased: tuple[float, float, float] | None
    where: tuple[float, float, float]
    copies_asked: int
    width: float
    away: float
    undecided: bool
    up_says_nothing: bool


@dataclass(frozen=True)
class Decorated:
    """A decorated model.

    Attributes:
        mesh: what it became.
        untouched: how many faces are as they came.
        joined: by moving the skin itself, or by an exact boolean.
        came_with: faults that the model came with.
        inside_out: whether its faces look inwards, so that what is raised goes into it.
        added_mm3, removed_mm3: by raised and by sunk decorations.
        outcomes: one for every decoration.
        fold, wall: what had to be limited.
        deepest: mm that the deepest place is sunk.
        eased: what was taken back because the skin would have run through itself there.
        thinnest_wall: mm under the decorations, infinite where nothing lies behind; and where, (x, y, z) mm.
        of_decoration: int64 (M,): which decoration covers every face, 1 the first, 0 none.
        deviation: from what was asked for; None where it was not measured.
        uncurved: whether walls of pictures follow their pixels, since with curves it was less true.
    """

    mesh: TriMesh
    untouched: int
    joined: Joined
    came_with: CameWith
    inside_out: bool
    added_mm3: float
    removed_mm3: float
    outcomes: tuple[Outcome, ...]
    fold: Limited
    wall: Limited
    eased: Limited
    deepest: float
    thinnest_wall: float
    thinnest_at: tuple[float, float, float] | None
    of_decoration: _Ints
    deviation: Deviation | None
    uncurved: bool = False

    @property
    def most_stretch(self) -> float:
        """Over all decorations."""
        return max((outcome.most_stretch for outcome in self.outcomes), default=0.0)
