"""The recipe card of a piece: how it is printed, what that takes, and what to look after, as text and as PDF."""

import io
from dataclasses import dataclass
from typing import Any

from nebrel.core.proof.layer_audit import layer_findings
from nebrel.piece.evaluation.evaluator import PieceEvaluator
from nebrel.piece.parts.printing import Direction
from nebrel.piece.pdf import QUIET, fact_row, new_sheet, plain_letters
from nebrel.piece.printing.bands import ColouredBand, colour_swaps, layer_colours
from nebrel.piece.printing.laid import in_layers
from nebrel.piece.printing.turns import turned_picture
from nebrel.piece.registry import kind_of

NAME_LETTERS, PICTURE_MM, MOST_SAID = 22, 78.0, 12
SIDES: dict[Direction, str] = {
    (0.0, 0.0, -1.0): "as it was made",
    (0.0, 0.0, 1.0): "upside down",
    (0.0, -1.0, 0.0): "standing on its lower edge",
    (0.0, 1.0, 0.0): "standing on its upper edge",
    (-1.0, 0.0, 0.0): "standing on its left edge",
    (1.0, 0.0, 0.0): "standing on its right edge",
}


@dataclass(frozen=True)
class Card:
    """What a card says.

    Attributes:
        title, told: of the piece, and what it is.
        rows: name and words each.
        colours: by layers, from below; one where they do not change.
        advice: what else to do, by the kind of piece.
        said: findings, in words.
    """

    title: str
    told: str
    rows: list[tuple[str, str]]
    colours: list[ColouredBand]
    advice: tuple[str, ...]
    said: list[str]


def card_of(evaluator: PieceEvaluator[Any], longest_px: int) -> Card:
    """The card of a piece as it stands on the plate.

    Args:
        evaluator: of the piece.
        longest_px: of the preview; `FULL` for the finished solid.
    """
    document = evaluator.document
    maker, printing = document.maker, document.printing
    printed = in_layers(evaluator, longest_px)
    study, setup = printed.study, printed.setup
    slices, effort = study.slices, study.effort
    wide, deep, tall = slices.size
    heights = slices.heights
    swaps = colour_swaps(evaluator, printed, longest_px)
    minutes = effort.minutes + swaps * printing.colour_change_s / 60
    parts = [
        f"{name} {value:.0f}"
        for name, value in (
            ("walls", effort.walls),
            ("inside", effort.infill),
            ("support", effort.support),
            ("moves", effort.travel),
            ("layer changes", effort.changes),
            ("colour changes", swaps * printing.colour_change_s / 60),
        )
        if value >= 0.5
    ]
    support = study.hanging.support_mm3(heights)
    layer = f"{heights.min():g} mm" if heights.min() > heights.max() - 1e-9 else "varied"
    if layer == "varied":
        layer = f"{heights.min():.2f} to {heights.max():.2f} mm"
    rows = [
        ("Machine", f"{maker.name}, bed {' × '.join(f'{side:g}' for side in maker.bed_mm)} mm"),
        ("Material", f"{maker.material.name}, {maker.material.density_g_cm3:g} g/cm³"),
        ("Line width", f"{setup.way.line:g} mm"),
        ("Layers", f"{len(slices.sections):,} of {layer}, the first {float(heights[0]):g} mm"),
        ("Walls", f"{setup.way.walls} lines round, {setup.way.solid_layers} solid layers below and above"),
        ("Infill", f"{setup.way.infill:.0%}"),
        ("Lies", f"{SIDES.get(printing.down, 'turned, as in the picture')}; {wide:.1f} × {deep:.1f} × {tall:.1f} mm"),
        (
            "Support",
            "none" if support < 0.5 else f"{support / 1000:.2f} cm³ of room below, {setup.way.support:.0%} filled",
        ),
        ("Time", f"about {_hours(minutes)} ({', '.join(parts)} minutes)"),
        ("Weight", f"about {effort.grams:.1f} g, {effort.support_mm3 / 1000 * setup.way.density:.1f} g of it support"),
        ("Price", f"about {effort.grams / 1000 * maker.material.price_per_kg:.2f} of material"),
    ]
    if swaps:
        rows.append(("Colour changes", f"{swaps:,}, {printing.colour_change_s:g} s each"))
    found = [each.finding for each in layer_findings(study, setup.way.line, setup.longest_bridge)]
    return Card(
        document.title,
        f"{kind_of(document).words(document)}; {' × '.join(f'{side:.1f}' for side in evaluator.size_mm)} mm",
        rows,
        layer_colours(document, printed),
        kind_of(document).print_advice(document),
        [f"{each.what} {each.why}" for each in found[:MOST_SAID]],
    )


