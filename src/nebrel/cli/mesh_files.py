"""Meshes from files, and words about them."""

import sys
from pathlib import Path

from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import MeshFile
from nebrel.interface.files import mesh_file
from nebrel.piece.report import MeshReport


def open_mesh(path: Path, unit: str | None, sharp: bool = False) -> MeshFile:
    """The mesh in a file; refused when its size says that the unit is missing. For `sharp` see `read_mesh`."""
    found = mesh_file(path, unit, sharp)
    if not found.plausible:
        raise BadValueError(
            f"{path.name} would be {size_of(found.mesh)} mm, and its format tells no unit; say which with --unit mm, "
            "cm, m, in or ft."
        )
    if found.remark is not None:
        print(f"note: {found.remark}", file=sys.stderr)
    return found


def size_of(mesh: TriMesh) -> str:
    """Its sides, in words."""
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    return " × ".join(f"{side:.3f}" for side in high - low)


def mib_of(path: Path) -> str:
    """How large a file is, in words."""
    return f"{path.stat().st_size / 2**20:.1f} MiB"


def tell_findings(report: MeshReport) -> None:
    """Print what a check found, a line each."""
    for finding in report.findings:
        print(f"{finding.severity}: {finding.what} {finding.why}")
