"""Pictures one after another as a file: a film, a moving picture, or the pictures themselves."""

import io
import tempfile
import zipfile
from collections.abc import Iterator
from itertools import pairwise
from pathlib import Path
from typing import BinaryIO, Literal, get_args

import numpy as np
from numpy.typing import NDArray

FilmFormat = Literal["mp4", "webp", "gif", "png"]
FILM_FORMATS: tuple[FilmFormat, ...] = get_args(FilmFormat)
QUALITY = 82
Pictures = Iterator[NDArray[np.uint8]]


def write_film(pictures: Pictures, frames: int, seconds: float, form: FilmFormat, file: BinaryIO) -> None:
    """Write pictures that are shown one after another.

    Args:
        pictures: `frames` of uint8 (H, W, 3) sRGB, of one size.
        frames: how many there are.
        seconds: how long they are shown in all.
        form: `mp4`, `webp` or `gif`; `png` for a ZIP with a picture a frame.
        file: open for writing.
    """
    from PIL import Image

    if form == "mp4":
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "film.mp4"
            _write_mp4(path, pictures, frames / seconds)
            file.write(path.read_bytes())
        return
    if form == "png":
        with zipfile.ZipFile(file, "w", zipfile.ZIP_STORED) as package:
            for name, picture in numbered(pictures, frames):
                held = io.BytesIO()
                Image.fromarray(picture).save(held, "PNG")
                package.writestr(f"{name}.png", held.getvalue())
        return
    made = [Image.fromarray(picture) for picture in pictures]
    # Hundredths of a second, as GIF has them, that add up to what was asked.
    ends = [round(100 * seconds * at / frames) for at in range(frames + 1)]
    lengths = [10 * (end - start) for start, end in pairwise(ends)]
    made[0].save(file, form, save_all=True, append_images=made[1:], duration=lengths, loop=0, quality=QUALITY)


def numbered(pictures: Pictures, frames: int) -> Iterator[tuple[str, NDArray[np.uint8]]]:
    """Pictures with their numbers from 1, as long as the last one's."""
    digits = len(str(frames))
    for at, picture in enumerate(pictures, start=1):
        yield f"{at:0{digits}}", picture


def _write_mp4(path: Path, pictures: Pictures, per_second: float) -> None:
    """H.264 that every browser plays, with even sides, by the encoder that imageio-ffmpeg ships."""
    import imageio_ffmpeg

    first = next(pictures)
    height, width = (side - side % 2 for side in first.shape[:2])
    film = imageio_ffmpeg.write_frames(
        str(path), (width, height), fps=per_second, codec="libx264", macro_block_size=1, pix_fmt_in="rgb24",
        output_params=["-pix_fmt", "yuv420p", "-crf", "18", "-movflags", "+faststart"],
    )  # fmt: skip
    film.send(None)
    try:
        film.send(first[:height, :width].tobytes())
        for picture in pictures:
            film.send(picture[:height, :width].tobytes())
    finally:
        film.close()
