"""Reports in words, or as JSON."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from nebrel.piece.report import BuildReport


def tell_build(report: BuildReport, output: Path, json: bool) -> None:
    """Print the report on a build, in words or as JSON."""
    if json:
        left_out = {"triangles_before", "figure"} | (set() if report.lit is not None else {"lit"})
        print(report.model_dump_json(indent=2, exclude=left_out))
        return
    size = " × ".join(f"{side:.3f}" for side in report.size_mm)
    print(f"{output}: {size} mm, {report.triangles:,} triangles, {report.file_bytes / 2**20:.1f} MiB")
    print(
        f"surface true to {report.max_error_mm:.4f} mm (asked {report.tolerance_mm:g}), "
        f"RMS {report.rms_error_mm:.4f} mm, {report.seconds:.1f} s"
    )
    between = "" if report.max_error_between_mm is None else f", between them {report.max_error_between_mm:.4f} mm"
    print(f"measured {report.error_how}, {report.error_where}{between}")
    for finding in report.findings:
        print(f"{finding.severity}: {finding.what} {finding.why}")
