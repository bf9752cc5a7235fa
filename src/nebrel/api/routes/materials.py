"""Materials of lithophanes, and how to measure one: print a wedge, read it, fit."""

import io
from dataclasses import asdict
from typing import Annotated

import numpy as np
from fastapi import File, Form, UploadFile
from starlette.concurrency import run_in_threadpool
from starlette.responses import Response

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.lithophanes import FitView, LightBoxOrder, MaterialEdit, MaterialView, Readings
from nebrel.api.serving.context import InContext
from nebrel.api.serving.routes import group
from nebrel.api.serving.uploads import received
from nebrel.core.bent.wedge import make_wedge
from nebrel.core.errors import BadValueError
from nebrel.core.height.calibrate import light_box, read_edge, read_readings, wedge_steps
from nebrel.core.height.spread import spread_of_edge
from nebrel.core.height.wedge_fit import COVERED, fit_material
from nebrel.core.mesh.formats import write_mesh
from nebrel.core.proof.fit_audit import fit_findings
from nebrel.jobs.beginnings import wedge_in
from nebrel.piece.report import FindingReport
from nebrel.store.materials import KeptMaterial, MaterialFacts

MOST_READING_BYTES = 2**20
router = group("materials")


@router.get("/materials")
def list_materials(context: InContext) -> list[MaterialView]:
    """The materials to choose from."""
    return [_view(material) for material in context.workshop.materials.all()]


@router.post("/materials", status_code=201)
def add_material(context: InContext, material: MaterialEdit) -> MaterialView:
    """Keep a further material."""
    return _view(context.workshop.materials.add(_facts(material)))


@router.put("/materials/{material_id}")
def change_material(context: InContext, material_id: int, material: MaterialEdit) -> MaterialView:
    """Change a material; pieces keep the values that they were made with."""
    return _view(context.workshop.materials.change(material_id, _facts(material)))


@router.delete("/materials/{material_id}", status_code=204)
def drop_material(context: InContext, material_id: int) -> None:
    """Remove a material; pieces keep the values that they were made with."""
    context.workshop.materials.drop(material_id)


@router.get("/wedge.stl", response_class=Response)
def download_wedge(steps: int = 10) -> Response:
    """A step wedge to print and to measure a material with."""
    file = io.BytesIO()
    write_mesh(make_wedge(wedge_steps(steps)), file, "stl")
    return Response(
        file.getvalue(),
        media_type="model/stl",
        headers={"Content-Disposition": f'attachment; filename="wedge-{steps}-steps.stl"'},
    )


@router.get("/wedge")
def tell_wedge(steps: int = 10) -> list[float]:
    """Thicknesses of a wedge's steps, mm, thinnest first."""
    return [float(thickness) for thickness in wedge_steps(steps)]


@router.post("/light-box")
def read_light_box(order: LightBoxOrder) -> Readings:
    """What the simulated light box reads behind a wedge of a material, the bare light first."""
    thickness = np.concatenate([[0.0], wedge_steps(order.steps)])
    read = light_box(order.material.to_core(), thickness, order.noise, order.seed)
    return Readings(thickness_mm=thickness.round(6).tolist(), brightness=read.round(6).tolist())


@router.post("/wedge-readings")
def read_csv(readings: Annotated[UploadFile, File()]) -> Readings:
    """Readings from a CSV file of thicknesses in mm and brightnesses."""
    name, data = received(readings, MOST_READING_BYTES, "readings.csv")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as cause:
        raise BadValueError(f"{name} is not plain text; lines like 0.8,0.42 are needed.") from cause
    text, across = read_edge(text)
    thickness, brightness = read_readings(text)
    dark = np.isinf(thickness)
    return Readings(
        thickness_mm=thickness[~dark].tolist(),
        brightness=brightness[~dark].tolist(),
        dark=brightness[dark].tolist(),
        edge=[] if across is None else list(zip(*(each.tolist() for each in across), strict=True)),
    )


@router.post("/wedge-photograph")
async def read_photo(
    asking: InAsking, photograph: Annotated[UploadFile, File()], steps: Annotated[int, Form()] = 10
) -> Readings:
    """Brightness per step from a photograph of a lit wedge, cropped to its fields, thinnest left."""
    settings = asking.context.workshop.settings
    name, data = await run_in_threadpool(received, photograph, settings.picture_bytes, "photograph")
    thickness = wedge_steps(steps)
    brightness = await asking.read(wedge_in, data, name, settings.read_limits, steps)
    return Readings(thickness_mm=thickness.round(6).tolist(), brightness=brightness.round(6).tolist())


@router.post("/fit-material")
def fit(readings: Readings) -> FitView:
    """Attenuation and surface loss that fit readings best, with what is left over."""
    dark = [COVERED] * len(readings.dark)
    found = fit_material(np.array([*readings.thickness_mm, *dark]), np.array([*readings.brightness, *readings.dark]))
    loss = found.surface_loss
    edge = np.array(readings.edge).reshape(-1, 2)
    spread = spread_of_edge(edge[:, 0], edge[:, 1]) if len(edge) else (None, None)
    return FitView(
        attenuation_per_mm=found.material.attenuation,
        attenuation_error=found.attenuation_error,
        surface_loss=found.material.surface_loss,
        bare=found.bare,
        dark_offset=found.dark_offset,
        attenuation_within=(found.attenuation.low, found.attenuation.high),
        surface_loss_within=None if loss is None else (loss.low, loss.high),
        residuals=found.residuals[: len(readings.brightness)].tolist(),
        rms=found.rms,
        spread_mm=spread[0],
        spread_error=spread[1],
        findings=[FindingReport.of(finding) for finding in fit_findings(found)],
    )


def _facts(material: MaterialEdit) -> MaterialFacts:
    return MaterialFacts(**material.model_dump())


def _view(kept: KeptMaterial) -> MaterialView:
    return MaterialView(id=kept.id, **asdict(kept.facts))
