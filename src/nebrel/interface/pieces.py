"""Pieces: what a picture or a drawing is made into, as a document that is built."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

from nebrel.core.errors import BadValueError
from nebrel.core.mesh.shading import shade
from nebrel.core.outline_files.svg.write import svg_bytes
from nebrel.core.proof.render import Viewpoint, render
from nebrel.interface.computing import sources_of
from nebrel.interface.files import PictureLike, StartingFile, read_any, read_picture
from nebrel.interface.settled import recipe_in
from nebrel.jobs.beginnings import document_on
from nebrel.piece.evaluation.shown import png_of
from nebrel.piece.kinds.outline.document import DrawnDocument, TracedDocument
from nebrel.piece.recipes.recipe import Recipe, follow
from nebrel.piece.registry import become, merge, open_piece

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from nebrel.core.mesh import TriMesh
    from nebrel.core.region.curves import Figure
    from nebrel.piece.documents.document import Document
    from nebrel.piece.evaluation.evaluator import PieceEvaluator
    from nebrel.piece.report import BuildReport

Progress = Callable[[str, float], None]


def quiet(_stage: str, _fraction: float) -> None:
    """Progress that nobody looks at."""


@dataclass(frozen=True)
class Built:
    """A finished solid.

    Attributes:
        mesh: in millimetres, as it is delivered: with its colours, where it has some.
        report: what was measured on it; the same keys as `--json` reports.
        objects: names of its parts, where it has several, each with the numbers of its faces.
        view: from where it is looked at.
    """

    mesh: TriMesh
    report: BuildReport
    objects: tuple[tuple[str, NDArray[np.int64]], ...] = ()
    view: Viewpoint = field(default_factory=Viewpoint)

    def picture(self, size_px: tuple[int, int] = (480, 360)) -> bytes:
        """A PNG of it, as it would be seen on the shelf.

        Args:
            size_px: width and height.
        """
        return png_of(render(shade(self.mesh), *size_px, self.view))

    def _repr_png_(self) -> bytes:
        """How notebooks show it."""
        return self.picture()


@dataclass(frozen=True)
class Piece:
    """A piece that can be changed and built. Nothing of it changes in place.

    Attributes:
        document: its settings, as on the shelf.
        files: the files that it starts from, by the blobs that its document names.
    """

    document: Document
    files: Mapping[str, bytes]

    @property
    def evaluator(self) -> PieceEvaluator[Any]:
        """What computes its steps."""
        return open_piece(self.document, sources_of(self.files)).evaluator

    def changed(self, parts: Mapping[str, Any]) -> Piece:
        """The piece after a merge patch (RFC 7396) of its document.

        >>> import numpy as np, nebrel
        >>> tile = nebrel.relief(np.eye(24), width_mm=20)
        >>> tile.changed({"body": {"backing_mm": 2.5}}).document.body.backing_mm
        2.5

        Raises:
            NebrelError: the result would not be valid; one sentence names the first fault.
        """
        return Piece(merge(self.document, dict(parts)), self.files)

    def following(self, recipe: Recipe | Mapping[str, Any] | str | Path) -> Piece:
        """The piece as a recipe makes it; its sources and its title stay.

        Args:
            recipe: itself, its plain data, a path to its file, or the name of one that ships with Nebrel.

        Raises:
            NebrelError: it is no recipe, or has no use for what the piece starts from.
        """
        return Piece(follow(self.document, recipe_in(recipe)), self.files)

    def build(self, progress: Progress = quiet) -> Built:
        """The finished solid, proved.

        >>> import numpy as np, nebrel
        >>> built = nebrel.relief(np.eye(24), width_mm=20, relief_mm=1).build()
        >>> built.report.sound, [round(side, 2) for side in built.report.size_mm[:2]]
        (True, [20.0, 20.0])

        Args:
            progress: called with what is done and the fraction done of it.

        Raises:
            NebrelError: it cannot be made.
        """
        evaluator = self.evaluator
        slab, report = evaluator.build(progress)
        mesh, objects = evaluator.delivered_as(slab.mesh)
        return Built(mesh, report, tuple(objects), evaluator.shelf_view())


def relief(
    picture: PictureLike,
    *,
    width_mm: float | None = None,
    relief_mm: float | None = None,
    backing_mm: float | None = None,
    raised: Literal["bright", "dark"] | None = None,
    tolerance_mm: float | None = None,
    recipe: Recipe | Mapping[str, Any] | str | Path | None = None,
    parts: Mapping[str, Any] | None = None,
) -> Piece:
    """A relief panel: tones become heights over a back.

    >>> import numpy as np, nebrel
    >>> dome = np.clip(1 - np.hypot(*np.mgrid[-1:1:64j, -1:1:64j]), 0, 1)
    >>> [round(side) for side in nebrel.relief(dome, width_mm=40, relief_mm=3, backing_mm=1).build().report.size_mm]
    [40, 40, 4]

    Args:
        picture: see `read_picture`.
        width_mm: of the panel.
        relief_mm: from the lowest to the highest point that tones can give.
        backing_mm: under the lowest point.
        raised: which tones stand tall.
        tolerance_mm: largest distance from the asked surface.
        recipe: that it follows, see `Piece.following`; what is given besides changes it.
        parts: whatever else of its document is to be otherwise, see `Piece.changed`.

    Raises:
        NebrelError: something of that is refused; one sentence.
    """
    rule = {"relief_mm": relief_mm, "tall": raised}
    asked = {
        "body": {"width_mm": width_mm, "backing_mm": backing_mm},
        "height": {"rule": rule},
        "finish": {"tolerance_mm": tolerance_mm},
    }
    return _made(_picture(picture), "panel", recipe, asked, parts)


def lithophane(
    picture: PictureLike,
    *,
    width_mm: float | None = None,
    form: Literal["flat", "arc", "cylinder", "cone", "sphere", "dome", "heart", "prism"] | None = None,
    thinnest_mm: float | None = None,
    thickest_mm: float | None = None,
    tolerance_mm: float | None = None,
    recipe: Recipe | Mapping[str, Any] | str | Path | None = None,
    parts: Mapping[str, Any] | None = None,
) -> Piece:
    """A lithophane: tones become walls that let as much light through.

    >>> import numpy as np, nebrel
    >>> ramp = np.tile(np.linspace(0, 1, 48), (32, 1))
    >>> nebrel.lithophane(ramp, width_mm=40, thinnest_mm=0.8, thickest_mm=2.4).build().report.sound
    True

    Args:
        picture: see `read_picture`.
        width_mm: of the sheet, along its form.
        form: that it is bent over.
        thinnest_mm, thickest_mm: walls of the brightest and of the darkest tones.
        tolerance_mm: largest distance from the asked surface.
        recipe, parts: see `relief`.

    Raises:
        NebrelError: something of that is refused; one sentence.
    """
    asked = {
        "glow": {"thinnest_mm": thinnest_mm, "thickest_mm": thickest_mm},
        "form": {"kind": form, "width_mm": width_mm},
        "finish": {"tolerance_mm": tolerance_mm},
    }
    return _made(_picture(picture), "lithophane", recipe, asked, parts)


def cutter(
    outline: PictureLike,
    *,
    width_mm: float | None = None,
    height_mm: float | None = None,
    recipe: Recipe | Mapping[str, Any] | str | Path | None = None,
    parts: Mapping[str, Any] | None = None,
) -> Piece:
    """A cutter for clay or dough, of what a picture or a drawing shows.

    >>> import numpy as np, nebrel
    >>> disc = np.where(np.hypot(*np.mgrid[-1:1:96j, -1:1:96j]) < 0.7, 0.0, 1.0)
    >>> nebrel.cutter(disc, width_mm=50, height_mm=14).build().report.sound
    True

    Args:
        outline: a picture, see `read_picture`, or a path to SVG or DXF.
        width_mm: of the whole picture or drawing.
        height_mm: of the cutter.
        recipe, parts: see `relief`.

    Raises:
        NebrelError: something of that is refused; one sentence.
    """
    return _made(_outline(outline), "cutter", recipe, {"width_mm": width_mm, "solid": {"height_mm": height_mm}}, parts)


@dataclass(frozen=True)
class Traced:
    """Outlines at true size.

    Attributes:
        figure: their curves, mm.
        max_deviation_mm, rms_deviation_mm: how far they are from the edges of the picture.
        frame_mm: size of the whole picture; None for a drawing.
    """

    figure: Figure
    max_deviation_mm: float
    rms_deviation_mm: float
    frame_mm: tuple[float, float] | None

    def _repr_svg_(self) -> str:
        """How notebooks show it."""
        return svg_bytes(self.figure, self.frame_mm).decode()


def trace(outline: PictureLike, *, width_mm: float | None = None, parts: Mapping[str, Any] | None = None) -> Traced:
    """The edges of a picture as curves, or those of a drawing as they are.

    >>> import numpy as np, nebrel
    >>> disc = np.where(np.hypot(*np.mgrid[-1:1:96j, -1:1:96j]) < 0.7, 0.0, 1.0)
    >>> traced = nebrel.trace(disc, width_mm=50)
    >>> len(traced.figure.curves), traced.max_deviation_mm < 0.5
    (1, True)

    Args:
        outline: a picture, see `read_picture`, or a path to SVG or DXF.
        width_mm: of the whole picture or drawing.
        parts: whatever else of its document is to be otherwise, such as `trace`.

    Raises:
        NebrelError: something of that is refused; one sentence.
    """
    piece = _made(_outline(outline), "raised", None, {"width_mm": width_mm}, parts)
    found = piece.evaluator.outlines()  # type: ignore[attr-defined]
    assert isinstance(piece.document, TracedDocument | DrawnDocument)
    frame = piece.evaluator.source_mm if isinstance(piece.document, TracedDocument) else None  # type: ignore[attr-defined]
    return Traced(found.figure, found.max_deviation, found.rms_deviation, frame)


def begin(file: StartingFile, title: str | None = None) -> Piece:
    """A piece as it begins on the shelf when a file is dropped there.

    Args:
        file: that it starts from.
        title: of the piece; the file's name without its ending by default.
    """
    return Piece(document_on(file.source, title), {file.source.blob: file.data})


def _made(
    file: StartingFile,
    shape: str,
    recipe: Recipe | Mapping[str, Any] | str | Path | None,
    asked: Mapping[str, Any],
    parts: Mapping[str, Any] | None,
) -> Piece:
    begun = begin(file)
    piece = Piece(become(begun.document, shape), begun.files)
    if recipe is not None:
        found = recipe_in(recipe)
        piece = piece.following(found)
        if found.shape != shape:
            raise BadValueError(f"The recipe “{found.name}” makes a {found.makes.lower()}, and a {shape} is asked for.")
    return piece.changed(_given(asked)).changed(parts or {})


def _given(asked: Mapping[str, Any]) -> dict[str, Any]:
    """What is asked for, without what is left as it is."""
    found = {name: _given(part) if isinstance(part, Mapping) else part for name, part in asked.items()}
    return {name: part for name, part in found.items() if part is not None and part != {}}


def _picture(picture: PictureLike) -> StartingFile:
    return picture if isinstance(picture, StartingFile) else read_picture(picture)


def _outline(outline: PictureLike) -> StartingFile:
    return read_any(outline) if isinstance(outline, str | Path | StartingFile) else read_picture(outline)
