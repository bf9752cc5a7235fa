"""`nebrel convert`, `simplify`, `repair`, `remesh` and `cut`: meshes from anywhere."""

from __future__ import annotations

import json as jsons
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from nebrel.cli.endings import MESHES, Unit
from nebrel.cli.files import check_target, refuse_missing
from nebrel.cli.progress import progress_bar
from nebrel.cli.spellings import choice, direction, part_numbers
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_bytes, parse_length

if TYPE_CHECKING:
    from nebrel.core.mesh import TriMesh

LARGEST_WELD_MM = 1.0
# What a repair counts, in the order in which it is told.
MENDED = (
    "welded_vertices", "dropped_degenerate_faces", "dropped_duplicate_faces", "divided_edges", "turned_faces",
    "filled_holes", "parted_vertices", "joined_shells", "dropped_inner_shells", "recut_faces",
)  # fmt: skip


def convert(
    mesh: Annotated[Path, typer.Argument(help="STL, OBJ, PLY, OFF, 3MF or GLB.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The file to write; its ending tells the format.")],
    unit: Unit = None,
    text: Annotated[bool, typer.Option("--text", help="Write STL as text.")] = False,
) -> int:
    """Write a mesh in another format, at the same size."""
    check_target(output, MESHES)
    refuse_missing(mesh)

    from nebrel.cli.mesh_files import mib_of, open_mesh, size_of
    from nebrel.core.mesh.formats import format_of
    from nebrel.interface.writing import save_mesh

    form = format_of(output.name)
    if text and form != "stl":
        raise BadValueError(f"--text is for STL; {output.name} has one form only, so leave it out.")
    found = open_mesh(mesh, unit)
    save_mesh(found.mesh, output, form, text=text)
    print(f"{output}: {size_of(found.mesh)} mm, {len(found.mesh.faces):,} triangles, {mib_of(output)}")
    if found.mesh.colours is not None and form == "stl":
        print("note: STL keeps no colours.")
    return 0


def simplify(
    mesh: Annotated[Path, typer.Argument(help="STL, OBJ, PLY, OFF, 3MF or GLB.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The file to write; its ending tells the format.")],
    triangles: Annotated[
        int | None, typer.Option(help="So many triangles; where a few more are left, it is told why.")
    ] = None,
    tolerance: Annotated[str | None, typer.Option(help="No further from the original than this, both ways.")] = None,
    size: Annotated[str | None, typer.Option("--bytes", help="A file no larger than this, such as 20MB.")] = None,
    unit: Unit = None,
    json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
) -> int:
    """Make a mesh lighter, and measure how far it is from the original."""
    check_target(output, MESHES)
    refuse_missing(mesh)
    if sum(given is not None for given in (triangles, tolerance, size)) != 1:
        raise BadValueError("One of --triangles, --tolerance and --bytes is needed, and only one.")

    from nebrel.cli.mesh_files import mib_of, open_mesh
    from nebrel.core.mesh.formats import format_of
    from nebrel.core.mesh.topology import analyse
    from nebrel.interface.meshes import simplify as simplified
    from nebrel.interface.writing import save_mesh

    form = format_of(output.name)
    original = open_mesh(mesh, unit).mesh
    with progress_bar() as progress:
        result = simplified(
            original,
            triangles=triangles,
            within_mm=None if tolerance is None else parse_length(tolerance),
            file_bytes=None if size is None else (form, parse_bytes(size)),
            progress=progress,
        )
    save_mesh(result.mesh, output, form)
    report = {
        "triangles_before": len(original.faces),
        "triangles": len(result.mesh.faces),
        "max_deviation_mm": result.deviation.max,
        "rms_deviation_mm": result.deviation.rms,
        "reached": tolerance is not None or not result.why_not,
        "why_not": result.why_not or None,
        "closed": analyse(result.mesh).closed,
        "file_bytes": output.stat().st_size,
    }
    if json:
        print(jsons.dumps(report, indent=2))
        return 0
    print(
        f"{output}: {report['triangles_before']:,} → {report['triangles']:,} triangles, {mib_of(output)}, "
        f"{'closed' if report['closed'] else 'open'}"
    )
    print(f"at most {result.deviation.max:.4f} mm from the original, RMS {result.deviation.rms:.4f} mm")
    if result.why_not:
        print(f"note: {result.why_not}")
    return 0


def repair(
    mesh: Annotated[Path, typer.Argument(help="STL, OBJ, PLY, OFF, 3MF or GLB.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The file to write; its ending tells the format.")],
    weld: Annotated[
        str | None, typer.Option(help="Join corners of open edges within this; by itself, what the file can tell.")
    ] = None,
    largest: Annotated[int | None, typer.Option(help="Keep only so many of the largest parts.")] = None,
    parts: Annotated[str | None, typer.Option(help="Keep these parts only, 1 being the largest: 1,3.")] = None,
    unit: Unit = None,
    json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
) -> int:
    """Join corners, drop faces that are none, divide edges where corners lie, turn faces outward, fill holes, take
    apart what only touches, join parts that overlap. A step that would make anything worse is taken back.

    Corners at the same place are joined whenever a file is read.
    """
    check_target(output, MESHES)
    refuse_missing(mesh)

    from nebrel.cli.mesh_files import open_mesh, tell_findings
    from nebrel.core.mend.pipeline import mend
    from nebrel.core.mesh.formats import format_of
    from nebrel.core.proof import check_soundness
    from nebrel.interface.writing import save_mesh
    from nebrel.piece.report import MendingReport, mesh_report

    within = None if weld is None else parse_length(weld)
    if within is not None and not 0 < within <= LARGEST_WELD_MM:
        raise BadValueError(f"--weld is {weld}; more than 0 and up to {LARGEST_WELD_MM:g} mm would be accepted.")
    found = open_mesh(mesh, unit).mesh
    with progress_bar() as progress:
        mended = mend(found, within, progress=lambda part: progress("Mending", part))
        solid, dropped = _kept(mended.mesh, largest, parts)
        report = mesh_report(check_soundness(solid, lambda part: progress("Checking", part)))
    save_mesh(solid, output, format_of(output.name))
    changes = {
        **{name: mended.count(name) for name in MENDED},
        "open_holes_left": mended.open_holes,
        "dropped_shells": dropped,
    }
    if json:
        told = MendingReport.of(mended).model_dump(mode="json")
        print(jsons.dumps({**changes, **told, **report.model_dump(mode="json")}, indent=2))
        return 0 if report.sound else 1
    done = [f"{count:,} {words.replace('_', ' ')}" for words, count in changes.items() if count]
    print(f"{output}: {', '.join(done) or 'nothing had to be mended'}")
    for step in mended.steps:
        if step.worse:
            raised = " and ".join(each.replace("_", " ") for each in step.worse)
            print(f"taken back: {step.name.replace('_', ' ')}, which would have raised {raised}.")
    tell_findings(report)
    if not report.sound:
        print("What is left can be made anew: nebrel remesh.")
    return 0 if report.sound else 1


