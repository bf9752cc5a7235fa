"""Picture ops as parts of the piece document: one class each, with its parameters, words and how it is applied.

To add an op: a function in `core/picture/ops`, a class here, and its name in `KNOWN`. The page builds its card from the
catalogue; only what is drawn by hand on the Plan needs code there.
"""

from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Union

from pydantic import ConfigDict, Discriminator, Field, Tag

from nebrel.piece.ops.base import Group, Op, PictureView, Supplies, source_view
from nebrel.piece.ops.compose import DrawnShape, Lettering, PictureLayer, ShapeLayer
from nebrel.piece.ops.cutout import CutOut
from nebrel.piece.ops.purify import Reduce, Snap, Specks, Strokes, Threshold
from nebrel.piece.ops.reframe import BorderOp, Crop, Flip, Resample, SheetOp, Turn
from nebrel.piece.ops.retouch import Clone, Erase, Fill, Heal, Paint
from nebrel.piece.ops.soften import Deband, Deblock, Denoise, Gaussian, KeepEdges, Median
from nebrel.piece.ops.tile import Tile
from nebrel.piece.ops.tone import AutoLevels, CurveOp, FlattenLight, Invert, Levels, LocalContrast, Mix, Sharpen


class UnknownOp(Op):
    """An op that a newer Nebrel made: kept and named, not applied."""

    model_config = ConfigDict(extra="allow", frozen=True)
    group: ClassVar[Group] = "frame"
    title: ClassVar[str] = "From a newer Nebrel"
    hint: ClassVar[str] = "This step was made by a newer Nebrel. It is kept, but it does nothing here."
    kind: str = Field(max_length=60)

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Nothing."""
        return view


KNOWN: tuple[type[Op], ...] = (
    Crop, Turn, Flip, SheetOp, BorderOp, Resample,
    AutoLevels, Levels, CurveOp, Invert, Mix, LocalContrast, Sharpen, FlattenLight,
    Snap, Threshold, Reduce, Specks, Strokes,
    KeepEdges, Median, Denoise, Gaussian, Deblock, Deband,
    Paint, Erase, Fill, Clone, Heal,
    CutOut,
    ShapeLayer, DrawnShape, Lettering, PictureLayer,
    Tile,
)  # fmt: skip
OP_OF: dict[str, type[Op]] = {op.model_fields["kind"].default: op for op in KNOWN}
_UNKNOWN = "unknown"


def _which(value: Any) -> str:
    kind = value.get("kind") if isinstance(value, dict) else getattr(value, "kind", None)
    return kind if kind in OP_OF else _UNKNOWN


if TYPE_CHECKING:
    PictureOp = Op
else:
    PictureOp = Annotated[
        Union[(*(Annotated[op, Tag(kind)] for kind, op in OP_OF.items()), Annotated[UnknownOp, Tag(_UNKNOWN)])],
        Discriminator(_which),
    ]

__all__ = ["KNOWN", "OP_OF", "Op", "PictureOp", "PictureView", "Supplies", "UnknownOp", "source_view"]
