"""`nebrel make …`: from a picture to a file, without the shelf."""

from pathlib import Path
from typing import Annotated

import typer

from nebrel.cli.files import check_target, read_file
from nebrel.cli.meshes import ENDINGS, save_mesh
from nebrel.cli.progress import progress_bar
from nebrel.core.errors import BadValueError
from nebrel.core.mesh.formats import format_of
from nebrel.core.picture import read_picture
from nebrel.core.units import parse_length
from nebrel.piece.cache import ResultCache
from nebrel.piece.document import parse_document, picture_source
from nebrel.piece.evaluate import Evaluator
from nebrel.piece.report import BuildReport
from nebrel.settings import Settings

NO_BLOB = "0" * 64
MEMORY_BYTES = 64 * 2**20

make = typer.Typer(help="Make a solid from a picture.", rich_markup_mode=None)


@make.callback()
def _group() -> None:
    """Make a solid from a picture."""


@make.command()
def relief(
    picture: Annotated[Path, typer.Argument(help="PNG, JPEG, TIFF, WebP or BMP.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="STL, OBJ, PLY, OFF, 3MF or GLB, by its ending.")],
    width: Annotated[str, typer.Option(help="Width of the panel.")] = "80",
    relief: Annotated[str, typer.Option(help="From the lowest to the highest point that tones can give.")] = "3",
    backing: Annotated[str, typer.Option(help="Solid thickness under the lowest point.")] = "1.2",
    raise_: Annotated[str, typer.Option("--raise", help="Which tones stand tall: bright or dark.")] = "bright",
    tolerance: Annotated[str, typer.Option(help="Largest distance from the asked surface.")] = "0.02",
    smooth: Annotated[str, typer.Option(help="Radius of a light smoothing.")] = "0",
    json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
) -> int:
    """Make a relief panel: tones become heights over a flat back."""
    check_target(output, ENDINGS)
    form = format_of(output.name)
    settings = Settings()
    data = read_file(picture, settings.picture_bytes)
    source = picture_source(NO_BLOB, picture.name, read_picture(data, picture.name, settings.read_limits).facts)
    document = parse_document(
        {
            "title": picture.stem[:120] or "Relief",
            "picture": source.model_dump(),
            "height": {
                "rule": {
                    "tall": _one_of("--raise", raise_, ("bright", "dark")),
                    "relief_mm": parse_length(relief),
                },
                "smooth_mm": parse_length(smooth),
            },
            "body": {"width_mm": parse_length(width), "backing_mm": parse_length(backing)},
            "finish": {"tolerance_mm": parse_length(tolerance)},
        }
    )
    evaluator = Evaluator(lambda _: data, ResultCache(MEMORY_BYTES), settings.read_limits)
    with progress_bar() as progress:
        slab, report = evaluator.build(document, progress)
        save_mesh(slab.mesh, output, form, lambda part: progress("Writing the file", part))
    report = report.model_copy(update={"file_bytes": output.stat().st_size})
    _tell(report, output, json)
    return 0 if report.sound else 1


def _one_of(option: str, given: str, accepted: tuple[str, ...]) -> str:
    if given not in accepted:
        raise BadValueError(f"{option} is “{given}”; {' or '.join(accepted)} would be accepted.")
    return given


def _tell(report: BuildReport, output: Path, json: bool) -> None:
    if json:
        print(report.model_dump_json(indent=2))
        return
    size = " × ".join(f"{side:.3f}" for side in report.size_mm)
    print(f"{output}: {size} mm, {report.triangles:,} triangles, {report.file_bytes / 2**20:.1f} MiB")
    print(
        f"surface true to {report.max_error_mm:.4f} mm (asked {report.tolerance_mm:g}), "
        f"RMS {report.rms_error_mm:.4f} mm, {report.seconds:.1f} s"
    )
    for finding in report.findings:
        print(f"{finding.severity}: {finding.what} {finding.why}")
