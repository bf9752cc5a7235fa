"""Models whose skin is known exactly, and art to lay on them."""

import manifold3d
import numpy as np
import shapely

from nebrel.core.mesh import TriMesh
from nebrel.core.proof import check_soundness
from nebrel.core.surface.art import Art, Setting, art_of_region
from nebrel.core.surface.decorate import decorate
from nebrel.core.surface.laying import Decoration
from nebrel.core.surface.outcome import Decorated
from nebrel.core.surface.parameterize.chart import Way
from nebrel.core.surface.skin.skin import Skin, skin_of

RADIUS = 30.0
TUBE, ROUND = 8.0, 26.0
TOLERANCE, WALL = 0.01, 0.8
UP = np.array([0.0, 0.0, 1.0])


def mesh_of(solid: manifold3d.Manifold) -> TriMesh:
    """A solid with coordinates as a file would hold them."""
    made = solid.to_mesh64()
    points = np.asarray(made.vert_properties)[:, :3].astype(np.float32).astype(np.float64)
    return TriMesh(points, np.asarray(made.tri_verts).astype(np.uint32))


def cylinder(sides: int = 240) -> TriMesh:
    """60 mm across, 60 mm high, its axis Z."""
    return mesh_of(manifold3d.Manifold.cylinder(60, RADIUS, RADIUS, sides))


def cone() -> TriMesh:
    """58 mm across below, 74 mm above, 62 mm high."""
    return mesh_of(manifold3d.Manifold.cylinder(62, 29, 37, 300))


def sphere(sides: int = 240) -> TriMesh:
    """60 mm across."""
    return mesh_of(manifold3d.Manifold.sphere(RADIUS, sides))


def band() -> TriMesh:
    """A ring of round section."""
    angles = np.linspace(0, 2 * np.pi, 120, endpoint=False)
    section = manifold3d.CrossSection([np.column_stack([ROUND + TUBE * np.cos(angles), TUBE * np.sin(angles)])])
    return mesh_of(manifold3d.Manifold.revolve(section, 360))


def block(x: float = 60, y: float = 40, z: float = 20) -> TriMesh:
    """A block with a corner at the origin."""
    return mesh_of(manifold3d.Manifold.cube((x, y, z)))


def ring_art(width: float = 20) -> Art:
    """A round plate with a hole half as wide."""
    disc = shapely.Point(0, 0).buffer(10, quad_segs=64)
    hole = shapely.Point(0, 0).buffer(5, quad_segs=64)
    return art_of_region(shapely.MultiPolygon([disc.difference(hole)]), width)


def disc_art(width: float = 18) -> Art:
    """A round plate."""
    return art_of_region(shapely.MultiPolygon([shapely.Point(0, 0).buffer(10, quad_segs=64)]), width)


def box_art(width: float = 20, height: float = 10) -> Art:
    """A rectangle."""
    return art_of_region(shapely.MultiPolygon([shapely.box(0, 0, width, height)]), width)


def star_art(width: float = 20) -> Art:
    """A star with five points."""
    angles = np.arange(10) * np.pi / 5 + 0.3
    reach = np.where(np.arange(10) % 2 == 0, 1.0, 0.42)
    return art_of_region(
        shapely.MultiPolygon([shapely.Polygon(np.column_stack([reach * np.cos(angles), reach * np.sin(angles)]))]),
        width,
    )


def lay(mesh: TriMesh | Skin, at: tuple[float, float, float], art: Art, setting: Setting, **parts: object) -> Decorated:
    """One decoration on a model."""
    skin = mesh if isinstance(mesh, Skin) else skin_of(mesh)
    up = parts.pop("up", UP)
    way = Way(**{name: parts.pop(name) for name in ("lie", "rim", "along") if name in parts})  # type: ignore[arg-type]
    thinnest = float(parts.pop("thinnest", WALL))  # type: ignore[arg-type]
    return decorate(
        skin, [Decoration(art, np.array(at, float), np.asarray(up), setting, way, **parts)], TOLERANCE, thinnest  # type: ignore[arg-type]
    )  # fmt: skip


def sound(mesh: TriMesh) -> bool:
    """Closed, 2-manifold, outward, without degenerate or crossing faces."""
    found = check_soundness(mesh)
    return found.closed and found.manifold and found.outward and not found.degenerate_faces and not found.self_crossings
