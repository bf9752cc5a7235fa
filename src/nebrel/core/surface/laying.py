"""Decorations as they are asked for, each laid on the skin."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.errors import BadValueError, TooLargeError
from nebrel.core.region.grid import polygons_of
from nebrel.core.surface.art import Art, Setting, art_cells, laid_on, tile_of
from nebrel.core.surface.colour import Looks
from nebrel.core.surface.faults import faulty_faces
from nebrel.core.surface.parameterize.all_over import Grain, laid_all_over
from nebrel.core.surface.parameterize.chart import Chart, Extent, Way, tangents_at
from nebrel.core.surface.parameterize.follow import follow_skin, within_rim
from nebrel.core.surface.parameterize.shapes import SMOOTH_DEG, ShapedPart, exact_part
from nebrel.core.surface.parameterize.wrap import as_shape, chart_of_shape, project_along, wrap_round
from nebrel.core.surface.pick import Pick, picked_faces, picked_region
from nebrel.core.surface.scatter.copies import Copies, Copy, copies_of
from nebrel.core.surface.skin.divide import divided
from nebrel.core.surface.skin.patch import all_round, smooth_round
from nebrel.core.surface.skin.skin import Skin, SkinPlace, divided_skin, place_on, skin_of
from nebrel.core.surface.subdivide.carving import Laid

BEYOND = 1.06
# How long faces may be along a cone, of its radius.
LONGEST_SHARE = 0.2
# Corners that are nearer to the axis of a cone, of its radius, are its tip.
TIP_SHARE = 0.05
# Which faces are long, and what they are divided to, of how far a decoration reaches.
LONG_OF_REACH, LONGEST_OF_REACH = 0.4, 0.12
# How long faces are, of a tile, that it repeats over, and how long they may be at the most.
LONGEST_OF_TILE, COARSEST_OF_TILE = 0.25, 0.45
_Reals = NDArray[np.float64]


@dataclass(frozen=True)
class Decoration:
    """One decoration as it is asked for.

    Attributes:
        art: what is laid.
        at: float64 (3,) mm; the nearest place of the skin is meant.
        up: float64 (3,), which way its top points, as far as the skin allows.
        setting: how it is laid.
        way: how it lies on the skin.
        copies: how it is repeated.
        pick: the faces that it keeps to.
        looks: its colours.
        any_size: whether it may lie otherwise than as large as asked.
        strokes: float64 (K, 3) mm each, along which what repeats all over the skin points up.
    """

    art: Art
    at: _Reals
    up: _Reals
    setting: Setting
    way: Way = field(default_factory=Way)
    copies: Copies = field(default_factory=Copies)
    pick: Pick = field(default_factory=Pick)
    looks: Looks = field(default_factory=Looks)
    any_size: bool = False
    strokes: tuple[_Reals, ...] = ()


def divided_under(skin: Skin, decorations: list[Decoration]) -> tuple[Skin, NDArray[np.bool_], list[ShapedPart]]:
    """The skin with long faces divided where they would spoil a layout; of every face whether it is as it came; and the
    cones among what was divided.

    Faces of a cone narrow along their length, and a patch that is no shape at all bends only where it has corners.
    """
    part_of = np.arange(len(skin.faces))
    cones: list[ShapedPart] = []
    for decoration in decorations:
        if decoration.setting.tiled:
            finer = _finer_for_tiles(skin, decoration)
            if finer is not None:
                skin, part_of = finer[0], part_of[finer[1]]
                cones = [replace(cone, faces=np.flatnonzero(np.isin(finer[1], cone.faces))) for cone in cones]
            continue
        if decoration.way.lie == "project":
            continue
        place, extent = place_on(skin, decoration.at), extent_of(skin, decoration)
        near = smooth_round(skin, place.face, SMOOTH_DEG, place.point, extent.reach)
        found = exact_part(skin, place, math.inf, near)
        whole = None
        if found is not None and found.shape.kind == "cone":
            whole = exact_part(skin, place, math.inf, smooth_round(skin, place.face, SMOOTH_DEG)) or found
            if not (_ends_in_tip(skin, found, place) or _lies_by_angle(skin, decoration, extent, whole)):
                continue
            chosen = whole if decoration.copies.kind != "once" else found
            longest = LONGEST_SHARE * found.shape.radius_at(place.point)
            mesh, of = divided(skin.mesh, chosen.faces, longest, found.shape.axis)
        else:
            mesh, of = divided(skin.mesh, _long_faces(skin, decoration, extent), LONGEST_OF_REACH * extent.reach)
        if len(of) > len(skin.faces):
            skin, part_of = divided_skin(mesh, len(skin.mesh.vertices)), part_of[of]
            cones = [*cones, whole] if whole is not None else cones
            cones = [replace(cone, faces=np.flatnonzero(np.isin(of, cone.faces))) for cone in cones]
    return skin, np.bincount(part_of)[part_of] == 1, cones


def _ends_in_tip(skin: Skin, cone: ShapedPart, place: SkinPlace) -> bool:
    """Whether faces of a cone have the tip of it among their corners."""
    from_centre = skin.mesh.vertices[skin.faces[cone.faces]] - cone.shape.centre
    radii = np.linalg.norm(np.cross(from_centre, cone.shape.axis), axis=2)
    return bool(radii.min() < TIP_SHARE * cone.shape.radius_at(place.point))


def _lies_by_angle(skin: Skin, decoration: Decoration, extent: Extent, cone: ShapedPart) -> bool:
    """Whether a decoration goes so far round a cone that it lies by angles, which keeps no lengths of long faces."""
    if decoration.way.lie != "wrap":
        return False
    place = place_on(skin, decoration.at)
    tangents = tangents_at(place, decoration.up)
    return chart_of_shape(skin, cone.faces, cone.shape, place, tangents, extent, by_angle=True).period > 0


def _long_faces(skin: Skin, decoration: Decoration, extent: Extent) -> NDArray[np.int64]:
    """Faces under a decoration that are too long to be laid flat as they are; none where all of it is one shape."""
    place = place_on(skin, decoration.at)
    within = within_rim(skin, place, extent, decoration.way.rim)
    sides = skin.mesh.vertices[skin.faces[within]]
    longest = np.linalg.norm(sides - np.roll(sides, 1, axis=1), axis=2).max(axis=1)
    found = within[longest > LONG_OF_REACH * extent.reach]
    if decoration.way.lie == "wrap" or not len(found):
        return np.empty(0, dtype=np.int64)
    tangents = tangents_at(place, decoration.up)
    is_shape = as_shape(skin, place, tangents, extent, within, by_angle=False) is not None
    return np.empty(0, dtype=np.int64) if is_shape else found


def extent_of(skin: Skin, decoration: Decoration) -> Extent:
    """How large the chart of a decoration must be."""
    art, setting = decoration.art, decoration.setting
    if setting.tiled:
        return Extent(skin.extent if decoration.way.lie == "follow" else 4 * skin.extent)
    return Extent(BEYOND * art.radius, art.width, art.height, setting.turn_deg)


def chart_at(
    skin: Skin, copy: Copy, way: Way, extent: Extent, quick: bool = False, known: Sequence[ShapedPart] = ()
) -> Chart:
    """The skin round one copy laid flat; `known` are parts whose shape was found before they were divided."""
    extent = replace(extent, turn_deg=extent.turn_deg + copy.turn_deg)
    if way.lie == "wrap":
        return wrap_round(skin, copy.place, copy.tangents, extent, known)
    if way.lie == "project":
        return project_along(skin, copy.place, copy.tangents, extent.reach, way.along)
    return follow_skin(skin, copy.place, copy.tangents, extent, way.rim, quick, known)


def laid_copies(skin: Skin, decoration: Decoration, known: Sequence[ShapedPart], tolerance: float) -> list[Laid]:
    """Every copy of a decoration on its chart; lines along which depths jump are found to within `tolerance` mm."""
    place = place_on(skin, decoration.at)
    within = picked_faces(skin, decoration.pick)
    if decoration.pick.kind in ("faces", "brush", "lasso") and not len(decoration.pick.places):
        raise BadValueError("No face is picked for the decoration; click, paint or encircle some, or pick everything.")
    setting = decoration.setting
    extent = extent_of(skin, decoration)
    if setting.tiled:
        copies = [Copy(place, tangents_at(place, decoration.up), 0.0)]
    else:
        copies = copies_of(skin, place, decoration.up, decoration.copies)
    if not copies:
        raise BadValueError("The skin ends before the first copy; smaller distances between copies are needed.")
    everywhere = faces_all_over(skin, decoration)
    if everywhere is not None:
        return [_in_colour(_all_over(skin, decoration, place, everywhere), decoration.looks)]
    found, cells = [], art_cells(decoration.art, setting, tolerance)
    for copy in copies:
        chart = chart_at(skin, copy, decoration.way, extent, known=known)
        turned = replace(setting, turn_deg=setting.turn_deg + copy.turn_deg)
        laid = laid_on(chart, decoration.art, turned, within, cells)
        region = picked_region(skin, decoration.pick, chart)
        if region is not None:
            laid = _kept_to(laid, region)
        found.append(_in_colour(laid, decoration.looks))
    return found


def _kept_to(laid: Laid, region: MultiPolygon) -> Laid:
    """What lies within a region of the chart."""
    whole = region if laid.region is None else polygons_of(laid.region.intersection(region))
    parts = [replace(part, region=polygons_of(part.region.intersection(region))) for part in laid.parts]
    return replace(laid, region=whole, parts=tuple(part for part in parts if not part.region.is_empty))


def tiled_faces(skin: Skin, decoration: Decoration) -> NDArray[np.int64]:
    """Faces that what repeats is to cover: the picked ones, or all that hang together with its place; int64 (K,)."""
    if decoration.pick.kind == "everything":
        return np.flatnonzero((skin.normals != 0).any(axis=1))
    within = picked_faces(skin, decoration.pick)
    if within is not None:
        return within
    place = place_on(skin, decoration.at)
    return all_round(skin, place, math.inf, len(skin.faces)).faces


def faces_all_over(skin: Skin, decoration: Decoration) -> NDArray[np.int64] | None:
    """Faces over which what repeats follows the skin in rows; None where all is one shape, or a patch."""
    if not decoration.setting.tiled or decoration.way.lie != "follow" or decoration.pick.kind in ("brush", "lasso"):
        return None
    faces = tiled_faces(skin, decoration)
    if decoration.strokes or not len(faces):
        return faces if len(faces) else None
    place = place_on(skin, decoration.at)
    part = exact_part(skin, place, math.inf, faces) if place.face in faces else None
    return faces if part is None or part.shape.kind == "sphere" or not np.isin(faces, part.faces).all() else None


def _finer_for_tiles(skin: Skin, decoration: Decoration) -> tuple[Skin, NDArray[np.int64]] | None:
    """The skin with faces that are small beside a tile, and the face that each is part of; None where they are so."""
    faces = faces_all_over(skin, decoration)
    if faces is None:
        return None
    tile = min(tile_of(decoration.art, decoration.setting.tile_samples).size)
    mesh, of = divided(skin.mesh, faces, LONGEST_OF_TILE * tile, turning=True)
    sides = mesh.vertices[mesh.faces[np.isin(of, faces)]]
    longest = float(np.linalg.norm(sides - np.roll(sides, 1, axis=1), axis=2).max())
    if longest > COARSEST_OF_TILE * tile:
        raise TooLargeError(
            f"So many tiles of {tile:.2g} mm do not fit on the skin; tiles of at least "
            f"{longest / COARSEST_OF_TILE:.2g} mm, or fewer faces picked for them, would be accepted."
        )
    return (skin_of(mesh), of) if len(of) > len(skin.faces) else None


def _all_over(skin: Skin, decoration: Decoration, place: SkinPlace, faces: NDArray[np.int64]) -> Laid:
    """What repeats, all over some faces."""
    grain = Grain(decoration.up, math.radians(decoration.setting.turn_deg), decoration.strokes)
    avoided = faulty_faces(skin.mesh)[faces]
    over = laid_all_over(
        skin, faces, place, grain, tile_of(decoration.art, decoration.setting.tile_samples).size, avoided
    )
    laid = laid_on(over.chart, decoration.art, replace(decoration.setting, turn_deg=0.0))
    return replace(laid, over=over)


def _in_colour(laid: Laid, looks: Looks) -> Laid:
    """Art in colours is fine enough for every one of them."""
    if looks.picture is None or laid.field is None:
        return laid
    depth = float(np.abs(laid.field.depths).max()) or 1.0
    channels = (looks.picture[..., channel] * np.float32(depth) for channel in range(3))
    return replace(laid, also=tuple(replace(laid.field, depths=np.ascontiguousarray(each)) for each in channels))
