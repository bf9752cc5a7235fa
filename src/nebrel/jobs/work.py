"""The kinds of long work, as they run inside a worker process."""

import io
import json
import zipfile
from collections.abc import Callable, Iterator
from functools import partial
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.formats import write_mesh, write_obj_package, write_textured
from nebrel.core.picture.write import write_picture
from nebrel.core.proof.film import write_film
from nebrel.core.proof.turntable import FEWEST_FRAMES, MOST_FRAMES, likely_up, turntable
from nebrel.jobs.carving import carve_piece
from nebrel.jobs.depth_service import DepthService, ServiceOrder
from nebrel.jobs.parcel import pack_parcel
from nebrel.jobs.plate import lay_plate
from nebrel.jobs.workplace import Workplace
from nebrel.piece.evaluation.abilities import HasDepthSources, HasHeights, HasPicture
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.parts.naming import file_name
from nebrel.piece.printing.finished import changes_the_file, for_printer, turned_for_printer
from nebrel.piece.registry import Piece, parse_document

FILM_PX, FRAMES_A_SECOND = (800, 600), 20
Report = Callable[[str, float], None]
Work = Callable[[Workplace, dict[str, Any], Report], dict[str, Any]]


def build(place: Workplace, payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """Build the final solid of `payload["document"]`, prove it sound and write its file.

    Returns:
        `report`, `solid_key`, `file_key`, `file_name` and, for every extra file NAME of its kind, `NAME_key`.
    """
    piece = place.opened(parse_document(payload["document"]))
    slab, measured = piece.evaluator.build(report)
    solid_key = piece.evaluator.solid_key(FULL)
    form = piece.document.delivery.format
    texture = piece.evaluator.texture(report)
    mesh, named = piece.evaluator.delivered_as(slab.mesh)
    made = for_printer(piece.evaluator, mesh, named, form, texture is not None)
    mesh, named = made.mesh, made.objects
    packed = form == "obj" and (texture is not None or mesh.corner_colours is not None)
    ending = "zip" if packed else form
    name = file_name(piece.document.title, measured.size_mm, ending)
    told: list[object] = [form, None if texture is None else texture.image.shape, [each for each, _ in named], packed]
    told.append(piece.evaluator.paint_key)
    told += changes_the_file(piece.evaluator, form)
    file_key = step_key("file", 2, told, solid_key)

    def write(file: BinaryIO) -> None:
        def progress(part: float) -> None:
            report("Writing the file", part)

        if texture is not None:
            write_textured(
                turned_for_printer(piece.evaluator, slab.mesh), texture, file, form, progress, name.rpartition(".")[0]
            )
            return
        if packed:
            write_obj_package(mesh, file, progress, name.rpartition(".")[0], named)
            return
        write_mesh(mesh, file, form, progress, names=made.names, objects=named)

    place.kept.put_file(file_key, write)
    path = place.kept.path(file_key)
    written = measured.file_bytes if path is None else path.stat().st_size
    return {
        "report": measured.model_copy(
            update={
                "file_bytes": written,
                "printed": made.report,
                "findings": [*made.findings, *measured.findings],
            }
        ).model_dump(mode="json"),
        "solid_key": solid_key,
        "file_key": file_key,
        "file_name": name,
        **_extras(place, piece, file_key),
    }


def _extras(place: Workplace, piece: Piece, file_key: str) -> dict[str, str]:
    """Write what delivery adds to the file, and name the keys."""
    keys: dict[str, str] = {}
    for extra in piece.kind.extras:
        text = extra.text(piece.evaluator)
        key = step_key(extra.name, 1, text, file_key)
        place.kept.put(key, text.encode())
        keys[f"{extra.name}_key"] = key
    return keys


def deliver(place: Workplace, payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """Build `payload["document"]` as one of many, and take its picture.

    Returns:
        What `build` does, and `thumbnail_key`.
    """
    piece = place.opened(parse_document(payload["document"]))
    made = build(place, payload, report)
    report("Taking its picture", 0.0)
    key = step_key("thumbnail-file", 1, "png", made["file_key"])
    place.kept.put(key, piece.evaluator.thumbnail())
    return {**made, "thumbnail_key": key}


def export_picture(place: Workplace, payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """Write the prepared picture of `payload["document"]` as `payload["format"]`, 16 bits deep and at true size.

    Returns:
        `file_key`, `file_name`, `size_px` and `dpi`.
    """
    piece, form = place.opened(parse_document(payload["document"])), payload["format"]
    pictured = piece.having(HasPicture)
    picture = pictured.picture(FULL, report)
    rows, columns = picture.shape
    width = pictured.picture_width_mm
    mm_per_px = width / (columns - 1)
    report("Writing the file", 0.0)
    file_key = step_key("picture-file", 1, form, pictured.picture_key(FULL))
    place.kept.put_file(file_key, lambda file: write_picture(picture, file, form, mm_per_px))
    return {
        "file_key": file_key,
        "file_name": file_name(piece.document.title, (width, (rows - 1) * mm_per_px), form),
        "size_px": (columns, rows),
        "dpi": round(25.4 / mm_per_px, 1),
    }


def export_heights(place: Workplace, payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """Write the target heights of `payload["document"]` as a picture of `payload["format"]` and its facts, in a ZIP.

    Returns:
        `file_key`, `file_name`, `size_px` and `dpi`.
    """
    piece, form = place.opened(parse_document(payload["document"])), payload["format"]
    heights = piece.having(HasHeights)
    report("Raising the heights", 0.0)
    made = heights.height_map()
    pitch = float(made.facts["mm_per_px"])
    name = file_name(piece.document.title, piece.evaluator.size_mm, form)
    file_key = step_key("heights-file", 1, form, heights.height_map_key())

    def write(file: BinaryIO) -> None:
        with zipfile.ZipFile(file, "w", zipfile.ZIP_STORED) as package:
            held = io.BytesIO()
            write_picture(made.picture, held, form, pitch)
            package.writestr(name, held.getvalue())
            package.writestr(name.rsplit(".", 1)[0] + ".json", json.dumps(made.facts, indent=2))

    report("Writing the file", 0.5)
    place.kept.put_file(file_key, write)
    rows, columns = made.picture.shape
    return {
        "file_key": file_key,
        "file_name": name.rsplit(".", 1)[0] + "-heights.zip",
        "size_px": (columns, rows),
        "dpi": round(25.4 / pitch, 1),
    }


def ask_service(place: Workplace, payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """Have the service at `payload["url"]` make depths of the picture of `payload["document"]`, and keep them.

    Returns:
        `blob` and `name` of a depth picture, `span_mm` from its darkest to its brightest, and what it cost.
    """
    piece = place.opened(parse_document(payload["document"]))
    figure = piece.having(HasDepthSources)
    report("Preparing the picture", 0.0)
    picture, mask = figure.sent()
    with DepthService(payload["url"], place.settings.service_token) as service:
        terms = service.terms()
        answer = service.make(ServiceOrder(picture, mask, payload["gives"]), report)
    depths, span = figure.received(answer.data, None if answer.solid else answer.depth_share)
    return {
        "blob": place.blobs.add(depths),
        "name": terms.name,
        "span_mm": round(span, 3),
        "cost": answer.cost,
        "cost_unit": terms.cost_unit,
    }


def film_turntable(place: Workplace, payload: dict[str, Any], report: Report) -> dict[str, Any]:
    """Turn the finished solid of `payload["document"]` once round, as `payload["format"]` of `payload["seconds"]`.

    Returns:
        `file_key`, `file_name`, `frames` and `size_px`.
    """
    piece, form, seconds = place.opened(parse_document(payload["document"])), payload["format"], payload["seconds"]
    report("Making the solid", 0.0)
    mesh = piece.evaluator.mesh(FULL)
    frames = min(max(FEWEST_FRAMES, round(seconds * FRAMES_A_SECOND)), MOST_FRAMES)
    ending = "zip" if form == "png" else form
    name = f"{file_name(piece.document.title, piece.evaluator.size_mm, ending).rpartition('.')[0]}-turntable.{ending}"
    file_key = step_key("turntable", 1, [form, seconds, frames, FILM_PX], piece.evaluator.solid_key(FULL))

    def pictures() -> Iterator[NDArray[np.uint8]]:
        up = "z" if piece.evaluator.standing else likely_up(mesh)
        for at, picture in enumerate(turntable(mesh, frames, FILM_PX, up)):
            report("Turning it", at / frames)
            yield picture

    place.kept.put_file(file_key, lambda file: write_film(pictures(), frames, seconds, form, file))
    return {"file_key": file_key, "file_name": name, "frames": frames, "size_px": FILM_PX}


KINDS: dict[str, Work] = {
    "build": build,
    "deliver": deliver,
    "picture": export_picture,
    "heights": export_heights,
    "service": ask_service,
    "turntable": film_turntable,
    "carving": carve_piece,
    "plate": lay_plate,
    "parcel": partial(pack_parcel, build),
}