def remesh(
    mesh: Annotated[Path, typer.Argument(help="STL, OBJ, PLY, OFF, 3MF or GLB.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The file to write; its ending tells the format.")],
    voxel: Annotated[str, typer.Option(help="About how large triangles become; finer detail is lost.")],
    keep_edges: Annotated[
        bool, typer.Option("--keep-edges/--soften-edges", help="Sharp edges stay, or are softened.")
    ] = True,
    unit: Unit = None,
    json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
) -> int:
    """Make the surface anew with even triangles, closed whatever it was before."""
    check_target(output, MESHES)
    refuse_missing(mesh)

    from nebrel.cli.mesh_files import mib_of, open_mesh, tell_findings
    from nebrel.core.mesh.colouring import colour_like
    from nebrel.core.mesh.distance import measure_between
    from nebrel.core.mesh.formats import format_of
    from nebrel.core.mesh.remesh import remesh
    from nebrel.core.proof import check_soundness
    from nebrel.interface.writing import save_mesh
    from nebrel.piece.report import mesh_report

    found = open_mesh(mesh, unit).mesh
    with progress_bar() as progress:
        anew = remesh(found, parse_length(voxel), keep_edges, lambda part: progress("Making it anew", part))
        anew = colour_like(anew, found)
        report = mesh_report(check_soundness(anew, lambda part: progress("Checking", part)))
        away = measure_between(found, anew, lambda part: progress("Comparing", part))
    save_mesh(anew, output, format_of(output.name))
    changes = {
        "triangles_before": len(found.faces),
        "max_deviation_mm": away.max,
        "rms_deviation_mm": away.rms,
        "file_bytes": output.stat().st_size,
    }
    if json:
        print(jsons.dumps({**changes, **report.model_dump(mode="json")}, indent=2))
        return 0 if report.sound else 1
    print(f"{output}: {len(found.faces):,} → {report.triangles:,} triangles, {mib_of(output)}")
    print(f"at most {away.max:.4f} mm from the original, RMS {away.rms:.4f} mm")
    tell_findings(report)
    return 0 if report.sound else 1


def cut(
    mesh: Annotated[Path, typer.Argument(help="STL, OBJ, PLY, OFF, 3MF or GLB.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The file to write; its ending tells the format.")],
    at: Annotated[str, typer.Option(help="Where the plane lies along its normal.")],
    normal: Annotated[str, typer.Option(help="x, y, z, or three numbers like 1,0,1.")] = "z",
    keep: Annotated[str, typer.Option(help="above or below: the side that stays.")] = "above",
    unit: Unit = None,
    json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
) -> int:
    """Cut a closed mesh by a plane and keep one side, the cut closed."""
    check_target(output, MESHES)
    refuse_missing(mesh)

    from nebrel.cli.mesh_files import mib_of, open_mesh, size_of, tell_findings
    from nebrel.core.csg.halve import Side, halve
    from nebrel.core.mesh.formats import format_of
    from nebrel.core.proof import check_soundness
    from nebrel.interface.writing import save_mesh
    from nebrel.piece.report import mesh_report

    found = open_mesh(mesh, unit).mesh
    side: Side = "below" if choice("--keep", keep, ("above", "below")) == "below" else "above"
    part = halve(found, direction("--normal", normal), parse_length(at), side)
    report = mesh_report(check_soundness(part))
    save_mesh(part, output, format_of(output.name))
    if json:
        print(report.model_dump_json(indent=2))
        return 0 if report.sound else 1
    print(f"{output}: {size_of(part)} mm, {report.triangles:,} triangles, {mib_of(output)}")
    tell_findings(report)
    return 0 if report.sound else 1


def _kept(mesh: TriMesh, largest: int | None, parts: str | None) -> tuple[TriMesh, int]:
    """The mesh of the parts that are to stay, and how many go."""
    if largest is None and parts is None:
        return mesh, 0
    if largest is not None and parts is not None:
        raise BadValueError("--largest and --parts both say what stays; one of them is needed, and only one.")

    from nebrel.core.mesh.shells import only_shells, shells_of

    shells = shells_of(mesh)
    numbers = part_numbers(parts, len(shells)) if parts is not None else list(range(1, (largest or 0) + 1))
    if largest is not None and largest < 1:
        raise BadValueError(f"--largest is {largest}; 1 or more would be accepted.")
    kept = [shells[number - 1] for number in numbers if number <= len(shells)]
    return only_shells(mesh, kept), len(shells) - len(kept)
