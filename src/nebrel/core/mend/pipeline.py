"""Meshes from elsewhere mended step by step: every step is measured, and taken back where it makes anything worse."""

from collections.abc import Callable, Collection
from dataclasses import dataclass, field
from typing import Literal, get_args

import numpy as np

from nebrel.core.errors import BadMeshError
from nebrel.core.mend.clean import without_duplicates, without_flat_faces
from nebrel.core.mend.faults import Measured, measure, repeated_faces
from nebrel.core.mend.junctions import divided_at_junctions
from nebrel.core.mend.orient import oriented
from nebrel.core.mend.overlaps import joined_by_winding, without_folds
from nebrel.core.mend.part import parted
from nebrel.core.mend.weld import welded_openings
from nebrel.core.mesh.colouring import colour_like
from nebrel.core.mesh.compact import drop_unused
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.holes import fill_holes, hole_loops
from nebrel.core.mesh.topology import analyse
from nebrel.core.mesh.trimesh import TriMesh

StepName = Literal[
    "weld",
    "flat_faces",
    "duplicates",
    "junctions",
    "orient",
    "holes",
    "orient_again",
    "join",
    "part",
    "folds",
    "close_again",
    "orient_at_last",
    "join_again",
]
STEPS: tuple[StepName, ...] = get_args(StepName)
# By how much the box of a mesh may change in a step, of its longest side.
SAME_SIZE = 2e-3
SAME_AREA = 1e-2
# Faces without an area, and such that enclose nothing, may have been the outermost.
MAY_SHRINK: tuple[StepName, ...] = ("weld", "flat_faces", "duplicates")
KEEPS_AREA: tuple[StepName, ...] = (
    "weld",
    "flat_faces",
    "junctions",
    "orient",
    "orient_again",
    "orient_at_last",
    "part",
)
CUTS_OUT: tuple[StepName, ...] = ("folds", "close_again")
Progress = Callable[[float], None]


@dataclass(frozen=True)
class StepDone:
    """What a step did.

    Attributes:
        name: of the step.
        counts: what it changed, by name.
        before, after: the mesh measured; the same where the step was taken back.
        worse: counts that would have been higher, or that the size would have changed, where it was taken back.
    """

    name: StepName
    counts: dict[str, int]
    before: Measured
    after: Measured
    worse: tuple[str, ...] = ()

    @property
    def changed(self) -> bool:
        """Whether something came of it."""
        return any(self.counts.values()) and not self.worse


@dataclass(frozen=True)
class Mended:
    """A mended mesh.

    Attributes:
        mesh: no fault of it is more frequent than it was.
        before, after: the mesh measured.
        steps: in their order.
        welded_within: mm that corners were joined within.
    """

    mesh: TriMesh
    before: Measured
    after: Measured
    steps: tuple[StepDone, ...]
    welded_within: float

    @property
    def open_holes(self) -> int:
        """How many holes are left."""
        return len(hole_loops(self.mesh.faces.astype(np.int64), len(self.mesh.vertices)))

    def count(self, name: str) -> int:
        """How often something was done that was not taken back."""
        return sum(step.counts.get(name, 0) for step in self.steps if not step.worse)


@dataclass
class _Run:
    """A mesh on its way through the steps."""

    weld: float | None
    guarded: bool
    now: Measured
    done: list[StepDone] = field(default_factory=list)
    welded_within: float = 0.0
    raised: bool = False
    cut_off: bool = False
    # The mesh as it was when nothing of it had to be turned.
    outward: TriMesh | None = None

    def take(self, name: StepName) -> None:
        """Do a step; where it makes something worse, and that is guarded against, it is as if it had not been done."""
        made, counts = _WORK[name](self.now.mesh, self)
        if made is self.now.mesh:
            return
        if not len(made.faces):
            self.done.append(StepDone(name, counts, self.now, self.now, ("area",)))
            return
        after = measure(made, self.now)
        found = _worse(name, after, self.now)
        worse = tuple(found) if self.guarded else ()
        self.raised |= bool(found)
        self.cut_off |= "parts" in found and not worse
        self.done.append(StepDone(name, counts, self.now, self.now if worse else after, worse))
        if not worse:
            self.now = after


