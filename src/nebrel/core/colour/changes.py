"""What printing in several colours costs: how often the colour changes, and what is purged for it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh


@dataclass(frozen=True)
class PrintPlan:
    """How something in several colours is printed.

    Attributes:
        layer: height of a layer, mm, above 0.
        purge: what is purged at a change of colour, mm³.
        up: the axis across which layers lie, 1 for Y and 2 for Z.
    """

    layer: float = 0.2
    purge: float = 140.0
    up: int = 2


@dataclass(frozen=True)
class ColourChanges:
    """An estimate over layers, each of which prints all colours of its skin.

    Attributes:
        layers: how many there are.
        layers_in_several: how many of them need more than one colour.
        swaps: changes of colour, when each layer begins with the last colour of the one below where it can.
        purged_mm3: what is purged for them.
    """

    layers: int
    layers_in_several: int
    swaps: int
    purged_mm3: float


def count_changes(mesh: TriMesh, labels: NDArray[np.int64], plan: PrintPlan) -> ColourChanges:
    """Changes of colour over the layers of a print.

    Args:
        mesh: as it is printed.
        labels: int64 (M,), the colour of every triangle, from 0.
        plan: how.

    Raises:
        BadValueError: layers of no height.
    """
    if not plan.layer > 0:
        raise BadValueError(f"A layer is {plan.layer:g} mm high; more than 0 is needed.")
    heights = mesh.corners[:, :, plan.up] - float(mesh.vertices[:, plan.up].min())
    layers = max(1, int(np.ceil(heights.max() / plan.layer)))
    low = np.clip((heights.min(axis=1) / plan.layer).astype(np.int64), 0, layers - 1)
    high = np.clip((heights.max(axis=1) / plan.layer).astype(np.int64), 0, layers - 1)
    colours = int(labels.max()) + 1
    begun = np.zeros((colours, layers + 1), dtype=np.int64)
    np.add.at(begun, (labels, low), 1)
    np.add.at(begun, (labels, high + 1), -1)
    there = begun.cumsum(axis=1)[:, :layers] > 0
    swaps, last = 0, -1
    for layer in range(layers):
        needed = np.flatnonzero(there[:, layer])
        if not len(needed):
            continue
        swaps += len(needed) - int(last in needed or last < 0)
        # The last one is a colour that the next layer needs too, where there is one, and not the one begun with.
        coming = there[:, layer + 1] if layer + 1 < layers else np.zeros(colours, dtype=np.bool_)
        others = [each for each in needed if each != last] or list(needed)
        last = next((int(each) for each in others if coming[each]), int(others[-1]))
    several = int((there.sum(axis=0) > 1).sum())
    return ColourChanges(layers, several, swaps, swaps * plan.purge)
