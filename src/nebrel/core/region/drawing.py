"""What a file of outlines held, whatever its format."""

from dataclasses import dataclass

import numpy as np

from nebrel.core.errors import BadDrawingError
from nebrel.core.region.curves import Curve, Figure, Layer, bounds_of, map_figure

JOIN_SHARE = 1e-5
SMALLEST_MM, LARGEST_MM = 1e-4, 1e6


@dataclass(frozen=True)
class Drawing:
    """Outlines from a file.

    Attributes:
        figure: in millimetres, its lower left corner at the origin.
        size: width and height in mm.
        size_given: whether its size is known, from the file or because the unit was told.
        stated: whether the file itself says how large it is.
        remarks: what was left out, and why, in plain sentences.
    """

    figure: Figure
    size: tuple[float, float]
    size_given: bool
    remarks: tuple[str, ...]
    stated: bool = False
    page: tuple[float, float, float, float] | None = None


def drawing_of(
    layers: list[Layer],
    name: str,
    scale: float,
    remarks: list[str],
    stated: bool,
    told: bool,
    page: tuple[float, float, float, float] | None = None,
) -> Drawing:
    """A drawing from layers in the file's own units, `scale` mm each; layers without curves are dropped.

    Args:
        layers: in the file's own units.
        name: what the file is called.
        scale: mm for each unit.
        remarks: what was left out.
        stated: whether the file says how large it is.
        told: whether a person said what its unit is.
        page: lowest and highest X and Y of the page in the file's own units, where it has one.

    Raises:
        BadDrawingError: coordinates that are not numbers, or outlines without extent or larger than any workshop.
    """
    figure = Figure(tuple(layer for layer in layers if layer.curves))
    if figure.curves and not np.isfinite(np.concatenate([curve.knots for curve in figure.curves])).all():
        raise BadDrawingError(f"{name} holds coordinates that are not numbers; every coordinate must be a number.")
    low_x, low_y, high_x, high_y = bounds_of(figure)
    widest = max(high_x - low_x, high_y - low_y) * scale
    if widest > LARGEST_MM:
        raise BadDrawingError(
            f"{name} is {widest / 1000:,.4g} m across; up to {LARGEST_MM / 1000:,.0f} m would be accepted, so please "
            "check its unit."
        )
    if not widest > SMALLEST_MM:
        raise BadDrawingError(f"{name} is {widest:.2g} mm across, so nothing can be made of it; please check its unit.")
    shift = np.array([[scale, 0.0, -low_x * scale], [0.0, scale, -low_y * scale]])
    return Drawing(
        map_figure(figure, shift),
        ((high_x - low_x) * scale, (high_y - low_y) * scale),
        stated or told,
        tuple(dict.fromkeys(remarks)),
        stated,
        None if page is None else _moved(page, (low_x, low_y), scale),
    )


def _moved(
    page: tuple[float, float, float, float], low: tuple[float, float], scale: float
) -> tuple[float, float, float, float]:
    x, y = low
    return (page[0] - x) * scale, (page[1] - y) * scale, (page[2] - x) * scale, (page[3] - y) * scale


def chain(curves: list[Curve], reach: float) -> list[Curve]:
    """Open edges joined where an end of one lies within `reach` of an end of another, and closed where they meet.

    Closed curves and strokes are left as they are. Every curve that comes of it keeps the part of its first piece.
    """
    from scipy.spatial import cKDTree

    kept = [curve for curve in curves if curve.closed or curve.width is not None]
    left = [curve for curve in curves if not curve.closed and curve.width is None]
    if not left:
        return kept
    # Ends 2 i and 2 i + 1 are those of curve i.
    ends = np.array([end for curve in left for end in (curve.nodes[0], curve.nodes[-1])])
    meeting = cKDTree(ends).query_ball_point(ends, reach)
    unused = set(range(len(left)))

    def beyond(end: int) -> int | None:
        """The nearest end of another curve that is not used yet and lies where this one does."""
        others = [other for other in meeting[end] if other // 2 in unused]
        return min(others, key=lambda other: float(np.hypot(*(ends[other] - ends[end]))), default=None)

    # Those with a free end come first, so that no chain is begun in its middle.
    free = sorted(unused, key=lambda at: min(len(meeting[2 * at]), len(meeting[2 * at + 1])))
    for at in free:
        if at not in unused:
            continue
        unused.remove(at)
        chain, first, last = left[at], 2 * at, 2 * at + 1
        for way in (1, 0):
            while last not in meeting[first] and (other := beyond(last if way else first)) is not None:
                unused.remove(other // 2)
                piece = left[other // 2] if other % 2 == (0 if way else 1) else left[other // 2].turned()
                chain = _join(chain, piece) if way else _join(piece, chain)
                if way:
                    last = other ^ 1
                else:
                    first = other ^ 1
        kept.append(_close(chain) if last in meeting[first] and len(chain.nodes) > 2 else chain)
    return kept


def _join(one: Curve, other: Curve) -> Curve:
    """One after the other; where they meet, the node of the first counts."""
    ahead = other.knots.copy()
    last = one.knots[-1].copy()
    last[2] = ahead[0, 2] + (last[1] - ahead[0, 1])
    return Curve(np.vstack([one.knots[:-1], last[np.newaxis], ahead[1:]]), False, None, one.part)


def _close(chain: Curve) -> Curve:
    knots = chain.knots[:-1].copy()
    knots[0, 0] = chain.knots[-1, 0] + (knots[0, 1] - chain.knots[-1, 1])
    return Curve(knots, True, None, chain.part)