def mend(
    mesh: TriMesh,
    weld: float | None = None,
    without: Collection[StepName] = (),
    progress: Progress = lambda _: None,
) -> Mended:
    """Mend a mesh, as far as that makes nothing worse.

    Corners of open edges are joined within a tolerance; faces without an area and faces that are there twice go; faces
    are divided where corners of others lie on their open edges; all are turned outward; holes are filled; shells that
    overlap are joined by winding number; parts that touch along an edge or at a point only are taken apart by a hair;
    folds, and places where more faces meet than can, are cut out and closed.

    No count of faults is higher than it was. Where all steps together would raise one, or leave some, each is measured
    by itself and taken back if it raises one, and the better of both results is taken.

    Args:
        mesh: in any state.
        weld: mm; by itself, from what the file can tell apart.
        without: steps that are left out.
        progress: called with the fraction done.

    Raises:
        BadMeshError: no face has an area.
    """
    before = measure(mesh)
    progress(0.2)
    if before.faults.degenerate_faces == len(before.mesh.faces):
        raise BadMeshError("No face of the mesh has an area, so nothing would be left of it.")
    steps = [name for name in STEPS if name not in without]
    run = _followed(_Run(weld, False, before), steps, lambda part: progress(0.2 + 0.4 * part))
    spoiled = bool(_worse("duplicates", run.now, before)) or run.cut_off
    if spoiled or (run.raised and run.now.faults.total):
        guarded = _followed(_Run(weld, True, before), steps, lambda part: progress(0.6 + 0.4 * part))
        if spoiled or guarded.now.faults.total < run.now.faults.total:
            run = guarded
    progress(1.0)
    # Colours of corners do not survive every step; where a step lost them they come from what was there before.
    lost = mesh.corner_colours is not None and run.now.mesh.corner_colours is None
    return Mended(
        colour_like(run.now.mesh, mesh) if lost else run.now.mesh, before, run.now, tuple(run.done), run.welded_within
    )


def _followed(run: _Run, steps: list[StepName], progress: Progress) -> _Run:
    for number, name in enumerate(steps, start=1):
        run.take(name)
        progress(number / len(steps))
    return run


def _worse(name: StepName, after: Measured, before: Measured) -> list[str]:
    """What a step made worse: names of counts, or "size"."""
    found = after.faults.worse_than(before.faults)
    slack = SAME_SIZE * max(before.size)
    shrunk = any(was - now > slack for was, now in zip(before.size, after.size, strict=True))
    grown = any(now - was > slack for was, now in zip(before.size, after.size, strict=True))
    if grown or (shrunk and name not in MAY_SHRINK):
        found.append("size")
    if name in KEEPS_AREA and abs(after.area_mm2 - before.area_mm2) > SAME_AREA * before.area_mm2:
        found.append("area")
    # Cutting folds out must not cut a part off.
    if name in CUTS_OUT and after.parts > before.parts:
        found.append("parts")
    return found


def _weld(mesh: TriMesh, run: _Run) -> tuple[TriMesh, dict[str, int]]:
    made, joined, within = welded_openings(mesh, run.weld)
    run.welded_within = within if joined else 0.0
    return made, {"welded_vertices": joined}


def _flat_faces(mesh: TriMesh, _: _Run) -> tuple[TriMesh, dict[str, int]]:
    made, dropped = without_flat_faces(mesh)
    return made, {"dropped_degenerate_faces": dropped}


def _duplicates(mesh: TriMesh, _: _Run) -> tuple[TriMesh, dict[str, int]]:
    made, dropped = without_duplicates(mesh)
    return made, {"dropped_duplicate_faces": dropped}


