"""What bits reach, whole jobs of carving, and what the simulated router measures of them."""

import time

import numpy as np
import shapely
from numpy.typing import NDArray

from bench.report import Row
from nebrel.core.carve.asked import asked_of
from nebrel.core.carve.bits import Bit, profile_table, taper_diameter
from nebrel.core.carve.board import Board, Machine
from nebrel.core.carve.finish import Finishing
from nebrel.core.carve.offset import lowest_tips
from nebrel.core.carve.plan import Job
from nebrel.core.carve.program import POSTS
from nebrel.core.carve.reach import reach_of
from nebrel.core.carve.sunk.medial_axis import medial_axis
from nebrel.core.carve.sunk.sinking import Sinking
from nebrel.core.height import HeightField
from nebrel.core.jit import compiled
from nebrel.core.proof.carving import Carved, carve
from nebrel.core.proof.sinking import carve_outlines

SIDE, PITCH, TALL = 2000, 0.05, 8.0
BITS = {
    "ball 6.35": Bit("ball", 6.35),
    "flat 6.35": Bit("flat", 6.35),
    "V 60°": Bit("v", 6.35, angle_deg=60),
    "taper R0.5, 5°": Bit("taper", taper_diameter(0.5, 5, 22, 6), 0.5, 5),
}
BOARD = Board((112, 112, 12))
PLAIN_ROWS = 100


def fractal() -> NDArray[np.float64]:
    """Ground whose amplitudes fall with the 2.2nd power of their frequency, 100 x 100 x 8 mm."""
    rng = np.random.default_rng(5)
    squared = np.fft.fftfreq(SIDE)[:, np.newaxis] ** 2 + np.fft.rfftfreq(SIDE) ** 2
    squared[0, 0] = np.inf
    waves = (rng.standard_normal(squared.shape) + 1j * rng.standard_normal(squared.shape)) * squared**-1.1
    heights = np.fft.irfft2(waves, (SIDE, SIDE))
    return (heights - heights.min()) * TALL / np.ptp(heights)


def cap() -> NDArray[np.float64]:
    """A spherical cap of 100 mm across and 8 mm tall on a plain."""
    x = np.linspace(-50, 50, SIDE)
    radius = (50.0**2 + TALL**2) / (2 * TALL)
    return np.maximum(np.sqrt(np.maximum(radius**2 - x[:, np.newaxis] ** 2 - x**2, 0)) - (radius - TALL), 0)


def steps() -> NDArray[np.float64]:
    """Wavy terraces 1.6 mm apart."""
    rng = np.random.default_rng(9)
    squared = np.fft.fftfreq(SIDE)[:, np.newaxis] ** 2 + np.fft.rfftfreq(SIDE) ** 2
    squared[0, 0] = np.inf
    waves = (rng.standard_normal(squared.shape) + 1j * rng.standard_normal(squared.shape)) * squared**-1.75
    ground = np.fft.irfft2(waves, (SIDE, SIDE))
    return np.floor((ground - ground.min()) / np.ptp(ground) * 5) / 5 * TALL


SURFACES = {"fractal": fractal, "cap": cap, "steps": steps}


@compiled
def plain_loop(heights, table, reach, first, last):
    rows, columns = heights.shape
    out = np.empty((last - first, columns))
    for y in range(first, last):
        for x in range(columns):
            best = -np.inf
            for i in range(max(0, y - reach), min(rows, y + reach + 1)):
                for j in range(max(0, x - reach), min(columns, x + reach + 1)):
                    best = max(best, heights[i, j] - table[i - y + reach, j - x + reach])
            out[y - first, x] = best
    return out


