"""Fewer triangles: edges collapse where that costs least, within a bound on both sides where one is asked for.

What is promised is measured afterwards, by code that did not make it (`distance.py`).
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.mesh.colouring import colour_ends, colour_like
from nebrel.core.mesh.distance import MeshDeviation, distances_to, measure_between, nearest_faces
from nebrel.core.mesh.fewer.flats import NO_FLAT
from nebrel.core.mesh.fewer.levels import Level, Scale, fewer_faces, first_level
from nebrel.core.mesh.topology import analyse
from nebrel.core.mesh.trimesh import TriMesh
from nebrel.core.mesh.trouble import border_vertices, troubled_vertices, with_neighbours

Progress = Callable[[float], None]
FEWEST = 4
# A count is reached that is no more than this above the one asked for.
REACHED = 1.02
# Quadrics are taken anew at each halving; while faces are very many, at each quartering, which is sooner done.
HALF, QUARTER, VERY_MANY = 2, 4, 400_000
SOUND_ROUNDS = 6
HELD_ROUNDS, LATE_ROUND = 3, 1
# Tried one after the other, while holding places does not do.
SHARES_OF_BOUND = (0.85, 0.7, 0.5)
# With a bound, a round that takes away less than this share of the faces is the last.
WORTH_A_ROUND = 0.05
# Of the bound, what is kept for rounding to the numbers of a file.
FLOAT32_GRAIN = 2.0**-23


@dataclass(frozen=True)
class Simplified:
    """A lighter mesh, and how far it is from the one it came from.

    Attributes:
        mesh: the lighter one.
        deviation: measured both ways.
        why_not: what kept it from getting lighter, a sentence; "" when it is as light as was asked.
    """

    mesh: TriMesh
    deviation: MeshDeviation
    why_not: str = ""


def unchanged(mesh: TriMesh, why_not: str = "") -> Simplified:
    """The mesh as it is, which is nowhere off itself."""
    return Simplified(mesh, MeshDeviation(0.0, 0.0, np.empty((0, 3))), why_not)


def to_count(mesh: TriMesh, triangles: int, progress: Progress = lambda _: None) -> Simplified:
    """At most `triangles` triangles, or a few more; many more only where `why_not` tells why.

    Raises:
        BadValueError: fewer than four are asked for.
    """
    if triangles < FEWEST:
        raise BadValueError(f"{triangles:,} triangles are asked for; a solid needs at least {FEWEST}.")
    if triangles >= len(mesh.faces):
        return unchanged(mesh)
    lighter = reduce_faces(mesh, triangles, lambda part: progress(part / 2))
    deviation = measure_between(mesh, lighter, lambda part: progress(0.5 + part / 2))
    return Simplified(lighter, deviation, _why_more(lighter, triangles))


def to_tolerance(
    mesh: TriMesh,
    tolerance: float,
    progress: Progress = lambda _: None,
    fixed: NDArray[np.bool_] | None = None,
) -> Simplified:
    """As few triangles as are found that stay within `tolerance` mm of the mesh, both ways, as `measure_between` tells.

    Args:
        mesh: what to make lighter.
        tolerance: mm.
        progress: called with the fraction done.
        fixed: bool (N,), vertices that stay where they are.

    Raises:
        BadValueError: the tolerance is not above 0.
    """
    if not tolerance > 0:
        raise BadValueError(f"The tolerance is {tolerance:g} mm; more than 0 is needed.")
    first, scale = first_level(mesh, bounded=True, lines=colour_ends(mesh), fixed=fixed)
    grain = FLOAT32_GRAIN * float(np.abs(mesh.vertices).max())
    for turn, share in enumerate(SHARES_OF_BOUND):

        def part(done: float, turn: int = turn) -> None:
            progress((turn + done) / (turn + 1))

        bound = share * max(tolerance - 2 * grain, tolerance / 2) / scale.extent
        lighter, deviation = _bounded(mesh, first, scale, bound, tolerance, part)
        if not len(deviation.beyond):
            if len(lighter.faces) == len(mesh.faces):
                break
            return Simplified(colour_like(lighter, mesh), deviation)
    return unchanged(mesh, f"Nothing lighter was found that stays within {tolerance:g} mm.")


def _bounded(
    mesh: TriMesh, first: Level, scale: Scale, bound: float, tolerance: float, progress: Progress
) -> tuple[TriMesh, MeshDeviation]:
    """The lightest level within a bound, and how far it is from the mesh.

    The bound is held at samples. Where the surfaces are further apart between them after all, the last level at which
    they were not is taken up again with those places held; later, the first.
    """
    total = len(mesh.faces)
    work = _Work(scale, bound, VERY_MANY, lambda left: progress(0.7 * (1 - left / total)))
    levels, held = [first], np.empty((0, 3))
    for turn in range(HELD_ROUNDS):
        came = math.inf
        while FEWEST < (count := len(levels[-1].faces)) < (1 - WORTH_A_ROUND) * came:
            came = count
            levels.append(work.step(levels[-1], max(FEWEST, count // HALF)))
        lighter = scale.mesh(levels[-1])
        deviation = measure_between(mesh, lighter, lambda part: progress(0.7 + 0.3 * part), tolerance)
        if not len(deviation.beyond) or len(levels) == 1:
            break
        held = np.vstack([held, deviation.beyond])
        of_mesh = deviation.beyond[distances_to(mesh, deviation.beyond) < tolerance / 2]
        del levels[-1 if turn < LATE_ROUND else 1 :]
        while len(levels) > 1 and distances_to(scale.mesh(levels[-1]), of_mesh).max(initial=0) > tolerance:
            del levels[-1]
        levels[-1] = _held(levels[-1], scale, held, 1 + turn)
    return lighter, deviation


def _held(level: Level, scale: Scale, places: NDArray[np.float64], rings: int) -> Level:
    """A level whose vertices near some places, (K, 3) mm, stay."""
    mesh = scale.mesh(level)
    near = np.zeros(len(level.places), dtype=np.bool_)
    near[level.faces[nearest_faces(mesh, places)]] = True
    return replace(level, fixed=level.fixed | with_neighbours(mesh, near, rings))


def reduce_faces(mesh: TriMesh, triangles: int, progress: Progress = lambda _: None) -> TriMesh:
    """About `triangles` triangles of small deviation, which hang together as those of the mesh and are as sound."""
    lighter, unsound = _reduced(mesh, triangles, math.ceil(HALF * triangles), progress)
    if unsound and unsound > _unsound(mesh).sum():
        return _reduced(mesh, triangles, len(mesh.faces), progress)[0]
    return lighter


def _reduced(mesh: TriMesh, triangles: int, looked_at: int, progress: Progress) -> tuple[TriMesh, int]:
    """The lighter mesh, and at how many vertices it is not sound."""
    level, scale = first_level(mesh, bounded=False, lines=colour_ends(mesh))
    to_go = max(1, len(mesh.faces) - triangles)
    work = _Work(scale, 0.0, looked_at, lambda left: progress(1 - (left - triangles) / to_go))
    # Flat parts stay flat, unless they are all that is left.
    for flats_stay in (True, False):
        if not flats_stay and len(level.faces) > REACHED * triangles:
            level = replace(level, flats=np.full_like(level.flats, NO_FLAT))
        came = math.inf
        while REACHED * triangles < (count := len(level.faces)) < came:
            goal = count // (QUARTER if count > VERY_MANY else HALF)
            came, level = count, work.step(level, triangles if goal < math.sqrt(HALF) * triangles else goal)
    return _finished(mesh, level, scale), work.unsound(level)


@dataclass
class _Work:
    """Steps to fewer faces, each of which leaves the surface as sound as it was.

    Attributes:
        scale: of the levels.
        bound: in units of the levels; 0 for none.
        looked_at: levels of more faces are not looked at for what went wrong: most often nothing does.
        progress: called with the number of faces left.
    """

    scale: Scale
    bound: float
    looked_at: int
    progress: Callable[[int], None]
    _last: tuple[Level, NDArray[np.bool_]] | None = None

    def step(self, level: Level, goal: int) -> Level:
        """The next level; what would cross, or fold flat, is held where it was and tried again."""
        fixed = level.fixed
        for turn in range(SOUND_ROUNDS):
            lighter, used = fewer_faces(replace(level, fixed=fixed), goal, self.bound, self.progress)
            lighter = replace(lighter, fixed=level.fixed[used])
            if len(lighter.faces) > self.looked_at:
                return lighter
            troubled = _unsound(self.scale.mesh(lighter))
            if not troubled.any() or troubled.sum() <= self._unsound_before(level).sum():
                self._last = lighter, troubled
                return lighter
            beside = np.zeros(len(fixed), dtype=np.bool_)
            beside[used[troubled]] = True
            beside &= ~self._unsound_before(level)
            fixed = fixed | with_neighbours(self.scale.mesh(level), beside, 1 + turn)
        return level

    def unsound(self, level: Level) -> int:
        """At how many vertices a level is not sound."""
        return int(self._unsound_before(level).sum())

    def _unsound_before(self, level: Level) -> NDArray[np.bool_]:
        if self._last is None or self._last[0] is not level:
            self._last = level, _unsound(self.scale.mesh(level))
        return self._last[1]


def _unsound(mesh: TriMesh) -> NDArray[np.bool_]:
    """Vertices at which a mesh is not sound, but for those of open borders, bool (N,)."""
    return np.asarray(troubled_vertices(mesh) & ~border_vertices(mesh))


def _finished(mesh: TriMesh, level: Level, scale: Scale) -> TriMesh:
    """The mesh of a level in the colours of the first; the first itself where nothing went."""
    return mesh if len(level.faces) == len(mesh.faces) else colour_like(scale.mesh(level), mesh)


def _why_more(lighter: TriMesh, triangles: int) -> str:
    """What kept a mesh from getting as light as was asked, "" when it did."""
    count = len(lighter.faces)
    if count <= REACHED * triangles:
        return ""
    shells = analyse(lighter).shells
    told = f"{count:,} triangles are left instead of {triangles:,}: "
    if shells * FEWEST > triangles / 2:
        return f"{told}the mesh falls into {shells:,} parts, each of which needs a few."
    return f"{told}with fewer its surface would fold, cross itself or come apart."
