"""Changes to outlines as a recipe: each a step that can be switched off.

Places are shares of the source's width, in both directions from its lower left corner, so they keep their meaning when
the piece is made larger. A step works on the curves nearest to the places it names, or on all when it names none.
"""

from collections.abc import Callable
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from nebrel.core.errors import BadValueError
from nebrel.core.region import mend, nodes
from nebrel.core.region.curves import Figure, bounds_of, mapped
from nebrel.core.region.flaws import find_flaws
from nebrel.core.region.narrow import widened
from nebrel.piece.parts.part import Part

NEAR_SHARE = 0.03
ReadDrawing = Callable[[str, str], Figure]
MOST_COPIES = 400
Place = tuple[
    Annotated[float, Field(ge=-10, le=10)],
    Annotated[float, Field(ge=-10, le=10)],
]


class _Mend(Part):
    id: str = Field("", max_length=40)
    on: bool = Field(True, title="Step switched on")


class _Chosen(_Mend):
    chosen: tuple[Place, ...] = Field((), max_length=2000, title="Chosen outlines")

    def numbers(self, figure: Figure, width: float) -> set[int]:
        """Which curves are chosen: all where none is named."""
        if not self.chosen:
            return set(range(len(figure.curves)))
        found = mend.nearest_curves(figure, [(x * width, y * width) for x, y in self.chosen])
        return {number for number, away in found if away <= NEAR_SHARE * width}


class DeleteMend(_Chosen):
    """Take outlines away."""

    kind: Literal["delete"] = "delete"

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure without them; one that names none takes nothing away."""
        return mend.without(figure, self.numbers(figure, width)) if self.chosen else figure


class KeepMend(_Chosen):
    """Keep only some outlines."""

    kind: Literal["keep"] = "keep"

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure of them alone."""
        return mend.only(figure, self.numbers(figure, width))


class DropTinyMend(_Mend):
    """Take away what encloses little."""

    kind: Literal["drop-tiny"] = "drop-tiny"
    smallest_mm2: float = Field(1.0, ge=0.0001, le=100_000, title="Smallest part kept")

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure without specks."""
        return mend.without(
            figure, {flaw.curve for flaw in find_flaws(figure, self.smallest_mm2) if flaw.kind == "tiny"}
        )


class DropDoublesMend(_Mend):
    """Keep one of outlines that are there twice."""

    kind: Literal["drop-doubles"] = "drop-doubles"

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with every outline once."""
        return mend.without(figure, {flaw.curve for flaw in find_flaws(figure, 0.0) if flaw.kind == "double"})


class CloseGapsMend(_Mend):
    """Join open ends that lie near each other."""

    kind: Literal["close-gaps"] = "close-gaps"
    reach_mm: float = Field(1.0, ge=0.001, le=100, title="Largest gap")

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with its gaps closed."""
        return mend.closed_gaps(figure, self.reach_mm)


class UncrossMend(_Chosen):
    """Make edges that cross themselves anew around what they enclose."""

    kind: Literal["uncross"] = "uncross"

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure without edges that cross themselves."""
        crossing = {flaw.curve for flaw in find_flaws(figure, 0.0) if flaw.kind == "crossing"}
        return mend.without_crossings(figure, crossing & self.numbers(figure, width))


class MoveMend(_Chosen):
    """Move, turn, scale and mirror outlines, about a picked place or about their middle."""

    kind: Literal["move"] = "move"
    x_mm: float = Field(0.0, ge=-3000, le=3000, title="To the right")
    y_mm: float = Field(0.0, ge=-3000, le=3000, title="Upwards")
    turn_deg: float = Field(0.0, ge=-360, le=360, title="Turn")
    scale: float = Field(1.0, ge=0.01, le=100, title="Scale")
    mirror: Literal["none", "left-right", "up-down"] = Field("none", title="Mirror")
    about: Place | None = Field(None, title="Picked place")

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with them moved."""
        chosen = self.numbers(figure, width)
        if not chosen:
            return figure
        low_x, low_y, high_x, high_y = bounds_of(mend.only(figure, chosen))
        x, y = (low_x + high_x) / 2, (low_y + high_y) / 2
        if self.about is not None:
            x, y = self.about[0] * width, self.about[1] * width
        flip = {"none": (1, 1), "left-right": (-1, 1), "up-down": (1, -1)}[self.mirror]
        linear = self.scale * mend.turn(self.turn_deg) @ np.diag(flip)
        matrix = mend.about(x, y, linear)
        matrix[:, 2] += (self.x_mm, self.y_mm)
        return mend.moved(figure, chosen, matrix)


class AlignMend(_Chosen):
    """Line outlines up along one side."""

    kind: Literal["align"] = "align"
    side: mend.Side = Field("middle", title="Side")

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with them lined up."""
        return mend.aligned(figure, self.numbers(figure, width), self.side)


