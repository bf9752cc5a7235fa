"""Pieces of the shelf on one bed, as long work: each is built, set down as it is printed, and written as an object."""

from typing import Any

import numpy as np

from nebrel.core.errors import TooLargeError
from nebrel.core.layers.plate import MOST_ITEMS, laid_out
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import write_mesh
from nebrel.core.mesh.shells import together_coloured
from nebrel.core.proof.objects import check_objects
from nebrel.core.proof.soundness import check_soundness
from nebrel.jobs.workplace import Workplace
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.evaluator import Progress
from nebrel.piece.parts.naming import file_name
from nebrel.piece.printing.finished import Objects, for_printer
from nebrel.piece.printing.report import PlateReport
from nebrel.piece.registry import parse_document


def lay_plate(place: Workplace, payload: dict[str, Any], report: Progress) -> dict[str, Any]:
    """Build the pieces of `payload["items"]` (`document` and `copies` each) and lay them on a bed.

    `payload["bed_mm"]` is how large it is, `payload["gap_mm"]` what stays between any two.

    Returns:
        `file_key`, `file_name`, `report`, and whether it is `sound`.
    """
    items = payload["items"]
    count = sum(item["copies"] for item in items)
    if count > MOST_ITEMS:
        raise TooLargeError(f"{count:,} pieces are to lie on the bed; up to {MOST_ITEMS} would be accepted.")
    names: list[str] = []
    meshes: list[TriMesh] = []
    bodies: list[Objects] = []
    colours: dict[str, str] = {}
    for at, item in enumerate(items):
        piece = place.opened(parse_document(item["document"]))
        title = piece.document.title

        def told(stage: str, part: float, at: int = at, title: str = title) -> None:
            report(f"{title}: {stage[:1].lower()}{stage[1:]}", 0.8 * (at + part) / len(items))

        slab, _ = piece.evaluator.build(told)
        made = for_printer(piece.evaluator, *piece.evaluator.delivered_as(slab.mesh), "3mf")
        colours |= made.names
        for copy in range(1, item["copies"] + 1):
            names.append(title if item["copies"] == 1 else f"{title} {copy}")
            meshes.append(made.mesh)
            bodies.append(made.objects)
    report("Laying them on the bed", 0.8)
    width, depth = payload["bed_mm"]
    laid = laid_out(meshes, (width, depth), payload["gap_mm"])
    whole, objects = together_coloured(laid), _objects(names, laid, bodies)
    report("Proving it sound", 0.85)
    found, _ = check_objects(whole, tuple((name, len(own)) for name, own in objects), check_soundness(whole))
    told_plate = PlateReport.of(names, laid, (width, depth), payload["gap_mm"])
    name = file_name("plate", (*told_plate.used_mm, float(np.ptp(whole.vertices[:, 2]))), "3mf")
    file_key = step_key("plate-file", 1, payload)
    report("Writing the file", 0.9)
    place.kept.put_file(file_key, lambda file: write_mesh(whole, file, "3mf", names=colours, objects=objects))
    return {
        "file_key": file_key,
        "file_name": name,
        "report": told_plate.model_dump(mode="json"),
        "sound": found.sound,
    }


def _objects(names: list[str], laid: list[TriMesh], bodies: list[Objects]) -> Objects:
    """Names and faces of what the file holds: pieces, or their bodies of one colour each."""
    found: Objects = []
    first = 0
    for name, mesh, parts in zip(names, laid, bodies, strict=True):
        if parts:
            found += [(f"{name}, {part}", own + first) for part, own in parts]
        else:
            found.append((name, np.arange(first, first + len(mesh.faces))))
        first += len(mesh.faces)
    return found
