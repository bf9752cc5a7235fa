"""Where layers of filters lie on the sheet of a flat wall, and the bodies that they become."""

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.csg.boolean import cleanup, mesh_of, solid_of, upright
from nebrel.core.mesh import TriMesh
from nebrel.core.region.coverage import outline_at_half
from nebrel.core.region.grid import grid_for, on_grid, polygons_of
from nebrel.core.region.raster import raster_of
from nebrel.core.tinted.mix import FilterBands, Floats, choose_mixtures

# Outlines of layers stay as near to the line between two numbers of layers, in widths of a printed line.
SIMPLIFY_LINES = 0.08
# Samples to a line's width that mixtures are chosen at.
SAMPLES_A_LINE = 3.0
# Samples across a dot that its outline is drawn by, and how much of its width it is softened by.
SAMPLES_A_DOT, SOFT_DOTS = 4, 0.2
# Standard deviation of the blur that a picture is looked at through for dots, in their width.
DOT_BLUR = 0.35
# Layers go on so far beyond the border of the picture.
BEYOND_MM = 1.5
# Every other filter is drawn in by so much: where one ends along a line at which the next begins, what fills the bands
# would meet itself along that line.
ASIDE_MM = 0.004
# Samples see so much of their surroundings, as a standard deviation, in samples.
SAMPLE_SIGMA = 0.45


@dataclass(frozen=True)
class FilterLayers:
    """Layers of filters on a sheet.

    Attributes:
        bands: what they are of and how high.
        regions: for every filter and each of its layers, lowest first, where it lies, mm of the picture: its lower left
            sample at the origin.
    """

    bands: FilterBands
    regions: tuple[tuple[MultiPolygon, ...], ...]

    def thickness(self, shape: tuple[int, int], pitch: float) -> Floats:
        """Of every filter about the samples of the picture, float64 (H, W, K) mm."""
        from scipy import ndimage

        made = np.zeros((*shape, len(self.regions)))
        for at, layers in enumerate(self.regions):
            for region in layers:
                made[..., at] += self.bands.layer * raster_of(region, shape, pitch)
        return np.asarray(ndimage.gaussian_filter(made, (SAMPLE_SIGMA, SAMPLE_SIGMA, 0), mode="nearest"))


class _Grid(NamedTuple):
    """What layers are counted on: mm between places, how far the outermost lie inside the picture, in such steps, and
    the size of the picture, mm."""

    cell: tuple[float, float]
    inset: tuple[float, float]
    size: tuple[float, float]


def lay_filters(
    wanted: NDArray[np.float32], pitch: float, bands: FilterBands, contrast: float, line: float, dot: float = 0.0
) -> FilterLayers:
    """The layers of filters that bring a wall nearest to the colours of a picture.

    The picture is looked at through a blur as wide as a printed line, so that no layer is finer than can be printed;
    borders run where the mean number of layers passes one half more than a whole number. What is smaller than a line
    is wide is left out, and so are such holes. With dots, colours between two mixtures are mixed of dots of both.

    Args:
        wanted: float32 (H, W, 3) linear sRGB, white 1, top row first.
        pitch: mm between samples.
        bands: what can be laid.
        contrast: of the wall in front.
        line: width of a printed line, mm.
        dot: width of the dots, mm; 0 for none.
    """
    from scipy import ndimage

    rows, columns = wanted.shape[:2]
    size = ((columns - 1) * pitch, (rows - 1) * pitch)
    if dot > 0:
        counts = choose_mixtures(_seen_at(wanted, pitch, dot, DOT_BLUR * dot), bands, contrast, spread=True)
        fields = np.repeat(np.repeat(counts, SAMPLES_A_DOT, axis=0), SAMPLES_A_DOT, axis=1)
        soft = (SOFT_DOTS * SAMPLES_A_DOT,) * 2
        cell = (size[0] / fields.shape[1], size[1] / fields.shape[0])
        inset = 0.5
    else:
        fields = choose_mixtures(_seen_at(wanted, pitch, line / SAMPLES_A_LINE, line / 2), bands, contrast)
        cell = (size[0] / (fields.shape[1] - 1), size[1] / (fields.shape[0] - 1))
        soft, inset = (line / 2 / cell[1], line / 2 / cell[0]), 0.0
    grid, regions = _Grid(cell, (inset, inset), size), []
    for at in range(len(bands.filters)):
        mean = ndimage.gaussian_filter(fields[..., at].astype(np.float32), soft, mode="nearest")
        aside = ASIDE_MM if at % 2 else 0.0
        each = [_region(np.clip(mean - number, 0, 1), grid, line, aside) for number in range(bands.layers)]
        regions.append(tuple(each))
    return FilterLayers(bands, tuple(regions))


