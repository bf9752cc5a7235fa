"""The Fernhollow pieces: which picture, and what is made of it."""

import io
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
import tifffile
from PIL import Image

from nebrel.demo.drawings.acorn import draw_acorn
from nebrel.demo.drawings.trail_mark import draw_trail_mark
from nebrel.demo.models.pot import make_pot
from nebrel.demo.models.shapes import make_band, make_dome, make_handle, make_planter, make_shell, make_tile
from nebrel.demo.photographs import BADGER, badger_photograph, by_hand
from nebrel.demo.pictures.fern import draw_fern
from nebrel.demo.pictures.garden import draw_garden
from nebrel.demo.pictures.ginkgo import draw_ginkgo
from nebrel.demo.pictures.hills import draw_hills
from nebrel.demo.pictures.moon import draw_moon
from nebrel.demo.pictures.owl import HEIGHT_PX, WIDTH_PX, draw_owl
from nebrel.demo.pictures.plate import draw_ivy
from nebrel.demo.pictures.pond import draw_pond
from nebrel.demo.pictures.shield import draw_shield
from nebrel.demo.pictures.sketch import photograph
from nebrel.demo.pictures.snail import draw_snail
from nebrel.demo.pictures.stamps import Grid
from nebrel.demo.pictures.stencil import draw_stencil

DPI = 300


@dataclass(frozen=True)
class SamplePiece:
    """A title, the file of its picture, the parts of its document that differ from the defaults, and titles of pieces
    that are laid on it, each with how it lies."""

    title: str
    file_name: str
    file: Callable[[], bytes]
    parts: dict[str, object] = field(default_factory=dict)
    laid: tuple[tuple[str, dict[str, object]], ...] = ()


def _png16(tones: Grid) -> bytes:
    file = io.BytesIO()
    Image.fromarray(np.round(tones * 65_535).astype(np.uint16)).save(file, "PNG", dpi=(DPI, DPI))
    return file.getvalue()


def _png8(tones: Grid) -> bytes:
    file = io.BytesIO()
    Image.fromarray(np.round(tones * 255).astype(np.uint8)).save(file, "PNG", dpi=(DPI, DPI))
    return file.getvalue()


def _cut_out_png8(colours: np.ndarray, coverage: Grid) -> bytes:
    file = io.BytesIO()
    samples = np.dstack([colours, coverage])
    Image.fromarray(np.round(samples * 255).astype(np.uint8), "RGBA").save(file, "PNG", dpi=(DPI, DPI))
    return file.getvalue()


def _tiff16(tones: Grid) -> bytes:
    file = io.BytesIO()
    tifffile.imwrite(
        file, np.round(tones * 65_535).astype(np.uint16), photometric="minisblack", compression="zlib",
        resolution=(DPI, DPI), resolutionunit="INCH", metadata=None, software="Nebrel demo",
    )  # fmt: skip
    return file.getvalue()


def _relief(relief_mm: float, smooth_mm: float = 0.0) -> dict[str, object]:
    return {"rule": {"relief_mm": relief_mm}, "smooth_mm": smooth_mm}


@dataclass(frozen=True)
class SampleSheet:
    """A piece that begins on a new sheet: its size in mm, the tone of its ground, what is written and drawn on it."""

    title: str
    size: tuple[float, float]
    ground: float
    text: str
    ops: tuple[dict[str, object], ...] = ()


@dataclass(frozen=True)
class SampleWhole:
    """A piece that is put together: titles of pieces with where each stands, and ready parts."""

    title: str
    pieces: tuple[tuple[str, dict[str, object]], ...]
    ready: tuple[dict[str, object], ...]


@dataclass(frozen=True)
class SampleModel:
    """A title, the mesh file of a piece that starts from a model, and its decorations, each with its motif."""

    title: str
    file_name: str
    file: Callable[[], bytes]
    decorations: tuple[tuple[str, dict[str, object]], ...] = ()


@dataclass(frozen=True)
class SampleDrawing:
    """A title, the file of a drawing, what it is called as a motif, and the parts that differ from the defaults."""

    title: str
    file_name: str
    file: Callable[[], bytes]
    motif: str
    tags: tuple[str, ...] = ()
    parts: dict[str, object] = field(default_factory=dict)


