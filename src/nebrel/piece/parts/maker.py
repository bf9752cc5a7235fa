"""The machine that a piece is for, and what is handed on."""

from typing import Literal

from pydantic import Field

from nebrel.core.mesh.formats import MeshFormat
from nebrel.core.proof.makeable import Printer
from nebrel.piece.parts.part import Part


class PrintMaterial(Part):
    """What a piece is made of, to tell its weight and what that costs."""

    name: str = Field("PLA", max_length=80, title="Material")
    density_g_cm3: float = Field(1.24, gt=0, le=30, title="Density")
    price_per_kg: float = Field(22.0, ge=0, le=1_000_000, title="Price per kg")


class PrinterMaker(Part):
    """The printer that the piece is for."""

    kind: Literal["printer"] = "printer"
    name: str = Field("Workshop printer", max_length=80, title="Maker name")
    line_width_mm: float = Field(0.42, ge=0.05, le=5, title="Line width")
    layer_mm: float = Field(0.16, ge=0.01, le=2, title="Layer height")
    bed_mm: tuple[float, float, float] = Field((220.0, 220.0, 240.0), title="Bed")
    material: PrintMaterial = PrintMaterial()

    def to_core(self) -> Printer:
        """The same for the core."""
        return Printer(line_width=self.line_width_mm, layer=self.layer_mm, bed=self.bed_mm)


class Delivery(Part):
    """What is handed on."""

    format: MeshFormat = Field("stl", title="File format")
