"""`nebrel check`: whether a mesh is a proper solid."""

import math
from pathlib import Path
from typing import Annotated

import typer

from nebrel.cli.endings import Unit
from nebrel.cli.files import read_file
from nebrel.cli.progress import progress_bar

WALLS_LOOKED_AT = 1500


def check(
    mesh: Annotated[Path, typer.Argument(help="STL, OBJ, PLY, OFF, 3MF or GLB.")],
    unit: Unit = None,
    json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
) -> int:
    """Measure a mesh and tell whether it is closed, 2-manifold, outward and free of crossings."""
    data = read_file(mesh, "mesh_bytes")

    from nebrel.core.mesh.formats import read_mesh
    from nebrel.core.proof import check_soundness
    from nebrel.core.proof.objects import check_objects
    from nebrel.core.proof.soundness import with_remark
    from nebrel.core.proof.thickness import thinnest_of_some
    from nebrel.piece.report import BodyReport, CheckReport, mesh_report

    file = read_mesh(data, mesh.name, unit)
    with progress_bar() as progress:
        found = check_soundness(file.mesh, lambda part: progress("Checking", part))
        found, objects = check_objects(file.mesh, file.objects, found)
        found = with_remark(found, file.remark)
        closed = found.closed and found.outward
        thinnest, looked_at = thinnest_of_some(file.mesh, WALLS_LOOKED_AT) if closed else (math.inf, 0)
    report = CheckReport(
        **mesh_report(found).model_dump(),
        objects=[BodyReport.of(each) for each in objects],
        thinnest_wall_mm=round(thinnest, 6) if math.isfinite(thinnest) else None,
        walls_looked_at=looked_at,
    )
    if json:
        print(report.model_dump_json(indent=2))
    else:
        size = " × ".join(f"{side:.3f}" for side in report.size_mm)
        print(
            f"{mesh}: {size} mm, {report.triangles:,} triangles, {report.vertices:,} vertices, "
            f"{report.shells:,} {'shell' if report.shells == 1 else 'shells'}"
        )
        print(f"volume {report.volume_mm3:,.2f} mm³, area {report.area_mm2:,.2f} mm²")
        if report.thinnest_wall_mm is not None:
            print(f"thinnest wall {report.thinnest_wall_mm:.3f} mm, of {report.walls_looked_at:,} places")
        for body in report.objects:
            print(f"object {body.name}: {body.volume_mm3:,.2f} mm³, {body.triangles:,} triangles, sound: {body.sound}")
        for finding in report.findings:
            print(f"{finding.severity}: {finding.what} {finding.why}")
    return 0 if report.sound else 1