def _junctions(mesh: TriMesh, run: _Run) -> tuple[TriMesh, dict[str, int]]:
    made, corners = divided_at_junctions(mesh, run.weld)
    return made, {"divided_edges": corners}


def _orient(mesh: TriMesh, run: _Run) -> tuple[TriMesh, dict[str, int]]:
    made, turned = oriented(mesh)
    run.outward = mesh if made is mesh else None
    return made, {"turned_faces": turned}


def _orient_all(mesh: TriMesh, run: _Run) -> tuple[TriMesh, dict[str, int]]:
    if mesh is run.outward and not run.now.faults.open_edges:
        return mesh, {}
    made, turned = oriented(mesh, open_ones=True)
    run.outward = mesh if made is mesh else None
    return made, {"turned_faces": turned}


def _holes(mesh: TriMesh, run: _Run) -> tuple[TriMesh, dict[str, int]]:
    """The mesh with its holes filled; patches that would cross what is there are left out.

    Where steps are only measured together, one may cross another shell: once both are closed, they can be joined.
    """
    faces = mesh.faces.astype(np.int64)
    if run.now.faults.open_edges == 0:
        return mesh, {}
    patches, filled, _ = fill_holes(mesh.vertices, faces)
    shells = analyse(mesh)
    shell_at = np.full(len(mesh.vertices), -1, dtype=np.int64)
    shell_at[faces] = shells.shell_of_face[:, np.newaxis]
    while patches:
        made = drop_unused(mesh, np.vstack([faces, *patches]))[0]
        starts = np.cumsum([len(faces), *map(len, patches)])
        new = np.arange(len(made.faces)) >= len(faces)
        crossing = crossing_pairs(made, among=new)
        if not run.guarded:
            of_face = shell_at[np.concatenate([faces, *patches])[:, 0]]
            crossing = crossing[of_face[crossing[:, 0]] == of_face[crossing[:, 1]]]
        twice = np.flatnonzero(repeated_faces(made) & new)
        spoilt = np.concatenate([crossing[crossing >= len(faces)], twice])
        bad = set(np.searchsorted(starts, spoilt, side="right").tolist())
        if not bad:
            return made, {"filled_holes": filled}
        kept = [patch for number, patch in enumerate(patches, start=1) if number not in bad]
        filled -= len(patches) - len(kept)
        patches = kept
    return mesh, {}


def _part(mesh: TriMesh, run: _Run) -> tuple[TriMesh, dict[str, int]]:
    if not run.now.faults.crowded_edges and not run.now.faults.pinched_points:
        return mesh, {}
    made, vertices = parted(mesh, run.weld)
    return made, {"parted_vertices": vertices}


def _join(mesh: TriMesh, run: _Run) -> tuple[TriMesh, dict[str, int]]:
    # Solids that touch are each closed once every one has vertices of its own.
    found = joined_by_winding(parted(mesh, 0.0)[0], crossing=run.now.faults.self_crossings > 0)
    if not found.joined and not found.inner:
        return mesh, {}
    return found.mesh, {"joined_shells": found.joined, "dropped_inner_shells": found.inner}


def _folds(mesh: TriMesh, run: _Run) -> tuple[TriMesh, dict[str, int]]:
    faults = run.now.faults
    if not (faults.self_crossings or faults.crowded_edges or faults.pinched_points):
        return mesh, {}
    made, recut = without_folds(mesh)
    return made, {"recut_faces": recut}


_WORK: dict[StepName, Callable[[TriMesh, _Run], tuple[TriMesh, dict[str, int]]]] = {
    "weld": _weld,
    "flat_faces": _flat_faces,
    "duplicates": _duplicates,
    "junctions": _junctions,
    "orient": _orient,
    "holes": _holes,
    "orient_again": _orient_all,
    "part": _part,
    "join": _join,
    "folds": _folds,
    "close_again": _holes,
    "orient_at_last": _orient_all,
    "join_again": _join,
}
