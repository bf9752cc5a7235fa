"""Layers of a piece as messages and frames, ways to lay it, and its card."""

from dataclasses import asdict

import manifold3d
import numpy as np
from numpy.typing import NDArray

from nebrel.api.messages.printing import (
    BandsView,
    BandView,
    LayerFinding,
    LayerFixView,
    LayerHead,
    LayersView,
    WayView,
    Weights,
)
from nebrel.api.serving.frames import pack_frame
from nebrel.api.views.look import Look
from nebrel.core.errors import BadValueError
from nebrel.core.layers.turns import TurnWeights
from nebrel.core.proof.layer_audit import layer_findings, scars_finding
from nebrel.core.proof.makeable import fits_bed
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.shown import three
from nebrel.piece.parts.printing import Direction
from nebrel.piece.printing.bands import colour_swaps, layer_colours, suggested_bands
from nebrel.piece.printing.card import card_pdf, card_text
from nebrel.piece.printing.fixes import layer_fixes
from nebrel.piece.printing.laid import Printed, in_layers_as_seen
from nebrel.piece.printing.maps import scars_mm2
from nebrel.piece.printing.report import LayersReport, TurnReport
from nebrel.piece.printing.turns import turned_picture, ways_to_lay
from nebrel.piece.report import FindingReport


def layers_view(look: Look, finished: bool) -> LayersView:
    """What is known of the layers of a piece."""
    evaluator, document = look.piece.evaluator, look.piece.document
    longest_px, printed = _layers(look, finished)
    study, setup = printed.study, printed.setup
    maker, printing = document.maker, document.printing
    swaps = colour_swaps(evaluator, printed, longest_px)
    scars = scars_mm2(evaluator, longest_px)
    findings = [
        LayerFinding(
            finding=FindingReport.of(each.finding).model_copy(
                update={"where": None if each.finding.where is None else printed.in_piece(each.finding.where)}
            ),
            layer=None if each.layer is None else each.layer + 1,
        )
        for each in (*layer_findings(study, setup.way.line, setup.longest_bridge), scars_finding(scars[1]))
        if each is not None
    ]
    price = study.effort.grams / 1000 * maker.material.price_per_kg
    return LayersView(
        report=LayersReport.of(study, setup),
        size_mm=study.slices.size,
        fits_bed=fits_bed(study.slices.size, maker.bed_mm),
        line_mm=setup.way.line,
        bounds_mm=study.slices.bounds.round(4).tolist(),
        scars_mm2=scars,
        swaps=swaps,
        swap_minutes=swaps * printing.colour_change_s / 60,
        price=round(price, 2),
        bands=[
            BandView(
                colour=each.colour,
                name=each.name,
                layers=(each.band.first + 1, each.band.last + 1),
                from_mm=round(each.band.begins, 4),
                minutes=round(each.band.minutes, 1),
                grams=round(each.band.grams, 2),
                price=round(each.band.grams / 1000 * maker.material.price_per_kg, 2),
            )
            for each in layer_colours(document, printed)
        ],
        findings=findings,
        finished=longest_px == FULL,
    )


