"""Making closed meshes lighter, beside what a person would otherwise use; writing them in several formats."""

import io
import time
import zlib

import fast_simplification
import manifold3d
import numpy as np

from bench.report import Row
from bench.timing import best_of
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.distance import measure_between
from nebrel.core.mesh.fewer.simplify import reduce_faces, to_tolerance
from nebrel.core.mesh.formats import MESH_FORMATS, read_mesh, write_mesh
from nebrel.core.mesh.topology import analyse

TURNS = 2
LARGE, MEASURED = 2_000_000, 300_000
TOLERANCE = 0.05


def lighter() -> list[Row]:
    """A bumpy ball to a tenth: time at two million triangles, true deviation at 300,000."""
    large = bumpy_ball(LARGE)
    ours, theirs = _times(large)
    small = bumpy_ball(MEASURED)
    target = len(small.faces) // 10
    own = reduce_faces(small, target)
    points, faces = fast_simplification.simplify(small.vertices.astype(np.float32), small.faces, target_count=target)
    other = TriMesh(np.asarray(points, np.float64), np.asarray(faces, np.uint32))
    own_apart, other_apart = measure_between(small, own), measure_between(small, other)
    closed = analyse(own).closed
    return [
        Row(
            f"{len(large.faces):,} triangles to a tenth",
            f"{ours:.1f} s against {theirs:.1f} s with fast-simplification",
            "at least as fast",
            ours <= theirs,
        ),
        Row(
            f"{len(small.faces):,} triangles to {len(own.faces):,}, {'' if closed else 'NOT '}closed: true deviation",
            f"max {own_apart.max:.4f} mm, RMS {own_apart.rms:.4f} mm, against max {other_apart.max:.4f} mm, "
            f"RMS {other_apart.rms:.4f} mm at {len(other.faces):,}",
            "neither larger",
            closed and own_apart.max <= other_apart.max and own_apart.rms <= other_apart.rms,
        ),
        _within_tolerance(small),
    ]


def _within_tolerance(mesh: TriMesh) -> Row:
    """Triangles within a tolerance, and what the other way needs, whose counts have to be tried."""
    started = time.perf_counter()
    light = to_tolerance(mesh, TOLERANCE)
    seconds = time.perf_counter() - started
    low, high = len(light.mesh.faces), len(mesh.faces)
    while high > 1.05 * low:
        count = round((low * high) ** 0.5)
        points, faces = fast_simplification.simplify(mesh.vertices.astype(np.float32), mesh.faces, target_count=count)
        apart = measure_between(mesh, TriMesh(np.asarray(points, np.float64), np.asarray(faces, np.uint32)))
        low, high = (low, count) if apart.max <= TOLERANCE else (count, high)
    return Row(
        f"{len(mesh.faces):,} triangles within {TOLERANCE:g} mm: {light.deviation.max:.4f} mm",
        f"{len(light.mesh.faces):,} in {seconds:.1f} s, against {high:,} with fast-simplification by trying",
        "fewer, within",
        light.deviation.max <= TOLERANCE and len(light.mesh.faces) < high,
    )


def formats() -> list[Row]:
    """A million triangles written: 3MF beside binary STL plus compressing its bytes, GLB beside binary STL."""
    mesh = bumpy_ball(1_000_000)
    times = {form: _written(mesh, form) for form in ("stl", "3mf", "glb")}
    plain = times["3mf"][1]
    started = time.perf_counter()
    zlib.compress(times["stl"][1], 6)
    packing = time.perf_counter() - started
    base = times["stl"][0] + packing
    return [
        Row(
            f"3MF of {len(mesh.faces):,} triangles, {len(plain) / 2**20:.0f} MiB",
            f"{times['3mf'][0]:.1f} s against {base:.1f} s for STL and compressing it",
            "≤ 3×",
            times["3mf"][0] <= 3 * base,
        ),
        Row(
            f"GLB of {len(mesh.faces):,} triangles",
            f"{times['glb'][0]:.2f} s against {times['stl'][0]:.2f} s for STL",
            "≤ 3× of STL and compressing it",
            times["glb"][0] <= 3 * base,
        ),
    ]


def reading() -> list[Row]:
    """Every format that trimesh reads, a third of a million triangles, corners joined by both."""
    import trimesh

    mesh = bumpy_ball(MEASURED)
    slowest, told = 0.0, []
    for form in MESH_FORMATS:
        data = _written(mesh, form)[1]
        ours, theirs = best_of(
            TURNS,
            lambda data=data, form=form: read_mesh(data, f"ball.{form}"),
            lambda data=data, form=form: trimesh.load(io.BytesIO(data), file_type=form, force="mesh"),
        )
        slowest = max(slowest, ours / theirs)
        told.append(f"{form.upper()} {ours / theirs:.2f}")
    what = f"Reading {len(mesh.faces):,} triangles, time as a share of trimesh's"
    return [Row(what, ", ".join(told), "≤ 2", slowest <= 2)]


def _written(mesh: TriMesh, form: str) -> tuple[float, bytes]:
    best, data = np.inf, b""
    for _ in range(TURNS):
        file = io.BytesIO()
        started = time.perf_counter()
        write_mesh(mesh, file, form)  # type: ignore[arg-type]
        best, data = min(best, time.perf_counter() - started), file.getvalue()
    return float(best), data


def _times(mesh: TriMesh) -> tuple[float, float]:
    target = len(mesh.faces) // 10
    points = mesh.vertices.astype(np.float32)
    ours = theirs = np.inf
    for _ in range(TURNS):
        started = time.perf_counter()
        reduce_faces(mesh, target)
        ours = min(ours, time.perf_counter() - started)
        started = time.perf_counter()
        fast_simplification.simplify(points, mesh.faces, target_count=target)
        theirs = min(theirs, time.perf_counter() - started)
    return float(ours), float(theirs)


def bumpy_ball(triangles: int) -> TriMesh:
    ball = manifold3d.Manifold.sphere(40, 4 * round((triangles / 8) ** 0.5)).to_mesh64()
    points = np.asarray(ball.vert_properties)[:, :3]
    x, y, z = points.T
    bumps = 1 + 0.02 * np.sin(x / 1.7) * np.cos(y / 2.3) * np.sin(z / 1.9)
    bumps += 0.004 * np.sin(3 * x + 2 * y) * np.cos(3 * z)
    return TriMesh(points * bumps[:, None], np.asarray(ball.tri_verts, np.uint32))
