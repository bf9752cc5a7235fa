"""Changes to outlines as a recipe: each a step that can be switched off.

Places are shares of the source's width, in both directions from its lower left corner, so they keep their meaning when
the piece is made larger. A step works on the curves nearest to the places it names, or on all when it names none.
"""

from collections.abc import Callable
from typing import Annotated, ClassVar, Literal, get_args

import numpy as np
from pydantic import Field

from nebrel.core.errors import BadValueError
from nebrel.core.region import mend, nodes
from nebrel.core.region.curves import Figure, bounds_of, map_figure
from nebrel.core.region.flaws import find_flaws
from nebrel.core.region.narrow import widen
from nebrel.piece.kinds.outline.mend_base import Chosen, Mend, Place, ReadDrawing
from nebrel.piece.parts.fields import angle, choice, length, made_by_hand, measure, switch, whole
from nebrel.piece.parts.part import Part

MOST_COPIES = 400


class DeleteMend(Chosen):
    """Take outlines away."""

    heading: ClassVar[str] = "Take away"
    hint: ClassVar[str] = "The chosen outlines go."
    kind: Literal["delete"] = "delete"

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure without them; one that names none takes nothing away."""
        return mend.leave_out(figure, self.numbers(figure, width)) if self.chosen else figure


class KeepMend(Chosen):
    """Keep only some outlines."""

    heading: ClassVar[str] = "Keep only"
    hint: ClassVar[str] = "Everything but the chosen outlines goes."
    kind: Literal["keep"] = "keep"

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure of them alone."""
        return mend.only(figure, self.numbers(figure, width))


class DropTinyMend(Mend):
    """Take away what encloses little."""

    heading: ClassVar[str] = "Drop specks"
    hint: ClassVar[str] = "Outlines round less than this go."
    kind: Literal["drop-tiny"] = "drop-tiny"
    smallest_mm2: float = measure("Smallest part kept", 1.0, 0.0001, 100_000, step=0.1)

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure without specks."""
        return mend.leave_out(
            figure, {flaw.curve for flaw in find_flaws(figure, self.smallest_mm2) if flaw.kind == "tiny"}
        )


class DropDoublesMend(Mend):
    """Keep one of outlines that are there twice."""

    heading: ClassVar[str] = "Drop doubles"
    hint: ClassVar[str] = "Of outlines that are there twice, one stays."
    kind: Literal["drop-doubles"] = "drop-doubles"

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with every outline once."""
        return mend.leave_out(figure, {flaw.curve for flaw in find_flaws(figure, 0.0) if flaw.kind == "double"})


class CloseGapsMend(Mend):
    """Join open ends that lie near each other."""

    heading: ClassVar[str] = "Join open ends"
    hint: ClassVar[str] = "Ends no further apart than this are joined."
    kind: Literal["close-gaps"] = "close-gaps"
    reach_mm: float = length("Largest gap", 1.0, 0.001, 100, step=0.1)

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with its gaps closed."""
        return mend.close_gaps(figure, self.reach_mm)


class UncrossMend(Chosen):
    """Make edges that cross themselves anew around what they enclose."""

    heading: ClassVar[str] = "Undo crossings"
    hint: ClassVar[str] = "Edges that cross themselves are drawn anew around what they enclose."
    kind: Literal["uncross"] = "uncross"

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure without edges that cross themselves."""
        crossing = {flaw.curve for flaw in find_flaws(figure, 0.0) if flaw.kind == "crossing"}
        return mend.uncross(figure, crossing & self.numbers(figure, width))