def layer_frame(look: Look, layer: int, finished: bool) -> bytes:
    """One layer from above: outlines of what it covers, of what hangs and of support, and places along its walls.

    Outlines are float32 (K, 2) mm over the plate with where each ring begins, uint32; places come with which way the
    material lies, how far it is to the other side, infinite where that is no wall, how many lines fit, the share of one
    that stays hollow, and their outline's number.
    """
    _, printed = _layers(look, finished)
    study = printed.study
    slices = study.slices
    if layer > len(slices.sections):
        raise BadValueError(f"Layer {layer:,} is asked for; the piece has {len(slices.sections):,}.")
    at = layer - 1
    places, line = study.places[at], printed.setup.way.line
    document = look.piece.document
    colours = layer_colours(document, printed)
    own = next(each for each in colours if each.band.first <= at <= each.band.last)
    head = LayerHead(
        layer=layer,
        layers=len(slices.sections),
        from_mm=round(float(slices.bounds[at]), 4),
        to_mm=round(float(slices.bounds[at + 1]), 4),
        size_mm=slices.size,
        line_mm=line,
        area_mm2=round(slices.sections[at].area(), 4),
        overhang_mm2=round(study.hanging.regions[at].area(), 4),
        support_mm2=round(study.hanging.standing[at].area(), 4),
        walls=printed.setup.way.walls,
        colour=own.colour if len(colours) > 1 else None,
        origin_mm=printed.in_piece((0.0, 0.0, float(slices.bounds[at + 1]))),
        x_axis=three(printed.matrix[0]),
        y_axis=three(printed.matrix[1]),
    )
    arrays: dict[str, NDArray[np.generic]] = {
        "places": places.points.astype(np.float32),
        "inward": places.inward.astype(np.float32),
        "wide": places.wide.astype(np.float32),
        "lines": places.lines(line).astype(np.uint8),
        "rest": places.rest(line).astype(np.float32),
        "runs": places.runs.astype(np.uint32),
    }
    for name, section in (
        ("outline", slices.plain[at]),
        ("hangs", study.hanging.regions[at]),
        ("support", study.hanging.standing[at]),
    ):
        points, starts = _rings(section)
        arrays |= {name: points, f"{name}_starts": starts}
    return pack_frame(head, arrays)


def layer_fix_views(look: Look, finished: bool) -> list[LayerFixView]:
    """What would help a piece to print."""
    longest_px, _ = _layers(look, finished)
    document = look.piece.document
    found = layer_fixes(document, lambda one: look.workshop.opened(one).evaluator, longest_px, look.progress)
    return [LayerFixView(**asdict(fix)) for fix in found]


def way_views(look: Look, weights: Weights, finished: bool) -> list[WayView]:
    """Ways to lay a piece, side by side."""
    longest_px, _ = _layers(look, finished)
    price = look.piece.document.maker.material.price_per_kg
    ways = ways_to_lay(look.piece.evaluator, TurnWeights(**weights.model_dump()), longest_px, look.progress)
    return [
        WayView(
            names=list(way.names),
            turn=TurnReport.of(way.turn),
            built=way.built,
            price=round(way.built.grams / 1000 * price, 2),
            taken=way.taken,
            fits_bed=way.fits,
        )
        for way in ways
    ]


def turned_png(look: Look, down: Direction) -> bytes:
    """A small picture of a piece as it would stand on the plate."""
    return turned_picture(look.piece.evaluator, down, look.draft.longest_px)


def bands_view(look: Look, colours: int) -> BandsView:
    """Colours by layers that the heights of a piece suggest."""
    found = suggested_bands(look.piece.evaluator, colours, look.draft.longest_px)
    return BandsView.model_validate(found.model_dump(mode="json"))


def card_view(look: Look, form: str, finished: bool) -> bytes:
    """The recipe card of a piece, as text or as PDF."""
    longest_px, _ = _layers(look, finished)
    write = card_pdf if form == "pdf" else card_text
    return write(look.piece.evaluator, longest_px)


def _layers(look: Look, finished: bool) -> tuple[int, Printed]:
    """The layers of the finished solid, or of the preview; of the former where the latter cannot be cut."""
    longest_px = FULL if finished else look.draft.longest_px
    return in_layers_as_seen(look.piece.evaluator, longest_px, look.progress)


def _rings(section: manifold3d.CrossSection) -> tuple[NDArray[np.float32], NDArray[np.uint32]]:
    """All outlines of a section one after the other, and where each begins."""
    rings = [np.asarray(ring, dtype=np.float32) for ring in section.to_polygons()]
    if not rings:
        return np.empty((0, 2), dtype=np.float32), np.empty(0, dtype=np.uint32)
    starts = np.cumsum([0, *(len(ring) for ring in rings[:-1])], dtype=np.uint32)
    return np.concatenate(rings), starts
