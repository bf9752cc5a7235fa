"""`nebrel check`: whether a mesh is a proper solid."""

from pathlib import Path
from typing import Annotated

import typer

from nebrel.cli.endings import Unit
from nebrel.cli.files import read_file
from nebrel.cli.progress import progress_bar


def check(
    mesh: Annotated[Path, typer.Argument(help="STL, OBJ, PLY, OFF, 3MF or GLB.")],
    unit: Unit = None,
    json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
) -> int:
    """Measure a mesh and tell whether it is closed, 2-manifold, outward and free of crossings."""
    data = read_file(mesh, "mesh_bytes")

    from nebrel.core.mesh.formats import read_mesh
    from nebrel.core.proof import check_soundness
    from nebrel.piece.report import mesh_report

    solid = read_mesh(data, mesh.name, unit).mesh
    with progress_bar() as progress:
        report = mesh_report(check_soundness(solid, lambda part: progress("Checking", part)))
    if json:
        print(report.model_dump_json(indent=2))
    else:
        size = " × ".join(f"{side:.3f}" for side in report.size_mm)
        print(
            f"{mesh}: {size} mm, {report.triangles:,} triangles, {report.vertices:,} vertices, "
            f"{report.shells:,} {'shell' if report.shells == 1 else 'shells'}"
        )
        print(f"volume {report.volume_mm3:,.2f} mm³, area {report.area_mm2:,.2f} mm²")
        for finding in report.findings:
            print(f"{finding.severity}: {finding.what} {finding.why}")
    return 0 if report.sound else 1