def card_text(evaluator: PieceEvaluator[Any], longest_px: int) -> bytes:
    """The card as text, UTF-8."""
    card = card_of(evaluator, longest_px)
    lines = [card.title, "=" * len(card.title), card.told, ""]
    lines += [f"{name + ':':{NAME_LETTERS}}{told}" for name, told in card.rows]
    if len(card.colours) > 1:
        lines += ["", "Colours by layers, from below:"]
        lines += [f"  {_band_words(each)}" for each in card.colours]
    if card.advice:
        lines += ["", *(f"- {each}" for each in card.advice)]
    if card.said:
        lines += ["", "To look after:", *(f"- {each}" for each in card.said)]
    lines += ["", "Minutes and grams are estimates."]
    return ("\n".join(lines) + "\n").encode()


def card_pdf(evaluator: PieceEvaluator[Any], longest_px: int) -> bytes:
    """The card as a page, with a picture of how it stands."""
    card = card_of(evaluator, longest_px)
    page = new_sheet(card.title, card.told)
    page.ln(3)
    picture = turned_picture(evaluator, evaluator.document.printing.down, longest_px)
    page.image(io.BytesIO(picture), w=PICTURE_MM)
    page.ln(4)
    for name, told in card.rows:
        fact_row(page, name, told)
    if len(card.colours) > 1:
        page.ln(3)
        page.set_font("helvetica", "", 9)
        with page.table(
            col_widths=(12, 60, 40, 24, 24), text_align=("LEFT", "LEFT", "LEFT", "RIGHT", "RIGHT")
        ) as table:
            table.row(("", "Colour", "From", "Minutes", "Grams"))
            for each in card.colours:
                begins = f"layer {each.band.first + 1:,}, {each.band.begins:.2f} mm"
                minutes, grams = f"{each.band.minutes:.0f}", f"{each.band.grams:.1f}"
                table.row((plain_letters(each.name or each.colour), begins, minutes, grams))
        page.set_font("helvetica", "", 10)
    for title, said in (("", card.advice), ("To look after", card.said)):
        if not said:
            continue
        page.ln(3)
        page.set_text_color(*QUIET)
        if title:
            page.cell(0, 6, title, new_x="LMARGIN", new_y="NEXT")
        page.set_text_color(40, 44, 46)
        for sentence in said:
            page.multi_cell(0, 5.5, f"- {plain_letters(sentence)}", new_x="LMARGIN", new_y="NEXT")
    page.ln(2)
    page.set_text_color(*QUIET)
    page.cell(0, 6, "Minutes and grams are estimates.", new_x="LMARGIN", new_y="NEXT")
    return bytes(page.output())


def _band_words(each: ColouredBand) -> str:
    band = each.band
    return (
        f"{each.name or each.colour} from layer {band.first + 1:,} ({band.begins:.2f} mm): "
        f"about {band.minutes:.0f} minutes, {band.grams:.1f} g"
    )


def _hours(minutes: float) -> str:
    whole = round(minutes)
    return f"{whole} minutes" if whole < 60 else f"{whole // 60} h {whole % 60:02d} min"