class TouchingMend(Mend):
    """Join or part areas that meet in a point only."""

    heading: ClassVar[str] = "Where parts touch"
    hint: ClassVar[str] = "Parts that meet in a point get a bridge, or a gap."
    kind: Literal["touching"] = "touching"
    how: Literal["join", "part"] = choice("They are", "join", {"join": "Joined", "part": "Parted"})
    width_mm: float = length("Width there", 0.45, 0.01, 50, step=0.05)

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with nothing that only touches."""
        return mend.mend_touching(figure, self.width_mm, self.how == "join")


class MoveMend(Chosen):
    """Move, turn, scale and mirror outlines, about a picked place or about their middle."""

    heading: ClassVar[str] = "Move, turn, scale"
    hint: ClassVar[str] = "About the middle of what is chosen, or about a picked place."
    kind: Literal["move"] = "move"
    x_mm: float = length("To the right", 0.0, -3000, 3000, step=0.5)
    y_mm: float = length("Upwards", 0.0, -3000, 3000, step=0.5)
    turn_deg: float = angle("Turn", 0.0, -360, 360)
    scale: float = measure("Scale", 1.0, 0.01, 100, unit="×", step=0.05)
    mirror: Literal["none", "left-right", "up-down"] = choice(
        "Mirror", "none", {"none": "As it is", "left-right": "Left–right", "up-down": "Up–down"}
    )
    about: Place | None = Field(None, title="Picked place", json_schema_extra={"label": "About a picked place"})

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
        return mend.move(figure, chosen, matrix)


class AlignMend(Chosen):
    """Line outlines up along one side."""

    heading: ClassVar[str] = "Line up"
    hint: ClassVar[str] = "Along one side of what is chosen."
    kind: Literal["align"] = "align"
    side: mend.Side = choice("Side", "middle", {side: side for side in get_args(mend.Side)})

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with them lined up."""
        return mend.align(figure, self.numbers(figure, width), self.side)


class SpreadMend(Chosen):
    """Repeat outlines along a row, over a grid or round a ring."""

    heading: ClassVar[str] = "Repeat"
    hint: ClassVar[str] = "Along a row, over a grid or round a ring."
    kind: Literal["spread"] = "spread"
    along: Literal["row", "grid", "ring"] = choice("Along", "row", {"row": "Row", "grid": "Grid", "ring": "Ring"})
    count: int = whole("Copies across", 3, 1, MOST_COPIES, label="How many")
    rows: int = whole("Rows", 1, 1, MOST_COPIES, shown={"along": ["grid"]})
    x_mm: float = length("To the right", 20.0, -3000, 3000, step=0.5, shown={"along": ["row", "grid"]})
    y_mm: float = length("Upwards", 0.0, -3000, 3000, step=0.5, shown={"along": ["row", "grid"]})
    about: Place = Field((0.5, 0.5), title="Middle of the ring", json_schema_extra={"shown": {"along": ["ring"]}})

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
        return mend.repeat(figure, self.numbers(figure, width), maps)


class CombineMend(Chosen):
    """Make outlines one: together, the largest less the others, or what they share."""

    heading: ClassVar[str] = "Combine"
    hint: ClassVar[str] = "The chosen outlines become one."
    kind: Literal["combine"] = "combine"
    how: mend.Combining = choice(
        "Combined by",
        "union",
        {"union": "Together", "difference": "Largest less others", "crossing": "What they share"},
    )

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with them combined."""
        return mend.combine(figure, self.numbers(figure, width), self.how)


class OffsetMend(Chosen):
    """Grow outlines, or shrink them where the distance is below 0."""

    heading: ClassVar[str] = "Grow or shrink"
    hint: ClassVar[str] = "All round by the same distance; below 0 shrinks."
    kind: Literal["offset"] = "offset"
    by_mm: float = length("Outwards by", 1.0, -500, 500, step=0.1)
    join: mend.Join = choice("Corners", "round", {"round": "Round", "mitre": "Sharp", "bevel": "Cut off"})

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with them grown."""
        return mend.offset(figure, self.numbers(figure, width), self.by_mm, self.join)


class FillMend(Chosen):
    """Fill holes, and make areas of closed strokes."""

    heading: ClassVar[str] = "Fill"
    hint: ClassVar[str] = "Holes go, closed strokes become areas."
    kind: Literal["fill"] = "fill"

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with them filled."""
        return mend.fill_solid(figure, self.numbers(figure, width))


class SimplifyMend(Chosen):
    """Fewer nodes."""

    heading: ClassVar[str] = "Fewer nodes"
    hint: ClassVar[str] = "As few as stay within this distance."
    kind: Literal["simplify"] = "simplify"
    tolerance_mm: float = length("Largest distance", 0.05, 0.001, 20, step=0.01)

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with fewer nodes."""
        return mend.simplify_curves(figure, self.numbers(figure, width), self.tolerance_mm)


