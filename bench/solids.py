"""Size, error, closedness and speed of built solids."""

import tempfile
from pathlib import Path

import fast_simplification
import numpy as np
from pydelatin import Delatin

from bench.heights import RELIEF_MM, WIDTH_MM, as_png, fractal
from bench.report import Row
from bench.timing import best_of
from nebrel.core.height import HeightField, straight_heights
from nebrel.core.heightfield.deviation import measure_deviation
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats.stl import read_stl, write_stl
from nebrel.core.panel.body import PanelBody
from nebrel.core.panel.build import build_panel
from nebrel.core.panel.layout import layout_of
from nebrel.core.picture import read_picture
from nebrel.core.proof import check_soundness
from nebrel.demo.scenario import SAMPLES
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.kinds.panel.evaluator import PanelEvaluator
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.parts.refusals import parse_part

BODY = PanelBody(1.2)
TOLERANCE_MM = 0.02
SIDE_PX = 1025


def demo_solids() -> list[Row]:
    """Every demo piece: size against what was asked, error against the tolerance, soundness of the file."""
    size_off, worst_share, sound = 0.0, 0.0, 0
    panels = [sample for sample in SAMPLES if not {"trace", "glow", "figure"} & set(sample.parts)]
    for sample in panels:
        data = sample.file()
        facts = read_picture(data).facts
        source = picture_source("0" * 64, sample.file_name, facts)
        document = parse_part(PanelDocument, {"title": sample.title, "picture": source.model_dump(), **sample.parts})
        evaluator = PanelEvaluator(document, Sources(lambda _, data=data: data, ResultCache(10**8)))
        slab, report = evaluator.build()
        with tempfile.TemporaryFile() as file:
            write_stl(slab.mesh, file)
            file.seek(0)
            again = check_soundness(read_stl(file.read()))
        sound += again.sound
        backing = document.body.backing_mm
        worst_share = max(worst_share, report.max_error_mm / report.tolerance_mm)
        field = evaluator.target()
        if document.body.shape != "outline":
            asked = (field.width, field.depth, float(field.heights.max(where=field.material, initial=0)) + backing)
            size_off = max(size_off, *(abs(a - b) for a, b in zip(asked, again.size, strict=True)))
    return [
        Row(
            "Size of the file against what was asked", f"{size_off:.6f} mm off at most", "≤ 0.001 mm", size_off <= 0.001
        ),
        Row("Largest surface error of demo builds", f"{worst_share:.4f} × tolerance", "≤ 1 ×", worst_share <= 1),
        Row("Demo files re-read and sound", f"{sound} of {len(panels)}", "all", sound == len(panels)),
    ]


def errors() -> list[Row]:
    """The promise at several tolerances."""
    picture = read_picture(as_png(fractal(SIDE_PX)))
    field = straight_heights(picture, "bright", RELIEF_MM, WIDTH_MM)
    rows = []
    for tolerance in (0.1, 0.05, 0.02, 0.01, 0.005):
        slab = build_panel(layout_of(field, BODY), tolerance)
        reached = slab.deviation.max
        rows.append(
            Row(
                f"1,025² at {tolerance:g} mm: {len(slab.mesh.faces):,} triangles",
                f"largest error {reached:.6f} mm, RMS {slab.deviation.rms:.6f} mm",
                f"≤ {tolerance:g} mm",
                reached <= tolerance,
            )
        )
    return rows