def offset() -> list[Row]:
    """The tool-offset surface against a plain compiled loop, in processor time."""
    warm = np.random.default_rng(1).random((64, 64))
    off, least, slowest_rows = 0.0, np.inf, 0.0
    lines = np.arange(0, SIDE, 10)
    middle = SIDE // 2
    for make in SURFACES.values():
        heights = make()
        for bit in BITS.values():
            table, reach = profile_table(bit.profile, PITCH, 0)
            lowest_tips(warm, PITCH, bit.profile)
            lowest_tips(warm, PITCH, bit.profile, lines[:3])
            plain_loop(warm, table, reach, 0, 2)
            ours, tips = _cpu(lambda heights=heights, bit=bit: lowest_tips(heights, PITCH, bit.profile))
            plain, expected = _cpu(
                lambda heights=heights, table=table, reach=reach: plain_loop(
                    heights, table, reach, middle, middle + PLAIN_ROWS
                )
            )
            some, _ = _cpu(lambda heights=heights, bit=bit: lowest_tips(heights, PITCH, bit.profile, lines))
            off = max(off, float(np.abs(tips[middle : middle + PLAIN_ROWS] - expected).max()))
            least = min(least, plain * SIDE / PLAIN_ROWS / ours)
            slowest_rows = max(slowest_rows, some)
    return [
        Row("Offset surfaces, three grounds by four bits, off a plain loop", f"{off:.1e} mm", "≤ 1e-6 mm", off <= 1e-6),
        Row("Processor time of the plain loop over ours, at least", f"{least:.1f} ×", "≥ 7 ×", least >= 7),
        Row("Rows of a 0.5 mm raster, slowest", f"{slowest_rows:.2f} s", "≤ 1.5 s", slowest_rows <= 1.5),
    ]


def jobs() -> list[Row]:
    """Whole jobs on three grounds by a flat bit and a ball, planned, written, run and measured."""
    rows: list[Row] = []
    bounds = {"fractal": (0.001, 75_000), "cap": (0.001, 9_000), "steps": (0.002, None)}
    for name, make in SURFACES.items():
        heights = make()
        began = time.perf_counter()
        made = _carved(heights, Job((BITS["ball 6.35"],), BITS["flat 6.35"]))
        seconds = time.perf_counter() - began
        gouge, points = made.facts["gouge_max_mm"], sum(one.points for one in made.passes if one.kind != "rough")
        share = _kept(made)
        most, count = bounds[name]
        rows += [
            Row(f"Carving of {name}: cuts in", f"{gouge * 1000:.2f} µm", f"≤ {most * 1000:g} µm", gouge <= most),
            Row(f"Carving of {name}: scallop kept on", f"{share:.2%}", "≥ 99.5 %", share >= 0.995),
            Row(f"Carving of {name}: planned and proved", f"{seconds:.0f} s", "≤ 60 s", seconds <= 60),
            Row(f"Carving of {name}: faults", str(len(made.faults)), "0", not made.faults),
        ]
        if count is not None:
            rows.append(Row(f"Carving of {name}: points", f"{points:,}", f"≤ {count:,}", points <= count))
    return rows


def every_bit() -> list[Row]:
    """Gouges of every kind of bit, on a quarter of every ground."""
    worst = dict.fromkeys(SURFACES, 0.0)
    for name, make in SURFACES.items():
        part = make()[500:1301, 500:1301]
        for bit in BITS.values():
            made = _carved(part - part.min(), Job((bit,), BITS["flat 6.35"]))
            worst[name] = max(worst[name], made.facts["gouge_max_mm"])
    return [
        Row(
            f"Every kind of bit on {name}, cuts in at most",
            f"{gouge * 1000:.2f} µm",
            f"≤ {2 if name == 'steps' else 1} µm",
            gouge <= (0.002 if name == "steps" else 0.001),
        )
        for name, gouge in worst.items()
    ]


def rings() -> list[Row]:
    """Finishing in rings, on a quarter of every ground."""
    rows = []
    for name, make in SURFACES.items():
        part = make()[500:1301, 500:1301]
        job = Job((BITS["ball 6.35"],), BITS["flat 6.35"], finishing=Finishing(direction="contour"))
        kept = _kept(_carved(part - part.min(), job))
        rows.append(Row(f"Rings on {name}: scallop kept on", f"{kept:.2%}", "≥ 99.5 %", kept >= 0.995))
    return rows