class WidenMend(Mend):
    """Make what is too narrow wider."""

    heading: ClassVar[str] = "Widen thin places"
    hint: ClassVar[str] = "Only where it is narrower than this."
    kind: Literal["widen"] = "widen"
    narrower_than_mm: float = length("Where narrower than", 1.0, 0.05, 50, step=0.1)
    by_mm: float = length("Wider by", 0.5, 0.01, 50, step=0.1)

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with its narrow places widened."""
        return widen(figure, self.narrower_than_mm, self.by_mm)


class NodeMend(Mend):
    """Change one node of an outline: the one nearest to a place."""

    heading: ClassVar[str] = "Node"
    hint: ClassVar[str] = "One node of an outline, moved or made another."
    kind: Literal["node"] = "node"
    action: Literal["move", "insert", "remove", "corner", "smooth"] = made_by_hand(
        "Change",
        "move",
        {"move": "Moved", "insert": "One more", "remove": "Removed", "corner": "Corner", "smooth": "Smooth"},
    )
    place: Place = Field((0.5, 0.5), title="Node")
    x_mm: float = length("To the right", 0.0, -3000, 3000, step=0.1, shown={"action": ["move"]})
    y_mm: float = length("Upwards", 0.0, -3000, 3000, step=0.1, shown={"action": ["move"]})

    def mended(self, figure: Figure, width: float) -> Figure:
        """The figure with the node changed."""
        x, y = self.place[0] * width, self.place[1] * width
        if self.action == "insert":
            number, _ = mend.nearest_curve(figure, x, y)
            side, share = nodes.nearest_side(figure.curves[number], x, y)
            return mend.with_knots(figure, number, lambda curve: nodes.insert_node(curve, side, share))
        number, node = nodes.nearest_node(figure, x, y)
        if self.action == "move":
            return mend.with_knots(figure, number, lambda curve: nodes.move_node(curve, node, self.x_mm, self.y_mm))
        if self.action == "remove":
            return mend.with_knots(figure, number, lambda curve: nodes.remove_node(curve, node))
        kind = self.action
        return mend.with_knots(figure, number, lambda curve: nodes.set_node_kind(curve, node, kind))


class MotifFile(Part):
    """The outlines of a motif, as an SVG blob; `motif` names the one that is followed, None for a copy."""

    blob: str = Field(pattern="^[0-9a-f]{64}$", title="Drawing blob")
    name: str = Field("", max_length=120)
    motif: str | None = Field(None, max_length=32)


class MotifMend(Mend):
    """Lay a motif over the outlines, its middle at a place."""

    heading: ClassVar[str] = "Motif"
    hint: ClassVar[str] = "Outlines from the library, laid over these."
    kind: Literal["motif"] = "motif"
    file: MotifFile
    place: Place = Field((0.5, 0.5), title="Middle of the motif")
    wide_mm: float = length("Motif width", 20.0, 0.1, 3000, step=0.5)
    turn_deg: float = angle("Turn", 0.0, -360, 360)
    mirror: bool = switch("Mirrored", False)

    def mended(self, figure: Figure, width: float, read: ReadDrawing) -> Figure:
        """The figure with the motif as a layer of its own."""
        found = read(self.file.blob, self.file.name or "motif")
        low_x, low_y, high_x, high_y = bounds_of(found)
        linear = self.wide_mm / (high_x - low_x) * mend.turn(self.turn_deg) @ np.diag([-1 if self.mirror else 1, 1])
        middle = np.array([(low_x + high_x) / 2, (low_y + high_y) / 2])
        place = np.array(self.place) * width
        laid = map_figure(found, np.column_stack([linear, place - linear @ middle]))
        return Figure((*figure.layers, *laid.layers))


MEND_OF: dict[str, type[Part]] = {
    "delete": DeleteMend,
    "keep": KeepMend,
    "drop-tiny": DropTinyMend,
    "drop-doubles": DropDoublesMend,
    "close-gaps": CloseGapsMend,
    "uncross": UncrossMend,
    "touching": TouchingMend,
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
    | TouchingMend
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


def mend_figure(
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
