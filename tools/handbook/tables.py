"""Tables in Markdown."""

from collections.abc import Iterable, Sequence


def table(heads: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    """A table; what would end a cell is written so that it does not."""
    lines = [heads, ["---"] * len(heads), *rows]
    return "\n".join("| " + " | ".join(cell(each) for each in line) + " |" for line in lines) + "\n"


def cell(what: object) -> str:
    """Text within one cell."""
    return str(what).replace("|", "\\|").replace("\n", " ").replace("<", "&lt;").strip() or " "
