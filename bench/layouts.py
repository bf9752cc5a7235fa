"""Whether decorations lie as large and as deep as asked, from a tenth of the way round to nearly all of it."""

from collections.abc import Callable
from itertools import product

import manifold3d
import numpy as np
import shapely

from bench.report import Row
from nebrel.core.csg.boolean import mesh_of
from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.surface.art import Setting, art_of_region
from nebrel.core.surface.decorate import decorate
from nebrel.core.surface.laying import Decoration
from nebrel.core.surface.outcome import Decorated
from nebrel.core.surface.parameterize.chart import Way
from nebrel.core.surface.skin.skin import skin_of

SHARES = (0.1, 0.25, 0.5, 0.75, 0.98)
RADIUS, TUBE, HIGH_MM, DEPTH_MM = 20.0, 8.0, 8.0, 0.5
LENGTH, AREA, DEPTH = 1e-3, 5e-3, 0.02
UP = (0.0, 0.0, 1.0)
Place = tuple[float, float, float]


def _tube(sides: int) -> TriMesh:
    return mesh_of(manifold3d.Manifold.cylinder(60, RADIUS, RADIUS, sides))


def _cone(sides: int) -> TriMesh:
    return mesh_of(manifold3d.Manifold.cylinder(40, RADIUS, 5, sides))


def _turned(profile: list[tuple[float, float]], sides: int) -> TriMesh:
    return mesh_of(manifold3d.Manifold.revolve(manifold3d.CrossSection([np.array(profile)]), sides))


def _ring(sides: int, round_it: int) -> TriMesh:
    angles = np.linspace(0, 2 * np.pi, round_it, endpoint=False)
    return _turned([(26 + TUBE * np.cos(angle), TUBE * np.sin(angle)) for angle in angles], sides)


def _capsule(sides: int, rings: int) -> TriMesh:
    angles = np.linspace(-np.pi / 2, np.pi / 2, rings)
    ends = [(RADIUS * np.cos(angle), RADIUS * np.sin(angle) + np.copysign(30, angle)) for angle in angles]
    return _turned([(0.0, -50.0), *ends[1:-1], (0.0, 50.0)], sides)


# What it is, how it is made, radius and place of what is laid, and whether it can be unrolled without any stretch.
SHAPES: tuple[tuple[str, Callable[[], TriMesh], float, Place, bool], ...] = (
    ("cylinder of 12 sides", lambda: _tube(12), RADIUS, (RADIUS, 0, 30), True),
    ("cylinder of 256 sides", lambda: _tube(256), RADIUS, (RADIUS, 0, 30), True),
    ("cone of 16 sides", lambda: _cone(16), 12.5, (12.5, 0, 20), True),
    ("cone of 120 sides", lambda: _cone(120), 12.5, (12.5, 0, 20), True),
    ("capsule of 16 sides, its side", lambda: _capsule(16, 10), RADIUS, (RADIUS, 0, 0), True),
    ("capsule of 120 sides, its side", lambda: _capsule(120, 60), RADIUS, (RADIUS, 0, 0), True),
    ("ball of 24 sides", lambda: mesh_of(manifold3d.Manifold.sphere(RADIUS, 24)), RADIUS, (RADIUS, 0, 0), False),
    ("ball of 200 sides", lambda: mesh_of(manifold3d.Manifold.sphere(RADIUS, 200)), RADIUS, (RADIUS, 0, 0), False),
    ("ring of 48 × 24 sides", lambda: _ring(48, 24), 34.0, (34, 0, 0), False),
    ("ring of 240 × 80 sides", lambda: _ring(240, 80), 34.0, (34, 0, 0), False),
)


def round_shapes() -> list[Row]:
    """Bars of every length round every shape: lengths, areas and depths on the finished skin, the worst of all."""
    rows = []
    for (name, made, radius, at, flat), lie in product(SHAPES, ("follow", "wrap")):
        mesh = made()
        lengths, areas, depths, refused = [0.0], [0.0], [0.0], []
        for share in SHARES:
            wide = share * 2 * np.pi * radius
            try:
                found = _laid(mesh, at, wide, min(HIGH_MM, wide), lie)
            except BadValueError:
                refused.append(share)
                continue
            layout = found.outcomes[0].layout
            lengths += [abs(laid / asked - 1) for laid, asked in zip(layout.laid_mm, layout.asked_mm, strict=True)]
            areas.append(max(abs(layout.area - 1), layout.missing, layout.twice))
            depths.append(0.0 if found.deviation is None else found.deviation.max)
        told = f"lengths {max(lengths):.2%}, area {max(areas):.1%}, depth {max(depths):.4f} mm"
        told += f"; refused at {', '.join(f'{share:.0%}' for share in refused)}" if refused else ""
        holds = max(lengths) <= LENGTH and max(depths) <= DEPTH and (not flat or (not refused and max(areas) <= AREA))
        bound = "0.1 %, 0.5 %, 0.02 mm" if flat else "0.1 %, –, 0.02 mm"
        rows.append(Row(f"{lie} round a {name}", told, bound, holds))
    return rows


def plates_and_edges() -> list[Row]:
    """A plate with two holes, and bars that go on round edges of 90° and 60°."""
    plate = manifold3d.Manifold.cube((80, 60, 6))
    for x, radius in ((30, 5), (52, 4)):
        plate -= manifold3d.Manifold.cylinder(20, radius, radius, 96).translate((x, 30, -5))
    rows = [_row("a plate with two holes", mesh_of(plate), (40, 30, 6), 50.0, 20.0, (0, 1, 0), "clip")]
    block = manifold3d.Manifold.cube((60, 40, 20))
    rows.append(_row("an edge of 90°", mesh_of(block), (54, 20, 20), 24.0, 10.0, (0, 1, 0), "continue"))
    wedge = manifold3d.CrossSection([np.array([(0.0, 0.0), (40.0, 0.0), (20.0, 20 * np.sqrt(3))])])
    prism = mesh_of(manifold3d.Manifold.extrude(wedge, 40))
    rows.append(_row("an edge of 60°", prism, (36, 0, 20), 24.0, 10.0, (0, 0, 1), "continue"))
    return rows


def _row(name: str, mesh: TriMesh, at: Place, wide: float, high: float, up: Place, rim: str) -> Row:
    made = _laid(mesh, at, wide, high, "follow", up, rim)
    layout = made.outcomes[0].layout
    lengths = max(abs(laid / asked - 1) for laid, asked in zip(layout.laid_mm, layout.asked_mm, strict=True))
    depth = 0.0 if made.deviation is None else made.deviation.max
    told = f"lengths {lengths:.2%}, area {abs(layout.area - 1):.1%}, depth {depth:.4f} mm"
    told += f"; {layout.missing:.1%} has no skin" if layout.missing > AREA else ""
    holds = lengths <= LENGTH and abs(layout.area - 1) <= AREA and depth <= DEPTH
    return Row(f"{wide:g} × {high:g} mm over {name}, {rim}", told, "0.1 %, 0.5 %, 0.02 mm", holds)


def _laid(mesh: TriMesh, at: Place, wide: float, high: float, lie: str, up: Place = UP, rim: str = "clip") -> Decorated:
    bar = art_of_region(shapely.MultiPolygon([shapely.box(0, 0, wide, high)]), wide)
    way = Way(lie, rim)  # type: ignore[arg-type]
    decoration = Decoration(bar, np.array(at, dtype=float), np.array(up), Setting(DEPTH_MM), way)
    return decorate(skin_of(mesh), [decoration], 0.01, 0.8)
