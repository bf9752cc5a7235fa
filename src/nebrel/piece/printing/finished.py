"""The file of a piece that is printed otherwise than it lies, or in colours by layers."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import ConflictError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import MeshFormat
from nebrel.core.mesh.shells import together_coloured
from nebrel.core.proof.objects import check_objects
from nebrel.core.proof.soundness import check_soundness
from nebrel.piece.evaluation.evaluator import PieceEvaluator
from nebrel.piece.printing.bands import coloured_bodies
from nebrel.piece.printing.laid import set_on_plate
from nebrel.piece.report import BodyReport, FindingReport, PrintedReport

Objects = list[tuple[str, NDArray[np.int64]]]
# Formats that hold several objects.
SEVERAL: tuple[MeshFormat, ...] = ("3mf", "obj", "glb")


@dataclass(frozen=True)
class ForPrinter:
    """What a file holds.

    Attributes:
        mesh: as it is printed.
        objects: names of its objects and the faces of each; none where it is one.
        names: what colours are called, `#rrggbb` to a name.
        report: how it stands, and whether it is sound so; None where it is as it was built.
        findings: what is wrong with it only so.
    """

    mesh: TriMesh
    objects: Objects
    names: dict[str, str]
    report: PrintedReport | None
    findings: tuple[FindingReport, ...] = ()


def changes_the_file(evaluator: PieceEvaluator[Any], form: MeshFormat) -> list[object]:
    """What of how it is printed its file depends on; nothing where it is delivered as it was built."""
    document = evaluator.document
    printing = document.printing
    if document.carving.on:
        return []
    told: list[object] = [] if printing.as_made else [list(printing.down)]
    if _has_bands(evaluator, form):
        told.append([printing.model_dump(mode="json", exclude={"down"}), document.maker.layer_mm])
    return told


def for_printer(
    evaluator: PieceEvaluator[Any], mesh: TriMesh, objects: Objects, form: MeshFormat, textured: bool = False
) -> ForPrinter:
    """A finished mesh as it stands on the plate, in bodies of one colour each where colours change by layers.

    Args:
        evaluator: of the piece.
        mesh, objects: as it is delivered otherwise.
        form: of the file.
        textured: whether a texture carries its colours.

    Raises:
        ConflictError: it has bodies or a texture of its own, and is to be cut into colours by layers as well.
    """
    names = dict(evaluator.colour_names)
    if not changes_the_file(evaluator, form):
        return ForPrinter(mesh, objects, names, None)
    printing = evaluator.document.printing
    laid = turned_for_printer(evaluator, mesh)
    if _has_bands(evaluator, form):
        if objects or textured:
            own = "several objects" if objects else "a texture"
            raise ConflictError(
                f"The piece is delivered with {own}, so it is not cut into colours by layers as well; "
                "switch those off, or deliver STL."
            )
        bodies = coloured_bodies(evaluator, laid)
        laid = together_coloured([body for _, body in bodies])
        ends = np.cumsum([0, *(len(body.faces) for _, body in bodies)])
        objects = [(name, np.arange(ends[at], ends[at + 1])) for at, (name, _) in enumerate(bodies)]
        bands = printing.bands
        names |= {each.colour: each.name for each in (bands, *bands.changes) if each.name}
    found, checked = check_objects(laid, tuple((name, len(own)) for name, own in objects), check_soundness(laid))
    wide, deep, tall = np.ptp(laid.vertices[np.unique(laid.faces)], axis=0).tolist()
    report = PrintedReport(
        down=printing.down,
        size_mm=(round(wide, 6), round(deep, 6), round(tall, 6)),
        sound=found.sound,
        bodies=[BodyReport.of(each) for each in checked],
    )
    faults = tuple(FindingReport.of(each) for each in found.findings if each.severity == "fault")
    return ForPrinter(laid, objects, names, report, faults)


def turned_for_printer(evaluator: PieceEvaluator[Any], mesh: TriMesh) -> TriMesh:
    """A finished mesh with the side below that the document tells; as it is where it lies as it was made."""
    document = evaluator.document
    return mesh if document.carving.on or document.printing.as_made else set_on_plate(mesh, document.printing.down)


def _has_bands(evaluator: PieceEvaluator[Any], form: MeshFormat) -> bool:
    bands = evaluator.document.printing.bands
    return bands.on and bool(bands.changes) and form in SEVERAL
