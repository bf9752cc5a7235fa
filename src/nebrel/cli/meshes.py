"""`nebrel convert`, `nebrel simplify` and `nebrel repair`: meshes from anywhere."""

import io
import json as jsons
import math
from collections.abc import Callable
from pathlib import Path
from typing import Annotated

import typer

from nebrel.cli.files import check_target, read_file
from nebrel.cli.progress import progress_bar
from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.distance import measure_between
from nebrel.core.mesh.formats import MESH_FORMATS, MeshFile, MeshFormat, format_of, read_mesh, write_mesh
from nebrel.core.mesh.formats.stl import stl_bytes
from nebrel.core.mesh.repair import repair as mend
from nebrel.core.mesh.simplify import FEWEST, Simplified, collapsed, to_count, to_tolerance
from nebrel.core.mesh.topology import analyse
from nebrel.core.proof import check_soundness
from nebrel.core.units import parse_bytes, parse_length
from nebrel.piece.report import mesh_report
from nebrel.settings import Settings
from nebrel.store.blobs import write_atomically

ENDINGS = tuple(f".{form}" for form in MESH_FORMATS)
SLACK = 0.99
Unit = Annotated[str | None, typer.Option(help="Unit of a file that does not say: mm, cm, m, in or ft.")]


def convert(
    mesh: Annotated[Path, typer.Argument(help="STL, OBJ, PLY, OFF, 3MF or GLB.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The file to write; its ending tells the format.")],
    unit: Unit = None,
    text: Annotated[bool, typer.Option("--text", help="Write STL as text.")] = False,
) -> int:
    """Write a mesh in another format, at the same size."""
    check_target(output, ENDINGS)
    form = format_of(output.name)
    if text and form != "stl":
        raise BadValueError(f"--text is for STL; {output.name} has one form only, so leave it out.")
    found = open_mesh(mesh, unit)
    save_mesh(found.mesh, output, form, text=text)
    print(f"{output}: {_size(found.mesh)} mm, {len(found.mesh.faces):,} triangles, {_mib(output)}")
    if found.mesh.colours is not None and form == "stl":
        print("note: STL keeps no colours.")
    return 0


def simplify(
    mesh: Annotated[Path, typer.Argument(help="STL, OBJ, PLY, OFF, 3MF or GLB.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The file to write; its ending tells the format.")],
    triangles: Annotated[int | None, typer.Option(help="About so many triangles, rather fewer.")] = None,
    tolerance: Annotated[str | None, typer.Option(help="No further from the original than this, both ways.")] = None,
    size: Annotated[str | None, typer.Option("--bytes", help="A file no larger than this, such as 20MB.")] = None,
    unit: Unit = None,
    json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
) -> int:
    """Make a mesh lighter, and measure how far it is from the original."""
    check_target(output, ENDINGS)
    if sum(given is not None for given in (triangles, tolerance, size)) != 1:
        raise BadValueError("One of --triangles, --tolerance and --bytes is needed, and only one.")
    form = format_of(output.name)
    original = open_mesh(mesh, unit).mesh
    with progress_bar() as progress:

        def follow(part: float) -> None:
            progress("Simplifying", part)

        if triangles is not None:
            result = to_count(original, triangles, follow)
        elif tolerance is not None:
            result = to_tolerance(original, parse_length(tolerance), follow)
        else:
            assert size is not None
            result = _fitted(original, form, parse_bytes(size), follow)
    save_mesh(result.mesh, output, form)
    report = {
        "triangles_before": len(original.faces),
        "triangles": len(result.mesh.faces),
        "max_deviation_mm": result.deviation.max,
        "rms_deviation_mm": result.deviation.rms,
        "closed": analyse(result.mesh).closed,
        "file_bytes": output.stat().st_size,
    }
    if json:
        print(jsons.dumps(report, indent=2))
        return 0
    print(
        f"{output}: {report['triangles_before']:,} → {report['triangles']:,} triangles, {_mib(output)}, "
        f"{'closed' if report['closed'] else 'open'}"
    )
    print(f"at most {result.deviation.max:.4f} mm from the original, RMS {result.deviation.rms:.4f} mm")
    return 0


def repair(
    mesh: Annotated[Path, typer.Argument(help="STL, OBJ, PLY, OFF, 3MF or GLB.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The file to write; its ending tells the format.")],
    unit: Unit = None,
    json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
) -> int:
    """Drop faces that are none, turn faces outward, fill holes; tell what changed and what is left.

    Corners at the same place are joined whenever a file is read.
    """
    check_target(output, ENDINGS)
    found = open_mesh(mesh, unit).mesh
    with progress_bar() as progress:
        mended = mend(found, lambda part: progress("Mending", part))
        report = mesh_report(check_soundness(mended.mesh, lambda part: progress("Checking", part)))
    save_mesh(mended.mesh, output, format_of(output.name))
    changes = {
        "dropped_degenerate_faces": mended.degenerate,
        "dropped_duplicate_faces": mended.duplicate,
        "turned_faces": mended.turned,
        "filled_holes": mended.filled,
        "open_holes_left": mended.left_open,
    }
    if json:
        print(jsons.dumps({**changes, **report.model_dump(mode="json")}, indent=2))
        return 0 if report.sound else 1
    done = [f"{count:,} {words.replace('_', ' ')}" for words, count in changes.items() if count]
    print(f"{output}: {', '.join(done) or 'nothing had to be mended'}")
    for finding in report.findings:
        print(f"{finding.severity}: {finding.what} {finding.why}")
    return 0 if report.sound else 1


def open_mesh(path: Path, unit: str | None) -> MeshFile:
    """The mesh in a file; refused when its size says that the unit is missing."""
    found = read_mesh(read_file(path, Settings().mesh_bytes), path.name, unit)
    if not found.plausible:
        raise BadValueError(
            f"{path.name} would be {_size(found.mesh)} mm, and its format tells no unit; say which with --unit mm, cm, "
            "m, in or ft."
        )
    return found


def save_mesh(
    mesh: TriMesh,
    path: Path,
    form: MeshFormat,
    progress: Callable[[float], None] = lambda _: None,
    text: bool = False,
) -> None:
    """Write a mesh, or nothing at all."""
    try:
        write_atomically(path, lambda file: write_mesh(mesh, file, form, progress, text))
    except OSError as cause:
        raise BadValueError(f"{path} cannot be written: {cause.strerror}.") from cause


def _fitted(mesh: TriMesh, form: MeshFormat, limit: int, progress: Callable[[float], None]) -> Simplified:
    """As many triangles as fit into `limit` bytes of a format; tried, because most formats' size depends on numbers."""
    lighter, written = mesh, _bytes_of(mesh, form)
    while written > limit:
        count = int(len(lighter.faces) * limit / written * SLACK)
        before, lighter = lighter, collapsed(mesh, max(FEWEST, count), math.inf)
        if len(lighter.faces) >= len(before.faces):
            raise BadValueError(
                f"No {form.upper()} file of this mesh fits into {limit:,} bytes; {written:,} would be needed."
            )
        written = _bytes_of(lighter, form)
    return Simplified(lighter, measure_between(mesh, lighter, progress))


def _bytes_of(mesh: TriMesh, form: MeshFormat) -> int:
    if form == "stl":
        return stl_bytes(mesh)
    held = io.BytesIO()
    write_mesh(mesh, held, form)
    return held.tell()


def _size(mesh: TriMesh) -> str:
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    return " × ".join(f"{side:.3f}" for side in high - low)


def _mib(path: Path) -> str:
    return f"{path.stat().st_size / 2**20:.1f} MiB"
