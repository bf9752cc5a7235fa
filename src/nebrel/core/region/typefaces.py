"""Typefaces that ship: where their files are."""

from importlib.util import find_spec
from pathlib import Path

PACKAGES = ("font_manrope", "font_fredoka_one", "font_source_sans_pro")


def folder_of(package: str) -> Path:
    """Where the files of a typeface's package lie."""
    found = find_spec(package)
    assert found is not None and found.submodule_search_locations, f"{package} is not installed"
    return Path(next(iter(found.submodule_search_locations))) / "files"
