"""The set-up sheet of a carving job, as PDF."""

from fpdf import FPDF

from nebrel.core.proof.carving import Carved
from nebrel.piece.parts.carving import CarvingPart
from nebrel.piece.pdf import INK, MARGIN_MM, fact_row, new_sheet, plain_letters

WOOD, PIECE, ZERO = (233, 222, 200), (201, 184, 150), (150, 60, 40)
DRAWN_MM = (120.0, 95.0)


def set_up_sheet(title: str, size: tuple[float, float, float], carving: CarvingPart, carved: Carved) -> bytes:
    """One page: the stock with the piece and the zero point, to scale, and a table of programs with their bits.

    Args:
        title: of the piece.
        size: of the piece, mm.
        carving: stock, machine and bits.
        carved: the programs and what they did on the simulated machine.
    """
    told = f"Set-up for {carving.router.name}; the piece is {size[0]:.1f} x {size[1]:.1f} x {size[2]:.1f} mm"
    page = new_sheet(title, told)
    _drawing(page, size, carving)
    _facts(page, carving, carved)
    _programs(page, carved)
    return bytes(page.output())


def _drawing(page: FPDF, size: tuple[float, float, float], carving: CarvingPart) -> None:
    board = carving.stock.to_core()
    left, low = board.corner(size[:2])
    zero = board.zero_point(size[:2])
    scale = min(DRAWN_MM[0] / board.size[0], DRAWN_MM[1] / board.size[1])
    x0, y1 = MARGIN_MM + 12, page.get_y() + 6 + board.size[1] * scale
    page.set_draw_color(*INK)
    page.set_line_width(0.3)
    page.set_fill_color(*WOOD)
    page.rect(x0, y1 - board.size[1] * scale, board.size[0] * scale, board.size[1] * scale, "DF")
    page.set_fill_color(*PIECE)
    page.rect(x0 - left * scale, y1 - (size[1] - low) * scale, size[0] * scale, size[1] * scale, "DF")
    across, up = x0 + (zero[0] - left) * scale, y1 - (zero[1] - low) * scale
    page.set_draw_color(*ZERO)
    page.set_line_width(0.5)
    page.ellipse(across - 2, up - 2, 4, 4)
    page.line(across - 4, up, across + 10, up)
    page.line(across, up + 4, across, up - 10)
    page.set_text_color(*ZERO)
    page.set_font("helvetica", "B", 9)
    page.text(across + 11, up + 1, "X")
    page.text(across - 1, up - 11.5, "Y")
    page.text(across + 3, up - 3, "0")
    page.set_text_color(*INK)
    page.set_font("helvetica", "", 9)
    page.text(x0 + board.size[0] * scale / 2 - 8, y1 + 5, f"{board.size[0]:g} mm")
    with page.rotation(90, x0 - 4, y1 - board.size[1] * scale / 2):
        page.text(x0 - 12, y1 - board.size[1] * scale / 2, f"{board.size[1]:g} mm")
    page.set_y(y1 + 10)


def _facts(page: FPDF, carving: CarvingPart, carved: Carved) -> None:
    stock = carving.stock
    board = stock.to_core()
    where = "lower left corner" if board.zero == "corner" else "middle"
    height = "face of the stock" if board.zero_height == "top" else "bed, under the stock"
    facts = carved.facts
    rows = (
        ("Stock", f"{stock.material}, {board.size[0]:g} x {board.size[1]:g} x {board.size[2]:g} mm"),
        ("Zero point", f"{where}, on the {height}; X right, Y up, Z up"),
        ("Unit of programs", "inches" if carving.router.unit == "in" else "millimetres"),
        ("Time", f"{facts['minutes']:.0f} minutes, measured on the simulated machine"),
        ("Cuts into the piece", f"{facts['gouge_max_mm'] * 1000:.1f} micrometres at most"),
        ("Leaves", f"{facts['left_max_mm']:.3f} mm at most, {facts['left_rms_mm']:.4f} mm on average (RMS)"),
        ("Bits cannot reach", f"{facts['cannot_reach_max_mm']:.3f} mm at most"),
    )
    for name, told in rows:
        fact_row(page, name, told)
    page.ln(4)


def _programs(page: FPDF, carved: Carved) -> None:
    page.set_font("helvetica", "", 9)
    with page.table(col_widths=(34, 52, 18, 18, 18), text_align=("LEFT", "LEFT", "RIGHT", "RIGHT", "RIGHT")) as table:
        table.row(("Pass", "Bit", "Minutes", "Metres", "Lifts"))
        for one in carved.passes:
            table.row((one.kind, plain_letters(one.bit), f"{one.minutes:.1f}", f"{one.length_m:.1f}", str(one.lifts)))
    page.ln(3)
    for name in carved.names:
        page.cell(0, 5, f"Program {name}", new_x="LMARGIN", new_y="NEXT")
