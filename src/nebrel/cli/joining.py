"""`nebrel join`: meshes put together."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from nebrel.cli.endings import MESHES, AsJson, Unit
from nebrel.cli.files import check_target, refuse_missing
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length

if TYPE_CHECKING:
    from nebrel.core.csg.join import How, Joined
    from nebrel.core.proof import Finding


def join(
    parts: Annotated[list[Path], typer.Argument(help="Closed meshes: STL, OBJ, PLY, OFF, 3MF or GLB.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The file to write; its ending tells the format.")],
    at: Annotated[
        list[str] | None, typer.Option(help="Move a part from where its file has it: 2:10,0,3 the second. Repeatable.")
    ] = None,
    cut: Annotated[bool, typer.Option("--cut", help="Cut the others away from the first.")] = False,
    apart: Annotated[bool, typer.Option("--apart", help="Keep them apart, in one file.")] = False,
    unit: Unit = None,
    json: AsJson = False,
) -> int:
    """Put meshes together where they stand: joined to one solid, cut away from the first, or kept apart in one file."""
    check_target(output, MESHES)
    for part in parts:
        refuse_missing(part)
    if cut and apart:
        raise BadValueError("--cut and --apart both say what becomes of the parts; only one of them is accepted.")
    moves = dict(_move(given, len(parts)) for given in at or [])
    how: How = "cut" if cut else "apart" if apart else "join"

    from nebrel.cli.mesh_files import open_mesh, size_of, tell_findings
    from nebrel.core.csg.join import join as put_together
    from nebrel.core.csg.join import moved
    from nebrel.core.mesh.formats import format_of
    from nebrel.core.proof import check_soundness
    from nebrel.interface.writing import save_mesh
    from nebrel.piece.report import FindingReport, mesh_report

    opened = [open_mesh(part, unit).mesh for part in parts]
    made = put_together([moved(mesh, moves.get(i, (0.0, 0.0, 0.0))) for i, mesh in enumerate(opened, start=1)], how)
    report = mesh_report(check_soundness(made.mesh))
    if how == "join":
        told = [FindingReport.of(finding) for finding in _meetings(made)]
        report = report.model_copy(update={"findings": [*report.findings, *told]})
    save_mesh(made.mesh, output, format_of(output.name))
    if json:
        print(report.model_dump_json(indent=2))
        return 0 if report.sound else 1
    print(f"{output}: {size_of(made.mesh)} mm, {report.triangles:,} triangles, {report.shells} parts")
    tell_findings(report)
    return 0 if report.sound else 1


def _meetings(made: Joined) -> list[Finding]:
    from nebrel.core.proof import Finding

    touching = [pair for pair, meeting in made.meetings.items() if meeting == "touch"]
    found = [
        Finding(
            "caution",
            f"Parts {one + 1} and {other + 1} only touch.",
            "What touches in a face or an edge breaks there, or is no solid; let them overlap by 0.05 mm.",
            "parts_touch",
        )
        for one, other in touching
    ]
    held = {number for pair in touching for number in pair}
    found += [
        Finding("caution", f"Part {number + 1} floats.", "Nothing joins it to the first part; move it.", "part_floats")
        for number in made.loose
        if number not in held
    ]
    return found


def _move(given: str, count: int) -> tuple[int, tuple[float, float, float]]:
    number, _, place = given.partition(":")
    values = place.split(",")
    if not number.isdigit() or not 1 <= int(number) <= count or len(values) != 3:
        raise BadValueError(
            f"--at is “{given}”; a part from 1 to {count} and three lengths like 2:10,0,3 would be accepted."
        )
    x, y, z = (parse_length(value) for value in values)
    return int(number), (x, y, z)