def _steps(*table: tuple[float, float]) -> dict[str, object]:
    return {"rule": {"kind": "steps", "steps": [{"tone": tone, "mm": mm} for tone, mm in table]}}


IVY_PLATE_OPS = [
    {"kind": "border", "id": "ground", "unit": "%", "left": 4, "right": 76, "top": 4, "bottom": 4, "tone": 0.0},
    {"kind": "lettering", "id": "number", "text": "12", "centre": [1.34, 0.5], "width_mm": 39, "tone": 1.0},
    {"kind": "border", "id": "rim", "left": 2.5, "right": 2.5, "top": 2.5, "bottom": 2.5, "tone": 1.0},
]

TRAIL_PLATE = {
    "width_mm": 110,
    "backing_mm": 2.0,
    "shape": "rounded",
    "corner_mm": 7,
    "openings": [{"kind": "corner-holes", "diameter_mm": 3.2, "inset_mm": 7}],
}
SHIELD: dict[str, object] = {
    "height": {
        "rule": {"relief_mm": 3.0},
        "texture": {"on": True, "kind": "hammered", "size_mm": 3.2, "depth_mm": 0.35},
    },
    "body": {"width_mm": 76, "backing_mm": 1.8},
}
RIDGE_PANEL = {
    "width_mm": 160,
    "backing_mm": 2.0,
    "frame": {"on": True, "width_mm": 5, "height_mm": 7.5, "profile": "bevel"},
}

GINKGO_CUTTER: dict[str, object] = {
    "width_mm": 75,
    "trace": {"by": "tones", "tones": 3, "smallest_part_mm2": 0.1},
    "mend": [{"kind": "drop-tiny", "id": "specks", "smallest_mm2": 1.5}],
    "solid": {"kind": "cutter", "imprint": True, "setback_mm": 4, "rim_round": True},
}
ACORN_STAMP: dict[str, object] = {
    "mend": [{"kind": "offset", "id": "room", "by_mm": 0.1, "join": "round"}],
    "solid": {"kind": "stamp", "plate": {"kind": "ellipse", "margin_mm": 1, "thickness_mm": 3}, "grip": "knob"},
}

LANTERN: dict[str, object] = {
    "glow": {"thinnest_mm": 0.6, "thickest_mm": 4.0},
    "ops": [{"kind": "invert", "id": "night"}],
    "form": {"kind": "cylinder", "width_mm": 251.327},
    "parts": {
        "rim": {"width_mm": 5, "thickness_mm": 4},
        "bottom": {"on": True, "thickness_mm": 2.4, "hole_mm": 34},
        "lid": {"on": True},
    },
}
SNAIL_WINDOW: dict[str, object] = {
    "glow": {"thinnest_mm": 0.8, "thickest_mm": 3.5},
    "form": {"kind": "flat", "width_mm": 90},
    "parts": {
        "rim": {"width_mm": 5, "thickness_mm": 4},
        "name": {"on": True, "text": "Shell path", "height_mm": 3.6, "depth_mm": 2.4},
        "foot": {"on": True},
    },
}
POND_WINDOW: dict[str, object] = {
    "glow": {"thinnest_mm": 0.8, "thickest_mm": 4.0},
    "colours": {"on": True, "layers": 5, "layer_mm": 0.08},
    "form": {"kind": "flat", "width_mm": 120},
    "parts": {"rim": {"width_mm": 4, "thickness_mm": 4}},
    "lamp": {"colour": "#fff9fe"},
    "delivery": {"format": "3mf"},
}
MOON_GLOBE: dict[str, object] = {
    "glow": {"thinnest_mm": 0.8, "thickest_mm": 3.0},
    "form": {"kind": "sphere", "diameter_mm": 90, "opening_mm": 36},
    "parts": {"rim": {"width_mm": 3, "thickness_mm": 3, "top": False}},
}

TRAIL_TOKEN: dict[str, object] = {"solid": {"kind": "raised", "thickness_mm": 1.6, "base": {"kind": "ellipse"}}}

