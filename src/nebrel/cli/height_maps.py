"""Heights as a picture file with a file of facts beside it."""

import json
from pathlib import Path

from nebrel.cli.files import check_target
from nebrel.core.errors import BadValueError
from nebrel.core.height.export import HeightMap
from nebrel.core.picture.write import PictureFormat, write_picture
from nebrel.store.blobs import write_atomically

FORMATS: dict[str, PictureFormat] = {".png": "png", ".tif": "tiff", ".tiff": "tiff"}


def save_height_map(made: HeightMap, path: Path) -> None:
    """Write the picture, and its facts as JSON beside it."""
    beside = path.with_suffix(".json")
    check_target(beside, (".json",))
    facts = json.dumps(made.facts, indent=2).encode() + b"\n"
    pitch = float(made.facts["mm_per_px"])
    try:
        write_atomically(path, lambda file: write_picture(made.picture, file, FORMATS[path.suffix.lower()], pitch))
        write_atomically(beside, lambda file: file.writelines([facts]))
    except OSError as cause:
        raise BadValueError(f"{path} cannot be written: {cause.strerror}.") from cause
