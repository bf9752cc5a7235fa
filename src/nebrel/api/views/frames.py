"""Solids, plans and measures as binary frames, and sections as messages."""

from typing import cast, get_args

import numpy as np

from nebrel.api.messages.previews import MapHead, PlanHead, SectionLine, SectionView, SolidHead
from nebrel.api.serving.frames import pack_frame
from nebrel.api.views.look import Look
from nebrel.core.errors import NotFoundError
from nebrel.core.mesh.shading import ShadedMesh
from nebrel.core.proof.maps import MapKind
from nebrel.piece.evaluation.evaluator import PREVIEW_PX
from nebrel.piece.evaluation.shown import Plan
from nebrel.piece.printing.laid import in_layers_as_seen
from nebrel.piece.printing.maps import LayerMapKind, layer_map
from nebrel.piece.report import FindingReport


def plan_frame(look: Look) -> bytes:
    """Tones and heights of a piece from above, with the facts that the page shows beside them."""
    return frame_of_plan(look.piece.evaluator.plan(look.draft.longest_px, look.draft.upto, look.progress))


def frame_of_plan(plan: Plan) -> bytes:
    """The same of a plan that is there."""
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


def solid_frame(look: Look, longest_px: int) -> bytes:
    """A shaded solid of about so many pixels.

    Where it lets light through, it comes with the place of every vertex on its sheet (`places`) and the material that
    light passes there (`through`, float32 mm, row 0 on top), and the colour that filters give it (`lit`).
    """
    shown = look.piece.evaluator.shown(longest_px)
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


def original_frame(look: Look) -> bytes:
    """The solid of a piece before it is made light."""
    if not look.piece.document.light.on:
        raise NotFoundError("The piece is delivered as it is, so there is nothing before it.")
    return solid_frame(look, PREVIEW_PX)


def map_frame(look: Look, kind: MapKind | LayerMapKind, longest_px: int) -> bytes:
    """A shaded solid with a measure for every vertex."""
    piece = look.piece
    if kind in get_args(LayerMapKind):
        longest_px, _ = in_layers_as_seen(piece.evaluator, longest_px, look.progress)
        found = layer_map(piece.evaluator, cast(LayerMapKind, kind), longest_px)
    else:
        found = piece.evaluator.surface_map(cast(MapKind, kind), longest_px)
    shaded = piece.evaluator.shaded(longest_px)
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


def findings_of(look: Look) -> list[FindingReport]:
    """What to know about a piece before it is built."""
    found = look.piece.evaluator.findings(look.draft.longest_px, look.progress)
    return [FindingReport.of(finding) for finding in found]


def thumbnail_of(look: Look) -> bytes:
    """A rendered PNG of a piece."""
    return look.piece.evaluator.thumbnail()


def shaded_arrays(shaded: ShadedMesh) -> dict[str, np.ndarray]:
    """A shaded solid as arrays of a frame."""
    normals = np.round(shaded.normals * 127).astype(np.int8)
    arrays: dict[str, np.ndarray] = {"positions": shaded.positions, "normals": normals, "faces": shaded.faces}
    return arrays if shaded.colours is None else {**arrays, "colours": shaded.colours}


def section_of(look: Look, line: SectionLine, longest_px: int) -> SectionView:
    """A section for drawing."""
    piece = look.piece
    width, depth, _ = size = piece.evaluator.plan_mm
    start, end = ((x * width, y * depth) for x, y in (line.start, line.end))
    cut = piece.evaluator.section(start, end, longest_px, line.tilt_deg, line.lift_mm)
    asked: list[tuple[float, float | None]] = []
    if cut.target is not None:
        for along, up in zip(cut.target.along.tolist(), cut.target.up.tolist(), strict=True):
            asked.append((along, up if np.isfinite(up) else None))
    return SectionView(length_mm=cut.length, size_mm=size, asked=asked, made=cut.made)
