"""What layers tell of the surface: how many lines its walls take, and where support touches it."""

from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.layers.over_faces import lines_over_faces, support_on_faces
from nebrel.core.layers.turns import SHOWN
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import face_areas
from nebrel.core.mesh.shading import ShadedMesh
from nebrel.core.proof.maps import SurfaceMap, at_vertices
from nebrel.piece.evaluation.evaluator import PieceEvaluator
from nebrel.piece.parts.printing import Direction
from nebrel.piece.printing.laid import Printed, in_layers

LayerMapKind = Literal["lines", "scars"]
UP: Direction = (0.0, 0.0, 1.0)
FRONT: Direction = (0.0, -1.0, 0.0)


def layer_map(evaluator: PieceEvaluator[Any], kind: LayerMapKind, longest_px: int) -> SurfaceMap:
    """A map of a piece's layers over its shaded solid.

    Args:
        evaluator: of the piece.
        kind: `lines` that fit into walls, or `scars`: 1 where support touches.
        longest_px: of the preview; `FULL` for the finished solid.
    """
    printed, mesh = in_layers(evaluator, longest_px), evaluator.mesh(longest_px)
    values = (
        lines_over_faces(_over_plate(mesh, printed), printed.study, printed.setup.way.line)
        if kind == "lines"
        else touched(mesh, printed).astype(np.float64)
    )
    known = np.isfinite(values)
    if not known.any():
        nothing = np.full(len(evaluator.shaded(longest_px).positions), np.nan, np.float32)
        return SurfaceMap(nothing, kind, 0.0, 0.0, None)
    at = int(np.nanargmin(values)) if kind == "lines" else int(np.nanargmax(values))
    x, y, z = mesh.corners[at].mean(axis=0).tolist()
    shaded = evaluator.shaded(longest_px)
    return SurfaceMap(
        values=_fewest(values, known, shaded) if kind == "lines" else at_vertices(values, known, shaded),
        unit=kind,
        least=float(values[known].min()),
        most=float(values[known].max()),
        spot=(x, y, z),
    )


def _fewest(values: NDArray[np.float64], known: NDArray[np.bool_], shaded: ShadedMesh) -> NDArray[np.float32]:
    """The fewest lines of the faces about each vertex: between four and six there are no five."""
    found = np.full(len(shaded.positions), np.inf)
    np.minimum.at(found, shaded.faces[known].ravel().astype(np.int64), np.repeat(values[known], 3))
    return np.where(np.isfinite(found), found, np.nan).astype(np.float32)


def scars_mm2(evaluator: PieceEvaluator[Any], longest_px: int) -> tuple[float, float]:
    """What of the surface support touches, and what of that is on the side that shows, mm²."""
    printed, mesh = in_layers(evaluator, longest_px), evaluator.mesh(longest_px)
    if not printed.study.hanging.overhang.any():
        return 0.0, 0.0
    on = touched(mesh, printed)
    corners = mesh.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    facing = normals @ np.array(show_side(evaluator)) > SHOWN * np.linalg.norm(normals, axis=1)
    areas = face_areas(mesh)
    return float(areas[on].sum()), float(areas[on & facing].sum())


def touched(mesh: TriMesh, printed: Printed) -> NDArray[np.bool_]:
    """Which faces of a piece support touches, bool (M,)."""
    return support_on_faces(_over_plate(mesh, printed), printed.study)


def show_side(evaluator: PieceEvaluator[Any]) -> Direction:
    """Where the side looks that is seen: forward where it stands, up where it lies."""
    return FRONT if evaluator.standing else UP


def _over_plate(mesh: TriMesh, printed: Printed) -> TriMesh:
    return TriMesh(printed.over_plate(mesh.vertices), mesh.faces)
