"""`nebrel warm-up`: compile the hot loops once, so that no one waits for it later."""

import io
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from multiprocessing import get_context

import manifold3d
import numpy as np
import shapely
from PIL import Image

from nebrel.core.carve.bits import Bit
from nebrel.core.carve.board import Board, Machine
from nebrel.core.carve.finish import Direction, Finishing
from nebrel.core.carve.plan import Job
from nebrel.core.carve.program import POSTS
from nebrel.core.carve.sunk.sinking import Sinking
from nebrel.core.csg.boolean import mesh_of
from nebrel.core.height import HeightField, add_draft, with_lines
from nebrel.core.heightfield.from_above import heights_from_above
from nebrel.core.heightfield.slab import build_slab
from nebrel.core.jit import drop_old_kernels
from nebrel.core.mend.pipeline import mend
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.distance import measure_between
from nebrel.core.mesh.formats import read_mesh, write_mesh
from nebrel.core.mesh.remesh import remesh
from nebrel.core.picture import Picture, SourceFacts, read_picture
from nebrel.core.proof.carving import carve
from nebrel.core.proof.from_behind import nearest_wall
from nebrel.core.proof.sinking import carve_outlines
from nebrel.core.surface.art import Setting, art_of_picture, art_of_region
from nebrel.core.surface.decorate import decorate
from nebrel.core.surface.displace.sculpt import BrushStroke, sculpt
from nebrel.core.surface.laying import Decoration
from nebrel.core.surface.parameterize.chart import Way
from nebrel.core.surface.placing import Box, place_decoration
from nebrel.core.surface.scatter.copies import Copies
from nebrel.core.surface.skin.skin import skin_of
from nebrel.core.tinted.filters import read_filters
from nebrel.core.tinted.mix import FilterBands, choose_mixtures
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.figure.document import FigureDocument
from nebrel.piece.kinds.figure.evaluator import FigureEvaluator
from nebrel.piece.kinds.lithophane.colours import MEASURED
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.kinds.lithophane.evaluator import LithophaneEvaluator
from nebrel.piece.kinds.outline.tracing import Trace, trace_picture
from nebrel.piece.kinds.panel.body import EdgePart, PanelBodyPart
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.kinds.panel.evaluator import PanelEvaluator
from nebrel.piece.kinds.panel.height import DraftPart, Height, Rounding
from nebrel.piece.ops import OP_OF
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.parts.refusals import parse_part

COMPILED_OPS: dict[str, dict[str, float]] = {"deblock": {}, "deband": {}, "median": {"radius_mm": 1.0}}


def warm_up() -> None:
    """Compile the hot loops once, so that no one waits for it later."""
    with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
        for run in [
            pool.submit(part)
            for part in (_decorate_something, _make_relief, _trace_something, _make_figure, _carve_something)
        ]:
            run.result()
    drop_old_kernels()


