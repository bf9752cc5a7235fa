"""Broken meshes mended, beside what a person would otherwise use."""

import contextlib
import time
from collections.abc import Callable
from multiprocessing import get_context

import manifold3d
import numpy as np
import pymeshfix
import trimesh
from tests.core.broken import Broken, corpus

from bench.report import Row
from nebrel.core.csg.boolean import mesh_of
from nebrel.core.mend.faults import measure
from nebrel.core.mend.pipeline import mend
from nebrel.core.mesh import TriMesh
from nebrel.core.proof import check_soundness

# A solid that came out of it by another volume than the whole one is not mended, however sound it is.
LEAST_OFF = 1e-3
LONGEST_S = 3
Mender = Callable[[TriMesh], TriMesh]


def corpus_mended() -> list[Row]:
    """Every fault alone and in pairs at three sizes, and solids that touch or nest: how many are mended."""
    every = [broken for broken in corpus() if broken.mended]
    menders: list[tuple[str, Mender]] = [
        ("Nebrel", lambda mesh: mend(mesh).mesh),
        ("trimesh.repair", _by_trimesh),
        ("pymeshfix", _by_pymeshfix),
        ("manifold3d alone", _by_manifold),
    ]
    return [_row(name, mender, every) for name, mender in menders]


def _row(name: str, mender: Mender, every: list[Broken]) -> Row:
    mended = worse = ended = 0
    seconds = 0.0
    for broken in every:
        started = time.perf_counter()
        made = _within(mender, broken.mesh)
        seconds += time.perf_counter() - started
        ended += made is None
        if made is None or not len(made.faces):
            continue
        found = check_soundness(made)
        off = max(broken.off, LEAST_OFF)
        mended += found.sound and (broken.volume is None or abs(found.volume_mm3 / broken.volume - 1) <= off)
        worse += bool(measure(made).faults.worse_than(measure(broken.mesh).faults))
    own = name == "Nebrel"
    told = f"{mended} of {len(every)} sound and of the right volume, {worse} worse than they came, {seconds:.1f} s"
    told += f"; {ended} failed, or took longer than {LONGEST_S} s" if ended else ""
    holds = mended == len(every) and not worse if own else None
    return Row(f"{len(every)} broken solids by {name}", told, "all, none worse" if own else "not bound", holds)


def _within(mender: Mender, mesh: TriMesh) -> TriMesh | None:
    """What a mender makes, in a process of its own; None where it fails or takes too long."""
    context = get_context("fork")
    receiving, sending = context.Pipe(duplex=False)

    def work() -> None:
        with contextlib.suppress(Exception):
            made = mender(mesh)
            sending.send((made.vertices, made.faces))

    process = context.Process(target=work)
    process.start()
    sending.close()
    try:
        return TriMesh(*receiving.recv()) if receiving.poll(LONGEST_S) else None
    except EOFError:
        return None
    finally:
        process.kill()
        process.join()


def _by_trimesh(mesh: TriMesh) -> TriMesh:
    made = trimesh.Trimesh(mesh.vertices, mesh.faces, process=True, validate=True)
    trimesh.repair.fix_winding(made)
    trimesh.repair.fix_inversion(made, multibody=True)
    trimesh.repair.fill_holes(made)
    trimesh.repair.fix_normals(made, multibody=True)
    return TriMesh(np.asarray(made.vertices, np.float64), np.asarray(made.faces, np.uint32))


def _by_pymeshfix(mesh: TriMesh) -> TriMesh:
    fixed = pymeshfix.MeshFix(mesh.vertices, mesh.faces.astype(np.int32))
    fixed.repair(joincomp=True, remove_smallest_components=False)
    return TriMesh(np.asarray(fixed.points, np.float64), np.asarray(fixed.faces, np.uint32))


def _by_manifold(mesh: TriMesh) -> TriMesh:
    given = manifold3d.Mesh64(vert_properties=mesh.vertices, tri_verts=mesh.faces.astype(np.uint64))
    given.merge()
    return mesh_of(manifold3d.Manifold.batch_boolean(manifold3d.Manifold(given).decompose(), manifold3d.OpType.Add))
