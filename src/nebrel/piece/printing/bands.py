"""Colours by layers of a piece: what each takes, what is delivered of it, and changes that its heights suggest."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from nebrel.core.colour.changes import PrintPlan, count_changes
from nebrel.core.errors import ConflictError
from nebrel.core.layers.bands import Band, bands_of, cut_at, first_layers, suggested_changes
from nebrel.core.mesh import TriMesh
from nebrel.piece.documents.document import Document
from nebrel.piece.evaluation.evaluator import PieceEvaluator
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.parts.paint import rgba_of
from nebrel.piece.parts.printing import BandsPart
from nebrel.piece.printing.laid import Printed, in_layers

DARK, BRIGHT = 40, 236
# Tones nearer to each other than this are one colour to the eye.
TOLD_APART = 0.08


@dataclass(frozen=True)
class ColouredBand:
    """Layers of one colour, what it is called, and how it looks."""

    band: Band
    colour: str
    name: str


def layer_colours(document: Document, printed: Printed) -> list[ColouredBand]:
    """The colours of a piece from below; one where they do not change.

    Args:
        document: of the piece.
        printed: its layers.
    """
    bands = document.printing.bands
    changes = bands.changes if bands.on else ()
    heights = [change.from_mm for change in changes]
    bounds = printed.study.slices.bounds
    kept = [change for change, layer in zip(changes, first_layers(bounds, heights), strict=True) if layer is not None]
    tints = [(bands.colour, bands.name), *((change.colour, change.name) for change in kept)]
    found = bands_of(bounds, heights, printed.study.effort)
    return [ColouredBand(band, colour, name) for band, (colour, name) in zip(found, tints, strict=True)]


def colour_swaps(evaluator: PieceEvaluator[Any], printed: Printed, longest_px: int) -> int:
    """How often the colour is changed: at changes by layers, or wherever layers have several colours of the solid."""
    bands = evaluator.document.printing.bands
    if bands.on and bands.changes:
        return len(layer_colours(evaluator.document, printed)) - 1
    # Bodies of several materials are made with the finished solid only.
    mesh = evaluator.mesh(longest_px)
    mesh = evaluator.delivered_as(mesh)[0] if longest_px == FULL else evaluator.painted(mesh)
    if mesh.corner_colours is None:
        return 0
    _, labels = np.unique(mesh.corner_colours[:, 0, :3].reshape(-1, 3), axis=0, return_inverse=True)
    labels = labels.ravel()
    if labels.max(initial=0) == 0:
        return 0
    laid = TriMesh(printed.over_plate(mesh.vertices), mesh.faces)
    return count_changes(laid, labels.astype(np.int64), PrintPlan(layer=printed.setup.layer)).swaps


def coloured_bodies(evaluator: PieceEvaluator[Any], mesh: TriMesh) -> list[tuple[str, TriMesh]]:
    """Name and mesh of one body for each colour of a finished piece that is set on the plate, from below."""
    document = evaluator.document
    printed = in_layers(evaluator, FULL)
    colours = layer_colours(document, printed)
    parts = cut_at(mesh, [each.band.begins for each in colours[1:]])
    return [
        (
            f"{number} {each.name or each.colour}",
            replace(part, corner_colours=np.tile(np.array(rgba_of(each.colour), np.uint8), (len(part.faces), 3, 1))),
        )
        for number, (each, part) in enumerate(zip(colours, parts, strict=True), 1)
    ]


def suggested_bands(evaluator: PieceEvaluator[Any], colours: int, longest_px: int) -> BandsPart:
    """Changes of colour that set apart what lies at different heights, in the greys that the picture has there.

    Where there is no picture, or it is as bright at all of them, greys rise with the heights. A filament that was
    chosen for below stays.

    Args:
        evaluator: of the piece.
        colours: how many.
        longest_px: of the preview.

    Raises:
        ConflictError: it is not printed lying as it was made.
        BadValueError: its heights suggest fewer colours.
    """
    document = evaluator.document
    if not document.printing.as_made or evaluator.standing:
        raise ConflictError(
            "Colours are suggested for what is printed lying, as it is seen from above; lay it as it was made, or type "
            "heights."
        )
    printed = in_layers(evaluator, longest_px)
    field = evaluator.heights_seen(longest_px)
    heights = np.where(field.material, field.heights, np.nan).astype(np.float64)
    heights -= np.nanmin(evaluator.mesh(longest_px).vertices[:, 2])
    seen = heights.ravel()
    changes = suggested_changes(seen, colours, printed.study.slices.bounds)
    tones = evaluator.plan(longest_px).tones
    tints = _tints(seen, changes, tones.ravel() / 65535 if tones.shape == heights.shape else None)
    kept = document.printing.bands
    return BandsPart.model_validate(
        {
            "on": True,
            "colour": kept.colour if kept.name else tints[0],
            "name": kept.name,
            "changes": [
                {"from_mm": round(height, 4), "colour": tint} for height, tint in zip(changes, tints[1:], strict=True)
            ],
        }
    )


def _tints(heights: np.ndarray, changes: Sequence[float], tones: np.ndarray | None) -> list[str]:
    """Greys of what lies between changes: those of the picture, or by how high it is.

    Args:
        heights: float64 (N,) mm over the plate, NaN where there is nothing.
        changes: mm, rising.
        tones: float64 (N,) of the picture at the same places, 0 black to 1 white; None where there is none.
    """
    there = np.isfinite(heights)
    groups = np.digitize(heights[there], [change + 1e-6 for change in changes])
    count = len(changes) + 1
    shown = [0.0] * count if tones is None else _means(tones[there], groups, count)
    if max(shown) - min(shown) < TOLD_APART:
        shown = _means(heights[there], groups, count)
        low, high = min(shown), max(shown)
        shown = [(each - low) / max(high - low, 1e-9) for each in shown]
    greys = [DARK + (BRIGHT - DARK) * each for each in shown]
    return [f"#{round(grey):02x}{round(grey * 0.985):02x}{round(grey * 0.95):02x}" for grey in greys]


def _means(values: np.ndarray, groups: np.ndarray, count: int) -> list[float]:
    """The mean of each group, 0 of an empty one."""
    sums, sizes = np.bincount(groups, values, count), np.bincount(groups, minlength=count)
    return [float(each) for each in sums / np.maximum(sizes, 1)]
