"""Speed and truth of lithophanes."""

import tempfile

import numpy as np
from pydelatin import Delatin

from bench.heights import as_png, fractal
from bench.report import Row
from bench.timing import best_of
from nebrel.core.bent.forms import Flat, Form, cylinder
from nebrel.core.bent.lithophane import make_lithophane
from nebrel.core.bent.parts import WallParts
from nebrel.core.bent.sheet import Border, lay_out
from nebrel.core.height.calibrate import light_box, wedge_steps
from nebrel.core.height.transmission import TranslucentMaterial, TransmissionRule
from nebrel.core.height.wedge_fit import fit_material
from nebrel.core.mesh.formats.stl import write_stl
from nebrel.core.picture import read_picture
from nebrel.demo.pictures.hills import draw_hills

SIDE_PX, WIDTH_MM, TOLERANCE_MM = 2048, 180.0, 0.02
RULE = TransmissionRule(0.8, 3.5, TranslucentMaterial(1.05, 0.12))
SHAKES = 40


def speed() -> list[Row]:
    """Picture to file against a bare triangulation of the same thicknesses."""
    rows = []
    for name, tones in (("fractal", fractal(SIDE_PX)), ("hills", _hills())):
        data = as_png(tones)
        thickness = RULE.thickness(read_picture(data).tones)
        bare, flat, bent = best_of(
            3,
            lambda thickness=thickness: Delatin(thickness, max_error=TOLERANCE_MM),
            lambda data=data: _made(data, Flat(WIDTH_MM, WIDTH_MM)),
            lambda data=data: _made(data, cylinder(WIDTH_MM, WIDTH_MM)),
        )
        for form, whole in (("flat", flat), ("cylinder", bent)):
            told = f"{whole / bare:.2f} × a bare pydelatin call ({whole:.2f} s against {bare:.2f} s)"
            rows.append(Row(f"Picture to lithophane STL, {SIDE_PX}² {name}, {form}", told, "≤ 3 ×", whole <= 3 * bare))
    return rows


def fitting() -> list[Row]:
    """How well a simulated material is recovered from single readings that shake by 1 %."""
    thickness = np.concatenate([[0.0], wedge_steps(10)])
    rows = []
    for attenuation, bound in ((2.0, 0.01), (1.05, 0.01), (0.7, 0.01), (0.3, None)):
        worst = 0.0
        for seed in range(SHAKES):
            read = light_box(TranslucentMaterial(attenuation, 0.12), thickness, 0.01, seed)
            worst = max(worst, abs(fit_material(thickness, read).material.attenuation / attenuation - 1))
        told = f"{worst:.2%} off at most over {SHAKES} wedges"
        holds = None if bound is None else worst <= bound
        rows.append(
            Row(f"Fit of {attenuation:g} per mm, 1 % noise", told, "not bound" if bound is None else "≤ 1 %", holds)
        )
    return rows


def _hills() -> np.ndarray:
    drawn = draw_hills()
    rows, columns = (np.linspace(0, side - 1, SIDE_PX) for side in drawn.shape)
    fit = drawn[np.round(rows).astype(int)][:, np.round(columns).astype(int)]
    return np.round(fit * 65_535).astype(np.uint16)


def _made(data: bytes, form: Form) -> None:
    thickness = RULE.thickness(read_picture(data).tones)
    sheet = lay_out(thickness, form.width, form.height, Border(), 0.0)
    made = make_lithophane(sheet, form, False, RULE.thickest, WallParts(), TOLERANCE_MM)
    with tempfile.TemporaryFile() as file:
        write_stl(made.mesh, file)
