"""File names that every system accepts and a person recognises."""

import re
import unicodedata


def file_name(title: str, size: tuple[float, ...], suffix: str) -> str:
    """For example `hillside-fern-80x60x4.2mm.stl`; no slashes, spaces or accents survive."""
    plain = unicodedata.normalize("NFKD", title).encode("ascii", "ignore").decode().lower()
    words = re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:60].strip("-") or "piece"
    extent = "x".join(f"{round(side, 1):g}" for side in size)
    return f"{words}-{extent}mm.{suffix}"