def v_carving() -> list[Row]:
    """A star, a ring and lettering of straight pieces, V-carved with a floor that a flat bit clears."""
    turns = np.linspace(0, 2 * np.pi, 513)[:-1]
    ripple = 18 + 5 * np.cos(12 * turns) + np.where(np.arange(512) % 2, 0.4, 0)
    rippled = shapely.Polygon(np.column_stack([30 + ripple * np.cos(turns), 30 + ripple * np.sin(turns)]))
    bars = shapely.union_all(
        [shapely.box(62 + 9 * i, 8, 66 + 9 * i, 52) for i in range(4)] + [shapely.box(62, 28, 93, 32)]
    )
    region = shapely.MultiPolygon([rippled.difference(shapely.Point(30, 30).buffer(6)), bars])
    how = Sinking("v", 4, (Bit("flat", 3), Bit("v", 12, angle_deg=60)))
    began = time.perf_counter()
    axis = medial_axis(region, 0.003)
    found = time.perf_counter() - began
    began = time.perf_counter()
    made = carve_outlines(region, (100.0, 60.0), how, Board((120, 80, 18)), Machine(), POSTS[0])
    took = time.perf_counter() - began
    rows, columns = np.indices(made.stock.tops.shape)
    x, y = made.stock.left + columns * made.stock.cell, made.stock.low + rows * made.stock.cell
    beside = ~shapely.contains_xy(region.buffer(1e-6), x, y)
    outside = abs(float(made.stock.tops[beside].min()))
    over = made.left[np.isfinite(made.left)]
    left = float(np.quantile(over, 0.995))
    count = shapely.get_num_coordinates(region)
    gouge = made.facts["gouge_max_mm"]
    return [
        Row(f"V-carving of {count} segments: medial axis of {axis.length:.0f} mm", f"{found:.2f} s", "told", True),
        Row("V-carving: cuts in", f"{gouge * 1000:.2f} µm", "≤ 5 µm", gouge <= 0.005),
        Row("V-carving: cut outside the outline", f"{outside * 1000:.2f} µm", "0", outside == 0),
        Row("V-carving: left on all but 0.5 %, ridges of 0.05 mm asked", f"{left:.3f} mm", "≤ 0.057 mm", left <= 0.057),
        Row("V-carving: planned and proved", f"{took:.1f} s", "≤ 60 s", took <= 60),
        Row("V-carving: faults", f"{len(made.faults)}", "0", not made.faults),
    ]


def reach() -> list[Row]:
    """What one bit cannot reach at preview size, as a slider asks for it."""
    ground = fractal()[::4, ::4]
    field = HeightField(ground.astype(np.float32), np.ones(ground.shape, np.float32), 4 * PITCH)
    slowest = 0.0
    for bit in BITS.values():
        asked = asked_of(field, 1.5 * bit.radius)
        reach_of(asked, (bit,), 0.05)
        took = min(_wall(lambda bit=bit: reach_of(asked_of(field, 1.5 * bit.radius), (bit,), 0.05)) for _ in range(3))
        slowest = max(slowest, took)
    return [
        Row(
            "Reach of one bit over 500² samples, as a slider moves, slowest bit",
            f"{slowest * 1000:.0f} ms",
            "≤ 300 ms",
            slowest <= 0.3,
        )
    ]


def _kept(made: Carved) -> float:
    """The share of the surface where no more stands over what bits reach than scallop, tolerance and 2 µm."""
    over = (made.stock.tops - made.reach)[np.isfinite(made.asked)]
    return float((over <= 0.01 + 0.0075 + 0.002).mean())


def _carved(heights: NDArray[np.float64], job: Job) -> Carved:
    field = HeightField(heights[::-1].astype(np.float32), np.ones(heights.shape, np.float32), PITCH)
    return carve(field, 11.0, job, BOARD, Machine(), POSTS[0])


def _cpu(work):  # type: ignore[no-untyped-def]
    began = time.process_time()
    made = work()
    return time.process_time() - began, made


def _wall(work) -> float:  # type: ignore[no-untyped-def]
    began = time.perf_counter()
    work()
    return time.perf_counter() - began
