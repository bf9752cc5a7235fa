"""Lithophanes, materials and their measuring."""

from pydantic import BaseModel, Field

from nebrel.piece.parts.material import TranslucentMaterialPart
from nebrel.piece.report import FindingReport, LitReport


class MaterialEdit(TranslucentMaterialPart):
    """A material of the table."""

    measured: bool = Field(False, title="Measured by yourself")
    spread_mm: float = Field(0.0, ge=0, le=10, title="Light spreads by")


class MaterialView(MaterialEdit):
    """A material that is kept."""

    id: int


class Readings(BaseModel):
    """Brightness behind steps of known thickness, mm; a thickness of 0 stands for the bare light, and `dark` for the
    covered one. `edge` are places in mm across the edge of a step with the brightness of each."""

    thickness_mm: list[float] = Field(max_length=500)
    brightness: list[float] = Field(max_length=500)
    dark: list[float] = Field([], max_length=500)
    edge: list[tuple[float, float]] = Field([], max_length=2000)


class LightBoxOrder(BaseModel):
    """What the simulated light box is to read: a wedge of a material, and how much its readings shake."""

    material: TranslucentMaterialPart
    steps: int = Field(10, ge=3, le=40)
    noise: float = Field(0.01, ge=0, le=0.5)
    seed: int = Field(1, ge=0, le=1_000_000)


class FitView(BaseModel):
    """A fitted material. `residuals` are shares by which readings are brighter than the fit, in their order; intervals
    hold 95 times of 100. `findings` say why it is to be doubted. `spread_mm` is None where no edge was read."""

    attenuation_per_mm: float
    attenuation_error: float
    surface_loss: float
    bare: bool
    dark_offset: float
    attenuation_within: tuple[float, float]
    surface_loss_within: tuple[float, float] | None
    residuals: list[float]
    rms: float
    spread_mm: float | None
    spread_error: float | None
    findings: list[FindingReport]


class LitFacts(BaseModel):
    """A lithophane in light, and how it is to be printed; `detail_mm` is the smallest that shows."""

    detail_mm: float
    lit: LitReport
    sheet_mm: tuple[float, float]
    contrast: float
    recipe: str


class Variation(BaseModel):
    """One cell of a contact sheet: what it changes, and what it reaches."""

    thinnest_mm: float
    thickest_mm: float
    strength: float
    contrast: float


class VariationsHead(BaseModel):
    """Facts in front of the thicknesses of a contact sheet, `through0`, `through1` and so on."""

    cells: list[Variation]
    sheet_mm: tuple[float, float]
