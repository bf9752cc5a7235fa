"""The machine that a piece is for, and what is handed on."""

from typing import Literal

from pydantic import Field

from nebrel.core.mesh.formats import MeshFormat
from nebrel.core.proof.makeable import Printer
from nebrel.piece.parts.fields import choice, length, measure
from nebrel.piece.parts.part import Part


class PrintMaterial(Part):
    """What a piece is made of, to tell its weight and what that costs."""

    name: str = Field("PLA", max_length=80, title="Material")
    density_g_cm3: float = Field(
        1.24, gt=0, le=30, title="Density", json_schema_extra={"label": "Density, g/cm³", "step": 0.01}
    )
    price_per_kg: float = measure("Price per kg", 22.0, 0, 1_000_000, step=1, label="Price for a kg")


class PrinterMaker(Part):
    """The printer that the piece is for."""

    kind: Literal["printer"] = "printer"
    name: str = Field("Workshop printer", max_length=80, title="Maker name")
    line_width_mm: float = length("Line width", 0.42, 0.05, 5, step=0.02, label="Printed line width")
    layer_mm: float = length("Layer height", 0.16, 0.01, 2, step=0.02)
    bed_mm: tuple[float, float, float] = Field((220.0, 220.0, 240.0), title="Bed")
    material: PrintMaterial = PrintMaterial()

    def to_core(self) -> Printer:
        """The same for the core."""
        return Printer(line_width=self.line_width_mm, layer=self.layer_mm, bed=self.bed_mm)


class Delivery(Part):
    """What is handed on."""

    format: MeshFormat = choice(
        "File format",
        "stl",
        {"stl": "STL", "3mf": "3MF", "obj": "OBJ", "ply": "PLY", "off": "OFF", "glb": "GLB"},
        hints={
            "stl": "Binary STL in millimetres, at true size.",
            "3mf": "3MF in millimetres; the unit is in the file.",
            "obj": "OBJ as text, in millimetres.",
            "ply": "Binary PLY, in millimetres.",
            "off": "OFF as text, in millimetres.",
            "glb": "GLB in metres, as that standard asks, Y up.",
        },
    )
