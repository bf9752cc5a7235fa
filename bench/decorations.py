"""Speed and truth of decorations on models."""

import resource
import time

import manifold3d
import numpy as np
import shapely
from scipy.ndimage import gaussian_filter

from bench.report import Row
from bench.timing import best_of
from nebrel.core.csg.boolean import mesh_of
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume
from nebrel.core.picture import Picture, SourceFacts
from nebrel.core.surface.art import Art, Setting, art_of_picture, art_of_region
from nebrel.core.surface.decorate import decorate
from nebrel.core.surface.laying import Decoration
from nebrel.core.surface.outcome import Decorated
from nebrel.core.surface.parameterize.chart import Way
from nebrel.core.surface.placing import Box, place_decoration
from nebrel.core.surface.scatter.copies import Copies
from nebrel.core.surface.skin.skin import Skin, skin_of
from nebrel.piece.evaluation.skinned import MOST_HOVERED

UP = np.array([0.0, 0.0, 1.0])
RADIUS, WIDTH_MM, DEPTH_MM = 30.0, 24.0, 0.6
MOVES, ROUNDS = 100, 4


def speed() -> list[Row]:
    """A megapixel on half a million triangles, beside what a person would do otherwise: divide the model everywhere."""
    mesh = mesh_of(manifold3d.Manifold.sphere(RADIUS, 1000))
    art = _relief(1024)
    _laid(skin_of(mesh_of(manifold3d.Manifold.sphere(RADIUS, 100))), _relief(64))
    whole, skinned = best_of(3, lambda: _laid(skin_of(mesh), art), lambda: skin_of(mesh))
    made = _laid(skin_of(mesh), art)
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 2**20
    divided = best_of(1, lambda: _divided_and_moved(art))[0]
    told = (
        f"{whole:.2f} s, of which {skinned:.2f} s once for the model; {len(made.mesh.faces) - 500_000:,} triangles more"
    )
    everywhere = f"{divided:.2f} s, {4**3 * 500_000 / 1e6:.0f} million triangles"
    return [
        Row("1,024² picture on a ball of 500,000 triangles", told, "≤ 5 s", whole <= 5),
        Row("… its peak memory, the whole bench's", f"{memory:.2f} GiB", "≤ 3 GiB", memory <= 3),
        Row("… the ball divided evenly to the same detail and moved by numpy", everywhere, "not bound", None),
    ]


def hovering() -> list[Row]:
    """What one move of the pointer costs on a model of half a million triangles."""
    mesh = mesh_of(manifold3d.Manifold.sphere(RADIUS, round((MOST_HOVERED / 2) ** 0.5 * 2)))
    skin = skin_of(mesh)
    rng = np.random.default_rng(1)
    slowest = []
    for _ in range(ROUNDS):
        times = []
        for _ in range(MOVES):
            at = rng.normal(size=3)
            at *= RADIUS / np.linalg.norm(at)
            started = time.perf_counter()
            place_decoration(skin, at, UP, Box((WIDTH_MM, WIDTH_MM), 10.0), Copies(), 1, True)
            times.append(time.perf_counter() - started)
        slowest.append(1000 * float(np.percentile(times[10:], 95)))
    told = ", ".join(f"{slow:.1f}" for slow in slowest)
    what = f"Placing 24 mm on a sketch of {len(mesh.faces):,} triangles, p95 of the quietest of {ROUNDS} rounds"
    return [Row(what, f"{min(slowest):.1f} ms (of the rounds: {told} ms)", "≤ 15 ms", min(slowest) <= 15)]


def truth() -> list[Row]:
    """Volumes and arc lengths on a cylinder against their formulas."""
    mesh = mesh_of(manifold3d.Manifold.cylinder(60, RADIUS, RADIUS, 240))
    disc = art_of_region(shapely.MultiPolygon([shapely.Point(0, 0).buffer(10, quad_segs=128)]), WIDTH_MM)
    box = art_of_region(shapely.MultiPolygon([shapely.box(0, 0, 40, 10)]), 40.0)
    rows = []
    for depth in (DEPTH_MM, -DEPTH_MM):
        made = _laid(skin_of(mesh), disc, depth, "wrap")
        asked = disc.region.area * depth * (1 + depth / (2 * RADIUS))
        off = abs((volume(made.mesh) - volume(mesh)) / asked - 1)
        word = "raised" if depth > 0 else "sunk"
        rows.append(Row(f"Volume of a disc {word} on a cylinder", f"{off:.3%} off", "≤ 0.5 %", off <= 0.005))
    made = _laid(skin_of(mesh), box, DEPTH_MM, "wrap")
    high = made.mesh.vertices[np.hypot(*made.mesh.vertices[:, :2].T) > RADIUS + 0.5]
    length = float(np.ptp(np.arctan2(high[:, 1], high[:, 0]))) * RADIUS
    rows.append(
        Row(
            "Arc length of 40 mm wrapped on a cylinder",
            f"{abs(length / 40 - 1):.4%} off",
            "≤ 0.1 %",
            abs(length / 40 - 1) <= 1e-3,
        )
    )
    return rows


def _relief(side: int) -> Art:
    tones = gaussian_filter(np.random.default_rng(1).normal(size=(side, side)), side / 256)
    tones = ((tones - tones.min()) / np.ptp(tones)).astype(np.float32)
    picture = Picture(tones, np.ones_like(tones), SourceFacts("made", side, side, 16, "gray"))
    return art_of_picture(picture, WIDTH_MM, "bright", False)


def _laid(skin: Skin, art: Art, depth: float = DEPTH_MM, lie: str = "follow") -> Decorated:
    at = np.array([RADIUS, 0.0, 30.0 if skin.mesh.vertices[:, 2].min() >= 0 else 0.0])
    return decorate(skin, [Decoration(art, at, UP, Setting(depth), Way(lie))], 0.01, 0.8)  # type: ignore[arg-type]


def _divided_and_moved(art: Art) -> None:
    """Every triangle halved three times, and every vertex moved along its normal by the tone seen over it."""
    mesh: TriMesh = mesh_of(manifold3d.Manifold.sphere(RADIUS, 1000).refine(8))
    assert art.tones is not None
    points = mesh.vertices
    share = np.clip(points[:, 1:] / WIDTH_MM + 0.5, 0, 1)
    rows, columns = art.tones.shape
    tones = art.tones[((1 - share[:, 1]) * (rows - 1)).astype(int), (share[:, 0] * (columns - 1)).astype(int)]
    inside = (points[:, 0] > 0) & (np.abs(points[:, 1:]) < WIDTH_MM / 2).all(axis=1)
    points[inside] *= (1 + DEPTH_MM / RADIUS * tones[inside])[:, np.newaxis]
