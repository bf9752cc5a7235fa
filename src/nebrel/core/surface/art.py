"""What is laid on a skin: a picture or outlines with their size, turn, depth and edge, as a region and a field."""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.affinity import affine_transform
from shapely.geometry import MultiPolygon

from nebrel.core.errors import BadValueError
from nebrel.core.height.nearest_fill import fill_from_nearest
from nebrel.core.height.over_region import shape_over
from nebrel.core.picture.ops.tile import seamless
from nebrel.core.picture.picture import Picture, SourceFacts
from nebrel.core.region.coverage import region_of_coverage
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.raster import raster_of
from nebrel.core.region.rings import rings_of
from nebrel.core.surface.cells import Cell, cells_of
from nebrel.core.surface.parameterize.chart import Chart
from nebrel.core.surface.subdivide.carving import Field, Laid, Overlap, Part

Profile = Literal["square", "bevel", "fade", "dome", "cove", "pillow", "rope"]
Side = Literal["around", "left", "right", "top", "bottom"]
STEPS_ACROSS_EDGE = 24
MOST_SAMPLES = 4_000_000
FEWEST_SAMPLES = 96
PILLOW_SAMPLES = 600
SEAM_SHARE, SEAM_TIMES, TILE_SAMPLES = 0.12, 1.5, 512
NO_FACTS = SourceFacts("made", 0, 0, 32, "gray")
_Reals = NDArray[np.float64]


@dataclass(frozen=True)
class Edge:
    """How a decoration ends.

    Attributes:
        profile: `square` with an upright wall, `bevel` with a straight slope, `fade` with a soft one, `dome` and `cove`
            as a quarter of an ellipse, bulging or hollow, `pillow` swollen all over, `rope` a cord along the edge with
            nothing within.
        width: mm of the slope, or how thick a rope is.
        side: the side that fades out, or all around; pillows and ropes go all around.
    """

    profile: Profile = "square"
    width: float = 1.0
    side: Side = "around"


@dataclass(frozen=True)
class Art:
    """A picture or outlines as a decoration, in a plane of its own: X right, Y up, its middle at the origin.

    Attributes:
        tones: float32 (H, W), top row first: 0 stays, 1 goes all the way; negative goes the other way. None for
            outlines, which go all the way everywhere.
        region: mm, where it is.
        width, height: mm.
    """

    tones: NDArray[np.float32] | None
    region: MultiPolygon
    width: float
    height: float

    @property
    def radius(self) -> float:
        """How far it reaches from its middle, mm."""
        return float(np.linalg.norm(shapely.get_coordinates(self.region), axis=1).max())


def art_of_picture(picture: Picture, width: float, tall: Literal["bright", "dark"], from_gray: bool) -> Art:
    """A picture as a relief.

    Args:
        picture: at least 2 × 2 samples; blank where there is nothing.
        width: mm.
        tall: which tones go all the way.
        from_gray: whether middle gray stays and tones go both ways from there.

    Raises:
        BadValueError: it is blank everywhere, or of one tone that stays.
    """
    rows, columns = picture.shape
    pitch = width / (columns - 1)
    height = pitch * (rows - 1)
    tones = picture.tones if tall == "bright" else 1 - picture.tones
    tones = (2 * tones - 1 if from_gray else tones).astype(np.float32)
    region = polygons_of(shapely.box(-width / 2, -height / 2, width / 2, height / 2))
    if picture.coverage.min() < 0.5:
        found = affine_transform(region_of_coverage(picture.coverage, pitch), [1, 0, 0, 1, -width / 2, -height / 2])
        region = polygons_of(found.intersection(region))
        tones = fill_from_nearest(picture.coverage >= 0.5, tones)
    if region.is_empty or not np.abs(tones[picture.coverage >= 0.5]).max(initial=0.0) > 0:
        raise BadValueError("The picture has nothing that would stand out; other tones or more of it are needed.")
    return Art(tones, region, width, height)


def art_of_region(region: MultiPolygon, width: float) -> Art:
    """Outlines, mm of any size, made `width` mm wide.

    Raises:
        BadValueError: they enclose nothing.
    """
    if region.is_empty or region.area <= 0:
        raise BadValueError("The drawing encloses no area; closed outlines are needed.")
    low_x, low_y, high_x, high_y = region.bounds
    scale = width / max(high_x - low_x, 1e-12)
    moved = affine_transform(region, [scale, 0, 0, scale, -scale * (low_x + high_x) / 2, -scale * (low_y + high_y) / 2])
    return Art(None, polygons_of(moved), width, scale * (high_y - low_y))


@dataclass(frozen=True)
class Setting:
    """How art is laid on a chart.

    Attributes:
        depth: mm; raised above 0, sunk below.
        turn_deg: counter-clockwise seen from outside.
        mirrored: left and right exchanged.
        edge: how it ends.
        overlap: what happens where something was before.
        tiled: whether it is repeated all over the chart.
        flat: whether it only colours.
        tile_samples: along the longer side of outlines that repeat.
        curves: whether walls follow curves where depths of a picture jump, and not its samples.
    """

    depth: float
    turn_deg: float = 0.0
    mirrored: bool = False
    edge: Edge = Edge()
    overlap: Overlap = "highest"
    tiled: bool = False
    flat: bool = False
    tile_samples: int = TILE_SAMPLES
    curves: bool = True