def speed() -> list[Row]:
    """Picture to file against a bare triangulation of the same heights, and against dense grid plus collapse."""
    data = as_png(fractal(SIDE_PX))
    field = straight_heights(read_picture(data), "bright", RELIEF_MM, WIDTH_MM)
    with tempfile.TemporaryDirectory() as folder:
        target = Path(folder) / "out.stl"

        def picture_to_file(proof: bool = False) -> None:
            heights = straight_heights(read_picture(data), "bright", RELIEF_MM, WIDTH_MM)
            slab = build_panel(layout_of(heights, BODY), TOLERANCE_MM)
            if proof:
                check_soundness(slab.mesh)
            with target.open("wb") as file:
                write_stl(slab.mesh, file)

        bare, whole, proved = best_of(
            7,
            lambda: Delatin(field.heights, max_error=TOLERANCE_MM),
            picture_to_file,
            lambda: picture_to_file(True),
        )
    return [
        Row(
            f"Picture to STL, 1,025² at {TOLERANCE_MM} mm",
            f"{whole / bare:.2f} × a bare pydelatin call ({whole:.2f} s against {bare:.2f} s)",
            "≤ 1.5 ×",
            whole <= 1.5 * bare,
        ),
        Row(
            "The same with the proof of soundness",
            f"{proved / bare:.2f} × ({proved:.2f} s)",
            "≤ 2.2 ×",
            proved <= 2.2 * bare,
        ),
    ]


def against_collapse() -> list[Row]:
    """Dense grid and quadric collapse until it has the same true largest error."""
    field = straight_heights(read_picture(as_png(fractal(SIDE_PX))), "bright", RELIEF_MM, WIDTH_MM)
    slab = build_panel(layout_of(field, BODY), 0.05)
    points, faces = _dense(field)
    share, best = 0.5, None
    while share < 0.9999:
        out_points, out_faces = fast_simplification.simplify(points, faces, target_reduction=share)
        mesh = TriMesh(out_points.astype(np.float64), out_faces.astype(np.uint32))
        error = measure_deviation(mesh, field.heights, field.material, field.pitch).max
        if error > slab.deviation.max:
            break
        best = (share, len(out_faces))
        share += (1 - share) * 0.25
    reduction, triangles = best or (0.0, len(faces))
    own, collapse = best_of(
        3,
        lambda: build_panel(layout_of(field, BODY), 0.05),
        lambda: fast_simplification.simplify(*_dense(field), target_reduction=reduction),
    )
    return [
        Row(
            f"Against dense grid + quadric collapse at the same largest error ({slab.deviation.max:.3f} mm)",
            f"{collapse / own:.1f} × faster ({own:.2f} s against {collapse:.2f} s)",
            "≥ 15 ×",
            collapse >= 15 * own,
        ),
        Row(
            "Triangles against the same",
            f"{len(slab.mesh.faces) / triangles:.2f} × ({len(slab.mesh.faces):,} against {triangles:,})",
            "≤ 0.25 ×",
            len(slab.mesh.faces) <= triangles / 4,
        ),
    ]


def _dense(field: HeightField) -> tuple[np.ndarray, np.ndarray]:
    rows, columns = field.heights.shape
    row, column = np.mgrid[0:rows, 0:columns]
    points = np.column_stack(
        [column.ravel() * field.pitch, (rows - 1 - row.ravel()) * field.pitch, field.heights.ravel()]
    ).astype(np.float32)
    at = (row[:-1, :-1] * columns + column[:-1, :-1]).ravel()
    lower, upper = [at, at + columns, at + columns + 1], [at, at + columns + 1, at + 1]
    faces = np.vstack([np.column_stack(lower), np.column_stack(upper)])
    return points, faces.astype(np.int32)


def stl_writing() -> list[Row]:
    """Writing a binary STL against writing the same bytes."""
    field = straight_heights(read_picture(as_png(fractal(SIDE_PX))), "bright", RELIEF_MM, WIDTH_MM)
    mesh = build_panel(layout_of(field, BODY), 0.002).mesh
    raw = np.zeros(84 + 50 * len(mesh.faces), dtype=np.uint8)
    with tempfile.TemporaryDirectory() as folder:
        target = Path(folder) / "out.bin"

        def write() -> None:
            with target.open("wb") as file:
                write_stl(mesh, file)

        own, plain = best_of(5, write, lambda: raw.tofile(target))
    return [
        Row(
            f"Writing a binary STL of {len(mesh.faces):,} triangles",
            f"{plain / own:.2f} × the speed of numpy.tofile ({raw.nbytes / own / 1e6:,.0f} MB/s "
            f"against {raw.nbytes / plain / 1e6:,.0f} MB/s)",
            "≥ 0.8 ×",
            0.8 * own <= plain,
        )
    ]
