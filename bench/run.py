"""Measure everything and write `docs/benchmarks.md`."""

import platform
import sys
import time
from collections.abc import Callable
from datetime import date
from pathlib import Path

from bench import (
    batch,
    beginnings,
    carving,
    crowd,
    curves,
    decorations,
    edges,
    figures,
    forms,
    icons,
    layers,
    layouts,
    lithophanes,
    mending,
    moulds,
    start,
)
from bench.cancelling import cancelling
from bench.history import HISTORY, note, pace_of_machine
from bench.large import large_build, largest_build, noise_build
from bench.meshes import formats, lighter, reading
from bench.outlines import tracing, truth
from bench.pages import (
    first_page,
    following_the_pointer,
    opening_a_model,
    shaping_by_hand,
    slider_to_picture,
    turning_a_model,
)
from bench.pictures import graph_cut, many_ops, op_sliders, truths
from bench.report import Row, as_table
from bench.solids import against_collapse, demo_solids, errors, speed, stl_writing

TARGET = Path(__file__).parent.parent / "docs" / "benchmarks.md"
CASES: dict[str, list[Callable[[], list[Row]]]] = {
    "Start": [start.commands, start.demo],
    "Solids": [demo_solids, errors],
    "Edges": [edges.walls, edges.speed, curves.bent_and_laid],
    "Speed": [speed, against_collapse, stl_writing],
    "Large pictures": [large_build, cancelling],
    "Largest pictures": [largest_build, noise_build],
    "Pictures": [op_sliders, graph_cut, truths, many_ops],
    "Outlines": [tracing, truth, icons.icons],
    "Lithophanes": [lithophanes.speed, lithophanes.fitting],
    "Figures": [figures.drawn, figures.truth, figures.silhouettes, figures.speed],
    "Forms": [forms.truth, forms.order, forms.speed, forms.modelling],
    "Moulds and laid reliefs": [moulds.truth, moulds.laid],
    "Decorations": [
        decorations.speed,
        decorations.hovering,
        decorations.truth,
        layouts.round_shapes,
        layouts.plates_and_edges,
    ],
    "Carving": [carving.offset, carving.jobs, carving.every_bit, carving.rings, carving.v_carving, carving.reach],
    "Layers": [layers.live, layers.sides, layers.slider],
    "Meshes": [lighter, formats, reading],
    "Mending": [mending.corpus_mended],
    "Many at once": [crowd.previews, crowd.crowd, crowd.queue, batch.two_workers],
    "Beginnings": [beginnings.choices, beginnings.shelf, beginnings.joining],
    "Pages": [first_page, opening_a_model, following_the_pointer, turning_a_model, slider_to_picture, shaping_by_hand],
}
# Measured where none is named; together they are to end within eight minutes.
DAILY = ("Start", "Solids", "Speed", "Pictures", "Outlines", "Lithophanes")
ALL = "all"
NOTES = {
    "Edges": """\
Shapes drawn as pictures of 8 bits, their edges soft (by what they cover of every pixel) or hard; the
finished solid is cut at a tenth, half and nine tenths of its wall's height, and every quarter of a sample
along the cut is compared with the curve that the picture was drawn from. A hard
picture tells an upright stroke to half a pixel either way and no better. What is bent, or lies on a skin, is
unrolled first.
""",
    "Forms": """\
Reliefs 4 mm high of the 36 drawn shapes and the known solids, before a ground. Their normals are compared with those of
the true form, held back alike. By tones: the better of an even rule and a held-back one. Overlaps are those of the true
form; a hand that sees which are the wrong way round draws a stroke on either side of each, by steps of a tenth of the
depth, up to six times.
""",
    "Figures": """\
Drawn shapes: 18 of families that training never draws, 18 of the others drawn anew; their overlap
is that of columns, front to back, that of known solids is counted on a lattice of 96 points a side.
Depth is after the best shift and scale. Strokes are those of a hand that turns the figure and sees
which side of it is most wrong: it knows which way, and a coarse step of a fifth of the depth; it
moves a part, or makes it thicker or thinner, along all that is off alike, and leaves what is off by
less than half a step. Figures on cells are by the outline.
""",
}
INTRODUCTION = """# Benchmarks

Written by `make bench`, on {machine} with Python {python}; every part says when. Times are the best of
several runs that took turns; ratios were measured side by side in one run. The relief is fractal ground
(`bench/heights.py`), 16 bit, 5 mm tall. The browser runs without a graphics card, so all 3D is drawn by the processor.
"""


def main() -> None:
    """Run the daily cases, those whose titles are named on the command line, or all; write what they gave."""
    named = list(CASES) if sys.argv[1:] == [ALL] else sys.argv[1:]
    chosen = named or [title for title in CASES if title in DAILY]
    kept, began, slower = _kept(), time.monotonic(), []
    for number, title in enumerate(chosen, 1):
        print(f"\n{title}, part {number} of {len(chosen)}, after {(time.monotonic() - began) / 60:.1f} min", flush=True)
        rows, started = [], time.monotonic()
        pace = pace_of_machine()
        for case in CASES[title]:
            for row in case():
                print(f"{row.what}: {row.measured} (bound {row.bound}) {row.verdict}", flush=True)
                rows.append(row)
        slower += note(title, rows, pace)
        minutes = (time.monotonic() - started) / 60
        words = NOTES.get(title, "") + f"Measured on {date.today().isoformat()}, in {minutes:.1f} min.\n"
        kept[title] = f"{words}\n{as_table(rows)}\n"
        introduction = INTRODUCTION.format(
            machine=f"{platform.machine()}, {_cores()} cores", python=platform.python_version()
        )
        parts = [f"## {title}\n\n{kept[title]}" for title in CASES if title in kept]
        TARGET.write_text("\n".join([introduction, *parts]))
    print(f"\nDone in {(time.monotonic() - began) / 60:.1f} min; {TARGET.name} and {HISTORY.name} have it.")
    if slower:
        print("Slower than when it was measured last, the pace of the machine allowed for:", *slower, sep="\n")
    else:
        print("Nothing is slower than when it was measured last.")
    left = [title for title in CASES if title not in chosen]
    if not named and left:
        print(f"Measured only when they are named, or all of them by “make bench-all”: {', '.join(left)}.")


def _kept() -> dict[str, str]:
    """What was measured before, by title."""
    parts = TARGET.read_text().split("\n## ")[1:] if TARGET.exists() else []
    return {title: text.strip() + "\n" for title, _, text in (part.partition("\n") for part in parts)}


def _cores() -> int:
    import os

    return os.cpu_count() or 1


if __name__ == "__main__":
    main()
