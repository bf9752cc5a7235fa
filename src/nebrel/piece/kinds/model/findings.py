"""What is said about a model before it is built."""

from nebrel.core.proof import Finding
from nebrel.core.proof.finding import Fix
from nebrel.piece.kinds.model.document import ModelDocument

MENDED_BY_REPAIR = ("closed", "manifold", "outward", "degenerate_faces", "duplicate_faces", "self_crossings", "overlap")


def with_fix(finding: Finding, document: ModelDocument) -> Finding:
    """A fault together with the step that would mend it: a repair, or a new surface where that did not do."""
    if finding.severity != "fault" or finding.measure not in MENDED_BY_REPAIR:
        return finding
    mended = any(step.on and step.kind == "repair" for step in document.steps)
    extent = max(document.model.size_mm)
    fix = (
        Fix("remesh", {"voxel_mm": float(f"{max(extent / 200, 0.001):.2g}")}, "Make the surface anew")
        if mended
        else Fix("repair", {}, "Repair")
    )
    return Finding(finding.severity, finding.what, finding.why, finding.measure, finding.where, fix=fix)