DRAWINGS = (
    SampleDrawing("Trail mark, drawn", "trail-mark.svg", draw_trail_mark, "Trail 7", ("trail", "number"), TRAIL_TOKEN),
    SampleDrawing("Acorn stamp, drawn", "acorn.svg", draw_acorn, "Acorn", ("trail", "autumn"), ACORN_STAMP),
)
MODELS = (
    SampleModel("Planter pot, as it came", "planter-pot.stl", make_pot),
    SampleModel("Wall tile", "wall-tile.stl", make_tile),
    SampleModel("Tool handle", "tool-handle.stl", make_handle),
    SampleModel("Ring band", "ring-band.stl", make_band),
    SampleModel("Cockle shell", "cockle-shell.stl", make_shell),
    SampleModel(
        "Dome stone",
        "dome-stone.stl",
        make_dome,
        (("Acorn", {"at": (2, -24, 24), "width_mm": 30, "turn_deg": 8, "effect": "sink", "depth_mm": 0.8}),),
    ),
    SampleModel(
        "Trail pot",
        "trail-pot.stl",
        make_planter,
        (
            (
                "Trail 7",
                {"at": (0, -32.6, 28), "width_mm": 17, "lie": "wrap", "copies": {"kind": "ring", "count": 8}},
            ),
        ),
    ),
)


def _stroke(name: str, kind: str, amount: float, size: float, *places: tuple[float, float]) -> dict[str, object]:
    """A stroke over the owl, through pixels of its drawing."""
    shares = [(column / (WIDTH_PX - 1), 1 - row / (HEIGHT_PX - 1)) for column, row in places]
    return by_hand(name, kind, amount, size, *shares)


# Wings and beak stand before the body; what no picture says is drawn on by hand, for both sides at once.
OWL_STROKES = [
    _stroke("wing-left", "nearer", 4.0, 4.0, (180, 500), (195, 680), (240, 850)),
    _stroke("beak", "nearer", 2.5, 2.0, (450, 385), (450, 430)),
    _stroke("beak-edge", "ridge", 1.5, 4.0, (450, 370), (450, 460)),
    _stroke("wing-thinner", "thinner", 4.0, 4.0, (180, 500), (195, 680), (240, 850)),
]
OWL_COLOURS = {
    "on": True,
    "of": "filaments",
    "filaments": [
        {"name": "Chalk white", "colour": "#f2efe6"},
        {"name": "Slate black", "colour": "#25282b"},
        {"name": "Bark brown", "colour": "#6b4a2f"},
        {"name": "Straw yellow", "colour": "#d9a441"},
    ],
}
OWL = {
    "width_mm": 60,
    "colour": {"on": True},
    "few": OWL_COLOURS,
    "symmetry": {"on": True},
    "strokes": OWL_STROKES,
}
GARDEN_FIGURE: dict[str, object] = {"cells": 192, "colour": {"on": True}}
SAMPLES = (
    SamplePiece("Ginkgo clay cutter", "ginkgo-stencil.png", lambda: _png8(draw_stencil()), GINKGO_CUTTER),
    SamplePiece("Moon globe", "moon-map-8bit.png", lambda: _png8(draw_moon()), MOON_GLOBE),
    SamplePiece("Shell path window", "snail-shell-8bit.png", lambda: _png8(draw_snail()), SNAIL_WINDOW),
    SamplePiece("Mill pond window", "mill-pond-in-colour.png", lambda: _png8(draw_pond()), POND_WINDOW),
    SamplePiece("Night-walk lantern", "hill-panorama-8bit.png", lambda: _png8(draw_hills()), LANTERN),
    SamplePiece(
        "Snail sketch, photographed",
        "snail-sketch-photo.jpg",
        photograph,
        {"height": {"rule": {"relief_mm": 1.6, "tall": "dark"}}, "body": {"width_mm": 100, "backing_mm": 1.6}},
    ),
    SamplePiece("Badger in the hedge", "badger-photograph.jpg", badger_photograph, BADGER),
    SamplePiece(
        "Trail plate 12",
        "ivy-leaf-8bit.png",
        lambda: _png8(draw_ivy()),
        {"height": _steps((0, 0), (1, 1.8)), "body": TRAIL_PLATE, "ops": IVY_PLATE_OPS},
    ),
    SamplePiece(
        "Shell path marker",
        "snail-shell-16bit.tif",
        lambda: _tiff16(draw_snail()),
        {"height": _relief(7.0), "body": {"width_mm": 65, "backing_mm": 1.6}},
    ),
    SamplePiece(
        "Ginkgo planter mark",
        "ginkgo-leaf-8bit.png",
        lambda: _cut_out_png8(*draw_ginkgo()),
        {"height": _relief(4.0, 0.08), "body": {"width_mm": 70, "backing_mm": 1.4, "shape": "outline", "margin_mm": 2}},
    ),
    SamplePiece(
        "Garden shield",
        "shield-16bit.png",
        lambda: _png16(draw_shield()),
        SHIELD,
        (("Ginkgo planter mark", {"width_mm": 36, "y_share": 0.44, "blend": "add", "rule": {"relief_mm": 2.4}}),),
    ),
    SamplePiece(
        "Little owl, in the round",
        "little-owl-8bit.png",
        lambda: _cut_out_png8(*draw_owl()),
        {"figure": OWL},
    ),
    SamplePiece(
        "Garden hare",
        "garden-hare-lit-from-left.png",
        lambda: _cut_out_png8(*draw_garden("hare", "left")),
        {"figure": {**GARDEN_FIGURE, "width_mm": 70}},
    ),
    SamplePiece(
        "Tea jug",
        "tea-jug-lit-from-right.png",
        lambda: _cut_out_png8(*draw_garden("jug", "right")),
        {"figure": {**GARDEN_FIGURE, "width_mm": 90}},
    ),
    SamplePiece(
        "Garden snail, drawn",
        "garden-snail-drawing.png",
        lambda: _cut_out_png8(*draw_garden("snail", "drawing")),
        {"figure": {**GARDEN_FIGURE, "width_mm": 100}},
    ),
    SamplePiece(
        "Ridge view panel",
        "hill-panorama-8bit.png",
        lambda: _png8(draw_hills()),
        {"height": _relief(7.0, 0.1), "body": RIDGE_PANEL},
    ),
    SamplePiece(
        "Hillside fern",
        "fern-frond-16bit.png",
        lambda: _png16(draw_fern()),
        {"height": _relief(3.6), "body": {"width_mm": 90, "backing_mm": 1.6}},
    ),
)

