"""The Height station's part of a piece: from tone to millimetres, and what the surface may be like."""

from typing import ClassVar, Literal

from pydantic import Field, model_validator

from nebrel.core.height.surface import Where
from nebrel.core.height.textures import Kind as TextureKind
from nebrel.core.height.textures import Texture
from nebrel.piece.kinds.panel.form import ReliefForm
from nebrel.piece.kinds.panel.laid import LaidRelief
from nebrel.piece.kinds.panel.rule import HeightRule
from nebrel.piece.parts.edge_curves import EdgeCurves
from nebrel.piece.parts.fields import angle, choice, length, switch, tone_between, whole
from nebrel.piece.parts.height_strokes import ByHand
from nebrel.piece.parts.part import Part


class HeightMask(Part):
    """A second picture that scales the height: white leaves it, black takes it away."""

    heading: ClassVar[str] = "Height mask"
    on: bool = switch("Height mask switched on", True)
    blob: str | None = Field(None, pattern="^[0-9a-f]{64}$", title="Mask picture")
    name: str = Field("", max_length=255, title="Mask name")
    invert: bool = switch("Mask turned round", False, label="Turned round")


class CutBelow(Part):
    """Tones that become blank and are cut through."""

    heading: ClassVar[str] = "Cut through dark"
    hint: ClassVar[str] = "What is darker becomes a hole, cut along a curve."
    on: bool = switch("Cutting through switched on", False)
    tone: float = tone_between("Cut below tone", 0.02, slider=[0.001, 0.999], step=0.005, label="Darker than")


class DraftPart(Part):
    """How steep walls may be."""

    heading: ClassVar[str] = "Leaning walls"
    hint: ClassVar[str] = "So that a mould comes off, and a tapered bit gets in. Material is added at the foot."
    on: bool = switch("Draft switched on", False)
    wall_deg: float = angle("Draft angle", 5.0, 0.5, 80, slider=(1, 45), step=0.5, label="Every wall leans at least")


class Rounding(Part):
    """Rounding of upper edges."""

    heading: ClassVar[str] = "Round upper edges"
    on: bool = switch("Rounding switched on", False)
    radius_mm: float = length("Rounding radius", 0.4, 0.01, 20, slider=(0.05, 3), label="Edge radius")


class GroundTexture(Part):
    """A computed texture."""

    heading: ClassVar[str] = "Texture"
    hint: ClassVar[str] = "Computed in mm, so it has no seams; what stands higher keeps its own surface."
    on: bool = switch("Texture switched on", False)
    kind: TextureKind = choice(
        "Kind of texture",
        "hammered",
        {"noise": "Stone", "hammered": "Hammered", "leather": "Leather", "wood": "Wood grain", "hatching": "Hatching"},
        label="It looks like",
    )
    size_mm: float = length(
        "Size of the texture", 2.5, 0.1, 200, slider=(0.3, 15), step=0.1, label="One grain, dent or line is"
    )
    depth_mm: float = length(
        "Depth of the texture", 0.3, 0, 50, slider=(0.05, 3), label="From its lowest to its highest"
    )
    angle_deg: float = angle("Turn of the texture", 0.0, -180, 180, slider=(-90, 90), label="Turned by")
    seed: int = whole("Number of the texture", 1, 0, 9999, slider=(1, 40), label="Another one of its kind")
    where: Literal["ground", "all"] = choice(
        "Where the texture lies", "ground", {"ground": "On the ground", "all": "Everywhere"}, label="It lies"
    )
    below_mm: float = length(
        "Height of what counts as ground", 0.3, 0.01, 100, slider=(0.05, 5), shown={"where": ["ground"]},
        label="The ground is what is lower than",
    )  # fmt: skip

    def to_core(self) -> Texture:
        """The same for the core."""
        below = self.below_mm if self.where == "ground" else None
        return Texture(self.kind, self.size_mm, self.depth_mm, self.angle_deg, self.seed, below)


class Height(Part):
    """From tone to millimetres."""

    form: ReliefForm = ReliefForm()
    rule: HeightRule = HeightRule()
    mask: HeightMask = HeightMask()
    cut: CutBelow = CutBelow()
    smooth_mm: float = length("Smoothing", 0.0, 0, 20, slider=(0, 2), step=0.02, label="Radius")
    smooth_on: bool = switch("Smoothing switched on", True)
    smooth_keep_mm: float = length(
        "Edges kept when smoothing", 0.0, 0, 50, slider=(0, 3), label="Keep steps taller than"
    )
    smooth_where: Where = choice(
        "Where to smooth", "all", {"all": "Everywhere", "slopes": "Slopes", "terraces": "Level parts"}, label="Where"
    )
    texture: GroundTexture = GroundTexture()
    laid: tuple[LaidRelief, ...] = Field((), max_length=40, title="Reliefs laid on it")
    hand: ByHand = ByHand()
    draft: DraftPart = DraftPart()
    rounding: Rounding = Rounding()
    edges: EdgeCurves = EdgeCurves()

    @property
    def tallest_mm(self) -> float:
        """The greatest height above the backing that can come out."""
        fine = self.form.fine.strength_mm if self.form.of == "both" else 0.0
        plain = self.form.relief_mm + fine if self.form.on else self.rule.tallest_mm
        own = self.texture.depth_mm
        if self.texture.on:
            plain = plain + own if self.texture.where == "all" else max(plain, own + self.texture.below_mm)
        for each in self.laid:
            plain = each.tallest_over(plain)
        return plain

    @model_validator(mode="after")
    def _steps_in_order(self) -> "Height":
        from nebrel.core.height.steps import check_table

        if self.rule.kind == "steps":
            check_table([(step.tone, step.mm) for step in self.rule.steps])
        return self
