"""What a file of outlines held, whatever its format."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.region.curves import Curve, Figure, Layer, bounds_of, mapped

JOIN_SHARE = 1e-5


@dataclass(frozen=True)
class Drawing:
    """Outlines from a file.

    Attributes:
        figure: in millimetres, its lower left corner at the origin.
        size: width and height in mm.
        told: whether the file says how large it is.
        remarks: what was left out, and why, in plain sentences.
    """

    figure: Figure
    size: tuple[float, float]
    told: bool
    remarks: tuple[str, ...]


def settled(layers: list[Layer], scale: float, told: bool, remarks: list[str]) -> Drawing:
    """A drawing from layers in the file's own units, `scale` mm each; layers without curves are dropped."""
    figure = Figure(tuple(layer for layer in layers if layer.curves))
    low_x, low_y, high_x, high_y = bounds_of(figure)
    shift = np.array([[scale, 0.0, -low_x * scale], [0.0, scale, -low_y * scale]])
    return Drawing(
        mapped(figure, shift), ((high_x - low_x) * scale, (high_y - low_y) * scale), told, tuple(dict.fromkeys(remarks))
    )


def chained(curves: list[Curve], reach: float) -> list[Curve]:
    """Open edges joined where an end of one lies within `reach` of an end of another, and closed where they meet.

    Closed curves and strokes are left as they are. Every curve that comes of it keeps the part of its first piece.
    """
    kept = [curve for curve in curves if curve.closed or curve.width is not None]
    open_ones = [curve for curve in curves if not curve.closed and curve.width is None]
    while open_ones:
        chain = open_ones.pop(0)
        grown = True
        while grown and not _meets(chain.nodes[0], chain.nodes[-1], reach):
            grown = False
            for at, other in enumerate(open_ones):
                for piece in (other, other.turned()):
                    if _meets(chain.nodes[-1], piece.nodes[0], reach):
                        chain = _joined(chain, piece)
                    elif _meets(piece.nodes[-1], chain.nodes[0], reach):
                        chain = _joined(piece, chain)
                    else:
                        continue
                    open_ones.pop(at)
                    grown = True
                    break
                if grown:
                    break
        kept.append(
            _closed(chain) if len(chain.nodes) > 2 and _meets(chain.nodes[0], chain.nodes[-1], reach) else chain
        )
    return kept


def _meets(one: NDArray[np.float64], other: NDArray[np.float64], reach: float) -> bool:
    return bool(np.hypot(*(one - other)) <= reach)


def _joined(one: Curve, other: Curve) -> Curve:
    """One after the other; where they meet, the node of the first counts."""
    ahead = other.knots.copy()
    last = one.knots[-1].copy()
    last[2] = ahead[0, 2] + (last[1] - ahead[0, 1])
    return Curve(np.vstack([one.knots[:-1], last[np.newaxis], ahead[1:]]), False, None, one.part)


def _closed(chain: Curve) -> Curve:
    knots = chain.knots[:-1].copy()
    knots[0, 0] = chain.knots[-1, 0] + (knots[0, 1] - chain.knots[-1, 1])
    return Curve(knots, True, None, chain.part)
