"""A binary heap of numbered things, the largest error first, that knows where each is: `place[heap[i]] == i`."""

from nebrel.core.jit import compiled


@compiled
def sift_up(heap, place, error, start):
    """Move the item at `start` towards the root until its parent's error is no smaller."""
    at = start
    item = heap[at]
    while at > 0:
        parent = (at - 1) >> 1
        if error[heap[parent]] >= error[item]:
            break
        heap[at] = heap[parent]
        place[heap[at]] = at
        at = parent
    heap[at] = item
    place[item] = at


@compiled
def sift_down(heap, place, error, start, size):
    """Move the item at `start` away from the root until no child among the first `size` items has a larger error."""
    at = start
    item = heap[at]
    while True:
        child = 2 * at + 1
        if child >= size:
            break
        if child + 1 < size and error[heap[child + 1]] > error[heap[child]]:
            child += 1
        if error[heap[child]] <= error[item]:
            break
        heap[at] = heap[child]
        place[heap[at]] = at
        at = child
    heap[at] = item
    place[item] = at
