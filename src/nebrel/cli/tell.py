"""Reports in words, or as JSON."""

from __future__ import annotations

import json as jsons
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

if TYPE_CHECKING:
    from nebrel.core.picture.ink import InkGuess
    from nebrel.piece.report import BuildReport

SIZE_WORDS = {
    "stated": "as large as the drawing says",
    "asked": "as large as asked",
    "assumed": "assumed size, as nothing says it; --width sets it",
}


@dataclass(frozen=True)
class OutlineSource:
    """What is to be told of where outlines come from.

    Attributes:
        size_source: `stated` by the drawing, `asked` by --width, --unit or a recipe, or `assumed`.
        remarks: what of a drawing was left out.
        ink: which tone of a picture was guessed to be drawn; None where nothing was guessed.
        differs: share of a drawing that another program shows otherwise; None for pictures, and where none draws it.
        off_picture: share of what a picture shows that its outlines, drawn by another program, do not; None for
            drawings, and where the picture is not followed at half of its ink.
    """

    size_source: Literal["stated", "asked", "assumed"]
    remarks: tuple[str, ...] = ()
    ink: InkGuess | None = None
    differs: float | None = None
    off_picture: float | None = None

    def report(self) -> dict[str, Any]:
        """Keys of reports; a promise to people's scripts."""
        told: dict[str, Any] = {"size_source": self.size_source, "remarks": list(self.remarks)}
        if self.differs is not None:
            told["differs_from_drawing"] = round(self.differs, 4)
        if self.off_picture is not None:
            told["differs_from_picture"] = round(self.off_picture, 4)
        return told if self.ink is None else told | {"ink": self.ink.ink, "ink_sure": round(self.ink.sure, 3)}

    def words(self) -> list[str]:
        """Where its size and its ink come from, as lines."""
        lines = [SIZE_WORDS[self.size_source]]
        if self.ink is not None:
            lines.append(
                f"what is {self.ink.ink} is taken for what is drawn, sure by {self.ink.sure:.0%}; --ink sets it"
            )
        return lines


def tell_build(report: BuildReport, output: Path, json: bool, source: OutlineSource | None = None) -> None:
    """Print the report on a build, in words or as JSON, with what is known of the outlines that it was made of."""
    if json:
        left_out = {"triangles_before", "figure"} | (set() if report.lit is not None else {"lit"})
        left_out |= {name for name in ("edges", "form", "mould") if getattr(report, name) is None}
        told = report.model_dump(mode="json", exclude=left_out) | ({} if source is None else source.report())
        print(jsons.dumps(told, indent=2))
        return
    size = " × ".join(f"{side:.3f}" for side in report.size_mm)
    print(f"{output}: {size} mm, {report.triangles:,} triangles, {report.file_bytes / 2**20:.1f} MiB")
    print(
        f"surface true to {report.max_error_mm:.4f} mm (asked {report.tolerance_mm:g}), "
        f"RMS {report.rms_error_mm:.4f} mm, {report.seconds:.1f} s"
    )
    between = "" if report.max_error_between_mm is None else f", between them {report.max_error_between_mm:.4f} mm"
    print(f"measured {report.error_how}, {report.error_where}{between}")
    if report.edges is not None:
        print(
            f"{report.edges.walls_mm:,.0f} mm of walls along curves, at most {report.edges.max_error_mm:.4f} mm off "
            f"the picture's edges, RMS {report.edges.rms_error_mm:.4f} mm"
        )
    if report.form is not None and report.form.overlaps_mm:
        print(f"{report.form.overlaps_mm:,.0f} mm where one thing hides another, {report.form.order_kept:.1%} in order")
    if report.mould is not None:
        print(
            f"holds {report.mould.holds_cm3:.2f} cm³, walls lean by {report.mould.least_draft_deg:.1f}° at least, "
            f"the piece reaches in by {report.mould.reaches_in_mm:.4f} mm at most"
        )
    for line in () if source is None else source.words():
        print(line)
    for finding in report.findings:
        print(f"{finding.severity}: {finding.what} {finding.why}")