def _seen_at(wanted: NDArray[np.float32], pitch: float, apart: float, blur: float) -> Floats:
    """A picture through a blur of that standard deviation, at places about `apart` mm from each other, float64."""
    from scipy import ndimage

    rows, columns = wanted.shape[:2]
    step = max(1.0, apart / pitch)
    down, across = (max(2, round((side - 1) / step) + 1) for side in (rows, columns))
    places = np.meshgrid(np.linspace(0, rows - 1, down), np.linspace(0, columns - 1, across), indexing="ij")
    parts = (ndimage.gaussian_filter(wanted[..., part], blur / pitch) for part in range(3))
    seen = [ndimage.map_coordinates(part, places, order=1, mode="nearest") for part in parts]
    return np.clip(np.stack(seen, axis=-1), 0, None).astype(np.float64)


def _region(count: NDArray[np.float32], grid: _Grid, line: float, aside: float) -> MultiPolygon:
    """Where a layer lies: more than one half of it is wanted there.

    At the border of the picture it goes on for `BEYOND_MM`, as its wall becomes as thick as its surroundings there.

    Args:
        count: float32 (h, w), 0 to 1, how much of it is wanted.
        grid: that it is counted on.
        line: width of a printed line, mm.
        aside: how far its border is drawn in, mm.
    """
    cell = np.array(grid.cell)
    more = np.ceil(BEYOND_MM / cell).astype(int)
    around = np.pad(count, ((more[1], more[1]), (more[0], more[0])), mode="edge")
    plain = shapely.transform(outline_at_half(around, 1.0), lambda places: (places - more + grid.inset) * cell)
    reach = shapely.box(-BEYOND_MM, -BEYOND_MM, grid.size[0] + BEYOND_MM, grid.size[1] + BEYOND_MM)
    simple = shapely.simplify(plain, SIMPLIFY_LINES * line)
    drawn_in = shapely.buffer(simple, -aside, join_style="mitre") if aside else simple
    inside = shapely.intersection(drawn_in, reach)
    least = line * line
    kept = [
        shapely.Polygon(part.exterior, [hole for hole in part.interiors if shapely.Polygon(hole).area >= least])
        for part in polygons_of(inside).geoms
        if shapely.Polygon(part.exterior).area >= least
    ]
    return on_grid(shapely.MultiPolygon(kept), grid_for(max(grid.size)))


def split_bodies(
    wall: TriMesh, layers: FilterLayers, corner: Floats, sketch: bool = False
) -> list[tuple[int, TriMesh]]:
    """The wall as one closed body for each material, none of which shares room with another.

    Args:
        wall: closed; what of it lies less than `layers.bands.height` over the corner has room for the bands.
        layers: what is laid there.
        corner: float64 (3,) mm, where on the back of the wall the lower left sample of the picture lies.
        sketch: for looking at; slivers are not mended.

    Returns:
        Number of the filter, or -1 for the wall's own material, and the body; filters that lie nowhere are left out.
    """
    import manifold3d

    bands, whole, made = layers.bands, solid_of(wall), []
    slack = bands.layer / 100
    for at, regions in enumerate(layers.regions):
        floor = at * bands.layers * bands.layer
        parts = [
            upright(region, floor + number * bands.layer, floor + (number + 1) * bands.layer)
            for number, region in enumerate(regions)
            if not region.is_empty
        ]
        if parts:
            stack = manifold3d.Manifold.batch_boolean(parts, manifold3d.OpType.Add).translate(tuple(corner.tolist()))
            made.append((at, stack ^ whole))
    left = whole
    for _, body in made:
        left = left - body
    bodies = [(-1, left), *((at, body) for at, body in made if not body.is_empty())]
    return [(at, mesh_of(body.as_original()) if sketch else cleanup(body, slack)) for at, body in bodies]
