"""Slopes below what hangs level, so that it is printed without support."""

import manifold3d
import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from nebrel.core.csg.boolean import cleanup, solid_of
from nebrel.core.csg.rings import dense_ring
from nebrel.core.errors import BadMeshError, BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.colouring import colour_like

MERGE_SHARE = 1e-6
# Faces that turn less from looking straight down hang level: cosine.
LEVEL = float(np.cos(np.radians(8)))
# How far into each other slope and solid reach, mm.
OVERLAP = 0.01
# Holds are looked for a little beyond what hangs, mm; their outlines need no finer points.
BESIDE, PLAIN = 0.1, 0.02
STEP, SEGMENTS = 0.4, 24
MOST_UNDERSIDES = 60


def chamfered_below(mesh: TriMesh, slope_deg: float = 45.0) -> tuple[TriMesh, int]:
    """A closed mesh with a slope under each underside that hangs level and is held beside, and how many that are.

    A slope is what lies under the underside and no further from what holds it than the tangent of the angle allows, so
    it is as small as it can be.

    Args:
        mesh: closed, Z up.
        slope_deg: of the slope, from upright.

    Raises:
        BadMeshError: it is open.
        BadValueError: nothing of it hangs level beside something that holds it.
    """
    solid = solid_of(mesh)
    if not len(mesh.faces) or solid.status() != manifold3d.Error.NoError or solid.is_empty():
        raise BadMeshError("The mesh is not a closed solid, so it gets no slopes; repair it first.")
    low = float(mesh.vertices[np.unique(mesh.faces), 2].min())
    slopes = [
        slope
        for region, height in _undersides(mesh, low)[:MOST_UNDERSIDES]
        if (slope := _slope_below(solid, region, height, low, float(np.tan(np.radians(slope_deg))))) is not None
    ]
    if not slopes:
        raise BadValueError("Nothing hangs level beside something that could hold it, so no slope has a place.")
    whole = manifold3d.Manifold.batch_boolean([solid, *slopes], manifold3d.OpType.Add)
    extent = float(np.ptp(mesh.vertices, axis=0).max())
    return colour_like(cleanup(whole, MERGE_SHARE * extent), mesh), len(slopes)


def _undersides(mesh: TriMesh, low: float) -> list[tuple[manifold3d.CrossSection, float]]:
    """What hangs level, each with its height, the largest first."""
    corners = mesh.corners
    doubled = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    down = -doubled[:, 2] > LEVEL * np.maximum(np.linalg.norm(doubled, axis=1), 1e-300)
    faces = np.flatnonzero(down & (corners[:, :, 2].min(axis=1) > low + 1e-3))
    if not len(faces):
        return []
    # Faces that share a vertex hang together.
    named = mesh.faces[faces].astype(np.int64)
    count, total = len(faces), len(mesh.vertices)
    links = coo_array(
        (np.ones(3 * count), (np.repeat(np.arange(count), 3), named.ravel() + count)), shape=(count + total,) * 2
    )
    _, group = connected_components(links, directed=False)
    found = []
    for number in np.unique(group[:count]):
        own = corners[faces[group[:count] == number]]
        region = manifold3d.CrossSection(
            [triangle[::-1, :2].tolist() for triangle in own], manifold3d.FillRule.NonZero
        ).simplify(PLAIN / 4)
        found.append((region, float(own[..., 2].max())))
    return sorted(found, key=lambda each: -each[0].area())


def _slope_below(
    solid: manifold3d.Manifold, region: manifold3d.CrossSection, height: float, low: float, tangent: float
) -> manifold3d.Manifold | None:
    """The slope below an underside, or None where nothing beside it could hold it."""
    hold = (_grown(region, BESIDE) ^ solid.slice(height - OVERLAP)).simplify(PLAIN)
    if hold.is_empty():
        return None
    rings = [np.asarray(ring, dtype=np.float64) for ring in hold.to_polygons()]
    aparts, _ = cKDTree(np.concatenate([dense_ring(ring, STEP) for ring in rings])).query(_places(region))
    far = float(np.max(aparts))
    deep = min((far + OVERLAP) / tangent, height - low)
    bottom, reach = height - deep, deep * tangent
    angles = 2 * np.pi * np.arange(SEGMENTS) / SEGMENTS
    # Corners lie outside of the circle, so that flats between them reach far enough.
    circle = reach / np.cos(np.pi / SEGMENTS) * np.column_stack([np.cos(angles), np.sin(angles)])
    cones = []
    for ring in rings:
        for one, other in zip(ring, np.roll(ring, -1, axis=0), strict=True):
            tops = np.concatenate([one + circle, other + circle])
            points = np.concatenate(
                [
                    np.column_stack([np.stack([one, other]), np.full(2, bottom)]),
                    np.column_stack([tops, np.full(len(tops), height)]),
                ]
            )
            cones.append(manifold3d.Manifold.hull_points(points))
    # It reaches into what holds it, but not beyond the outline.
    footprint = region + (_grown(region, OVERLAP) ^ hold)
    block = manifold3d.Manifold.extrude(footprint, deep + OVERLAP).translate((0, 0, bottom))
    reached = manifold3d.Manifold.batch_boolean(cones, manifold3d.OpType.Add)
    slope = block ^ reached
    return None if slope.is_empty() else slope


def _places(region: manifold3d.CrossSection) -> NDArray[np.float64]:
    """Places all over a region."""
    found = []
    inner = region
    while not inner.is_empty():
        found += [dense_ring(np.asarray(ring, dtype=np.float64), STEP) for ring in inner.to_polygons()]
        inner = inner.offset(-2 * STEP, manifold3d.JoinType.Miter, 2.0, SEGMENTS)
    return np.concatenate(found)


def _grown(section: manifold3d.CrossSection, by: float) -> manifold3d.CrossSection:
    return section.offset(by, manifold3d.JoinType.Round, 2.0, SEGMENTS)
