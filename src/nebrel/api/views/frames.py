"""Solids, plans and measures as binary frames, and sections as messages."""

import numpy as np

from nebrel.api.messages.previews import MapHead, PlanHead, SectionLine, SectionView, SolidHead
from nebrel.api.serving.frames import pack_frame
from nebrel.core.mesh.shading import ShadedMesh
from nebrel.core.proof.maps import MapKind
from nebrel.piece.evaluation.shown import Plan, ShownSolid
from nebrel.piece.registry import Piece


def plan_frame(plan: Plan) -> bytes:
    """Tones and heights of a piece from above, with the facts that the page shows beside them."""
    head = PlanHead(
        size_mm=plan.size,
        pitch_mm=plan.pitch,
        backing_mm=plan.backing,
        relief_mm=plan.relief,
        full_px=plan.full_px,
        from_source=plan.from_source.tolist(),
    )
    arrays: dict[str, np.ndarray] = {"tones": plan.tones, "heights": plan.heights}
    if plan.window is not None:
        arrays["window"] = plan.window
    if plan.light is not None:
        arrays["walls"] = plan.light.walls
        if plan.light.colour is not None and plan.light.wanted is not None:
            arrays |= {"lit": plan.light.colour, "wanted": plan.light.wanted}
    return pack_frame(head, arrays)


def solid_frame(shown: ShownSolid) -> bytes:
    """A shaded solid; where it lets light through, with the place of every vertex on its sheet (`places`) and the
    material that light passes there (`through`, float32 mm, row 0 on top), and the colour that filters give it (`lit`).
    """
    arrays = shaded_arrays(shown.shaded)
    sheet = shown.sheet
    head = SolidHead(
        triangles=len(shown.shaded.faces),
        standing=shown.standing,
        low_mm=shown.low,
        sheet_mm=sheet.size if sheet else None,
        around=sheet.around if sheet else False,
    )
    if sheet is not None:
        arrays |= {"places": sheet.places, "through": sheet.through}
        if sheet.colour is not None:
            arrays["lit"] = sheet.colour
    return pack_frame(head, arrays)


def map_frame(piece: Piece, kind: MapKind, longest_px: int) -> bytes:
    """A shaded solid with a measure for every vertex."""
    shaded, found = piece.evaluator.shaded(longest_px), piece.evaluator.surface_map(kind, longest_px)
    line = piece.document.maker.line_width_mm
    limits = {"thickness": line, "thickness-ray": line, "deviation": piece.evaluator.tolerance_mm}
    head = MapHead(
        triangles=len(shaded.faces),
        kind=kind,
        unit=found.unit,
        least=found.least,
        most=found.most,
        spot=found.spot,
        limit=limits.get(kind),
        standing=piece.evaluator.standing,
    )
    return pack_frame(head, {**shaded_arrays(shaded), "values": found.values})


def shaded_arrays(shaded: ShadedMesh) -> dict[str, np.ndarray]:
    """A shaded solid as arrays of a frame."""
    normals = np.round(shaded.normals * 127).astype(np.int8)
    arrays: dict[str, np.ndarray] = {"positions": shaded.positions, "normals": normals, "faces": shaded.faces}
    return arrays if shaded.colours is None else {**arrays, "colours": shaded.colours}


def section_of(piece: Piece, line: SectionLine, longest_px: int) -> SectionView:
    """A section for drawing."""
    width, depth, _ = size = piece.evaluator.plan_mm
    start, end = ((x * width, y * depth) for x, y in (line.start, line.end))
    cut = piece.evaluator.section(start, end, longest_px, line.tilt_deg, line.lift_mm)
    asked: list[tuple[float, float | None]] = []
    if cut.target is not None:
        for along, up in zip(cut.target.along.tolist(), cut.target.up.tolist(), strict=True):
            asked.append((along, up if np.isfinite(up) else None))
    return SectionView(length_mm=cut.length, size_mm=size, asked=asked, made=cut.made)