class SpreadMend(_Chosen):
    """Repeat outlines along a row, over a grid or round a ring."""

    kind: Literal["spread"] = "spread"
    along: Literal["row", "grid", "ring"] = Field("row", title="Along")
    count: int = Field(3, ge=1, le=MOST_COPIES, title="Copies across")
    rows: int = Field(1, ge=1, le=MOST_COPIES, title="Rows")
    x_mm: float = Field(20.0, ge=-3000, le=3000, title="To the right")
    y_mm: float = Field(0.0, ge=-3000, le=3000, title="Upwards")
    about: Place = Field((0.5, 0.5), title="Middle of the ring")

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with copies.

        Raises:
            BadValueError: more copies than are accepted.
        """
        if self.count * (self.rows if self.along == "grid" else 1) > MOST_COPIES:
            raise BadValueError(
                f"{self.count * self.rows:,} copies are asked for; up to {MOST_COPIES} would be accepted."
            )
        if self.along == "row":
            maps = mend.row_of(self.count, self.x_mm, self.y_mm)
        elif self.along == "grid":
            maps = mend.grid_of(self.count, self.rows, self.x_mm, self.y_mm)
        else:
            maps = mend.ring_of(self.count, self.about[0] * width, self.about[1] * width)
        return mend.repeated(figure, self.numbers(figure, width), maps)


class CombineMend(_Chosen):
    """Make outlines one: together, the largest less the others, or what they share."""

    kind: Literal["combine"] = "combine"
    how: mend.Combining = Field("union", title="Combined by")

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with them combined."""
        return mend.combined(figure, self.numbers(figure, width), self.how)


class OffsetMend(_Chosen):
    """Grow outlines, or shrink them where the distance is below 0."""

    kind: Literal["offset"] = "offset"
    by_mm: float = Field(1.0, ge=-500, le=500, title="Outwards by")
    join: mend.Join = Field("round", title="Corners")

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with them grown."""
        return mend.offset(figure, self.numbers(figure, width), self.by_mm, self.join)


class FillMend(_Chosen):
    """Fill holes, and make areas of closed strokes."""

    kind: Literal["fill"] = "fill"

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with them filled."""
        return mend.solid_filled(figure, self.numbers(figure, width))


class SimplifyMend(_Chosen):
    """Fewer nodes."""

    kind: Literal["simplify"] = "simplify"
    tolerance_mm: float = Field(0.05, ge=0.001, le=20, title="Largest distance")

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with fewer nodes."""
        return mend.simplified(figure, self.numbers(figure, width), self.tolerance_mm)


class WidenMend(_Mend):
    """Make what is too narrow wider."""

    kind: Literal["widen"] = "widen"
    narrower_than_mm: float = Field(1.0, ge=0.05, le=50, title="Where narrower than")
    by_mm: float = Field(0.5, ge=0.01, le=50, title="Wider by")

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with its narrow places widened."""
        return widened(figure, self.narrower_than_mm, self.by_mm)


