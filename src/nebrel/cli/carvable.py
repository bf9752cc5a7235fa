"""What can be carved, opened from a picture, a mesh or the shelf."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from shapely.geometry import MultiPolygon

from nebrel.cli.endings import DRAWINGS, MESHES
from nebrel.core.carve.board import Board
from nebrel.core.carve.program import POSTS, Post
from nebrel.core.errors import BadValueError
from nebrel.core.height import HeightField
from nebrel.core.heightfield.from_above import heights_from_above
from nebrel.core.mesh import TriMesh
from nebrel.core.router.sweep import Stock
from nebrel.jobs.workshop import open_workshop
from nebrel.piece.evaluation.evaluator import FEWEST_CARVED_PX, FINEST_CARVED_MM, MOST_CARVED_PX
from nebrel.settings import Settings

PICTURES = (".png", ".jpg", ".jpeg", ".tif", ".tiff", ".webp", ".bmp", ".gif", ".avif", ".heic", ".jxl", ".exr")


@dataclass(frozen=True)
class Carvable:
    """Heights, how thick the whole is, and what it is called."""

    field: HeightField
    thickness: float
    title: str


def open_carvable(what: str, more: list[str], unit: str | None, pitch: float) -> Carvable:
    """The heights of what is named.

    Args:
        what: a picture, a mesh, or a piece of the shelf by its title or id.
        more: options of `nebrel make relief`, for a picture.
        unit: of a mesh file that does not say.
        pitch: how close together a mesh is looked at, mm.

    Raises:
        BadValueError: there is no such thing, or options do not fit it.
    """
    path = Path(what)
    ending = path.suffix.lower()
    if ending in PICTURES:
        return _of_picture(path, more)
    if more:
        raise BadValueError(f"{more[0]} is for pictures; {what} takes no options of `nebrel make relief`.")
    if ending in MESHES or path.is_file():
        from nebrel.cli.mesh_files import open_mesh
        from nebrel.core.mesh.place import at_origin

        return _of_mesh(at_origin(open_mesh(path, unit).mesh), path.stem, pitch)
    workshop = open_workshop(Settings())
    try:
        from nebrel.cli.shelf import piece_named

        piece = workshop.piece(piece_named(workshop.pieces.all(), what).id)
        field = piece.evaluator.heights_to_carve(pitch)
        return Carvable(field, field.highest, piece.document.title)
    finally:
        workshop.close()


def _of_picture(path: Path, more: list[str]) -> Carvable:
    from nebrel.cli.relief import relief_evaluator

    evaluator = relief_evaluator(_given("relief", path, more))
    field = evaluator.heights_to_carve(0.0)
    return Carvable(field, field.highest, path.stem)


def open_outlines(what: str, more: list[str]) -> tuple[MultiPolygon, tuple[float, float], str]:
    """Outlines to be sunk, with the size of the piece and what it is called.

    Args:
        what: a picture, a drawing, or a piece of outlines on the shelf by its title or id.
        more: options of `nebrel make outline`, for a picture or drawing.

    Raises:
        BadValueError: there is no such thing, or it has no outlines.
    """
    from nebrel.piece.carving.work import sunk_region

    path = Path(what)
    if path.suffix.lower() in (*PICTURES, *DRAWINGS):
        from nebrel.cli.outlines import outlines_from

        return *sunk_region(outlines_from(_given("outline", path, more))), path.stem
    workshop = open_workshop(Settings())
    try:
        from nebrel.cli.shelf import piece_named

        piece = workshop.piece(piece_named(workshop.pieces.all(), what).id)
        return *sunk_region(piece.evaluator), piece.document.title
    finally:
        workshop.close()


def _given(made: str, path: Path, more: list[str]) -> dict[str, Any]:
    """The options of `nebrel make …` for a file, as they were given or start."""
    from typer.main import get_command

    from nebrel.cli.main import app

    make = get_command(app).get_command(None, "make")  # type: ignore[attr-defined]
    command = make.get_command(None, made)
    return dict(command.make_context("carve", [str(path), "-o", "carved.stl", *more]).params)


def _of_mesh(mesh: TriMesh, title: str, pitch: float) -> Carvable:
    width, depth, tall = np.ptp(mesh.vertices, axis=0).tolist()
    longest = int(np.clip(max(width, depth) / max(pitch, FINEST_CARVED_MM), FEWEST_CARVED_PX, MOST_CARVED_PX))
    return Carvable(heights_from_above(mesh, longest), tall, title)


def post_named(name: str) -> Post:
    """A way of writing programs by its name: from the table that a person keeps, or as Nebrel comes.

    Raises:
        BadValueError: there is none.
    """
    known = {post.name: post for post in POSTS}
    if (Settings().data_dir / "nebrel.sqlite").is_file():
        from nebrel.piece.parts.carving import PostPart

        workshop = open_workshop(Settings())
        try:
            for kept in workshop.posts.all():
                known[kept.name] = PostPart.model_validate({"name": kept.name, **kept.facts}).to_core()
        finally:
            workshop.close()
    if name not in known:
        raise BadValueError(f"--post is “{name}”; {', '.join(known)} would be accepted.")
    return known[name]


def asked_in_stock(
    made: Carvable, board: Board, stock: Stock, corner: tuple[float, float], top: float
) -> NDArray[np.float64]:
    """Heights that should be left over the cells of a stock, float64 (H, W) mm; NaN beside the piece."""
    field = made.field
    left, low = board.corner((field.width, field.depth))
    rows, columns = stock.tops.shape
    x = (stock.left + np.arange(columns) * stock.cell - corner[0] + left) / field.pitch
    y = (stock.low + np.arange(rows) * stock.cell - corner[1] + low) / field.pitch
    column, row = np.rint(x).astype(np.int64), np.rint(y).astype(np.int64)
    height, width = field.heights.shape
    inside = (row >= 0)[:, np.newaxis] & (row < height)[:, np.newaxis] & (column >= 0) & (column < width)
    at = np.ix_(height - 1 - np.clip(row, 0, height - 1), np.clip(column, 0, width - 1))
    highest = float(field.heights.max(where=field.material, initial=-np.inf))
    return np.where(inside & field.material[at], field.heights[at].astype(np.float64) - highest + top, np.nan)


def save_map(values: NDArray[np.float64], path: Path) -> None:
    """Values from 0 to their greatest as a gray PNG with alpha, black to white; nothing where they are NaN."""
    there = np.isfinite(values)
    most = float(values[there].max(initial=0.0))
    gray = np.where(there, np.nan_to_num(values) / max(most, 1e-9) * 255, 0).round().astype(np.uint8)
    image = Image.fromarray(np.dstack([gray, there.astype(np.uint8) * 255]), "LA")
    try:
        image.save(path)
    except OSError as cause:
        raise BadValueError(f"{path} cannot be written: {cause.strerror}.") from cause
