"""The collapse of edges, cheapest first."""

from typing import NamedTuple

import numpy as np

from nebrel.core.jit import compiled, inlined, lent
from nebrel.core.mesh.fewer.bound import Ring, Samples, empty_ring, hand_on, stays_within
from nebrel.core.mesh.fewer.guards import Marks, keeps_whole, no_marks, turns_over
from nebrel.core.mesh.fewer.net import FIXED, ON_BORDER, Net, has_corner, join_rings, take_face
from nebrel.core.mesh.fewer.quadric import best_place
from nebrel.core.mesh.fewer.queue import Queue, cheapest, put, take_out

# Faces that two vertices may share at the most, tangled ones included.
_MOST_SHARED = 64


class Hand(NamedTuple):
    """What one thread works with.

    Attributes:
        queue: its edges.
        marks, ring: room of its own.
        zone: only edges between vertices of this zone are its.
    """

    queue: Queue
    marks: Marks
    ring: Ring
    zone: int


def hand_of(queue: Queue, net: Net, samples: Samples, zone: int) -> Hand:
    """A thread's things for a net."""
    return Hand(queue, no_marks(len(net.places)), empty_ring(samples), zone)


@compiled
def offer_all(net, zones, hand):
    """File all edges of the zone that are not filed."""
    net, zones, hand = lent((net, zones, hand))
    for h in range(len(net.corners)):
        if not net.gone[h // 3] and hand.queue.buckets[h] < 0:
            _offer(net, zones, hand, h)


@inlined
def _offer(net, zones, hand, h):
    u, v = net.corners[h], net.corners[h + 1 if h % 3 < 2 else h - 2]
    if zones[u] != hand.zone or zones[v] != hand.zone:
        return
    # Inside, an edge has half-edges both ways, one of which is enough.
    once = u < v or (net.kinds[u] >= ON_BORDER and net.kinds[v] >= ON_BORDER)
    if once and (net.kinds[u] != FIXED or net.kinds[v] != FIXED):
        put(hand.queue, h, best_place(net, u, v)[1])


@compiled
def collapse_edges(net, samples, zones, hand, squared, below, most, tries):
    """Collapse edges, cheapest first.

    Args:
        net, samples: what changes.
        zones: int8 (N,), the zone of every vertex.
        hand: whose edges.
        squared: the bound, squared; 0 for none.
        below: edges filed under buckets below this.
        most: about so many faces to take away at the most.
        tries: edges to look at.

    Returns:
        How many faces were taken away, and how many edges looked at.
    """
    net, samples, zones, hand = lent((net, samples, zones, hand))
    taken = tried = 0
    shared = np.empty(_MOST_SHARED, dtype=np.int64)
    while taken < most and tried < tries:
        h = cheapest(hand.queue, below)
        if h < 0:
            break
        tried += 1
        take_out(hand.queue, h)
        u, v = net.corners[h], net.corners[h + 1 if h % 3 < 2 else h - 2]
        if net.kinds[v] > net.kinds[u]:
            u, v = v, u
        if not keeps_whole(net, hand.marks, u, v):
            continue
        place, _ = best_place(net, u, v)
        if turns_over(net, u, v, place):
            continue
        if squared > 0 and not stays_within(net, samples, hand.ring, u, v, place, squared):
            continue
        taken += _collapse(net, hand.queue, shared, u, v, place)
        if squared > 0:
            hand_on(samples, hand.ring)
        if net.first[u] >= 0:
            _file_anew(net, zones, hand, u)
    return taken, tried


@inlined
def _collapse(net, queue, shared, u, v, place):
    """Make the edge from u, of the higher kind, to v the vertex u at a place; gives how many faces go with it."""
    count = 0
    c = net.first[u]
    while True:
        start = c // 3 * 3
        if has_corner(net, start, v) and count < len(shared):
            shared[count] = start
            count += 1
        c = net.following[c]
        if c == net.first[u]:
            break
    for k in range(count):
        for h in range(shared[k], shared[k] + 3):
            take_out(queue, h)
        take_face(net, shared[k])
    join_rings(net, u, v)
    for k in range(3):
        net.places[u, k] = place[k]
    for k in range(net.quadrics.shape[1]):
        net.quadrics[u, k] += net.quadrics[v, k]
    return count


@inlined
def _file_anew(net, zones, hand, u):
    c = net.first[u]
    while True:
        start = c // 3 * 3
        for h in (np.int64(c), start + (c - start + 2) % 3):
            take_out(hand.queue, h)
            _offer(net, zones, hand, h)
        c = net.following[c]
        if c == net.first[u]:
            break
