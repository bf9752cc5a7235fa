"""How a picture becomes outlines."""

from collections.abc import Callable
from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon, box

from nebrel.core.errors import BadPictureError
from nebrel.core.height import terraces_of
from nebrel.core.histogram import usual_beside
from nebrel.core.picture import Picture
from nebrel.core.picture.ink import InkGuess, automatic_threshold, guess_ink, shown_tones
from nebrel.core.picture.ops.purify import found_tones
from nebrel.core.region.centre_line import trace_centre_lines
from nebrel.core.region.curves import Figure, map_figure
from nebrel.core.region.refine import inked_share
from nebrel.core.region.terraces import terrace_cells
from nebrel.core.region.trace import Smoothing, Traced, trace_cells, trace_level
from nebrel.piece.parts.fields import choice, length, measure, share, tone_between, whole
from nebrel.piece.parts.part import Part

FLAT_RANGE = 0.02
HALF = 0.5


class Trace(Part):
    """Which edges of a picture are followed, and how faithfully."""

    heading: ClassVar[str] = "From the picture"
    by: Literal["level", "tones", "centre-line"] = choice(
        "Traced by",
        "level",
        {"level": "One edge", "tones": "Several tones", "centre-line": "Middles of lines"},
        label="What is followed?",
        hints={
            "level": "The edge runs where the picture passes one tone, between its pixels.",
            "tones": "Every tone gets its own areas; neighbours share their border exactly.",
            "centre-line": "Drawn lines become strokes as wide as they were drawn.",
        },
    )
    ink: Literal["auto", "dark", "bright"] = choice(
        "What is drawn",
        "auto",
        {"auto": "As it looks", "dark": "Dark", "bright": "Bright"},
        label="What is drawn?",
        shown={"by": ["level", "centre-line"]},
    )
    level: float | None = tone_between("Tone at the edge", None, shown={"by": ["level", "centre-line"]})
    tones: int = whole("Tones", 3, 2, 12, slider=(2, 8), shown={"by": ["tones"]})
    smooth: float = share("Faithful to smooth", 0.3, step=0.05)
    tolerance_mm: float | None = length(
        "Largest distance from the edge",
        None,
        0.001,
        20,
        slider=(0.005, 0.5),
        step=0.01,
        label="Curves may leave the edge by",
    )
    smallest_part_mm2: float = measure("Smallest part", 0.2, 0, 100_000, step=0.1)
    smallest_hole_mm2: float = measure("Smallest hole", 0.2, 0, 100_000, step=0.1)

    @property
    def smoothing(self) -> Smoothing:
        """The same for the core."""
        return Smoothing(self.smooth, self.tolerance_mm, self.smallest_part_mm2, self.smallest_hole_mm2)


def trace_picture(
    picture: Picture, trace: Trace, width_mm: float, progress: Callable[[float], None] = lambda _: None
) -> Traced:
    """The outlines of a picture that is `width_mm` wide from the outer side of its first pixel to that of its last.

    Raises:
        BadPictureError: nothing of it is beyond the level.
    """
    pitch = width_mm / picture.shape[1]
    if trace.by == "tones":
        return _by_tones(picture, trace, pitch)
    values, level = _ink_values(picture, trace)
    if not (values > level).any():
        raise BadPictureError(
            "Nothing of the picture is beyond the level, so there is no edge to follow; move the level."
        )
    if trace.by == "centre-line":
        traced = trace_centre_lines(values, level, pitch, trace.smoothing, progress)
    else:
        traced = trace_level(values, level, pitch, trace.smoothing, progress)
    if not traced.layers or not traced.layers[0].curves:
        raise BadPictureError("Every part of the picture is smaller than the smallest one kept; make that smaller.")
    return traced


def _ink_values(picture: Picture, trace: Trace) -> tuple[np.ndarray, float]:
    """Values that are high where something is drawn, and the value at its edge."""
    if _is_cut_out(picture):
        return picture.coverage, HALF
    best = automatic_threshold(picture)
    level = trace.level if trace.level is not None else _halfway(picture, best)
    dark = trace.ink == "dark" or (trace.ink == "auto" and guess_ink(picture, best).ink == "dark")
    drawn = 1 - picture.tones if dark else picture.tones
    whole = picture.coverage.min() >= 1
    return drawn if whole else drawn * picture.coverage, 1 - level if dark else level


def shown_ink(picture: Picture, trace: Trace) -> NDArray[np.float32] | None:
    """The share of every pixel that is inked, float32 (H, W); None where it is not followed at half of its ink."""
    if trace.by != "level" or trace.level is not None:
        return None
    shown = inked_share(*_ink_values(picture, trace))
    return None if shown is None else shown[0]


def guessed_ink(picture: Picture, trace: Trace) -> InkGuess | None:
    """Which tone is taken for what is drawn, and how surely; None where nothing is to be guessed."""
    if trace.by == "tones" or trace.ink != "auto" or _is_cut_out(picture):
        return None
    return guess_ink(picture)


def _is_cut_out(picture: Picture) -> bool:
    """Whether all of one tone is cut out of nothing, so that its shape alone is drawn."""
    if picture.coverage.min() >= HALF:
        return False
    seen = shown_tones(picture)
    return bool(seen.size) and float(seen.max() - seen.min()) < FLAT_RANGE


def _halfway(picture: Picture, best: float) -> float:
    """The tone halfway between what is most common on either side of the best threshold."""
    tones = shown_tones(picture)
    if not tones.size or not tones.min() < best <= tones.max():
        return best
    return sum(usual_beside(tones, best)) / 2


def _by_tones(picture: Picture, trace: Trace, pitch: float) -> Traced:
    tones = [float(tone) for tone in found_tones(picture, trace.tones)]
    tones = sorted(set(tones))
    if len(tones) < 2:
        raise BadPictureError("The picture shows only one tone, so there is no edge between tones to follow.")
    terraces = terraces_of(picture, [(tone, float(number)) for number, tone in enumerate(tones)])
    rows, columns = picture.shape
    # One row of samples more all round, so that areas reach the outer sides of the outermost pixels.
    half = pitch / 2
    frame = MultiPolygon([box(half, half, half + columns * pitch, half + rows * pitch)])
    cells = terrace_cells(lambda number: np.pad(terraces.coverage(number), 1, mode="edge"), len(tones), pitch, frame)
    traced = trace_cells(cells, tones, pitch, trace.smoothing)
    moved = map_figure(Figure(traced.layers), np.array([[1.0, 0.0, -half], [0.0, 1.0, -half]]))
    labels = terraces.labels
    rim = np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]])
    ground = tones[int(np.bincount(rim, minlength=len(tones)).argmax())]
    layers = (replace(layer, ground=layer.tone == ground) for layer in moved.layers)
    return replace(traced, layers=tuple(layers))
