"""`nebrel layers`: what a printer will do with a mesh or a piece, layer by layer."""

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, BinaryIO

import typer

from nebrel.cli.endings import MESHES, Unit
from nebrel.cli.progress import progress_bar
from nebrel.core.errors import BadValueError

if TYPE_CHECKING:
    from nebrel.core.layers.study import LayerSetup, LayerStudy
    from nebrel.core.mesh import TriMesh


def layers(
    what: Annotated[str, typer.Argument(help="A mesh file as it stands, or the title or id of a piece.")],
    layer: Annotated[float | None, typer.Option(help="Height of a layer, mm; of a piece, its maker's.")] = None,
    first: Annotated[float | None, typer.Option(help="Height of the first layer, mm; as the others by itself.")] = None,
    cusp: Annotated[
        float | None, typer.Option(help="How far steps on slopes may stand out, mm; layers are lower where needed.")
    ] = None,
    line: Annotated[float | None, typer.Option(help="Width of a printed line, mm; of a piece, its maker's.")] = None,
    infill: Annotated[
        float | None, typer.Option(help="Share of the inside that is filled; 0.15, or as the piece tells.")
    ] = None,
    steepest: Annotated[
        float | None, typer.Option(help="Degrees from upright that hold without support; 45, or as the piece tells.")
    ] = None,
    bridge: Annotated[
        float | None, typer.Option(help="Longest bridge that holds, mm; 10, or as the piece tells.")
    ] = None,
    output: Annotated[
        Path | None, typer.Option("-o", "--output", help="An SVG of all layers, or a folder for a PNG of each.")
    ] = None,
    unit: Unit = None,
    json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
) -> int:
    """Cut a solid into layers; tell lines in walls, islands, overhang, bridges, support, time and weight."""
    if output is not None and output.suffix and output.suffix.lower() != ".svg":
        raise BadValueError(f"{output.name} should end in .svg, or be the name of a folder for pictures.")

    from dataclasses import replace

    from nebrel.core.layers.study import study_layers
    from nebrel.piece.printing.report import LayersReport

    with progress_bar() as progress:
        mesh, asked = _solid(what, unit)
        setup = replace(
            asked,
            layer=asked.layer if layer is None else layer,
            first=asked.first if first is None else first,
            cusp=asked.cusp if cusp is None else cusp,
            way=replace(
                asked.way,
                line=asked.way.line if line is None else line,
                infill=asked.way.infill if infill is None else infill,
            ),
            steepest_deg=asked.steepest_deg if steepest is None else steepest,
            longest_bridge=asked.longest_bridge if bridge is None else bridge,
        )
        study = study_layers(mesh, setup, progress)
    if output is not None:
        _draw(study, output)
    report = LayersReport.of(study, setup)
    if json:
        print(report.model_dump_json(indent=2))
        return 0
    print(f"{what}: {report.layers:,} layers over {report.height_mm:.2f} mm")
    print(
        f"about {report.minutes:,.0f} minutes and {report.grams:,.1f} g, {setup.way.infill:.0%} filled; "
        f"support {report.support_mm3 / 1000:,.2f} cm³ below {report.overhang_mm2:,.1f} mm²"
    )
    for finding in report.findings:
        print(f"{finding.severity}: {finding.what} {finding.why}")
    return 0


def _solid(what: str, unit: str | None) -> "tuple[TriMesh, LayerSetup]":
    """A mesh as it stands, or the finished solid of a piece as it is laid, and how it is printed."""
    from nebrel.cli.mesh_files import open_mesh
    from nebrel.piece.parts.maker import PrinterMaker
    from nebrel.piece.parts.printing import PrintingPart
    from nebrel.piece.printing.laid import set_on_plate, setup_of

    path = Path(what)
    if path.suffix.lower() in MESHES or path.is_file():
        return open_mesh(path, unit).mesh, setup_of(PrintingPart(), PrinterMaker(layer_mm=0.2))

    from nebrel.cli.shelf import piece_named
    from nebrel.jobs.workshop import open_workshop
    from nebrel.piece.evaluation.prepare import FULL
    from nebrel.settings import Settings

    workshop = open_workshop(Settings())
    try:
        piece = workshop.piece(piece_named(workshop.pieces.all(), what).id)
        printing, maker = piece.document.printing, piece.document.maker
        return set_on_plate(piece.evaluator.mesh(FULL), printing.down), setup_of(printing, maker)
    finally:
        workshop.close()


def _draw(study: "LayerStudy", output: Path) -> None:
    from nebrel.core.layers.draw import layer_pictures, layers_svg
    from nebrel.store.blobs import write_atomically

    if output.suffix:
        data = layers_svg(study)
        write_atomically(output, lambda file: _write(file, data))
        return

    import cv2

    output.mkdir(parents=True, exist_ok=True)
    for number, picture in enumerate(layer_pictures(study), 1):
        _, png = cv2.imencode(".png", picture)
        (output / f"layer-{number:04}.png").write_bytes(png.tobytes())


def _write(file: BinaryIO, data: bytes) -> None:
    file.write(data)
