"""How near reliefs by depth come to those of the true form, against reliefs by tones; and the order of their parts."""

import time
from collections.abc import Sequence
from dataclasses import dataclass
from typing import get_args

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy import ndimage
from training.solids import Seen

from bench.heights import fractal
from bench.held_out import LONGER_MM, held_out, pictures_of, seen_solid
from bench.known_solids import known_solids
from bench.report import Row
from nebrel.core.bas_relief.heights import FineTones, add_fine_tones, relief_heights, room_for_tones
from nebrel.core.bas_relief.hold_back import Shallow
from nebrel.core.bas_relief.nearness import Nearness, Roundness, nearness
from nebrel.core.bas_relief.overlaps import Depths, links_of
from nebrel.core.bas_relief.stage import stage_of
from nebrel.core.figure.depth import DepthPicture, DepthSource, from_outline
from nebrel.core.figure.figure import Hand
from nebrel.core.figure.hand import HandStroke, StrokeKind
from nebrel.core.figure.learned import LearnedDepth
from nebrel.core.figure.normals import normals_of
from nebrel.core.height import HeightField
from nebrel.core.height.compress import compress_heights
from nebrel.core.height.modelling import ModellingStroke, Tool, worked

RELIEF_MM, STRENGTH, STEP_MM = 4.0, 0.5, 0.3
CELLS = 256
SHALLOW = Shallow(RELIEF_MM, STRENGTH, STEP_MM, True)
FINE = FineTones(0.4, 2.0)
# Sides of an overlap are looked at so many pixels away from it; one of fewer places is none.
BESIDE_PX, LEAST_PLACES = 4, 12
DABS = 40
ROUNDS, BRUSH_PX, AWAY_PX, COARSE = 6, 5.0, 8, 0.1

_Grid = NDArray[np.float64]
_Pixels = NDArray[np.float32]
_Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class Overlap:
    """Where one part hides another: rows and columns of places in front of it and behind it, int (N, 2) each."""

    front: NDArray[np.int64]
    behind: NDArray[np.int64]

    def right(self, heights: _Pixels) -> bool:
        """Whether what is in front stands higher, on average along it."""
        return float((heights[tuple(self.front.T)] - heights[tuple(self.behind.T)]).mean()) > 0


def truth() -> list[Row]:
    """Normals of reliefs against those of the true form held back alike, over 36 drawn shapes and known solids."""
    rows = []
    known = [(0, seen_solid(solid)) for solid in known_solids().values()]
    for words, shapes in {"36 drawn shapes": list(enumerate(held_out())), "known solids": known}.items():
        found: dict[str, list[float]] = {}
        for number, seen in shapes:
            for name, angle in _angles(seen, number).items():
                found.setdefault(name, []).append(angle)
        means = {name: float(np.mean(angles)) for name, angles in found.items()}
        for light in ("clean", "varied"):
            by_tones = min(means[f"tones, {light}"], means[f"tones held back, {light}"])
            for source in ("learned", "learned and fine tones"):
                angle = means[f"{source}, {light}"]
                told = f"{angle:.1f}° by {source}, {by_tones:.1f}° by tones, {1 - angle / by_tones:.0%} better"
                kept = angle <= 0.75 * by_tones if source == "learned" else None
                bound = "≥ 25 % better" if source == "learned" else "not bound"
                rows.append(Row(f"Normals of reliefs, {words}, {light} light", told, bound, kept))
        told = f"{means['outline']:.1f}° by the outline, {means['nothing']:.1f}° of an even plate"
        rows.append(Row(f"Normals of reliefs, {words}", told, "not bound", None))
    return rows


