"""A solid cut into the layers that it is printed in."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import manifold3d
import numpy as np
from numpy.typing import NDArray

from nebrel.core.csg.boolean import solid_of
from nebrel.core.errors import BadMeshError, BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.crossings import crossing_pairs

MOST_LAYERS = 20_000
# A rest above the last layer that is less than this share of one is none.
LEAST_SHARE = 1e-3
# Points of an outline that are this near to a line between others are of no account to a printer, mm.
PLAIN_MM = 0.002
# Faces that turn less from lying flat leave no steps: cosine.
FLAT = float(np.cos(np.radians(2)))
Progress = Callable[[float], None]


@dataclass(frozen=True)
class Slices:
    """The layers of a solid that stands on the plate.

    Attributes:
        bounds: float64 (N + 1,) mm above the plate, where each layer begins and the last one ends.
        sections: what each layer covers, cut half way up; outlines turn left about material.
        corner: X, Y and Z of the lowest corner of the solid in its own coordinates, mm; sections are relative to it.
        size: of the solid, mm.
    """

    bounds: NDArray[np.float64]
    sections: list[manifold3d.CrossSection]
    corner: tuple[float, float, float]
    size: tuple[float, float, float]

    @cached_property
    def plain(self) -> list[manifold3d.CrossSection]:
        """The sections without points that a printer cannot tell from none."""
        return [section.simplify(PLAIN_MM) for section in self.sections]

    @property
    def heights(self) -> NDArray[np.float64]:
        """How high each layer is, float64 (N,) mm."""
        return np.diff(self.bounds)

    @property
    def areas(self) -> NDArray[np.float64]:
        """What each layer covers, float64 (N,) mm²."""
        return np.array([section.area() for section in self.sections])

    def place_of(self, x: float, y: float, layer: int) -> tuple[float, float, float]:
        """A place of a layer in the solid's own coordinates, mm."""
        up = float(self.bounds[layer] + self.bounds[layer + 1]) / 2
        return self.corner[0] + x, self.corner[1] + y, self.corner[2] + up


def even_bounds(height: float, layer: float, first: float | None = None) -> NDArray[np.float64]:
    """Where layers of one height begin, over a first one of its own; the last reaches the top or a little beyond.

    Raises:
        BadValueError: there would be no layer, or too many.
    """
    first = layer if first is None else first
    if not (0 < layer < np.inf and 0 < first < np.inf and 0 < height < np.inf):
        raise BadValueError(f"Layers of {layer:g} mm, the first {first:g} mm, cannot be made; more than 0 is needed.")
    count = 1 + max(0, int(np.ceil((height - first) / layer - LEAST_SHARE)))
    if count > MOST_LAYERS:
        raise BadValueError(
            f"{height:g} mm in layers of {layer:g} mm are {count:,} layers; up to {MOST_LAYERS:,} are looked at, so "
            "higher layers, or a smaller piece, are needed."
        )
    return np.concatenate([[0.0], first + layer * np.arange(count)])


def varied_bounds(
    mesh: TriMesh, least: float, most: float, cusp: float, first: float | None = None
) -> NDArray[np.float64]:
    """Where layers begin that are lower where slopes are shallow, so that steps stand out no more than `cusp`.

    After Dolenc and Mäkelä (1994): a layer of height h leaves a step of h · |n_z| on a slope whose normal is n. Faces
    that lie flat leave none, whatever the layer.

    Args:
        mesh: in mm.
        least, most: mm that a layer is high.
        cusp: mm.
        first: mm of the first layer; `most` by itself.

    Raises:
        BadValueError: there would be no layer, or too many.
    """
    if not (0 < least <= most and 0 < cusp < np.inf):
        raise BadValueError(
            f"Layers of {least:g} to {most:g} mm with steps of {cusp:g} mm cannot be made; more than 0 is needed, and "
            "the least first."
        )
    corners = mesh.vertices[mesh.faces]
    low, high = float(corners[..., 2].min()), float(corners[..., 2].max())
    rows = len(even_bounds(high - low, least))
    slope = _slopes(corners, low, least, rows)
    bounds = [0.0, first or most]
    while bounds[-1] < high - low - LEAST_SHARE * least:
        at, step = bounds[-1], most
        # A layer that reaches into a shallower slope is as low as that wants it.
        for row in range(int(at / least), min(int((at + most) / least) + 1, rows)):
            if row * least < at + step and slope[row] > 0:
                step = min(step, max(least, cusp / float(slope[row])))
        bounds.append(at + step)
    return np.array(bounds)


