"""Meshes: made lighter, checked, decorated, written."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.fewer.simplify import Simplified, to_count, to_tolerance
from nebrel.core.mesh.formats import MeshFile, MeshFormat, format_of
from nebrel.core.mesh.formats.fit import to_bytes
from nebrel.core.outline_files.read import drawing_format, read_drawing
from nebrel.core.outline_files.svg.write import svg_bytes
from nebrel.core.outline_files.write import drawing_bytes
from nebrel.core.picture import read_picture as picture_of_file
from nebrel.core.proof import check_soundness
from nebrel.core.proof.objects import check_objects
from nebrel.core.proof.skin_audit import decoration_findings
from nebrel.core.proof.soundness import with_remark
from nebrel.core.proof.thickness import thinnest_of_some
from nebrel.core.surface.decorate import decorate as decorated_by
from nebrel.core.surface.outcome import Decorated
from nebrel.core.surface.skin.skin import skin_of
from nebrel.interface.files import DRAWINGS, PictureLike, StartingFile, read_picture
from nebrel.interface.pieces import Built, Progress, Traced, quiet
from nebrel.interface.reading import read_file
from nebrel.interface.writing import save_drawing, save_mesh
from nebrel.piece.evaluation.decorating import lay_out
from nebrel.piece.kinds.outline.document import DrawingSource
from nebrel.piece.parts.decoration import DecorationPart
from nebrel.piece.parts.refusals import parse_part
from nebrel.piece.report import BodyReport, CheckReport, FindingReport, MeshReport, mesh_report
from nebrel.settings import Settings
from nebrel.store.blobs import blob_name

WALLS_LOOKED_AT = 1500


def simplify(
    mesh: TriMesh,
    *,
    triangles: int | None = None,
    within_mm: float | None = None,
    file_bytes: tuple[MeshFormat, int] | None = None,
    progress: Progress = quiet,
) -> Simplified:
    """A mesh made lighter, and measured how far it is from the original.

    >>> import numpy as np, nebrel
    >>> dome = np.clip(1 - np.hypot(*np.mgrid[-1:1:64j, -1:1:64j]), 0, 1)
    >>> mesh = nebrel.relief(dome, width_mm=40).build().mesh
    >>> lighter = nebrel.simplify(mesh, within_mm=0.2)
    >>> len(lighter.mesh.faces) < len(mesh.faces), lighter.deviation.max <= 0.2
    (True, True)

    Args:
        mesh: any; it is not changed.
        triangles: how many it may have.
        within_mm: how far it may be from the original, both ways.
        file_bytes: how large a file of that format may be.
        progress: called with what is done and the fraction done of it.

    Raises:
        NebrelError: none or several of the three are given, or one cannot be had.
    """
    if sum(each is not None for each in (triangles, within_mm, file_bytes)) != 1:
        raise BadValueError("One of triangles, within_mm and file_bytes is needed, and only one.")

    def follow(part: float) -> None:
        progress("Simplifying", part)

    if triangles is not None:
        return to_count(mesh, triangles, follow)
    if within_mm is not None:
        return to_tolerance(mesh, within_mm, follow)
    assert file_bytes is not None
    return to_bytes(mesh, *file_bytes, follow)


def check(mesh: TriMesh | MeshFile | Built, progress: Progress = quiet) -> CheckReport:
    """Whether a mesh is closed, 2-manifold, outward and free of crossings, its measures and its thinnest wall.

    >>> import numpy as np, nebrel
    >>> found = nebrel.check(nebrel.relief(np.eye(24), width_mm=20, backing_mm=2).build())
    >>> found.sound, found.shells, found.self_crossings
    (True, 1, 0)

    Args:
        mesh: a mesh, what a file held, or what was built.
        progress: called with what is done and the fraction done of it.

    Returns:
        The keys of `nebrel check --json`.
    """
    objects: tuple[tuple[str, int], ...] = ()
    remark = None
    if isinstance(mesh, MeshFile):
        objects, remark, mesh = mesh.objects, mesh.remark, mesh.mesh
    elif isinstance(mesh, Built):
        mesh = mesh.mesh
    found = check_soundness(mesh, lambda part: progress("Checking", part))
    found, bodies = check_objects(mesh, objects, found)
    found = with_remark(found, remark)
    closed = found.closed and found.outward
    thinnest, looked_at = thinnest_of_some(mesh, WALLS_LOOKED_AT) if closed else (math.inf, 0)
    return CheckReport(
        **mesh_report(found).model_dump(),
        objects=[BodyReport.of(each) for each in bodies],
        thinnest_wall_mm=round(thinnest, 6) if math.isfinite(thinnest) else None,
        walls_looked_at=looked_at,
    )


@dataclass(frozen=True)
class DecoratedMesh:
    """A mesh with what was laid on it.

    Attributes:
        mesh: faces beside the decoration are as they came.
        report: what was measured on it, with findings about the decoration last.
        made: how it was laid: stretch, depths, what was added and removed.
    """

    mesh: TriMesh
    report: MeshReport
    made: Decorated


def decorate(
    mesh: TriMesh,
    art: PictureLike,
    *,
    at: tuple[float, float, float],
    width_mm: float = 24.0,
    depth_mm: float = 0.6,
    effect: str = "raise",
    up: tuple[float, float, float] = (0.0, 0.0, 1.0),
    parts: Mapping[str, Any] | None = None,
    tolerance_mm: float = 0.01,
    thinnest_mm: float = 0.8,
    progress: Progress = quiet,
) -> DecoratedMesh:
    """A picture or a drawing laid on the skin of a model.

    >>> import numpy as np, nebrel
    >>> disc = np.where(np.hypot(*np.mgrid[-1:1:96j, -1:1:96j]) < 0.7, 1.0, 0.0)
    >>> plate = nebrel.relief(disc, width_mm=40, relief_mm=1, backing_mm=3).build().mesh
    >>> made = nebrel.decorate(plate, disc, at=(20, 20, 4), up=(0, 1, 0), width_mm=12, depth_mm=1)
    >>> made.report.sound, made.made.added_mm3 > 0
    (True, True)

    Args:
        mesh: the model, in millimetres.
        art: a picture, see `read_picture`, or a path to SVG or DXF.
        at: where its middle lies; the nearest place of the skin is taken.
        width_mm: on the skin.
        depth_mm: how far it is raised or sunk.
        effect: raise, sink, both or colour.
        up: which way its top points.
        parts: whatever else of `DecorationPart` is to be otherwise.
        tolerance_mm: how far depths may be off.
        thinnest_mm: wall that sunk decorations leave.
        progress: called with what is done and the fraction done of it.

    Raises:
        NebrelError: it cannot be laid there; one sentence.
    """
    name, data, outlined = _art(art)
    source = {"kind": "outline" if outlined else "picture", "blob": blob_name(data), "name": name}
    asked = {
        "art": source, "at": at, "up": up, "width_mm": width_mm, "depth_mm": depth_mm, "effect": effect,
        **(parts or {}),
    }  # fmt: skip
    return decorated_as(mesh, parse_part(DecorationPart, asked), data, tolerance_mm, thinnest_mm, progress)


def decorated_as(
    mesh: TriMesh,
    recipe: DecorationPart,
    data: bytes,
    tolerance_mm: float,
    thinnest_mm: float,
    progress: Progress = quiet,
) -> DecoratedMesh:
    """The same by a whole recipe, `data` being the file that its art names."""
    limits = Settings().read_limits
    laid = lay_out(recipe, lambda _: data, lambda _, name: picture_of_file(data, name, limits))
    made = decorated_by(skin_of(mesh), [laid], tolerance_mm, thinnest_mm, lambda part: progress("Decorating", part))
    report = mesh_report(check_soundness(made.mesh, lambda part: progress("Checking", part)))
    notes = decoration_findings(made, [recipe.art.name], thinnest_mm, tolerance_mm)
    told = [*report.findings, *(FindingReport.of(note) for note in notes)]
    return DecoratedMesh(made.mesh, report.model_copy(update={"findings": told}), made)


def plain_art(data: bytes, name: str) -> tuple[bytes, bool]:
    """A file of a decoration as documents keep it, drawings as SVG in mm; and whether it is a drawing."""
    if Path(name).suffix.lower() not in DRAWINGS:
        return data, False
    # Its size does not matter: it is made as wide as asked.
    return svg_bytes(read_drawing(data, name, 1.0).figure), True


def _art(art: PictureLike) -> tuple[str, bytes, bool]:
    if isinstance(art, str | Path) and Path(art).suffix.lower() in DRAWINGS:
        path = Path(art)
        return path.name, *plain_art(read_file(path, "picture_bytes"), path.name)
    file = art if isinstance(art, StartingFile) else read_picture(art)
    if isinstance(file.source, DrawingSource):
        return file.name, *plain_art(file.data, file.name)
    return file.name, file.data, False


def write(made: TriMesh | Built | Traced | DecoratedMesh | Simplified, path: str | Path) -> Path:
    """A file of what was made: STL, OBJ, PLY, OFF, 3MF or GLB of solids, SVG or DXF of outlines, by its ending.

    It is written whole or not at all.

    >>> import numpy as np, nebrel, tempfile, pathlib
    >>> folder = pathlib.Path(tempfile.mkdtemp())
    >>> path = nebrel.write(nebrel.relief(np.eye(24), width_mm=20).build(), folder / "tile.stl")
    >>> len(nebrel.read_mesh(path).faces) > 12
    True

    Raises:
        NebrelError: the ending is of no such format, or the place cannot be written.
    """
    path = Path(path)
    if not path.parent.is_dir():
        raise BadValueError(f"There is no folder {path.parent} to write {path.name} into.")
    if isinstance(made, Traced):
        save_drawing(drawing_bytes(made.figure, drawing_format(path.name), False, made.frame_mm), path)
        return path
    objects = made.objects if isinstance(made, Built) else ()
    mesh = made if isinstance(made, TriMesh) else made.mesh
    save_mesh(mesh, path, format_of(path.name), objects=objects)
    return path