def _make_relief() -> None:
    """A tiny relief and lithophanes of it, built, measured and looked at."""
    file = io.BytesIO()
    Image.fromarray(np.random.default_rng(1).integers(0, 255, (24, 32), dtype=np.uint8)).save(file, "PNG")
    data = file.getvalue()
    source = picture_source("0" * 64, "warm-up.png", read_picture(data).facts)
    ops = tuple(OP_OF[kind].model_validate({"kind": kind, **parameters}) for kind, parameters in COMPILED_OPS.items())
    height = Height(draft=DraftPart(on=True), rounding=Rounding(on=True))
    body = PanelBodyPart(width_mm=8, shape="ellipse", edge=EdgePart(bevel_on=True, bevel_mm=0.2))
    document = PanelDocument(title="Warm-up", picture=source, ops=ops, height=height, body=body)
    sources = Sources(lambda _: data, ResultCache(2**20))
    evaluator = PanelEvaluator(document, sources)
    slab, _ = evaluator.build()
    evaluator.thumbnail()
    stl = io.BytesIO()
    write_mesh(slab.mesh, stl, "stl")
    read_mesh(stl.getvalue(), "warm-up.stl")
    write_mesh(slab.mesh, io.BytesIO(), "obj")
    measure_between(slab.mesh, slab.mesh)
    evaluator.surface_map("thickness")
    evaluator.surface_map("deviation")
    evaluator.target()
    remesh(slab.mesh, 0.5)
    mend(TriMesh(slab.mesh.vertices, slab.mesh.faces[: len(slab.mesh.faces) // 2]))
    heights_from_above(slab.mesh, 16)
    nearest_wall(slab.mesh, "top", 16)
    _make_edges()
    for form in ("flat", "cylinder"):
        bent = {"title": "Warm-up", "picture": source.model_dump(), "glow": {}, "form": {"kind": form, "width_mm": 60}}
        lithophane = LithophaneEvaluator(parse_part(LithophaneDocument, bent), sources)
        lithophane.build()
        lithophane.thumbnail()
    bands = FilterBands(read_filters(MEASURED), 1, 0.1, 1.0)
    for spread in (False, True):
        choose_mixtures(np.ones((2, 2, 3)), bands, 8.0, spread)


def _make_edges() -> None:
    """A soft and a hard disc that cross each other and one by itself, whose walls are upright and lean."""
    row, column = np.mgrid[0:48, 0:64]
    soft = np.clip(14.3 - np.hypot(column - 22.2, row - 24.1), 0, 1) * 2
    alone = np.clip(5.4 - np.hypot(column - 57.3, row - 41.2), 0, 1)
    heights = np.where(np.hypot(column - 42, row - 20) < 13, 1.0, soft + alone).astype(np.float32)
    lined = with_lines(HeightField(heights, np.ones_like(heights), 0.25), 0.02)
    for field in (lined, add_draft(lined, 70.0)):
        build_slab(field, 1.0, 0.02, between=True)


def _make_figure() -> None:
    """A square in the round, built and measured."""
    file = io.BytesIO()
    Image.fromarray(np.pad(np.full((24, 24, 2), 255, dtype=np.uint8), ((8, 8), (8, 8), (0, 0))), "LA").save(file, "PNG")
    data = file.getvalue()
    source = picture_source("0" * 64, "square.png", read_picture(data).facts)
    plain = {"title": "Warm-up", "picture": source.model_dump(), "figure": {"cells": 64, "width_mm": 20}}
    sources = Sources(lambda _: data, ResultCache(2**20))
    FigureEvaluator(parse_part(FigureDocument, plain), sources).build()


def _carve_something() -> None:
    """A bump, roughed by a flat bit, finished by a ball and mended by a finer one, and run."""
    row, column = np.mgrid[0:61, 0:61] - 30.0
    bump = np.maximum(2 - np.hypot(row, column) * 0.1, 0) + (row > 20)
    field = HeightField(bump.astype(np.float32), np.ones(bump.shape, dtype=np.float32), 0.1)
    finishing = Finishing(0.05)
    directions: tuple[Direction, ...] = (0.0, "contour")
    for direction in directions:
        job = Job((Bit("ball", 3), Bit("ball", 0.8)), Bit("flat", 3), finishing=replace(finishing, direction=direction))
        carve(field, 4.0, job, Board((20, 20, 5)), Machine(), POSTS[0])
    square = shapely.MultiPolygon([shapely.box(1, 1, 9, 9).buffer(0.5)])
    sinking = Sinking("v", 1.0, (Bit("flat", 2), Bit("v", 6, angle_deg=90)))
    carve_outlines(square, (10.0, 10.0), sinking, Board((20, 20, 5)), Machine(), POSTS[0])


def _trace_something() -> None:
    """A ring with a tail, so that curves, corners, open lines and crossings all come up."""
    row, column = np.mgrid[0:64, 0:64] - 31.5
    away = np.hypot(row, column)
    tones = np.clip(np.minimum(20 - away, away - 14) + 0.5, 0, 1).astype(np.float32)
    tones[30:34, 40:] = 1.0
    tones += np.random.default_rng(1).normal(0, 0.02, tones.shape).astype(np.float32)
    picture = Picture(tones.clip(0, 1), np.ones_like(tones), SourceFacts("PNG", 64, 64, 8, "gray"))
    for by in ("level", "tones", "centre-line"):
        trace_picture(picture, Trace.model_validate({"by": by, "tones": 2, "ink": "bright"}), 6.0)


def _decorate_something() -> None:
    """A relief and a ring of marks on a small ball, placed, laid and brushed."""
    ball = mesh_of(manifold3d.Manifold.sphere(10, 48))
    skin, at, up = skin_of(ball), np.array([10.0, 0.0, 0.0]), np.array([0.0, 0.0, 1.0])
    tones = np.random.default_rng(1).random((24, 24)).astype(np.float32)
    relief = art_of_picture(
        Picture(tones, np.ones_like(tones), SourceFacts("PNG", 24, 24, 8, "gray")), 6, "bright", True
    )
    mark = art_of_region(shapely.MultiPolygon([shapely.box(0, 0, 2, 1)]), 2)
    place_decoration(skin, at, up, Box((2, 1)), Copies("row", 3, across=3), 3, True)
    laid = [
        Decoration(relief, at, up, Setting(0.3)),
        Decoration(mark, -at, up, Setting(-0.2), Way("wrap"), Copies("row", 3, across=3)),
    ]
    texture = Decoration(relief, at, up, Setting(0.2, tiled=True))
    decorate(skin, [texture], 0.05, 0.5)
    made = decorate(skin, laid, 0.02, 0.5)
    sculpt(made.mesh, made.of_decoration > 0, [BrushStroke("smooth", at[np.newaxis], 1.5, 0.5)])
