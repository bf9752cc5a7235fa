"""`nebrel turntable`: a mesh turned once round, as a film or as pictures."""

from __future__ import annotations

import json as jsons
import re
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from nebrel.cli.endings import MeshArgument, Unit
from nebrel.cli.files import check_target
from nebrel.cli.progress import progress_bar
from nebrel.cli.spellings import choice, signed_angle
from nebrel.core.errors import BadValueError
from nebrel.interface.reading import read_file

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    import numpy as np
    from numpy.typing import NDArray

FILMS = (".mp4", ".webp", ".gif", ".png")
_SIZE = re.compile(r"^(\d{1,5})x(\d{1,5})$")


def turntable(
    mesh: MeshArgument,
    output: Annotated[Path, typer.Option("-o", "--output", help="MP4, WebP or GIF; PNG for a picture a frame.")],
    frames: Annotated[int, typer.Option(help="Pictures once round, 4 to 720.")] = 96,
    seconds: Annotated[float, typer.Option(help="How long once round takes, 0.5 to 120.")] = 6.0,
    size: Annotated[str, typer.Option(help="Width by height in pixels, 800x600.")] = "800x600",
    tilt: Annotated[str, typer.Option(help="How far the eye looks down, 12deg.")] = "12deg",
    up: Annotated[str, typer.Option(help="Axis that points up: auto, y or z.")] = "auto",
    unit: Unit = None,
    json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
) -> int:
    """Turn a mesh once round before the eye."""
    check_target(output, FILMS)
    pixels = _SIZE.match(size)
    if pixels is None:
        raise BadValueError(f"--size is “{size}”; width by height, as in 800x600, would be accepted.")
    if not 0.5 <= seconds <= 120:
        raise BadValueError(f"--seconds is {seconds:g}; 0.5 to 120 would be accepted.")
    choice("--up", up, ("auto", "y", "z"))
    looked_down = signed_angle("--tilt", tilt)

    from nebrel.core.mesh.formats import read_mesh
    from nebrel.core.proof.turntable import likely_up, turntable

    found = read_mesh(read_file(mesh, "mesh_bytes"), mesh.name, unit, lambda name: _beside(mesh, name), sharp=True).mesh
    axis = likely_up(found) if up == "auto" else up
    pictures = turntable(found, frames, (int(pixels[1]), int(pixels[2])), "y" if axis == "y" else "z", looked_down)
    with progress_bar() as progress:
        _write(output, _followed(pictures, frames, progress), frames, seconds)
    report = {"frames": frames, "seconds": seconds, "up": axis, "width_px": int(pixels[1]), "height_px": int(pixels[2])}
    if json:
        print(jsons.dumps(report, indent=2))
    else:
        guessed = " (the likelier way; --up says otherwise)" if up == "auto" else ""
        print(f"{output}: {frames} frames, {seconds:g} s once round, {axis.upper()} up{guessed}")
    return 0


def _followed(
    pictures: Iterator[NDArray[np.uint8]], frames: int, progress: Callable[[str, float], None]
) -> Iterator[NDArray[np.uint8]]:
    for at, picture in enumerate(pictures):
        progress("Turning it", at / frames)
        yield picture


def _beside(mesh: Path, name: str) -> bytes | None:
    path = mesh.parent / name
    return path.read_bytes() if path.is_file() else None


def _write(output: Path, pictures: Iterator[NDArray[np.uint8]], frames: int, seconds: float) -> None:
    from PIL import Image

    from nebrel.core.proof.film import FILM_FORMATS, numbered, write_film
    from nebrel.store.blobs import write_atomically

    form = next(each for each in FILM_FORMATS if output.suffix.lower() == f".{each}")
    if form == "png":
        for name, picture in numbered(pictures, frames):
            Image.fromarray(picture).save(output.with_name(f"{output.stem}-{name}.png"))
        return
    write_atomically(output, lambda file: write_film(pictures, frames, seconds, form, file))
