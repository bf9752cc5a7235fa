"""`nebrel new`: a sheet to begin with, blank or of one tone, with lettering."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from nebrel.cli.files import check_target
from nebrel.cli.spellings import choice
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length

FONTS = ("bold", "round", "black", "plain")
LEAST_MM, MOST_MM = 0.5, 3000.0


def new(
    output: Annotated[Path, typer.Option("-o", "--output", help="The 16-bit PNG or TIFF to write.")],
    size: Annotated[str, typer.Option(help="Width and height, 180x50.")] = "100x100",
    ground: Annotated[str, typer.Option(help="Tone of the ground, 0 black to 1 white, or blank.")] = "0",
    text: Annotated[str | None, typer.Option(help="Lettering in the middle; \\n begins a line.")] = None,
    font: Annotated[str, typer.Option(help="bold, round, black or plain.")] = "bold",
    height: Annotated[str | None, typer.Option(help="Height of the lettering; as large as fits when left out.")] = None,
    tone: Annotated[float, typer.Option(help="Tone of the lettering.")] = 1.0,
    line: Annotated[str, typer.Option(help="Width of the thinnest line that the maker draws.")] = "0.42",
) -> int:
    """Make a sheet to begin with: blank or of one tone, with lettering; its size is in the file."""
    check_target(output, (".png", ".tif", ".tiff"))
    wide, tall = _two_lengths(size)
    shade = _ground(ground)
    letters = None if text is None else text.replace("\\n", "\n")
    if letters is not None and not letters.strip():
        raise BadValueError("--text has no letters; some are needed, or leave it out.")
    if not 0 <= tone <= 1:
        raise BadValueError(f"--tone is {tone:g}; 0 black to 1 white would be accepted.")
    face = choice("--font", font, FONTS)

    from nebrel.core.picture.ops.new_sheet import PX_A_LINE, lettered, new_sheet
    from nebrel.core.picture.write import PictureFormat, write_picture
    from nebrel.piece.ops.compose import font_file
    from nebrel.settings import Settings
    from nebrel.store.blobs import write_atomically

    pitch = parse_length(line) / PX_A_LINE
    most = Settings().picture_side_px
    if not pitch > 0 or max(wide, tall) / pitch + 1 > most:
        raise BadValueError(
            f"A sheet of {wide:g} × {tall:g} mm would have {max(wide, tall) / max(pitch, 1e-9):,.0f} pixels along one "
            f"side; up to {most:,} would be accepted. Make it smaller, or --line wider."
        )
    sheet = new_sheet(wide, tall, pitch, shade)
    pitch = wide / (sheet.shape[1] - 1)
    told = ""
    if letters is not None:
        asked = None if height is None else parse_length(height)
        sheet, wide_mm, tall_mm = lettered(sheet, pitch, letters, font_file(face), tone, asked)
        told = f", lettering {wide_mm:.1f} × {tall_mm:.1f} mm"
    form: PictureFormat = "png" if output.suffix.lower() == ".png" else "tiff"
    try:
        write_atomically(output, lambda file: write_picture(sheet, file, form, pitch))
    except OSError as cause:
        raise BadValueError(f"{output} cannot be written: {cause.strerror}.") from cause
    rows, columns = sheet.shape
    print(f"{output}: {wide:g} × {tall:g} mm, {columns:,} × {rows:,} pixels{told}")
    return 0


def _two_lengths(given: str) -> tuple[float, float]:
    parts = given.lower().replace("×", "x").split("x")
    if len(parts) != 2:
        raise BadValueError(f"--size is “{given}”; width and height like 180x50 would be accepted.")
    wide, tall = (parse_length(part) for part in parts)
    if not all(LEAST_MM <= side <= MOST_MM for side in (wide, tall)):
        raise BadValueError(f"--size is “{given}”; {LEAST_MM:g} to {MOST_MM:g} mm a side would be accepted.")
    return wide, tall


def _ground(given: str) -> float | None:
    if given == "blank":
        return None
    try:
        value = float(given)
    except ValueError:
        value = -1.0
    if not 0 <= value <= 1:
        raise BadValueError(f"--ground is “{given}”; 0 black to 1 white, or blank, would be accepted.")
    return value