HEART = {"kind": "shape", "shape": "heart", "width_mm": 17, "height_mm": 16, "tone": 1.0}
VINE = {
    "kind": "paint",
    "id": "vine",
    "tone": 0.0,
    "axes": 1,
    "axis_deg": 90,
    "strokes": [
        {"places": [[0.18, 0.1, 1], [0.4, 0.06, 0.7], [0.62, 0.1, 1], [0.82, 0.07, 0.6]], "size_mm": 1.6},
        {"places": [[0.3, 0.08, 1], [0.33, 0.16, 0.5]], "size_mm": 1.4},
        {"places": [[0.68, 0.09, 1], [0.71, 0.17, 0.5]], "size_mm": 1.4},
    ],
}
SHEETS = (
    SampleSheet(
        "Bookmark, Alder lane",
        (160.0, 46.0),
        0.5,
        "Alder lane",
        (
            {**HEART, "id": "heart-left", "centre": [0.075, 0.5]},
            {**HEART, "id": "heart-right", "centre": [0.925, 0.5]},
            VINE,
        ),
    ),
)
WHOLES = (
    SampleWhole(
        "Shell on its plinth",
        (
            (
                "Cockle shell",
                {
                    "turn_x_deg": 62, "scale": 0.8, "stands": "on", "sink_mm": 2.5,
                    "colour_on": True, "colour": "#d9a441",
                },
            ),
        ),
        (
            {
                "id": "plinth", "name": "Plinth", "colour_on": True, "colour": "#4c7a3d",
                "source": {
                    "kind": "ready", "shape": "plinth", "width_mm": 78, "depth_mm": 44, "height_mm": 20,
                    "text": "Fernhollow 12", "letter_mm": 6, "raised_mm": 0.8,
                },
            },
            {
                "id": "feet", "name": "Feet", "x_mm": -28, "z_mm": -2.95, "copies": 2, "step_x_mm": 56,
                "colour_on": True, "colour": "#26282a",
                "source": {"kind": "ready", "shape": "plate", "width_mm": 10, "depth_mm": 36, "height_mm": 3},
            },
        ),
    ),
)  # fmt: skip