def largest_cusp(mesh: TriMesh, bounds: NDArray[np.float64]) -> float:
    """How high the steps of layers stand out where they do most, mm."""
    corners = mesh.vertices[mesh.faces]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    length = np.linalg.norm(normals, axis=1)
    steep = np.abs(normals[:, 2]) / np.maximum(length, 1e-300)
    sloped = (steep < FLAT) & (length > 0)
    if not sloped.any():
        return 0.0
    up = corners[sloped][..., 2] - float(corners[..., 2].min())
    heights = np.diff(bounds)
    first, last = (np.clip(np.searchsorted(bounds, up_at, side="right") - 1, 0, len(heights) - 1) for up_at in (
        up.min(axis=1) + 1e-9, up.max(axis=1) - 1e-9
    ))  # fmt: skip
    highest = np.maximum(heights[first], heights[last])
    return float((highest * steep[sloped]).max())


def _slopes(corners: NDArray[np.float64], low: float, row: float, count: int) -> NDArray[np.float64]:
    """The shallowest slope of what lies in each row of so many mm, float64 (count,): |n_z|, 0 where all is upright."""
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    length = np.linalg.norm(normals, axis=1)
    steep = np.abs(normals[:, 2]) / np.maximum(length, 1e-300)
    sloped = np.flatnonzero((steep < FLAT) & (steep > 1e-3) & (length > 0))
    up = corners[sloped][..., 2] - low
    first = np.clip((up.min(axis=1) / row).astype(np.int64), 0, count - 1)
    last = np.clip((up.max(axis=1) / row).astype(np.int64), 0, count - 1)
    found = np.zeros(count)
    spans = last - first + 1
    face = np.repeat(np.arange(len(sloped)), spans)
    within = np.arange(len(face)) - np.repeat(np.cumsum(spans) - spans, spans)
    np.maximum.at(found, first[face] + within, steep[sloped][face])
    return found


def slice_mesh(
    mesh: TriMesh, bounds: NDArray[np.float64], progress: Progress = lambda _: None, proved: bool = False
) -> Slices:
    """The layers of a closed mesh, as manifold3d cuts them.

    Args:
        mesh: closed, without faces that cross, in mm.
        bounds: float64 (N + 1,) mm above its lowest point.
        progress: called with the fraction done.
        proved: whether it is known that no faces cross, so that they are not looked for.

    Raises:
        BadMeshError: it is open, or its faces cross.
    """
    if not len(mesh.faces):
        raise BadMeshError("There is nothing to be cut into layers; a mesh with triangles is needed.")
    named = np.zeros(len(mesh.vertices), dtype=bool)
    named[mesh.faces.ravel()] = True
    used = mesh.vertices[named]
    low = used.min(axis=0)
    solid = solid_of(mesh)
    if solid.status() != manifold3d.Error.NoError:
        raise BadMeshError("The mesh is not closed, so its layers have no inside; repair it first.")
    if not proved and len(crossing_pairs(mesh, 1)):
        raise BadMeshError("Faces of the mesh cross, so its layers are not what they seem; repair it first.")
    solid = solid.translate(tuple((-low).tolist()))
    sections = []
    for number, middle in enumerate(((bounds[:-1] + bounds[1:]) / 2).tolist()):
        sections.append(solid.slice(middle))
        progress((number + 1) / (len(bounds) - 1))
    x, y, z = low.tolist()
    wide, deep, tall = (used.max(axis=0) - low).tolist()
    return Slices(bounds, sections, (x, y, z), (wide, deep, tall))