def art_cells(art: Art, setting: Setting, tolerance: float) -> tuple[Cell, ...]:
    """The parts of a picture between lines along which its depths jump; none of what repeats, or is no picture."""
    if art.tones is None or setting.tiled or setting.flat or not setting.curves:
        return ()
    depths, pitch = _depths(art, setting)
    return cells_of(depths, art.region, pitch, tolerance)


def laid_on(
    chart: Chart,
    art: Art,
    setting: Setting,
    within: NDArray[np.int64] | None = None,
    cells: tuple[Cell, ...] = (),
) -> Laid:
    """Art on a chart.

    Tiled art is scaled and turned by a little where the chart comes round, so that it meets itself, and its seams are
    faded.

    Args:
        chart: the skin laid flat.
        art, setting: what is laid, and how.
        within: faces that it keeps to.
        cells: what `art_cells` found.
    """
    angle = math.radians(setting.turn_deg + chart.upright_deg)
    mirror = -1.0 if setting.mirrored else 1.0
    turn = np.array([[mirror * math.cos(angle), -math.sin(angle)], [mirror * math.sin(angle), math.cos(angle)]])
    back = np.linalg.inv(turn)
    if setting.tiled:
        return Laid(chart, None, _tile(chart, art, setting, back), setting.overlap, within, setting.flat)
    placed = affine_transform(art.region, [*turn.ravel().tolist(), 0.0, 0.0])
    depths, pitch = _depths(art, setting)
    rows, columns = depths.shape
    to_grid = np.zeros((2, 3))
    to_grid[:, :2] = np.array([[1 / pitch, 0], [0, -1 / pitch]]) @ back
    to_grid[:, 2] = [(columns - 1) / 2, (rows - 1) / 2]
    parts = []
    for cell in cells:
        region = polygons_of(affine_transform(cell.region, [*turn.ravel().tolist(), 0.0, 0.0]))
        moved = to_grid - np.array([[0, 0, cell.first[1]], [0, 0, cell.first[0]]])
        parts.append(Part(region, Field(cell.depths, moved, pitch)))
    field = Field(depths, to_grid, pitch)
    return Laid(chart, polygons_of(placed), field, setting.overlap, within, setting.flat, parts=tuple(parts))


def _depths(art: Art, setting: Setting) -> tuple[NDArray[np.float32], float]:
    """Depths over the art's own box, and mm between samples."""
    edge = setting.edge
    if art.tones is not None:
        tones, pitch = art.tones, art.width / (art.tones.shape[1] - 1)
        if edge.profile == "square":
            return (tones * np.float32(setting.depth)).astype(np.float32), pitch
        return (tones * _share(art, tones.shape, pitch, edge) * np.float32(setting.depth)).astype(np.float32), pitch
    if edge.profile == "square":
        side = max(art.width, art.height, 1e-9)
        return np.full((3, 3), setting.depth, dtype=np.float32), side
    longest = max(art.width, art.height)
    across = longest / PILLOW_SAMPLES if edge.profile == "pillow" else edge.width / STEPS_ACROSS_EDGE
    pitch = max(
        min(across, longest / FEWEST_SAMPLES),
        math.sqrt(art.width * art.height / MOST_SAMPLES),
    )
    columns = math.ceil(art.width / pitch) + 2
    rows = math.ceil(art.height / pitch) + 2
    return (_share(art, (rows, columns), pitch, edge) * np.float32(setting.depth)).astype(np.float32), pitch


def _share(art: Art, shape: tuple[int, int], pitch: float, edge: Edge) -> NDArray[np.float32]:
    """How much of the depth is left at every sample after the edge, 0 to 1."""
    if edge.profile in {"pillow", "rope"}:
        return _swollen(art.region, shape, pitch, edge)
    x, y = _axes(shape, pitch)
    if edge.side == "around":
        away = _inside_by(art.region, x, y, pitch, edge.width)
    else:
        away = {
            "left": np.broadcast_to(x + art.width / 2, shape),
            "right": np.broadcast_to(art.width / 2 - x, shape),
            "top": np.broadcast_to((art.height / 2 - y)[:, np.newaxis], shape),
            "bottom": np.broadcast_to((y + art.height / 2)[:, np.newaxis], shape),
        }[edge.side]
    share = np.clip(away / max(edge.width, 1e-9), 0, 1)
    if edge.profile == "fade":
        share = share * share * (3 - 2 * share)
    elif edge.profile == "dome":
        share = np.sqrt(1 - (1 - share) ** 2)
    elif edge.profile == "cove":
        share = 1 - np.sqrt(1 - share**2)
    return share.astype(np.float32)


