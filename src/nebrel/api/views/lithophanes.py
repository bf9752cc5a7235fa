"""Lithophanes as messages: facts in light, and variations."""

import numpy as np

from nebrel.api.messages.lithophanes import LitFacts, Variation, VariationsHead
from nebrel.api.serving.frames import pack_frame
from nebrel.api.views.look import Look
from nebrel.piece.evaluation.abilities import HasSheet

VARIATION_PX = 220


def lit_facts(look: Look) -> LitFacts:
    """A draft in light."""
    sheet, longest_px = look.piece.having(HasSheet), look.draft.longest_px
    return LitFacts(
        lit=sheet.lit_report(longest_px),
        sheet_mm=sheet.sheet_mm,
        contrast=sheet.rule.contrast,
        detail_mm=sheet.smallest_detail_mm,
        recipe=sheet.recipe(longest_px),
    )


def variations_frame(look: Look) -> bytes:
    """Nine variations of a lithophane: three ranges of thickness by three strengths of the light rule."""
    sheet = look.piece.having(HasSheet)
    cells: list[Variation] = []
    arrays: dict[str, np.ndarray] = {}
    for varied in sheet.variations(VARIATION_PX):
        cells.append(
            Variation(
                thinnest_mm=varied.thinnest_mm,
                thickest_mm=varied.thickest_mm,
                strength=varied.strength,
                contrast=varied.contrast,
            )
        )
        arrays[f"through{len(arrays)}"] = varied.through
    head = VariationsHead(cells=cells, sheet_mm=sheet.sheet_mm)
    return pack_frame(head, arrays)
