"""Letters as closed runs, from the outlines of a typeface."""

from pathlib import Path

import numpy as np
from fontTools.pens.basePen import BasePen
from fontTools.ttLib import TTFont
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError

LINE_SHARE = 1.25
CURVE_STEPS = 8
Run = NDArray[np.float64]


class _RunPen(BasePen):  # type: ignore[misc]
    """Collects contours as runs of points, curves in `CURVE_STEPS` chords."""

    def __init__(self, glyphs: object) -> None:
        super().__init__(glyphs)
        self.runs: list[list[tuple[float, float]]] = []

    def _moveTo(self, pt: tuple[float, float]) -> None:  # noqa: N802
        self.runs.append([pt])

    def _lineTo(self, pt: tuple[float, float]) -> None:  # noqa: N802
        self.runs[-1].append(pt)

    def _qCurveToOne(self, pt1: tuple[float, float], pt2: tuple[float, float]) -> None:  # noqa: N802
        start = np.array(self.runs[-1][-1])
        for t in np.arange(1, CURVE_STEPS + 1) / CURVE_STEPS:
            x, y = (1 - t) ** 2 * start + 2 * t * (1 - t) * np.array(pt1) + t * t * np.array(pt2)
            self.runs[-1].append((float(x), float(y)))

    def _curveToOne(self, pt1: tuple[float, float], pt2: tuple[float, float], pt3: tuple[float, float]) -> None:  # noqa: N802
        start = np.array(self.runs[-1][-1])
        for t in np.arange(1, CURVE_STEPS + 1) / CURVE_STEPS:
            x, y = (
                (1 - t) ** 3 * start
                + 3 * t * (1 - t) ** 2 * np.array(pt1)
                + 3 * t * t * (1 - t) * np.array(pt2)
                + t**3 * np.array(pt3)
            )
            self.runs[-1].append((float(x), float(y)))


def lettering_runs(text: str, font: Path, height: float) -> tuple[Run, ...]:
    """Lines of text as closed runs, filled where their winding number is not 0.

    Args:
        text: lines of it, centred above each other; letters that the typeface lacks are left out.
        font: its file, TrueType or OpenType.
        height: of capitals, mm.

    Returns:
        float64 (N, 2) each, mm about the middle of their box.

    Raises:
        BadValueError: nothing of it can be drawn.
    """
    face = TTFont(font)
    glyphs, names, widths = face.getGlyphSet(), face.getBestCmap(), face["hmtx"].metrics
    capital = getattr(face["OS/2"], "sCapHeight", 0) or 0.7 * face["head"].unitsPerEm
    scale = height / capital
    found: list[Run] = []
    for row, line in enumerate(text.splitlines() or [text]):
        along, runs = 0.0, []
        for letter in line:
            name = names.get(ord(letter))
            if name is None:
                continue
            pen = _RunPen(glyphs)
            glyphs[name].draw(pen)
            runs += [np.array(run, dtype=np.float64) + np.array([along, 0.0]) for run in pen.runs if len(run) > 2]
            along += widths[name][0]
        found += [
            (run - np.array([along / 2, 0.0])) * scale - np.array([0.0, row * LINE_SHARE * height]) for run in runs
        ]
    if not found:
        raise BadValueError(f"“{text}” has no letters that can be drawn; some are needed.")
    every = np.vstack(found)
    middle = (every.min(axis=0) + every.max(axis=0)) / 2
    return tuple(run - middle for run in found)