def _swollen(region: MultiPolygon, shape: tuple[int, int], pitch: float, edge: Edge) -> NDArray[np.float32]:
    """A pillow or a rope over a region, 0 to 1 at every sample."""
    x, y = _axes(shape, pitch)
    inside = raster_of(affine_transform(region, [1, 0, 0, 1, -x[0], -y[-1]]), shape, pitch)
    places = np.column_stack([np.broadcast_to(x, shape)[inside], np.broadcast_to(y[:, np.newaxis], shape)[inside]])
    share = np.zeros(shape, dtype=np.float32)
    share[inside] = shape_over(region, "pillow" if edge.profile == "pillow" else "rope", edge.width)(places)
    return share


def _axes(shape: tuple[int, int], pitch: float) -> tuple[_Reals, _Reals]:
    """Where columns and rows lie, their middle at the origin, mm."""
    rows, columns = shape
    x: _Reals = (np.arange(columns, dtype=np.float64) - (columns - 1) / 2) * pitch
    y: _Reals = ((rows - 1) / 2 - np.arange(rows, dtype=np.float64)) * pitch
    return x, y


def _inside_by(region: MultiPolygon, x: _Reals, y: _Reals, pitch: float, most: float) -> _Reals:
    """How far samples lie inside a region, 0 outside and not more than `most`, float64 (rows, columns) mm."""
    from scipy.spatial import cKDTree

    shape = (len(y), len(x))
    inside = raster_of(affine_transform(region, [1, 0, 0, 1, -x[0], -y[-1]]), shape, pitch)
    found = np.zeros(shape)
    places = np.column_stack([np.broadcast_to(x, shape)[inside], np.broadcast_to(y[:, np.newaxis], shape)[inside]])
    if len(places):
        edge = np.vstack([shapely.get_coordinates(shapely.segmentize(line, pitch / 4)) for line in _lines(region)])
        away, _ = cKDTree(edge).query(places, distance_upper_bound=most, workers=-1)
        found[inside] = np.minimum(away, most)
    return found


def _lines(region: MultiPolygon) -> list[shapely.LineString]:
    return [shapely.LineString(np.vstack([ring, ring[:1]])) for ring in rings_of(region)]


@dataclass(frozen=True)
class Tile:
    """Art that repeats.

    Attributes:
        tones: float32 (H, W), top row first; what follows its last row and column is its first.
        pitch: mm between samples.
    """

    tones: NDArray[np.float32]
    pitch: float

    @property
    def size(self) -> tuple[float, float]:
        """After how many mm it repeats to the right and up."""
        rows, columns = self.tones.shape
        return columns * self.pitch, rows * self.pitch


def tile_of(art: Art, samples: int = TILE_SAMPLES) -> Tile:
    """Art as a tile, as wide as the art is asked to be; pictures whose sides do not meet are faded into each other.

    Outlines have so many samples along their longer side.
    """
    if art.tones is not None:
        tones = art.tones
        if not _meets_itself(tones):
            tones = seamless(Picture(tones, np.ones_like(tones), NO_FACTS), SEAM_SHARE).tones
        return Tile(tones, art.width / tones.shape[1])
    columns = max(1, round(samples * art.width / max(art.width, art.height)))
    pitch = art.width / columns
    rows = max(1, round(art.height / pitch))
    moved = affine_transform(art.region, [1, 0, 0, rows * pitch / art.height, art.width / 2, rows * pitch / 2])
    return Tile(raster_of(moved, (rows, columns), pitch).astype(np.float32), pitch)


def _meets_itself(tones: NDArray[np.float32]) -> bool:
    """Whether the last row and column go over into the first as evenly as others do into the next."""
    for axis in (0, 1):
        steps = np.abs(np.diff(tones, axis=axis, append=tones.take([0], axis))).mean(axis=1 - axis)
        if steps[-1] > SEAM_TIMES * np.quantile(steps[:-1], 0.9) + 1 / 255:
            return False
    return True


def _tile(chart: Chart, art: Art, setting: Setting, back: _Reals) -> Field:
    """A field that repeats; round a closed chart a whole number of times."""
    tile = tile_of(art, setting.tile_samples)
    tones, pitch = tile.tones, tile.pitch
    rows, columns = tones.shape
    linear = np.array([[1 / pitch, 0], [0, -1 / pitch]]) @ back
    to_grid = np.zeros((2, 3))
    to_grid[:, :2] = _meeting(linear @ [chart.period, 0.0], (columns, rows)) @ linear
    to_grid[:, 2] = [(columns - 1) / 2, (rows - 1) / 2]
    return Field((tones * np.float32(setting.depth)).astype(np.float32), to_grid, pitch, tiled=True)


def _meeting(round_px: _Reals, tile_px: tuple[int, int]) -> _Reals:
    """The scale and turn, float64 (2, 2), that take a way round to the nearest whole number of tiles across and up."""
    tiles = np.round(round_px / np.array(tile_px))
    if not round_px.any():
        return np.eye(2)
    if not tiles.any():
        tiles[int(np.argmax(np.abs(round_px) / np.array(tile_px)))] = 1.0
    ratio = complex(*(tiles * np.array(tile_px))) / complex(*round_px)
    return np.array([[ratio.real, -ratio.imag], [ratio.imag, ratio.real]])