def order() -> list[Row]:
    """Overlaps of the true form whose nearer side stands higher in the relief, without strokes and with a few."""
    count, right = 0, {"no strokes": 0, "strokes": 0}
    drawn = 0
    for number, seen in enumerate(held_out()):
        overlaps = _overlaps(seen)
        picture = pictures_of(seen, number)["varied"]
        strokes: tuple[HandStroke, ...] = ()
        heights = _relief(seen, LearnedDepth(picture), strokes, picture)
        right["no strokes"] += sum(each.right(heights) for each in overlaps)
        for _ in range(ROUNDS):
            wrong = [each for each in overlaps if not each.right(heights)]
            if not wrong:
                break
            strokes = (*strokes, *(stroke for each in wrong for stroke in _strokes(seen, each)))
            heights = _relief(seen, LearnedDepth(picture), strokes, picture)
        drawn += len(strokes)
        count += len(overlaps)
        right["strokes"] += sum(each.right(heights) for each in overlaps)
    shares = {name: many / max(count, 1) for name, many in right.items()}
    return [
        Row("Order of overlaps, learned, no strokes", f"{shares['no strokes']:.1%} of {count}", "not bound", None),
        Row(
            "Order of overlaps, learned, with strokes",
            f"{shares['strokes']:.1%} of {count}, {drawn} strokes over 36 shapes",
            "≥ 95 %",
            shares["strokes"] >= 0.95,
        ),
    ]


def speed() -> list[Row]:
    """A relief of a picture of 2 megapixels, and holding it back once more."""
    seen = held_out()[0]
    picture = cv2.resize(pictures_of(seen, 0)["clean"], (1448, 1448), interpolation=cv2.INTER_CUBIC)
    coverage = cv2.resize(seen.covered.astype(np.float32), (1448, 1448), interpolation=cv2.INTER_LINEAR)
    started = time.perf_counter()
    near = _near(coverage, seen.pitch * LONGER_MM * 256 / 1448, LearnedDepth(picture), (), picture)
    middle = time.perf_counter()
    heights = relief_heights(near, coverage, SHALLOW)
    ended = time.perf_counter()
    told = f"{middle - started:.2f} s to how near everything is, {ended - middle:.2f} s to heights of {heights.size:,}"
    return [Row("Relief by depth of 2 megapixels", told, "not bound", None)]


def modelling() -> list[Row]:
    """A dab of every tool on heights as large as a preview's."""
    tones = fractal(720).astype(np.float32) / 65535 * RELIEF_MM
    field = HeightField(tones, np.ones_like(tones), 0.1)
    rows = []
    for tool in get_args(Tool):
        took = []
        for dab in range(DABS):
            places = np.array([[20 + dab / 2, 30, 1.0], [21 + dab / 2, 31, 1.0]])
            stroke = ModellingStroke(tool, places, 4.0)
            started = time.perf_counter()
            worked(field, [stroke])
            took.append(1000 * (time.perf_counter() - started))
        p95 = float(np.percentile(took, 95))
        told = f"p95 {p95:.1f} ms, median {np.median(took):.1f} ms"
        rows.append(Row(f"Dab of 8 mm, {tool}, on 720 × 720 heights", told, "≤ 30 ms", p95 <= 30))
    return rows


def _angles(seen: Seen, number: int) -> dict[str, float]:
    """Mean angles between normals of reliefs and those of the true form held back, degrees."""
    coverage = seen.covered.astype(np.float32)
    nothing = np.zeros((*coverage.shape, 3), dtype=np.float32)
    asked = _relief(seen, _true(seen), (), nothing)
    pitch = seen.pitch * LONGER_MM
    found = {"nothing": _apart(asked, np.zeros_like(asked), seen, pitch)}
    found |= {"outline": _apart(asked, _relief(seen, from_outline, (), nothing), seen, pitch)}
    for light, picture in pictures_of(seen, number).items():
        tones = np.asarray(picture @ np.array([0.299, 0.587, 0.114], dtype=np.float32), dtype=np.float32)
        straight = _spread(tones, seen.covered)
        held = compress_heights(straight, seen.covered, STRENGTH)
        near = _near(coverage, pitch, LearnedDepth(picture), (), picture)
        by_depth = relief_heights(near, coverage, SHALLOW)
        fine = add_fine_tones(by_depth, tones, coverage, pitch, FINE, room_for_tones(near, coverage.shape, STEP_MM))
        reliefs = {"tones": straight, "tones held back": held, "learned": by_depth, "learned and fine tones": fine}
        for name, heights in reliefs.items():
            found[f"{name}, {light}"] = _apart(asked, heights, seen, pitch)
    return found


