"""The kinds of long work, as they run inside a worker process."""

import io
import json
import zipfile
from collections.abc import Callable
from typing import Any, BinaryIO

from nebrel.core.height.export import height_map
from nebrel.core.mesh.formats import write_mesh
from nebrel.core.picture.write import write_picture
from nebrel.jobs.workshop import Workshop
from nebrel.piece.document import AnyDocument, parse_document, parse_panel, pictured_of
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.parts.naming import file_name

Report = Callable[[str, float], None]
Work = Callable[[Workshop, dict[str, Any], Report], dict[str, Any]]


def build(workshop: Workshop, payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """Build the final solid of `payload["document"]`, prove it sound and write its file.

    Returns:
        `report`, `solid_key`, `file_key`, `file_name` and, for a lithophane, `recipe_key`.
    """
    document = parse_document(payload["document"])
    looking = workshop.looking_at(document)
    slab, measured = looking.build(report)
    solid_key = looking.solid_key(FULL)
    form = document.delivery.format
    file_key = step_key("file", 1, form, solid_key)
    workshop.kept.put_file(
        file_key, lambda file: write_mesh(slab.mesh, file, form, lambda part: report("Writing the file", part))
    )
    path = workshop.kept.path(file_key)
    written = measured.file_bytes if path is None else path.stat().st_size
    return {
        "report": measured.model_copy(update={"file_bytes": written}).model_dump(mode="json"),
        "solid_key": solid_key,
        "file_key": file_key,
        "file_name": file_name(document.title, measured.size_mm, document.delivery.format),
        "recipe_key": _recipe(workshop, document, file_key),
    }


def _recipe(workshop: Workshop, document: AnyDocument, file_key: str) -> str | None:
    """Write how to print a lithophane beside its file."""
    if not isinstance(document, LithophaneDocument):
        return None
    text = workshop.evaluator.lithophanes.recipe(document)
    key = step_key("recipe", 1, text, file_key)
    workshop.kept.put(key, text.encode())
    return key


def export_picture(workshop: Workshop, payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """Write the prepared picture of `payload["document"]` as `payload["format"]`, 16 bits deep and at true size.

    Returns:
        `file_key`, `file_name`, `size_px` and `dpi`.
    """
    document, form = pictured_of(parse_document(payload["document"])), payload["format"]
    picture = workshop.evaluator.picture(document, FULL, report)
    rows, columns = picture.shape
    mm_per_px = document.width_mm / (columns - 1)
    report("Writing the file", 0.0)
    file_key = step_key("picture-file", 1, form, workshop.evaluator.picture_key(document, FULL))
    workshop.kept.put_file(file_key, lambda file: write_picture(picture, file, form, mm_per_px))
    return {
        "file_key": file_key,
        "file_name": file_name(document.title, (document.width_mm, (rows - 1) * mm_per_px), form),
        "size_px": (columns, rows),
        "dpi": round(25.4 / mm_per_px, 1),
    }


def export_heights(workshop: Workshop, payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """Write the asked heights of `payload["document"]` as a picture of `payload["format"]` and its facts, in a ZIP.

    Returns:
        `file_key`, `file_name`, `size_px` and `dpi`.
    """
    document, form = parse_panel(payload["document"]), payload["format"]
    report("Raising the heights", 0.0)
    made = height_map(workshop.evaluator.asked(document), document.body.backing_mm)
    pitch = float(made.facts["mm_per_px"])
    name = file_name(document.title, document.size_mm, form)
    file_key = step_key(
        "heights-file", 1, [form, document.body.model_dump(mode="json")], workshop.evaluator.field_key(document)
    )

    def write(file: BinaryIO) -> None:
        with zipfile.ZipFile(file, "w", zipfile.ZIP_STORED) as package:
            held = io.BytesIO()
            write_picture(made.picture, held, form, pitch)
            package.writestr(name, held.getvalue())
            package.writestr(name.rsplit(".", 1)[0] + ".json", json.dumps(made.facts, indent=2))

    report("Writing the file", 0.5)
    workshop.kept.put_file(file_key, write)
    rows, columns = made.picture.shape
    return {
        "file_key": file_key,
        "file_name": name.rsplit(".", 1)[0] + "-heights.zip",
        "size_px": (columns, rows),
        "dpi": round(25.4 / pitch, 1),
    }


KINDS: dict[str, Work] = {"build": build, "picture": export_picture, "heights": export_heights}
