"""How the parts of a mesh lie to each other: what room they hold, and which overlap, hang free or are debris."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components

from nebrel.core.mend.overlaps import joined_by_winding
from nebrel.core.mesh.nesting import nesting_of, shell_numbers
from nebrel.core.mesh.shells import Shell, shells_of
from nebrel.core.mesh.trimesh import TriMesh
from nebrel.core.proof.finding import Finding
from nebrel.core.proof.shell_gaps import near_pairs

# More parts than this are not looked at one by one.
MOST_SHELLS = 500
# Of the longest diagonal of a part's box: below this a part is debris. Of all that is held: a part above is none.
DEBRIS_SIZE, DEBRIS_SHARE = 0.02, 1e-4
# Of the whole extent: how far above the lowest place a part starts that hangs free, and how near parts touch.
FREE_SHARE, TOUCH_SHARE = 1e-3, 1e-5
_Ints = NDArray[np.int64]


@dataclass(frozen=True)
class ShellAudit:
    """Parts to each other.

    Attributes:
        volume_mm3: where there is material, counted once.
        overlapping: closed parts that pass through others.
        inner: closed parts that lie where there is material already.
        inverted: closed parts that look inwards where there is none.
        debris: parts that are tiny beside the largest.
        free: parts that start above the lowest place and that nothing holds.
        touching: closed parts that touch another from outside.
        looked_at: whether parts were looked at one by one.
        findings: what is to be said about them.
    """

    volume_mm3: float
    overlapping: int
    inner: int
    inverted: int
    debris: int
    free: int
    touching: int
    looked_at: bool
    findings: tuple[Finding, ...]


def audit_shells(mesh: TriMesh, shells: list[Shell], crossing: _Ints) -> ShellAudit:
    """How parts lie to each other.

    Args:
        mesh: with at least one face.
        shells: of it.
        crossing: int64 (K, 2), faces that cross.
    """
    signed = sum(shell.volume_mm3 for shell in shells)
    # A solid that looks inwards all over is told as such, whatever its parts are.
    if len(shells) == 1 or all(shell.closed and shell.volume_mm3 < 0 for shell in shells):
        return ShellAudit(signed, 0, 0, 0, 0, 0, 0, True, ())
    if len(shells) > MOST_SHELLS:
        note = Finding(
            "caution",
            f"It has {len(shells):,} parts; how they lie to each other was not looked at, and its volume adds them up.",
            f"Up to {MOST_SHELLS} parts would be. Most of so many are debris, which can be dropped.",
            "debris",
        )
        return ShellAudit(signed, 0, 0, 0, 0, 0, 0, False, (note,))
    nesting = nesting_of(mesh, shells)
    pairs = np.vstack([shell_numbers(mesh, shells)[crossing], nesting.partly])
    closed = np.array([shell.closed for shell in shells])
    through = np.unique(pairs[(pairs[:, 0] != pairs[:, 1]) & closed[pairs].all(axis=1)])
    alike = [at for at, by in enumerate(nesting.bounds) if not by and closed[at] and at not in through]
    inner = [at for at in alike if nesting.outside[at] > 0]
    volume = nesting.volume(shells)
    if len(through):
        joined = joined_by_winding(mesh)
        after = shells_of(joined.mesh)
        volume = nesting_of(joined.mesh, after).volume(after)
    debris = _debris(shells)
    extent = _extent(shells)
    near, gaps = near_pairs(mesh, shells, FREE_SHARE * extent)
    free = _free(shells, debris, nesting.outside, np.vstack([pairs, near]))
    touching = _touching(shells, near[gaps <= TOUCH_SHARE * extent], np.concatenate([through, inner]))
    return ShellAudit(
        volume,
        len(through),
        len(inner),
        len(alike) - len(inner),
        len(debris),
        len(free),
        len(touching),
        True,
        (
            *_overlap_findings(shells, through.tolist(), len(crossing) > 0),
            *_inner_findings(shells, inner),
            *_debris_findings(shells, debris),
            *_free_findings(shells, free),
            *_touching_findings(shells, touching),
        ),
    )


def _debris(shells: list[Shell]) -> list[int]:
    """Numbers of parts that are tiny beside the largest."""
    sizes = np.array([np.linalg.norm(shell.high - shell.low) for shell in shells])
    held = np.array([abs(shell.volume_mm3) for shell in shells])
    tiny = (sizes < DEBRIS_SIZE * sizes.max()) & (held <= DEBRIS_SHARE * held.sum())
    return np.flatnonzero(tiny).tolist()


def _extent(shells: list[Shell]) -> float:
    low, high = np.array([shell.low for shell in shells]), np.array([shell.high for shell in shells])
    return float((high.max(axis=0) - low.min(axis=0)).max())


def _free(shells: list[Shell], debris: list[int], outside: _Ints, pairs: _Ints) -> list[int]:
    """Numbers of parts that stand on nothing: neither they nor what they hang together with reach the lowest place.

    Args:
        shells, debris: all parts, and the numbers of those that are tiny.
        outside: int64 (S,), how often others wind round each.
        pairs: int64 (K, 2), parts that touch or cross.
    """
    low, high = np.array([shell.low for shell in shells]), np.array([shell.high for shell in shells])
    inward = np.array([shell.volume_mm3 < 0 for shell in shells])
    # A hollow belongs to what is round it.
    round_it = (low[:, np.newaxis] <= low).all(axis=2) & (high[:, np.newaxis] >= high).all(axis=2)
    joined = round_it & inward & ~inward[:, np.newaxis]
    joined[pairs[:, 0], pairs[:, 1]] = True
    _, group = connected_components(csr_array(joined), directed=False)
    lowest = np.full(group.max() + 1, np.inf)
    np.minimum.at(lowest, group, low[:, 2])
    lifted = lowest[group] > low[:, 2].min() + FREE_SHARE * _extent(shells)
    return [at for at in np.flatnonzero(lifted & ~inward & (outside == 0)).tolist() if at not in debris]


def _touching(shells: list[Shell], near: _Ints, mixed: _Ints) -> list[int]:
    """Numbers of the closed parts that touch another one, but for those that share room with others, `mixed`."""
    solid = np.array([shell.closed and shell.volume_mm3 > 0 for shell in shells])
    solid[mixed.astype(np.int64)] = False
    return np.unique(near[solid[near].all(axis=1)]).tolist()


def _overlap_findings(shells: list[Shell], through: list[int], crossing: bool) -> list[Finding]:
    # Where faces cross, that is said already.
    if not through or crossing:
        return []
    return [
        Finding(
            "fault",
            f"{len(through)} parts pass through each other; what they share is counted once in the volume.",
            "Inside and outside are mixed up where parts share room; they must be joined.",
            "overlap",
            _middle(shells[through[0]]),
        )
    ]


def _inner_findings(shells: list[Shell], inner: list[int]) -> list[Finding]:
    if not inner:
        return []
    one = len(inner) == 1
    return [
        Finding(
            "fault",
            f"{'One part lies' if one else f'{len(inner):,} parts lie'} within others where there is material already; "
            f"the volume counts {'it' if one else 'them'} once.",
            "Some programs print such a part twice, others leave a hollow there; it must be joined or dropped.",
            "overlap",
            _middle(shells[inner[0]]),
        )
    ]


def _debris_findings(shells: list[Shell], debris: list[int]) -> list[Finding]:
    if not debris:
        return []
    largest = max(float(np.linalg.norm(shells[at].high - shells[at].low)) for at in debris)
    parts = "One part is" if len(debris) == 1 else f"{len(debris):,} parts are"
    return [
        Finding(
            "caution",
            f"{parts} tiny beside the rest, {largest:.3g} mm across at the most.",
            "Scans and downloads often hold such debris; a printer drops it or makes a string of it.",
            "debris",
            _middle(shells[debris[0]]),
            value=len(debris),
        )
    ]


def _free_findings(shells: list[Shell], free: list[int]) -> list[Finding]:
    if not free:
        return []
    parts = "One part hangs" if len(free) == 1 else f"{len(free):,} parts hang"
    return [
        Finding(
            "caution",
            f"{parts} in the air: above the ground, and joined to nothing.",
            "Nothing holds such a part while it is made, nor afterwards.",
            "floating",
            _middle(shells[free[0]]),
        )
    ]


def _touching_findings(shells: list[Shell], touching: list[int]) -> list[Finding]:
    if not touching:
        return []
    return [
        Finding(
            "note",
            f"{len(touching):,} parts touch each other without being joined.",
            "Most programs make one of such parts, some keep them apart; joined, they hold in any.",
            "touching",
            _middle(shells[touching[0]]),
        )
    ]


def _middle(shell: Shell) -> tuple[float, float, float]:
    x, y, z = (shell.low + shell.high) / 2
    return float(x), float(y), float(z)
