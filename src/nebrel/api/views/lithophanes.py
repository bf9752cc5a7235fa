"""Lithophanes as messages: their sheet in light, their solid with its place on the sheet, their variations."""

import numpy as np
from numpy.typing import NDArray

from nebrel.api.messages import GlowFrameHead, LitFacts, PlanHead, Variation, VariationsHead
from nebrel.api.serving.frames import pack_frame
from nebrel.api.views.pieces import model_frame, shaded_arrays
from nebrel.core.mesh.shading import ShadedMesh
from nebrel.core.proof.transmission_audit import smallest_detail
from nebrel.piece.evaluation.evaluator import PREVIEW_PX
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.kinds.lithophane.evaluator import LithophaneEvaluator
from nebrel.piece.parts.extent import frame_of
from nebrel.piece.registry import Looking

VARIATION_PX = 220


def lit_plan_frame(lithophanes: LithophaneEvaluator, document: LithophaneDocument, longest_px: int) -> bytes:
    """The unrolled sheet: wanted tones, and in `heights` the material that light passes, mm.

    At the resolution of rest it is measured through the solid; below that it is what is asked for, which is quick.
    `window` (uint8) is 1 where the picture is and 0 on the border.
    """
    measured = longest_px >= PREVIEW_PX
    view = lithophanes.lit(document, longest_px) if measured else lithophanes.asked_view(document, longest_px)
    width, height = view.size_mm
    columns = view.through.shape[1]
    left, bottom, right, _ = lithophanes.wanted(document, longest_px).sheet.window
    tall = document.width_mm * frame_of(document).shape[0] / frame_of(document).shape[1]
    head = PlanHead(
        size_mm=(width, height, document.glow.thickest_mm),
        pitch_mm=width / columns,
        backing_mm=0.0,
        relief_mm=document.glow.thickest_mm,
        full_px=(frame_of(document).shape[1], frame_of(document).shape[0]),
        from_source=((
            ((right - left) / width, 0.0, left / width), (0.0, tall / height, bottom / height), (0.0, 0.0, 1.0),
        )),
    )  # fmt: skip
    inside = np.isfinite(view.tones)
    arrays: dict[str, np.ndarray] = {
        "tones": np.round(np.where(inside, view.tones, 0) * 65_535).astype(np.uint16),
        "heights": view.through,
        "window": inside.astype(np.uint8),
    }
    return pack_frame(head.model_dump(mode="json"), arrays)


def solid_frame(looking: Looking, longest_px: int) -> bytes:
    """The shaded solid of any piece, in light where it is a lithophane."""
    if isinstance(looking.document, LithophaneDocument) and isinstance(looking.looks, LithophaneEvaluator):
        return lit_model_frame(looking.looks, looking.document, longest_px)
    return model_frame(looking.shaded(longest_px), looking.standing, looking.low_mm(longest_px))


def lit_model_frame(lithophanes: LithophaneEvaluator, document: LithophaneDocument, longest_px: int) -> bytes:
    """The shaded solid with the place of every vertex on the sheet, and the material that light passes there.

    `places` holds shares of the sheet's width and height from its lower left corner, and whether the vertex belongs to
    it; vertices are split where the sheet's ends meet, so that shares run on past 1. `through` is float32 mm, row 0 on
    top.
    """
    shaded, places = split_at_seam(
        lithophanes.shaded(document, longest_px), lithophanes.places(document, longest_px), document.form.around
    )
    head = GlowFrameHead(
        triangles=len(shaded.faces),
        sheet_mm=lithophanes.sheet_size(document),
        standing=document.form.standing,
        around=document.form.around,
    )
    arrays = {
        **shaded_arrays(shaded),
        "places": places,
        "through": lithophanes.lit(document, longest_px).through,
    }
    return pack_frame(head.model_dump(mode="json"), arrays)


def split_at_seam(
    shaded: ShadedMesh, places: NDArray[np.float32], around: bool
) -> tuple[ShadedMesh, NDArray[np.float32]]:
    """Copies of those vertices that faces across the seam reach from the far side, 1 further along the sheet."""
    if not around:
        return shaded, places
    across = places[shaded.faces, 0]
    over = (across.max(axis=1) - across.min(axis=1)) > 0.5
    low = over[:, np.newaxis] & (across < 0.5)
    copied, position = np.unique(shaded.faces[low], return_inverse=True)
    faces = shaded.faces.copy()
    faces[low] = (len(places) + position).astype(np.uint32)
    moved = places[copied] + np.array([1, 0, 0], dtype=np.float32)
    split = ShadedMesh(
        np.vstack([shaded.positions, shaded.positions[copied]]),
        np.vstack([shaded.normals, shaded.normals[copied]]),
        faces,
    )
    return split, np.vstack([places, moved])


def lit_facts(lithophanes: LithophaneEvaluator, document: LithophaneDocument, longest_px: int) -> LitFacts:
    """A draft in light."""
    return LitFacts(
        lit=lithophanes.lit_report(document, longest_px),
        sheet_mm=lithophanes.sheet_size(document),
        contrast=document.glow.made().contrast,
        detail_mm=smallest_detail(document.maker.line_width_mm, document.glow.thinnest_mm),
        recipe=lithophanes.recipe(document, longest_px),
    )


def variations_frame(lithophanes: LithophaneEvaluator, document: LithophaneDocument) -> bytes:
    """Nine variations of a lithophane: three ranges of thickness by three strengths of the light rule."""
    cells: list[Variation] = []
    arrays: dict[str, np.ndarray] = {}
    for varied in lithophanes.variations(document):
        glow = varied.glow
        cells.append(
            Variation(
                thinnest_mm=glow.thinnest_mm,
                thickest_mm=glow.thickest_mm,
                strength=glow.strength,
                contrast=glow.made().contrast,
            )
        )
        arrays[f"through{len(arrays)}"] = lithophanes.asked_view(varied, VARIATION_PX).through
    head = VariationsHead(cells=cells, sheet_mm=lithophanes.sheet_size(document))
    return pack_frame(head.model_dump(mode="json"), arrays)
