"""Pictures of the handbook, made of those that `make screenshots` takes."""

from pathlib import Path

from PIL import Image

MOST_BYTES = 60_000
QUALITIES = range(86, 20, -6)
WIDTH_PX = 1120


def write_pictures(source: Path, target: Path) -> None:
    """Each as WebP of at most 60 kB.

    Raises:
        ValueError: one does not become that small.
    """
    target.mkdir(parents=True, exist_ok=True)
    for path in sorted(source.glob("*.png")):
        with Image.open(path) as picture:
            small = picture.convert("RGB")
            small.thumbnail((WIDTH_PX, WIDTH_PX), Image.Resampling.LANCZOS)
        for quality in QUALITIES:
            small.save(made := target / f"{path.stem}.webp", quality=quality, method=4)
            if made.stat().st_size <= MOST_BYTES:
                break
        else:
            raise ValueError(f"{path.name} does not fit into {MOST_BYTES} bytes.")
