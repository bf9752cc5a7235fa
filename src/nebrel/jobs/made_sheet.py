"""What became of many: a table, and a sheet of their pictures."""

import csv
import io
from collections.abc import Callable, Sequence

from fpdf import FPDF

from nebrel.jobs.made import Made
from nebrel.piece.pdf import INK, MARGIN_MM, QUIET, new_sheet, plain_letters

COLUMNS = (
    "number", "picture", "title", "state", "file", "width_mm", "depth_mm", "thickness_mm", "triangles", "max_error_mm",
    "tolerance_mm", "sound", "findings", "seconds", "why",
)  # fmt: skip
MEASURED = ("triangles", "max_error_mm", "tolerance_mm")
ACROSS, TILE_GAP_MM, CAPTION_MM = 4, 5.0, 11.0
MOST_LETTERS = 34
PictureOf = Callable[[Made], bytes | None]


def table_text(made: Sequence[Made]) -> str:
    """A CSV file, one line a piece, in their order; its columns are a promise to people's scripts."""
    file = io.StringIO(newline="")
    table = csv.writer(file)
    table.writerow(COLUMNS)
    for each in sorted(made, key=lambda each: each.number):
        begun = [each.number, each.picture, each.title, each.state, each.file]
        size = each.report.get("size_mm") or ("", "", "")
        measured = [each.report.get(name, "") for name in MEASURED]
        sound = each.sound if each.state == "done" else ""
        table.writerow([*begun, *size, *measured, sound, " ".join(each.told), each.seconds, each.why])
    return file.getvalue()


def sheet_bytes(made: Sequence[Made], picture_of: PictureOf, title: str) -> bytes:
    """A PDF with a picture of every piece, its title and its size; of what was refused, the reason."""
    done = sum(each.state == "done" for each in made)
    page = new_sheet(title, f"{done:,} of {len(made):,} done")
    side = (page.w - 2 * MARGIN_MM - (ACROSS - 1) * TILE_GAP_MM) / ACROSS
    high = side * 0.75
    top = page.get_y() + TILE_GAP_MM
    at = 0
    for each in sorted(made, key=lambda each: each.number):
        if at == ACROSS:
            at, top = 0, top + high + CAPTION_MM + TILE_GAP_MM
        if top + high + CAPTION_MM > page.h - MARGIN_MM:
            page.add_page()
            at, top = 0, MARGIN_MM
        picture = picture_of(each) if each.state == "done" else None
        _tile(page, each, picture, (MARGIN_MM + at * (side + TILE_GAP_MM), top), (side, high))
        at += 1
    return bytes(page.output())


def _tile(
    page: FPDF, made: Made, picture: bytes | None, corner: tuple[float, float], size: tuple[float, float]
) -> None:
    (left, top), (side, high) = corner, size
    if picture is not None:
        page.image(io.BytesIO(picture), left, top, side, high, keep_aspect_ratio=True)
    else:
        page.set_draw_color(*QUIET)
        page.rect(left, top, side, high)
        page.set_xy(left + 1, top + 1)
        page.set_font("helvetica", "", 7)
        page.set_text_color(*QUIET)
        page.multi_cell(side - 2, 3, plain_letters(made.why), align="L")
    left -= page.c_margin
    page.set_xy(left, top + high + 0.5)
    page.set_font("helvetica", "B", 8)
    page.set_text_color(*INK)
    page.cell(side, 4, plain_letters(_short(f"{made.number}  {made.title}")))
    page.set_xy(left, top + high + 4)
    page.set_font("helvetica", "", 7)
    page.set_text_color(*QUIET)
    sides = made.report.get("size_mm")
    told = made.state if sides is None else " x ".join(f"{each:.1f}" for each in sides) + " mm"
    page.cell(side, 4, plain_letters(told))


def _short(text: str) -> str:
    return text if len(text) <= MOST_LETTERS else text[: MOST_LETTERS - 1] + "…"
