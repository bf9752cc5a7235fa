"""`nebrel wedge` and `fit-material`: how a material lets light through."""

from __future__ import annotations

import json as jsons
from math import isfinite
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from nebrel.cli.endings import MESHES
from nebrel.cli.files import check_target
from nebrel.cli.lithophanes import AsJson, Output
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length
from nebrel.interface.reading import read_file

if TYPE_CHECKING:
    from nebrel.core.height.wedge_fit import Fit

MOST_READING_BYTES = 2**20


def wedge(
    output: Output,
    steps: Annotated[int, typer.Option(help="How many steps, 3 to 40.")] = 10,
    thinnest: Annotated[str, typer.Option(help="Thinnest step.")] = "0.4",
    thickest: Annotated[str, typer.Option(help="Thickest step.")] = "6.4",
    json: AsJson = False,
) -> int:
    """Make a step wedge to print, for measuring how a material lets light through."""
    check_target(output, MESHES)

    from nebrel.core.bent.wedge import make_wedge
    from nebrel.core.height.calibrate import wedge_steps
    from nebrel.core.mesh.formats import format_of
    from nebrel.interface.writing import save_mesh

    thicknesses = wedge_steps(steps, parse_length(thinnest), parse_length(thickest))
    mesh = make_wedge(thicknesses)
    save_mesh(mesh, output, format_of(output.name), lambda _: None)
    told = [round(float(step), 4) for step in thicknesses]
    if json:
        print(
            jsons.dumps({"steps_mm": told, "triangles": len(mesh.faces), "file_bytes": output.stat().st_size}, indent=2)
        )
    else:
        print(f"{output}: {steps} steps of {', '.join(f'{step:g}' for step in told)} mm, thinnest left")
    return 0


def fit(
    readings: Annotated[
        Path,
        typer.Argument(
            help="CSV of mm and brightness; 0 is the bare light, dark the covered one; edge,mm,brightness over a step."
        ),
    ],
    keep: Annotated[str | None, typer.Option(help="Keep the material under this name in the table.")] = None,
    json: AsJson = False,
) -> int:
    """Fit attenuation and surface loss to readings behind a step wedge."""
    try:
        text = read_file(readings, MOST_READING_BYTES).decode("utf-8-sig")
    except UnicodeDecodeError as cause:
        raise BadValueError(f"{readings.name} is not plain text; lines like 0.8,0.42 are needed.") from cause

    from nebrel.core.height.calibrate import read_edge, read_readings
    from nebrel.core.height.spread import spread_of_edge
    from nebrel.core.height.wedge_fit import fit_material
    from nebrel.jobs.workshop import open_workshop
    from nebrel.piece.parts.material import TranslucentMaterialPart
    from nebrel.piece.parts.refusals import parse_part
    from nebrel.settings import Settings
    from nebrel.store.materials import MaterialFacts

    text, across = read_edge(text)
    spread = None if across is None else spread_of_edge(*across)
    thickness, brightness = read_readings(text)
    found = fit_material(thickness, brightness)
    if keep is not None:
        spread_mm = 0.0 if spread is None else round(spread[0], 4)
        kept = parse_part(TranslucentMaterialPart, {
            "name": keep, "attenuation_per_mm": found.material.attenuation, "surface_loss": found.material.surface_loss,
        })  # fmt: skip
        workshop = open_workshop(Settings())
        try:
            workshop.materials.add(MaterialFacts(**kept.model_dump(), measured=True, spread_mm=spread_mm))
        finally:
            workshop.close()
    _tell_fit(found, thickness.tolist(), brightness.tolist(), spread, json)
    return 0


def _tell_fit(
    found: Fit, thickness: list[float], brightness: list[float], spread: tuple[float, float] | None, json: bool
) -> None:
    from nebrel.core.proof.fit_audit import fit_findings
    from nebrel.piece.report import FindingReport

    material, residuals = found.material, found.residuals.tolist()
    findings = [FindingReport.of(finding) for finding in fit_findings(found)]
    if json:
        rows = [
            {"thickness_mm": thick if isfinite(thick) else None, "brightness": bright, "residual": round(left, 6)}
            for thick, bright, left in zip(thickness, brightness, residuals, strict=True)
        ]
        within = {
            "attenuation_per_mm": found.attenuation, "surface_loss": found.surface_loss, "dark_offset": found.offset,
        }  # fmt: skip
        facts = {
            "attenuation_per_mm": round(material.attenuation, 6),
            "attenuation_error": round(found.attenuation_error, 6),
            "surface_loss": round(material.surface_loss, 6) if found.bare else None,
            "dark_offset": round(found.dark_offset, 6),
            "intervals": {
                name: None if each is None else [round(each.low, 6), round(each.high, 6)]
                for name, each in within.items()
            },
            "spread_mm": None if spread is None else round(spread[0], 4),
            "spread_error": None if spread is None else round(spread[1], 4),
            "rms_residual": round(found.rms, 6),
            "findings": [finding.model_dump(mode="json") for finding in findings],
            "readings": rows,
        }
        print(jsons.dumps(facts, indent=2))
        return
    loss = f"{material.surface_loss:.1%}" if found.bare else "unknown, for the bare light was not read"
    low, high = found.attenuation.low, found.attenuation.high
    print(f"attenuation {material.attenuation:.4f} per mm ({low:.4f} to {high:.4f}, 95 of 100), surface loss {loss}")
    print(f"dark offset {found.dark_offset:.2%}")
    for thick, bright, left in zip(thickness, brightness, residuals, strict=True):
        step = f"{thick:8.3f} mm" if isfinite(thick) else "    covered"
        print(f"{step}  {bright:10.5g}  {left:+.2%}")
    if spread is not None:
        print(f"light spreads by {spread[0]:.3f} mm, give or take {spread[1]:.3f}")
    print(f"residuals: RMS {found.rms:.2%}")
    for finding in findings:
        print(f"{finding.severity}: {finding.what} {finding.why}")
