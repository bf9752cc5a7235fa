"""Sheets that go to the machine with a piece, as PDF."""

from fpdf import FPDF

INK, QUIET = (40, 44, 46), (120, 124, 126)
MARGIN_MM = 15.0
NAME_MM = 42.0


def new_sheet(title: str, told: str) -> FPDF:
    """A page that begins with what it is about."""
    page = FPDF(format="A4")
    page.set_auto_page_break(True, MARGIN_MM)
    page.set_margins(MARGIN_MM, MARGIN_MM)
    page.add_page()
    page.set_text_color(*INK)
    page.set_font("helvetica", "B", 18)
    page.cell(0, 10, plain_letters(title), new_x="LMARGIN", new_y="NEXT")
    page.set_font("helvetica", "", 10)
    page.set_text_color(*QUIET)
    page.cell(0, 6, plain_letters(told), new_x="LMARGIN", new_y="NEXT")
    return page


def fact_row(page: FPDF, name: str, told: str) -> None:
    """A fact with its name before it."""
    page.set_text_color(*QUIET)
    page.cell(NAME_MM, 6, plain_letters(name))
    page.set_text_color(*INK)
    page.multi_cell(0, 6, plain_letters(told), new_x="LMARGIN", new_y="NEXT")


def plain_letters(text: str) -> str:
    """Letters that the built-in typefaces have."""
    for sign, other in (("–", "-"), ("…", "..."), ("’", "'"), ("“", '"'), ("”", '"')):
        text = text.replace(sign, other)
    return text.encode("latin-1", "replace").decode("latin-1")
