"""`nebrel check`: whether a mesh is a proper solid."""

from pathlib import Path
from typing import Annotated

import typer

from nebrel.cli.endings import Unit
from nebrel.cli.files import refuse_missing
from nebrel.cli.progress import progress_bar


def check(
    mesh: Annotated[Path, typer.Argument(help="STL, OBJ, PLY, OFF, 3MF or GLB.")],
    unit: Unit = None,
    json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
) -> int:
    """Measure a mesh and tell whether it is closed, 2-manifold, outward and free of crossings."""
    refuse_missing(mesh)

    from nebrel.interface.files import mesh_file
    from nebrel.interface.meshes import check as checked

    with progress_bar() as progress:
        report = checked(mesh_file(mesh, unit), progress)
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
