"""Decorations on a model: each laid on the skin, all cut into it together, the result proved and told about."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError, NebrelError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.measure import area, volume
from nebrel.core.mesh.topology import analyse
from nebrel.core.surface.colour import colour_faces
from nebrel.core.surface.depth_error import measure_depths
from nebrel.core.surface.displace.join import join_by_boolean
from nebrel.core.surface.displace.limits import Limited, limit_folds, limit_to_wall, taken_back, wall_behind
from nebrel.core.surface.displace.raise_mesh import Raised, part_crossing_depths, part_twisted_walls, raise_skin
from nebrel.core.surface.faults import CameWith, new_crossings, new_open_sides
from nebrel.core.surface.laying import Decoration, divided_under, extent_of, laid_copies, tiled_faces
from nebrel.core.surface.layout_error import MOST_OFF, measure_layout, not_as_asked
from nebrel.core.surface.outcome import Decorated, Joined, Outcome
from nebrel.core.surface.parameterize.chart import doubled_areas, points_out, stretches
from nebrel.core.surface.skin.skin import CREASE_DEG, Skin, apart_from_others, place_on
from nebrel.core.surface.subdivide.carving import Carving, Laid, carving_of

Progress = Callable[[float], None]
MOST_CROSSINGS, EVERY_CROSSING = 200, 200_000
MOST_EASINGS = 6
# Pictures that are off by so many tolerances are tried without curves, too.
UNTRUE_TIMES = 3.0
# From how far off the skin on, of a decoration's width, it matters whether other places are as near.
AWAY_SHARE = 0.1
MOST_RAYS = 20_000
_Reals = NDArray[np.float64]
_Positions = tuple[_Reals, _Reals]
_Ints = NDArray[np.int64]


def decorate(
    skin: Skin,
    decorations: list[Decoration],
    tolerance: float,
    thinnest: float,
    progress: Progress = lambda _: None,
    measured: bool = True,
) -> Decorated:
    """The model with all its decorations.

    The skin is cut along every outline and moved along its normals, so that triangles are added only where there is
    something to show and all others stay as they are. Where what was moved runs into another part of the model, it is
    joined by an exact boolean instead, reaching a little below the skin, so that no two faces coincide.

    Where walls of pictures along curves leave it less true than walls along pixels would, it has those.

    Args:
        skin: of the model, in any state; a model that is open stays open.
        decorations: in their order.
        tolerance: mm that depths may be off between samples.
        thinnest: mm of wall that sunk decorations leave.
        progress: called with the fraction done.
        measured: whether the result is compared with what was asked for; textures all over a skin that are only looked
            at are not searched for crossings either.

    Raises:
        BadValueError: a decoration finds no skin, or cannot lie as asked.
    """
    made, parted = _decorated(skin, decorations, tolerance, thinnest, progress, measured)
    if not parted or made.deviation is None or made.deviation.max <= UNTRUE_TIMES * tolerance:
        return made
    stepped = [replace(each, setting=replace(each.setting, curves=False)) for each in decorations]
    plain, _ = _decorated(skin, stepped, tolerance, thinnest, lambda _: None, measured)
    better = plain.deviation is not None and plain.deviation.rms < made.deviation.rms
    return replace(plain, uncurved=True) if better else made


def _decorated(
    skin: Skin, decorations: list[Decoration], tolerance: float, thinnest: float, progress: Progress, measured: bool
) -> tuple[Decorated, bool]:
    """What `decorate` gives, and whether lines part a picture."""
    came_with = analyse(skin.mesh)
    skin, came, cones = divided_under(skin, decorations)
    laid = [laid_copies(skin, decoration, cones, tolerance) for decoration in decorations]
    progress(0.3)
    flat = [piece for parts in laid for piece in parts]
    carving = carving_of(skin, [piece.chart for piece in flat])
    outcomes, owners = [], [0]
    for number, (decoration, parts) in enumerate(zip(decorations, laid, strict=True), start=1):
        outcomes.append(_carve_all(carving, decoration, parts, tolerance))
        owners += [number] * len(parts)
        progress(0.3 + 0.3 * number / len(decorations))
    fold = limit_folds(carving)
    wall = limit_to_wall(carving, thinnest)
    progress(0.7)
    part_crossing_depths(carving)
    part_twisted_walls(carving, tolerance)
    positions = carving.positions()
    as_parts = all(piece.over is None for piece in flat)
    result, joined, eased = (
        _without_crossings(carving, positions, as_parts)
        if measured or as_parts
        else (raise_skin(carving, positions), "displacement", Limited(0, 0.0, None))
    )
    progress(0.9)
    added, removed = _volumes(carving, positions)
    of_decoration = np.array(owners)[_owner_of_faces(carving, result)]
    closed = came_with.closed
    if closed:
        # What the mesh itself says, walls and hidden parts included.
        change = volume(result.mesh) - volume(skin.mesh)
        added, removed = (change + removed, removed) if added >= removed else (added, added - change)
    thinnest_wall, where = _thinnest(carving, positions)
    mesh = colour_faces(carving, result, [each.looks for each in decorations], laid, of_decoration)
    progress(1.0)
    made = Decorated(
        mesh=mesh,
        untouched=int(came[result.of_face[: result.untouched]].sum()),
        joined=joined,
        came_with=CameWith.of(came_with),
        inside_out=closed and volume(skin.mesh) < 0,
        added_mm3=added,
        removed_mm3=removed,
        outcomes=tuple(outcomes),
        fold=fold,
        wall=wall,
        eased=eased,
        deepest=max(0.0, -float(carving.pieces.corner_depth[: carving.count].min())),
        thinnest_wall=thinnest_wall,
        thinnest_at=where,
        of_decoration=of_decoration,
        deviation=measure_depths(skin, flat, mesh, of_decoration > 0) if measured else None,
    )
    return made, any(piece.parts for piece in flat)


def _carve_all(carving: Carving, decoration: Decoration, parts: list[Laid], tolerance: float) -> Outcome:
    skin = carving.skin
    most, missing, target, covered, row_ends = 0.0, 0.0, 0.0, 1.0, 0
    anywhere = decoration.pick.kind in ("free", "everything")
    creased: tuple[float, float, float] | None = None
    open_edge = rim = covered_any = False
    layouts = []
    extent = extent_of(skin, decoration)
    for laid in parts:
        inside = carving.add(laid, tolerance)
        covered_any = covered_any or len(inside) > 0
        faces = np.unique(carving.pieces.face_of[inside])
        at = np.searchsorted(laid.chart.faces, faces, sorter=np.argsort(laid.chart.faces))
        local = np.argsort(laid.chart.faces)[at]
        found = stretches(skin, faces, laid.chart.plane[local])
        most = max(most, float(found[np.isfinite(found)].max(initial=0.0)))
        if laid.over is None:
            creased = creased or _crease(carving, inside)
        open_edge, rim = open_edge or laid.chart.open_edge, rim or laid.chart.rim
        if laid.region is not None and laid.within is None and anywhere and decoration.way.lie != "project":
            of_face, places = carving.pieces.face_of[inside], carving.pieces.corner_place[inside]
            layouts.append(measure_layout(skin, laid, extent, of_face, places))
        if laid.over is not None:
            most, covered, row_ends = laid.over.stretch, laid.over.covered, laid.over.ends
        elif decoration.setting.tiled and laid.region is None:
            meant = tiled_faces(skin, decoration)
            covered = area(TriMesh(skin.mesh.vertices, skin.mesh.faces[np.intersect1d(faces, meant)]))
            covered /= area(TriMesh(skin.mesh.vertices, skin.mesh.faces[meant]))
        if laid.region is not None and laid.within is None and anywhere:
            missing += max(0.0, laid.region.area - float(doubled_areas(carving.pieces.corner_place[inside]).sum()) / 2)
            target += laid.region.area
    if not covered_any:
        raise BadValueError("The decoration finds no skin where it lies; move it onto the model or make it larger.")
    layout = max(layouts, key=lambda each: each.off, default=None)
    if layout is not None and layout.off > MOST_OFF and not decoration.any_size:
        raise BadValueError(not_as_asked(layout))
    place = place_on(skin, decoration.at)
    where = place.point
    away = 0.0 if decoration.setting.tiled else float(np.linalg.norm(where - decoration.at))
    return Outcome(
        copies=len(parts),
        description=parts[0].chart.description,
        most_stretch=most,
        missing=missing / target if target else 0.0,
        covered=covered,
        row_ends=row_ends,
        follows=parts[0].over is not None,
        open_edge=open_edge,
        rim=rim,
        layout=layout,
        creased=creased,
        where=(float(where[0]), float(where[1]), float(where[2])),
        copies_asked=1 if decoration.setting.tiled else decoration.copies.asked,
        width=decoration.art.width,
        away=away,
        undecided=away > AWAY_SHARE * decoration.art.width
        and apart_from_others(skin, decoration.at) > max(away, decoration.art.width) / 2,
        up_says_nothing=decoration.setting.tiled is False and points_out(place, decoration.up),
    )


def _crease(carving: Carving, inside: _Ints) -> tuple[float, float, float] | None:
    """A place where a decoration lies on both sides of a sharp edge, or None."""
    marked = np.zeros(carving.count, dtype=bool)
    marked[inside] = True
    beyond = carving.pieces.neighbour[inside]
    both = (beyond >= 0) & marked[np.maximum(beyond, 0)]
    piece, side = np.nonzero(both)
    here = carving.skin.normals[carving.pieces.face_of[inside[piece]]]
    there = carving.skin.normals[carving.pieces.face_of[beyond[piece, side]]]
    sharp = np.flatnonzero(np.einsum("ij,ij->i", here, there) < np.cos(np.radians(CREASE_DEG)))
    if not len(sharp):
        return None
    points, _ = carving.positions()
    x, y, z = points[carving.pieces.corner_vertex[inside[piece[sharp[0]]], side[sharp[0]]]]
    return float(x), float(y), float(z)


def _without_crossings(carving: Carving, positions: _Positions, as_parts: bool) -> tuple[Raised, Joined, Limited]:
    """The result, joined otherwise where it crosses itself; depths are eased where even that does not help.

    Args:
        as_parts: whether what is raised may be joined as parts of its own; textures all over a skin are no parts.

    Raises:
        BadValueError: it would have faults that the skin has not.
    """
    asked, nothing = carving.pieces.corner_depth[: carving.count].copy(), Limited(0, 0.0, None)
    result = raise_skin(carving, positions)
    for attempt in range(MOST_EASINGS + 1):
        pairs = _new_pairs(carving.skin, result)
        if not len(pairs):
            break
        if attempt == 0 and as_parts:
            try:
                joined = join_by_boolean(carving)
            except NebrelError:
                joined = None
            if joined is not None:
                return joined, "boolean", nothing
        pieces = np.unique(result.piece[pairs.ravel()])
        corners = np.unique(carving.pieces.corner_vertex[pieces[pieces >= 0]])
        soft = np.isin(carving.pieces.corner_vertex[: carving.count], corners)
        carving.pieces.corner_depth[: carving.count][soft] *= 0.5 if attempt < MOST_EASINGS - 1 else 0.0
        result = raise_skin(carving, positions)
    else:
        pairs = _new_pairs(carving.skin, result)
    opened = new_open_sides(carving.skin, result)
    if len(pairs) or opened:
        what = f"{len(pairs):,} places where the skin runs through itself" if len(pairs) else f"{opened:,} open edges"
        raise BadValueError(
            f"The decoration would bring {what}, which the model has not; with less depth, at a smoother place, or on "
            "the model repaired first it would be laid."
        )
    eased = taken_back(carving, asked, carving.pieces.corner_depth[: carving.count])
    return result, "displacement" if result.untouched < len(result.mesh.faces) else "nothing", eased


def _new_pairs(skin: Skin, result: Raised) -> _Ints:
    """Some pairs of crossing faces that the skin has not, (K, 2); none only where there are none."""
    fresh = np.arange(len(result.mesh.faces)) >= result.untouched
    if not fresh.any():
        return np.empty((0, 2), dtype=np.int64)
    for most in (MOST_CROSSINGS, EVERY_CROSSING):
        pairs = crossing_pairs(result.mesh, most, among=fresh)
        new = new_crossings(skin, result, pairs)
        # Those that the skin came with may have used up the room.
        if len(new) or len(pairs) < most:
            break
    return new


def _owner_of_faces(carving: Carving, result: Raised) -> _Ints:
    """Which part covers every face, 1 the first, 0 none; a wall is covered by the part whose wall it is."""
    owner = carving.owner.astype(np.int64)
    return np.where(result.piece >= 0, owner[np.maximum(result.piece, 0)], 0)


def _volumes(carving: Carving, positions: _Positions) -> tuple[float, float]:
    """What lies between the skin and what it was moved to: raised and sunk, mm³."""
    count = carving.count
    deep = np.flatnonzero((carving.pieces.corner_depth[:count] != 0).any(axis=1))
    points, offset_vectors = positions
    low, step = (
        points[carving.pieces.corner_vertex[deep]],
        carving.pieces.corner_depth[deep][..., np.newaxis] * offset_vectors[carving.pieces.corner_vertex[deep]],
    )

    def flow(share: float) -> _Reals:
        """What passes through the pieces, mm³ a step, when they have gone a share of their way."""
        now = low + share * step
        areas = np.cross(now[:, 1] - now[:, 0], now[:, 2] - now[:, 0]) / 2
        return np.asarray(np.einsum("ij,ij->i", areas, step.mean(axis=1)))

    # Quadratic in the share, so Simpson's rule is exact.
    whole = (flow(0.0) + 4 * flow(0.5) + flow(1.0)) / 6
    return float(whole[whole > 0].sum()), float(abs(whole[whole < 0].sum()))


def _thinnest(carving: Carving, positions: _Positions) -> tuple[float, tuple[float, float, float] | None]:
    """The thinnest wall under what was moved: from there straight through the skin to the other side."""
    count = carving.count
    depths = carving.pieces.corner_depth[:count]
    # Sunk places are all looked at, for there the wall becomes thinner.
    moved = depths < 0 if (depths < 0).any() else depths != 0
    vertices = np.unique(carving.pieces.corner_vertex[:count][moved])
    if not len(vertices):
        return float("inf"), None
    if (depths >= 0).all():
        vertices = vertices[:: -(-len(vertices) // MOST_RAYS)]
    wall = wall_behind(carving, vertices, positions)
    left = np.where(moved, wall[carving.pieces.corner_vertex[:count]] + depths, np.inf)
    at = np.unravel_index(int(np.argmin(left)), left.shape)
    x, y, z = positions[0][carving.pieces.corner_vertex[at]]
    return float(left[at]), (float(x), float(y), float(z))
