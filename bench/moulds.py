"""Moulds of demo models against cutting the model out of a block, and what a relief costs that is laid on another."""

import time
from dataclasses import replace

import manifold3d
import numpy as np

from bench.heights import fractal
from bench.report import Row
from bench.timing import best_of
from nebrel.core.csg.boolean import mesh_of, solid_of
from nebrel.core.height import HeightField
from nebrel.core.height.laid import LaidRelief, lay_on
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats.stl import read_stl
from nebrel.core.mould.build import build_mould, cavity_for
from nebrel.core.mould.wish import MouldWish
from nebrel.core.proof import check_soundness
from nebrel.core.proof.mould_audit import measure_mould
from nebrel.demo.models.shapes import make_dome, make_shell, make_tile

PITCH_MM, TOLERANCE_MM, DRAFT_DEG = 0.15, 0.02, 3.0
RIM_MM, FLOOR_MM = 8.0, 3.0
GROUND_PX, LAID_PX = 1449, 1000


def truth() -> list[Row]:
    """Draft and fit of moulds of three demo models, and the time beside cutting the model out of a block."""
    rows = []
    for name, file, kind in (
        ("Wall tile", make_tile, "open"),
        ("Dome stone", make_dome, "open"),
        ("Shell", make_shell, "halves"),
    ):
        mesh = read_stl(file())
        wish = MouldWish(kind, draft_deg=DRAFT_DEG, rim=RIM_MM, floor=FLOOR_MM)  # type: ignore[arg-type]
        cavity = cavity_for(mesh, wish, PITCH_MM, None)
        made = [build_mould(cavity, wish, TOLERANCE_MM)]
        if measure_mould(made[0], mesh, FLOOR_MM).least_draft_deg < DRAFT_DEG:
            widest = cavity_for(mesh, wish, PITCH_MM, None, widest=True)
            made.append(build_mould(widest, wish, TOLERANCE_MM, lined=False))
        mould = max(made, key=lambda each: measure_mould(each, mesh, FLOOR_MM).least_draft_deg)
        facts = measure_mould(mould, mesh, FLOOR_MM)
        sound = all(check_soundness(part).sound for _, part in mould.parts)
        ours, block = best_of(
            3,
            lambda mesh=mesh, wish=wish: build_mould(cavity_for(mesh, wish, PITCH_MM, None), wish, TOLERANCE_MM),
            lambda mesh=mesh: _cut_out(mesh),
        )
        told = (
            f"walls lean {facts.least_draft_deg:.2f}° at least, the model reaches in by {facts.shallower_mm:.3f} mm at "
            f"most, {'sound' if sound else 'not sound'}"
        )
        kept = sound and facts.least_draft_deg >= DRAFT_DEG - 0.25 and facts.shallower_mm <= PITCH_MM
        rows.append(Row(f"Mould of {name}, {kind}, 3° asked", told, "sound, ≥ 2.75°, within a sample of 0.15 mm", kept))
        rows.append(
            Row("The same, time", f"{ours:.2f} s; cut out of a block without draft {block:.2f} s", "not bound", None)
        )
    return rows


def laid() -> list[Row]:
    """A relief of a megapixel laid on one of two, in every way."""
    ground = HeightField(fractal(GROUND_PX) * 4, np.ones((GROUND_PX, GROUND_PX), np.float32), 0.1)
    heights = fractal(LAID_PX) * 2
    relief = LaidRelief(heights, np.ones_like(heights), 0.05, (72.0, 72.0), turn_deg=20.0, width=4.0)
    lay_on(ground, relief)
    rows = []
    for blend in ("highest", "merge"):
        started = time.perf_counter()
        lay_on(ground, replace(relief, blend=blend))  # type: ignore[arg-type]
        rows.append(
            Row(
                f"A relief laid on 2 megapixels, {blend}",
                f"{1000 * (time.perf_counter() - started):.0f} ms",
                "not bound",
                None,
            )
        )
    return rows


def _cut_out(mesh: TriMesh) -> TriMesh:
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    size = high - low + np.array([2 * RIM_MM, 2 * RIM_MM, FLOOR_MM])
    block = manifold3d.Manifold.cube(tuple(size)).translate(tuple(low - np.array([RIM_MM, RIM_MM, 0.0])))
    return mesh_of(block - solid_of(mesh))