def _spread(tones: _Pixels, there: _Mask) -> _Pixels:
    """Tones as heights of the same relief, 0 beside what is cut out."""
    low, high = float(tones[there].min()), float(tones[there].max())
    return np.where(there, (tones - low) / max(high - low, 1e-6) * RELIEF_MM, 0).astype(np.float32)


def _apart(asked: _Pixels, found: _Pixels, seen: Seen, pitch: float) -> float:
    one, other = (normals_of(each.astype(np.float64), pitch) for each in (asked, found))
    # Beside the outline both fall to the ground.
    inner = ndimage.binary_erosion(seen.covered, iterations=3)
    return float(np.degrees(np.arccos(np.clip((one * other).sum(axis=2), -1, 1)))[inner].mean())


def _true(seen: Seen) -> DepthPicture:
    there = seen.covered
    low, high = float(seen.front[there].min()), float(seen.front[there].max())
    tones = np.where(there, (np.nan_to_num(seen.front) - low) / (high - low), 0).astype(np.float32)
    row, column = ndimage.distance_transform_edt(~there, return_distances=False, return_indices=True)
    return DepthPicture(tones[row, column], (high - low) * LONGER_MM)


def _near(
    coverage: _Pixels, pitch: float, source: DepthSource, strokes: Sequence[HandStroke], picture: _Pixels
) -> Nearness:
    stage = stage_of(coverage, pitch, CELLS)
    return nearness(stage, False, source, Roundness(), Hand(strokes, picture))


def _relief(seen: Seen, source: DepthSource, strokes: Sequence[HandStroke], picture: _Pixels) -> _Pixels:
    coverage = seen.covered.astype(np.float32)
    return relief_heights(_near(coverage, seen.pitch * LONGER_MM, source, strokes, picture), coverage, SHALLOW)


def _overlaps(seen: Seen) -> list[Overlap]:
    """Where the true form hides itself."""
    there = seen.covered
    front = np.where(there, seen.front, float(np.nanmin(seen.front))).astype(np.float64) * LONGER_MM
    nothing = np.zeros(there.shape, dtype=np.bool_)
    found = []
    for links in links_of(Depths(front, np.zeros(front.shape), there, nothing)):
        along = (0, 1) if links.axis == 1 else (1, 0)
        for way in (1, -1):
            # Overlaps of rows and of columns are told apart; each is a run of places beside each other.
            runs, many = ndimage.label(links.leap == way, structure=np.ones((3, 3)))
            for run in range(1, many + 1):
                places = np.argwhere(runs == run)
                if len(places) < LEAST_PLACES:
                    continue
                step = np.array(along)
                behind, ahead = places - (BESIDE_PX - 1) * step, places + BESIDE_PX * step
                sides = (ahead, behind) if way > 0 else (behind, ahead)
                kept = _within(sides[0], there) & _within(sides[1], there)
                if kept.sum() >= LEAST_PLACES / 2:
                    found.append(Overlap(sides[0][kept], sides[1][kept]))
    return found


def _within(places: NDArray[np.int64], there: _Mask) -> _Mask:
    inside = ((places >= 0) & (places < there.shape)).all(axis=1)
    return inside & there[tuple(np.clip(places, 0, np.array(there.shape) - 1).T)]


def _strokes(seen: Seen, overlap: Overlap) -> tuple[HandStroke, ...]:
    """What a hand draws on both sides of an overlap that is wrong, by coarse steps of how deep the whole is."""
    apart = float((seen.front[tuple(overlap.front.T)] - seen.front[tuple(overlap.behind.T)]).mean()) * LONGER_MM
    coarse = COARSE * LONGER_MM
    amount = coarse * max(1.0, np.ceil(apart / coarse)) / 2
    away = np.sign(overlap.front - overlap.behind) * (AWAY_PX - BESIDE_PX)
    found: list[HandStroke] = []
    sides: tuple[tuple[StrokeKind, NDArray[np.int64]], ...] = (
        ("nearer", overlap.front + away),
        ("farther", overlap.behind - away),
    )
    for kind, places in sides:
        drawn = places[_within(places, seen.covered)]
        if len(drawn):
            ordered = drawn[np.lexsort((drawn[:, 1], drawn[:, 0]))].astype(np.float64)
            found.append(HandStroke(kind, ordered[:, ::-1], BRUSH_PX, amount))
    return tuple(found)
