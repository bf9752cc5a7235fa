"""Fields of directions or phases, one complex number of length 1 a node, that change as little as can be.

Nodes are put together in pairs by what binds them most, again and again. The coarsest few are settled by themselves,
every finer level begins with what the coarser one found (as Jakob et al. do for lattices, "Instant Field-Aligned
Meshes", 2015), and then turns whole groups once more, so that what is wrong over a long way is put right, too:
multigrid by aggregation, with Galerkin's product of the Hermitian matrix turned into the field as it is.
"""

from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix

COARSEST, SHRUNK = 40, 0.95
ROUNDS, FIRST_ROUNDS, STARTS = 4, 400, 8
# Nodes that bind each other by less than this share of what binds one of them most are never put together.
STRONG = 0.1
_Complex = NDArray[np.complex128]
_Ints = NDArray[np.int64]


class _Level(NamedTuple):
    """Nodes of one fineness: the rows of their matrix as `first` and `columns`, the row of every entry, which pair a
    node belongs to and how it is turned to that, and which entry of the coarser matrix an entry goes into."""

    first: _Ints
    columns: _Ints
    rows: _Ints
    group: _Ints
    turn: _Complex
    into: _Ints


class _Weights(NamedTuple):
    """The entries of a level's matrix, and the pull on its nodes."""

    entries: _Complex
    pull: _Complex


def smoothest(matrix: "csr_matrix", pull: _Complex, cycles: int = 3) -> _Complex:
    """The field z for which z* A z - 2 Re(pull* z) is small, complex128 (N,) of length 1 each.

    Args:
        matrix: Hermitian, complex128 (N, N).
        pull: complex128 (N,), towards what a node is asked to be, as strongly as it is long.
        cycles: how often every level is gone through, down to the coarsest and back.
    """
    first, columns = matrix.indptr.astype(np.int64), matrix.indices.astype(np.int64)
    weights = _Weights(matrix.data.astype(np.complex128), pull)
    levels, every = [], [weights]
    while True:
        rows = np.repeat(np.arange(len(first) - 1), np.diff(first))
        group, turn, count = _pairs(first, columns, weights.entries)
        if len(group) <= COARSEST or count > SHRUNK * len(group):
            levels.append(_Level(first, columns, rows, np.empty(0, np.int64), np.empty(0, np.complex128), rows))
            break
        key, into = np.unique(group[rows] * count + group[columns], return_inverse=True)
        levels.append(_Level(first, columns, rows, group, turn, into))
        first = np.searchsorted(key, np.arange(count + 1) * count).astype(np.int64)
        columns = key % count
        weights = _coarser(levels[-1], weights, turn)
        every.append(weights)
    found = _settled_alone(levels[-1], every[-1])
    for at in range(len(levels) - 2, -1, -1):
        found = levels[at].turn * found[levels[at].group]
        for _ in range(cycles):
            _go_through(levels[at:], every[at], found)
    return found


def _coarser(level: _Level, weights: _Weights, field: _Complex) -> _Weights:
    """What pairs feel of each other when they are turned as wholes, from the field as it is."""
    turned = np.conj(field[level.rows]) * weights.entries * field[level.columns]
    pulled = np.conj(field) * weights.pull
    return _Weights(_summed(level.into, turned), _summed(level.group, pulled))


def _summed(into: _Ints, values: _Complex) -> _Complex:
    found: _Complex = np.bincount(into, values.real) + 1j * np.bincount(into, values.imag)
    return found


def _go_through(levels: list[_Level], weights: _Weights, field: _Complex) -> None:
    """Settle nodes, then pairs as wholes, then nodes again; `field` is changed."""
    level = levels[0]
    rounds = ROUNDS if len(levels) > 1 else FIRST_ROUNDS
    _settle(level.first, level.columns, weights.entries, weights.pull, field, rounds)
    if len(levels) == 1:
        return
    coarse = np.ones(int(level.group.max()) + 1, dtype=np.complex128)
    _go_through(levels[1:], _coarser(level, weights, field), coarse)
    field *= coarse[level.group]
    _settle(level.first, level.columns, weights.entries, weights.pull, field, ROUNDS)


def _settled_alone(level: _Level, weights: _Weights) -> _Complex:
    """The best of a few beginnings by chance, always the same ones."""
    rng = np.random.default_rng(1)
    count = len(level.first) - 1
    best, least = np.ones(count, dtype=np.complex128), np.inf
    for _ in range(STARTS):
        found = np.exp(1j * rng.uniform(0, 2 * np.pi, count))
        _settle(level.first, level.columns, weights.entries, weights.pull, found, FIRST_ROUNDS)
        bound = np.conj(found[level.rows]) * weights.entries * found[level.columns]
        energy = float((bound.sum() - 2 * np.conj(weights.pull) @ found).real)
        if energy < least:
            best, least = found, energy
    return best


@compiled
def _settle(first, columns, values, pull, field, rounds):
    """Turn one node after the other to where its neighbours want it."""
    for _ in range(rounds):
        for i in range(len(field)):
            wanted = pull[i]
            for k in range(first[i], first[i + 1]):
                if columns[k] != i:
                    wanted -= values[k] * field[columns[k]]
            size = abs(wanted)
            if size > 1e-300:
                field[i] = wanted / size


@compiled
def _pairs(first, columns, values):
    """Nodes in pairs that bind each other most: the pair of every node, how it is turned to its first, and how many
    pairs there are."""
    count = len(first) - 1
    group = np.full(count, -1, dtype=np.int64)
    turn = np.ones(count, dtype=np.complex128)
    pairs = 0
    for i in range(count):
        if group[i] >= 0:
            continue
        strongest = 0.0
        for k in range(first[i], first[i + 1]):
            if columns[k] != i:
                strongest = max(strongest, abs(values[k]))
        best, most, how = -1, STRONG * strongest, 1.0 + 0.0j
        for k in range(first[i], first[i + 1]):
            j = columns[k]
            if j != i and group[j] < 0 and abs(values[k]) > most:
                best, most, how = j, abs(values[k]), values[k]
        group[i] = pairs
        if best >= 0:
            group[best] = pairs
            turn[best] = -np.conj(how) / most
        pairs += 1
    return group, turn, pairs
