"""Edges in the order of what their collapse costs, to within half an octave: buckets, so that no edge is sorted."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import inlined

# Costs are filed by the upper bits of their float32: the exponent and one of the mantissa. Finer buckets order no
# better, and visit memory in a worse order.
_DROPPED_BITS = 22
BUCKETS = 1 << (31 - _DROPPED_BITS)
OCTAVE = 1 << (23 - _DROPPED_BITS)
NOWHERE = -1
_LARGEST = 1e30


class Queue(NamedTuple):
    """Half-edges by bucket, each bucket a chain both ways.

    Attributes:
        heads: int32 (BUCKETS,), the first half-edge of every bucket, -1 for none.
        before, after: int32 (H,), its neighbours in the chain.
        buckets: int16 (H,), where every half-edge is, -1 for nowhere.
        lowest: int64 (1,), no bucket below this has any.
    """

    heads: NDArray[np.int32]
    before: NDArray[np.int32]
    after: NDArray[np.int32]
    buckets: NDArray[np.int16]
    lowest: NDArray[np.int64]


def empty_queue(halfedges: int) -> Queue:
    """Room for so many half-edges."""
    return Queue(
        np.full(BUCKETS, NOWHERE, dtype=np.int32),
        np.empty(halfedges, dtype=np.int32),
        np.empty(halfedges, dtype=np.int32),
        np.full(halfedges, NOWHERE, dtype=np.int16),
        np.array([BUCKETS]),
    )


def beside(queue: Queue) -> Queue:
    """Another queue over the same half-edges, each of which is in one of both at the most."""
    return queue._replace(heads=np.full(BUCKETS, NOWHERE, dtype=np.int32), lowest=np.array([BUCKETS]))


@inlined
def put(queue, h, cost):
    """File a half-edge that is nowhere under a cost above 0."""
    # What is no number would have no place in the order.
    bucket = np.float32(cost if cost < _LARGEST else _LARGEST).view(np.int32) >> _DROPPED_BITS
    behind = queue.heads[bucket]
    queue.buckets[h], queue.before[h], queue.after[h] = bucket, NOWHERE, behind
    if behind >= 0:
        queue.before[behind] = h
    queue.heads[bucket] = h
    queue.lowest[0] = min(queue.lowest[0], bucket)


@inlined
def take_out(queue, h):
    """Take a half-edge out, wherever it is."""
    bucket = queue.buckets[h]
    if bucket < 0:
        return
    ahead, behind = queue.before[h], queue.after[h]
    if ahead >= 0:
        queue.after[ahead] = behind
    else:
        queue.heads[bucket] = behind
    if behind >= 0:
        queue.before[behind] = ahead
    queue.buckets[h] = NOWHERE


@inlined
def cheapest(queue, below):
    """A half-edge of the lowest bucket below a number, or -1."""
    while queue.lowest[0] < below:
        h = queue.heads[queue.lowest[0]]
        if h >= 0:
            return h
        queue.lowest[0] += 1
    return NOWHERE
