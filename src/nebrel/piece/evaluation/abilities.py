"""What only some kinds of piece can do. An evaluator takes on an ability by naming it among its bases."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar, Protocol, TypeVar, cast

from nebrel.core.errors import ConflictError
from nebrel.core.picture.ink import InkGuess
from nebrel.piece.evaluation.evaluator import PieceEvaluator, Progress, quiet
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.shown import Size

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from nebrel.core.height.export import HeightMap
    from nebrel.core.height.transmission import TransmissionRule
    from nebrel.core.mesh import TriMesh
    from nebrel.core.picture import Picture
    from nebrel.core.proof import Finding
    from nebrel.core.proof.audit import Ground
    from nebrel.core.region.curves import Figure
    from nebrel.core.surface.placing import Placed, Snap
    from nebrel.core.surface.skin.skin import SkinPlace
    from nebrel.piece.ops import Op, PictureView
    from nebrel.piece.parts.decoration import DecorationPart
    from nebrel.piece.parts.model_steps import Worked
    from nebrel.piece.report import ColoursReport, LitReport


class Ability(Protocol):
    """One thing that some kinds can do; `lacking` is how a refusal to another kind ends."""

    lacking: ClassVar[str]


class HasPicture(Ability, Protocol):
    """It starts from a picture, which ops prepare."""

    lacking: ClassVar[str] = "it has no picture"

    @property
    def picture_ops(self) -> tuple[Op, ...]:
        """The ops of the document, those that are switched off too."""
        ...

    @property
    def picture_width_mm(self) -> float:
        """How wide the prepared picture is on the piece."""
        ...

    @property
    def ground(self) -> Ground:
        """What the picture is judged for."""
        ...

    def source_picture(self, longest_px: int | None = None) -> Picture:
        """The picture as its file holds it, in colour; smaller where that will do."""
        ...

    def picture(self, longest_px: int = FULL, progress: Progress = quiet) -> Picture:
        """The prepared picture."""
        ...

    def view(self, longest_px: int, upto: str | None = None, progress: Progress = quiet) -> PictureView:
        """The picture after all its ops or after one of them, with its place on the piece."""
        ...

    def picture_key(self, longest_px: int) -> str:
        """The key of the prepared picture."""
        ...

    def audit(self, progress: Progress = quiet, picture: Picture | None = None) -> tuple[Finding, ...]:
        """What to know about the prepared picture; `picture` spares computing it."""
        ...


@dataclass(frozen=True)
class StepTable:
    """Rows of (tone, mm, share of the picture): as the document has them, and as the picture suggests them."""

    given: list[tuple[float, float, float]]
    found: list[tuple[float, float, float]]


class HasHeights(Ability, Protocol):
    """Its tones become heights over a backing."""

    lacking: ClassVar[str] = "it has no heights"

    def height_map(self) -> HeightMap:
        """The heights that the finished piece is meant to have, with their facts in mm."""
        ...

    def height_map_key(self) -> str:
        """The key of `height_map`."""
        ...

    def step_table(self) -> StepTable:
        """How much of the picture falls on every step, and the steps that its tones suggest."""
        ...


@dataclass(frozen=True)
class LitView:
    """A sheet in light.

    Attributes:
        through: float32 (h, w) mm of material on the way of the light.
        seen: the same, as thick as a wall would be in which light does not spread and that looks the same.
        tones: float32 (h, w) that are wanted; NaN on the border.
        size_mm: of the sheet.
        colour: float32 (h, w, 3) linear, what filters behind it give to white light, its largest part 1; None where
            there are none.
        wanted: float32 (h, w, 3) linear, the colours that are wanted, white 1; None where there are no filters.
    """

    through: NDArray[np.float32]
    seen: NDArray[np.float32]
    tones: NDArray[np.float32]
    size_mm: tuple[float, float]
    colour: NDArray[np.float32] | None = None
    wanted: NDArray[np.float32] | None = None


@dataclass(frozen=True)
class SheetVariation:
    """A variation of a sheet: what it changes, what contrast it reaches, and the material that light would pass."""

    thinnest_mm: float
    thickest_mm: float
    strength: float
    contrast: float
    through: NDArray[np.float32]


class HasSheet(Ability, Protocol):
    """It is a sheet that lets light through."""

    lacking: ClassVar[str] = "it is not a lithophane; choose that at Body first"

    @property
    def sheet_mm(self) -> tuple[float, float]:
        """Width and height of the unrolled sheet."""
        ...

    @property
    def rule(self) -> TransmissionRule:
        """From tones to thickness."""
        ...

    @property
    def smallest_detail_mm(self) -> float:
        """The smallest detail that shows in light."""
        ...

    def lit(self, longest_px: int = FULL) -> LitView:
        """The sheet as light passes it, measured through the solid."""
        ...

    def lit_report(self, longest_px: int) -> LitReport:
        """Measures of the lit piece."""
        ...

    def recipe(self, longest_px: int = FULL) -> str:
        """How to print it, as text."""
        ...

    def variations(self, longest_px: int) -> list[SheetVariation]:
        """Three ranges of thickness, each with three strengths of the light rule."""
        ...


@dataclass(frozen=True)
class PieceOutlines:
    """Curves in mm of the piece, the source's lower left corner at the origin.

    Attributes:
        figure: all layers.
        max_deviation, rms_deviation: mm, from the edge that the picture shows; 0 for drawings.
    """

    figure: Figure
    max_deviation: float
    rms_deviation: float


class HasOutlines(Ability, Protocol):
    """It is made of outlines."""

    lacking: ClassVar[str] = "it is not made of outlines"

    @property
    def source_mm(self) -> tuple[float, float]:
        """Width and height of the whole picture or drawing."""
        ...

    @property
    def line_mm(self) -> float:
        """Width of the thinnest line that the maker draws on it."""
        ...

    def outlines(self, progress: Progress = quiet) -> PieceOutlines:
        """The outlines after mending."""
        ...

    def guessed_ink(self, progress: Progress = quiet) -> InkGuess | None:
        """Which tone of a picture is taken for what is drawn, and how surely; None where nothing had to be guessed."""
        ...


@dataclass(frozen=True)
class StepResult:
    """What a step gave; the id "" stands for the mesh before all steps."""

    step_id: str
    worked: Worked


class HasSkin(Ability, Protocol):
    """Its mesh is worked on by steps, and decorations are laid on its surface."""

    lacking: ClassVar[str] = "it has no skin; steps and decorations are for models and figures"

    def step_results(self, progress: Progress = quiet) -> list[StepResult]:
        """The mesh before all steps, then after every step that is on."""
        ...

    def before_step(self, step_id: str, progress: Progress = quiet) -> TriMesh | None:
        """The mesh as it comes into a step, or None where there is no such step."""
        ...

    def carried(self, after: Any) -> Any:
        """A document as an edit left it, with what is laid on the mesh where the edit has taken the mesh."""
        ...

    def first_place(self) -> tuple[Size, Size]:
        """A place that is seen at once, and which way is up there."""
        ...

    def placement(self, decoration: DecorationPart, most_copies: int, quick: bool) -> Placed:
        """Where a decoration would lie, on a coarse sketch of the skin."""
        ...

    def art_size(self, decoration: DecorationPart) -> tuple[float, float]:
        """Width and height of a decoration, mm."""
        ...

    def snapped(self, at: tuple[float, ...], up: tuple[float, ...], to: Snap) -> SkinPlace:
        """The place that a decoration snaps to."""
        ...


@dataclass(frozen=True)
class FewColoursView:
    """A solid before and after it got few colours, its lowest corner at the origin, and what that costs."""

    before: TriMesh
    after: TriMesh
    report: ColoursReport


class HasFewColours(Ability, Protocol):
    """It can be given few colours."""

    lacking: ClassVar[str] = "it has no colours to choose few of"

    def few_colours(self) -> FewColoursView | None:
        """What few colours are taken and what that costs, measured on a sketch; None where few are not asked for."""
        ...


@dataclass(frozen=True)
class ComparedDepth:
    """A figure whose depth came from one source, beside the same figure as its document has it.

    Attributes:
        source: the source's name in the document.
        mesh: a sketch, its lowest corner at the origin.
        nearer: float64 (H, W) mm, by how much its front is nearer than the document's; NaN beside it.
        unsure: float64 (H, W) mm, how far off it may be, where it can tell; NaN beside it.
    """

    source: str
    mesh: TriMesh
    nearer: NDArray[np.float64]
    unsure: NDArray[np.float64] | None


class HasDepthSources(Ability, Protocol):
    """Its depth may come from several sources."""

    lacking: ClassVar[str] = "its depth has one source only"

    def compared_depths(self) -> list[ComparedDepth]:
        """The figure by every source that needs nothing more, and by its own, first."""
        ...

    def sent(self) -> tuple[bytes, bytes]:
        """Its picture and its cut-out, PNG files of one size, for a service that makes depths of them."""
        ...

    def received(self, data: bytes, depth_share: float | None) -> tuple[bytes, float]:
        """A depth picture of the answer, and from its darkest to its brightest, mm.

        Args:
            data: a depth picture; or a solid as GLB, where `depth_share` is None.
            depth_share: of the depth picture, as a share of its width.
        """
        ...

    def unsure(self) -> NDArray[np.float64] | None:
        """How far off its front may be, float64 (H, W) mm over its box; None where its source cannot tell."""
        ...


class TakesPieces(Ability, Protocol):
    """Other pieces can be put to it or laid on it; it follows them."""

    lacking: ClassVar[str] = "no other piece can be put to it; begin one that is put together"

    def with_piece(self, piece_id: str, document: dict[str, Any]) -> dict[str, object]:
        """The edit that takes a piece of the shelf.

        Args:
            piece_id: which one.
            document: of it, as plain data.
        """
        ...


class LaysReliefs(Ability, Protocol):
    """Pictures can be laid on its heights as reliefs of their own."""

    lacking: ClassVar[str] = "no relief can be laid on its heights; relief panels take some"

    def with_relief(self, source: dict[str, object]) -> dict[str, object]:
        """The edit that lays a picture on it.

        Args:
            source: its `blob` and `name`, and `motif` where one is followed.
        """
        ...


ABILITIES: dict[str, type[Ability]] = {
    "picture": HasPicture,
    "heights": HasHeights,
    "sheet": HasSheet,
    "outlines": HasOutlines,
    "skin": HasSkin,
    "few-colours": HasFewColours,
    "depth-sources": HasDepthSources,
    "pieces": TakesPieces,
    "laid-reliefs": LaysReliefs,
}
AnyAbility = TypeVar("AnyAbility", bound=Ability)


def has(evaluator: PieceEvaluator[Any], ability: type[AnyAbility]) -> bool:
    """Whether an evaluator took on an ability."""
    return ability in type(evaluator).__mro__


def having(evaluator: PieceEvaluator[Any], ability: type[AnyAbility], being: str) -> AnyAbility:
    """The evaluator as one that can do what is asked for.

    Args:
        evaluator: of any kind.
        ability: one of the protocols here.
        being: what its kind says of a piece, such as "starts from a model".

    Raises:
        ConflictError: it cannot.
    """
    if not has(evaluator, ability):
        raise ConflictError(f"This piece {being}, so {ability.lacking}.")
    return cast(AnyAbility, evaluator)
