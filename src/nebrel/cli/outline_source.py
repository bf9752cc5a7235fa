"""Pictures and drawings opened for commands that make something of their outlines."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Literal

from nebrel.cli.endings import DRAWINGS, NO_BLOB
from nebrel.cli.tell import OutlineSource
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length
from nebrel.interface.reading import read_file

if TYPE_CHECKING:
    from pathlib import Path

    from nebrel.piece.evaluation.evaluator import Progress
    from nebrel.piece.kinds.outline.evaluator import DrawnEvaluator, TracedEvaluator

    AnyOutlines = TracedEvaluator | DrawnEvaluator

MEMORY_BYTES = 256 * 2**20
# How wide what does not say its size becomes, mm.
ASSUMED_MM = {"raised": 60.0, "cutter": 60.0, "stamp": 40.0}


@dataclass(frozen=True)
class Opened:
    """Outlines from a file.

    Attributes:
        evaluator: of what was opened.
        size_source: where its size comes from.
        drawn_mm: how wide what is drawn is to be, or None to leave it.
        remarks: what was left out.
    """

    evaluator: AnyOutlines
    size_source: Literal["stated", "asked", "assumed"]
    drawn_mm: float | None
    remarks: tuple[str, ...] = ()

    @property
    def frame(self) -> tuple[float, float] | None:
        """Size of the whole picture, mm; None for a drawing."""

        from nebrel.piece.kinds.outline.evaluator import TracedEvaluator

        return self.evaluator.source_mm if isinstance(self.evaluator, TracedEvaluator) else None

    def source(self, progress: Progress) -> OutlineSource:
        """What is to be told of it."""

        from nebrel.piece.kinds.outline.evaluator import TracedEvaluator

        if isinstance(self.evaluator, TracedEvaluator):
            off = self.evaluator.picture_difference(progress)
            ink = self.evaluator.guessed_ink(progress)
            return OutlineSource(self.size_source, self.remarks, ink, off_picture=None if off is None else off.share)
        differs = self.evaluator.difference()
        return OutlineSource(self.size_source, self.remarks, differs=None if differs is None else differs.share)

    def sized(self, progress: Progress) -> AnyOutlines:
        """The same so that what is drawn is as wide as asked."""

        from nebrel.piece.kinds.outline.mending import MoveMend

        if self.drawn_mm is None:
            return self.evaluator
        width = self.evaluator.document.width_mm * self.drawn_mm / _width_of(self.evaluator, progress)
        sized = self.evaluator.with_changes({"width_mm": width})
        # Another size can move an edge by what tracing allows; the rest is scaled away.
        return sized.with_changes({"mend": (MoveMend(scale=self.drawn_mm / _width_of(sized, progress)),)})


def _width_of(evaluator: AnyOutlines, progress: Progress) -> float:
    """Of what is made: everything drawn, and the ground where that is raised, too."""
    from nebrel.core.region.curves import Figure, bounds_of
    from nebrel.piece.kinds.outline.document import RaisedPart

    figure, solid = evaluator.outlines(progress).figure, evaluator.document.solid
    heights = solid.heights_mm if isinstance(solid, RaisedPart) else ()
    raised = tuple(
        layer for at, layer in enumerate(figure.layers) if (heights[at] > 0 if at < len(heights) else not layer.ground)
    )
    low_x, _, high_x, _ = bounds_of(Figure(raised) if raised else figure)
    if not high_x > low_x:
        raise BadValueError("What is drawn has no width, so it cannot be made as wide as asked.")
    return high_x - low_x


def open_outlines(
    file: Path,
    width: str | None,
    solid: dict[str, Any],
    tracing: dict[str, Any],
    unit: str | None,
    join: str | None,
) -> Opened:

    from nebrel.core.mesh.formats import MM_PER, mesh_unit
    from nebrel.core.outline_files.read import drawing_format, read_drawing
    from nebrel.core.picture import read_picture
    from nebrel.interface.computing import sources_of
    from nebrel.piece.kinds.outline.document import DrawnDocument, TracedDocument
    from nebrel.piece.kinds.outline.evaluator import DrawnEvaluator, TracedEvaluator
    from nebrel.piece.parts.pictured import picture_source
    from nebrel.piece.parts.refusals import parse_part
    from nebrel.settings import Settings

    settings = Settings()
    drawn = file.suffix.lower() in DRAWINGS
    data = read_file(file, "mesh_bytes" if drawn else "picture_bytes")
    parts: dict[str, Any] = {"title": file.stem[:120] or "Outline", "solid": solid}
    asked = None if width is None else parse_length(width)
    sources = sources_of({NO_BLOB: data}, MEMORY_BYTES)
    if drawn:
        per_unit = None if unit is None else MM_PER[mesh_unit(unit)]
        join_mm = 0.0 if join is None else parse_length(join)
        found = read_drawing(data, file.name, per_unit, join_mm)
        if unit is not None and found.stated:
            raise BadValueError(
                f"{file.name} says how large it is, so --unit does not apply; --width sets another size."
            )
        # A unit of DXF is a measure of something; one of SVG, where it does not say, is only a place on a screen.
        known = found.size_given or drawing_format(file.name) == "dxf"
        wide = found.size[0] if known else ASSUMED_MM[solid["kind"]]
        parts["width_mm"] = asked or wide
        parts["drawing"] = {
            "blob": NO_BLOB,
            "name": file.name[-255:],
            "format": drawing_format(file.name),
            "size_mm": found.size,
            "told": found.size_given,
            "remarks": found.remarks,
            "join_mm": join_mm,
            "mm_per_unit": per_unit,
        }
        by: Literal["stated", "asked", "assumed"] = "assumed"
        if asked is not None or unit is not None:
            by = "asked"
        elif found.stated:
            by = "stated"
        # The width of a drawing is that of what is drawn.
        drawing = DrawnEvaluator(parse_part(DrawnDocument, parts), sources)
        drawing.take(found)
        return Opened(drawing, by, None, found.remarks)
    if unit is not None or join is not None:
        option = "--unit" if unit is not None else "--join"
        raise BadValueError(f"{file.name} is a picture, so {option} does not apply; it is for drawings.")
    opened = read_picture(data, file.name, settings.read_limits)
    parts["picture"] = picture_source(NO_BLOB, file.name, opened.facts).model_dump()
    parts["trace"] = tracing
    parts["width_mm"] = wide = asked or ASSUMED_MM[solid["kind"]]
    evaluator = TracedEvaluator(parse_part(TracedDocument, parts), sources)
    return Opened(evaluator, "assumed" if asked is None else "asked", wide)