class NodeMend(_Mend):
    """Change one node of an outline: the one nearest to a place."""

    kind: Literal["node"] = "node"
    action: Literal["move", "insert", "remove", "corner", "smooth"] = Field("move", title="Change")
    place: Place = Field((0.5, 0.5), title="Node")
    x_mm: float = Field(0.0, ge=-3000, le=3000, title="To the right")
    y_mm: float = Field(0.0, ge=-3000, le=3000, title="Upwards")

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with the node changed."""
        x, y = self.place[0] * width, self.place[1] * width
        if self.action == "insert":
            number, _ = mend.nearest_curve(figure, x, y)
            side, share = nodes.nearest_side(figure.curves[number], x, y)
            return mend.with_knots(figure, number, lambda curve: nodes.node_inserted(curve, side, share))
        number, node = nodes.nearest_node(figure, x, y)
        if self.action == "move":
            return mend.with_knots(figure, number, lambda curve: nodes.node_moved(curve, node, self.x_mm, self.y_mm))
        if self.action == "remove":
            return mend.with_knots(figure, number, lambda curve: nodes.node_removed(curve, node))
        kind = self.action
        return mend.with_knots(figure, number, lambda curve: nodes.node_made(curve, node, kind))


class MotifFile(Part):
    """The outlines of a motif, as an SVG blob; `motif` names the one that is followed, None for a copy."""

    blob: str = Field(pattern="^[0-9a-f]{64}$", title="Drawing blob")
    name: str = Field("", max_length=120)
    motif: str | None = Field(None, max_length=32)


class MotifMend(_Mend):
    """Lay a motif over the outlines, its middle at a place."""

    kind: Literal["motif"] = "motif"
    file: MotifFile
    place: Place = Field((0.5, 0.5), title="Middle of the motif")
    wide_mm: float = Field(20.0, ge=0.1, le=3000, title="Motif width")
    turn_deg: float = Field(0.0, ge=-360, le=360, title="Turn")
    mirror: bool = Field(False, title="Mirrored")

    def mended(self, figure: Figure, width: float, read: ReadDrawing) -> Figure:
        """The figure with the motif as a layer of its own."""
        found = read(self.file.blob, self.file.name or "motif")
        low_x, low_y, high_x, high_y = bounds_of(found)
        linear = self.wide_mm / (high_x - low_x) * mend.turn(self.turn_deg) @ np.diag([-1 if self.mirror else 1, 1])
        middle = np.array([(low_x + high_x) / 2, (low_y + high_y) / 2])
        place = np.array(self.place) * width
        laid = mapped(found, np.column_stack([linear, place - linear @ middle]))
        return Figure((*figure.layers, *laid.layers))


MEND_OF: dict[str, type[Part]] = {
    "delete": DeleteMend,
    "keep": KeepMend,
    "drop-tiny": DropTinyMend,
    "drop-doubles": DropDoublesMend,
    "close-gaps": CloseGapsMend,
    "uncross": UncrossMend,
    "move": MoveMend,
    "align": AlignMend,
    "spread": SpreadMend,
    "combine": CombineMend,
    "offset": OffsetMend,
    "fill": FillMend,
    "simplify": SimplifyMend,
    "widen": WidenMend,
    "node": NodeMend,
    "motif": MotifMend,
}

MendStep = Annotated[
    DeleteMend
    | KeepMend
    | DropTinyMend
    | DropDoublesMend
    | CloseGapsMend
    | UncrossMend
    | MoveMend
    | AlignMend
    | SpreadMend
    | CombineMend
    | OffsetMend
    | FillMend
    | SimplifyMend
    | WidenMend
    | NodeMend
    | MotifMend,
    Field(discriminator="kind"),
]


def mended(
    figure: Figure,
    steps: tuple[MendStep, ...],
    width: float,
    read: ReadDrawing,
    progress: Callable[[float], None] = lambda _: None,
) -> Figure:
    """The figure after all steps that are on; `width` is that of the source in mm, `read` gives motifs.

    Raises:
        BadValueError: a step leaves nothing.
    """
    for number, step in enumerate(steps):
        if not step.on:
            continue
        figure = step.mended(figure, width, read) if isinstance(step, MotifMend) else step.mended(figure, width)
        if not figure.curves:
            raise BadValueError("The step leaves nothing of the outlines; make it milder, or switch it off.")
        progress((number + 1) / len(steps))
    return figure
