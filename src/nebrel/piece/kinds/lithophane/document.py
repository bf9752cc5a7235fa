"""The recipe of a lithophane: how thick for which tone, over which form, with which parts, in which light."""

import math
from typing import Literal

from pydantic import Field, model_validator

from nebrel.core.bent import parts as core
from nebrel.core.bent.forms import Cone, Flat, Form, Globe, Upright, arc, cylinder, globe
from nebrel.core.bent.plan_curve import heart_way, prism_way
from nebrel.core.height import transmission as core_glow
from nebrel.core.proof.lit import Lamp as CoreLamp
from nebrel.piece.parts.document import PicturedDocument
from nebrel.piece.parts.finish import Finish
from nebrel.piece.parts.material import Colour, TranslucentMaterialPart, linear
from nebrel.piece.parts.part import Part

FormKind = Literal["flat", "arc", "cylinder", "cone", "sphere", "dome", "heart", "prism"]


class TransmissionPart(Part):
    """From tones to thickness."""

    rule: core_glow.RuleKind = Field("light", title="Thickness rule")
    thinnest_mm: float = Field(0.8, ge=0.2, le=20, title="Thinnest wall")
    thickest_mm: float = Field(3.2, ge=0.3, le=40, title="Thickest wall")
    beyond: core_glow.Beyond = Field("compress", title="Tones out of reach")
    strength: float = Field(1.0, ge=0, le=1, title="Strength of the light rule")
    material: TranslucentMaterialPart = TranslucentMaterialPart()

    @model_validator(mode="after")
    def _thicker_than_thinnest(self) -> "TransmissionPart":
        self.to_core()
        return self

    def to_core(self) -> core_glow.TransmissionRule:
        """The same for the core."""
        return core_glow.TransmissionRule(
            self.thinnest_mm, self.thickest_mm, self.material.to_core(), self.rule, self.beyond, self.strength
        )


class LithophaneForm(Part):
    """What the wall is bent over. What belongs to another kind is kept, so that nothing is lost by trying one."""

    kind: FormKind = Field("flat", title="Form")
    width_mm: float = Field(90.0, ge=5, le=3000, title="Width")
    arc_by: Literal["angle", "radius"] = Field("angle", title="Arc told by")
    angle_deg: float = Field(120.0, ge=5, le=350, title="Arc angle")
    radius_mm: float = Field(60.0, ge=2, le=5000, title="Arc radius")
    sides: int = Field(6, ge=3, le=24, title="Sides")
    top_mm: float = Field(50.0, ge=2, le=1000, title="Width on top")
    bottom_mm: float = Field(80.0, ge=2, le=1000, title="Width below")
    rise_mm: float = Field(90.0, ge=2, le=1000, title="Height")
    diameter_mm: float = Field(80.0, ge=2, le=1000, title="Diameter")
    opening_mm: float = Field(30.0, ge=0, le=1000, title="Opening below")
    open_top: bool = Field(False, title="Open on top")
    top_opening_mm: float = Field(20.0, ge=0.5, le=1000, title="Opening on top")
    relief: Literal["outside", "inside"] = Field("outside", title="Relief")
    seam_mm: float = Field(6.0, ge=0, le=200, title="Easing of the seam")

    @property
    def inside(self) -> bool:
        """Whether thickness grows inwards."""
        return self.relief == "inside"

    @property
    def standing(self) -> bool:
        """Whether it stands on its lower edge."""
        return self.kind != "flat"

    @property
    def around(self) -> bool:
        """Whether it runs round."""
        return self.kind not in ("flat", "arc")

    @property
    def upright_mm(self) -> float | None:
        """Height of the sheet where the form itself gives it; None where the picture does."""
        return self.to_core(1.0).height if self.kind in ("cone", "sphere", "dome") else None

    @property
    def across_mm(self) -> float:
        """Width of the sheet: once round where it runs round."""
        if self.kind in ("cone", "sphere", "dome"):
            return self.to_core(1.0).width
        return self.width_mm

    def to_core(self, height: float) -> Form:
        """The form, `height` mm high where it does not give its height itself."""
        if self.kind == "flat":
            return Flat(self.width_mm, height)
        if self.kind == "arc":
            return arc(self.width_mm, height, self._turn)
        if self.kind == "cylinder":
            return cylinder(self.width_mm, height)
        if self.kind == "heart":
            return Upright(heart_way(self.width_mm), height)
        if self.kind == "prism":
            return Upright(prism_way(self.width_mm, self.sides), height)
        if self.kind == "cone":
            return Cone(self.bottom_mm / 2, self.top_mm / 2, self.rise_mm)
        above = self.top_opening_mm if self.open_top else None
        return globe(self.diameter_mm, self.opening_mm, above, half=self.kind == "dome")

    @property
    def _turn(self) -> float:
        if self.arc_by == "angle":
            return math.radians(self.angle_deg)
        return self.width_mm / self.radius_mm

    @model_validator(mode="after")
    def _can_be(self) -> "LithophaneForm":
        from nebrel.core.errors import BadValueError

        if self.kind == "arc" and self._turn > math.radians(350):
            raise BadValueError(
                f"An arc {self.width_mm:g} mm long with a radius of {self.radius_mm:g} mm turns by "
                f"{math.degrees(self._turn):.0f}°; up to 350° is accepted, and a full turn is the cylinder."
            )
        if self.kind in ("cone", "sphere", "dome"):
            self.to_core(1.0)
        return self

    def picture_low(self, form: Form, picture_height: float, bottom: float) -> float:
        """Where on the sheet the picture starts: on its border, in the middle, or about the equator."""
        if self.kind == "cone":
            return (form.height - picture_height) / 2
        if isinstance(form, Globe):
            return bottom if self.kind == "dome" else form.equator - picture_height / 2
        return bottom

    @property
    def words(self) -> str:
        """What it is called."""
        return {
            "flat": "Flat", "arc": "Arc", "cylinder": "Cylinder", "cone": "Cone", "sphere": "Sphere",
            "dome": "Dome", "heart": "Heart", "prism": f"Prism of {self.sides} panels",
        }[self.kind]  # fmt: skip


class RimPart(Part):
    """A plain border round the picture, on any side."""

    on: bool = Field(True, title="Border switched on")
    width_mm: float = Field(3.0, ge=0.2, le=200, title="Border width")
    thickness_mm: float = Field(3.2, ge=0.2, le=60, title="Border thickness")
    left: bool = Field(True, title="Border on the left")
    right: bool = Field(True, title="Border on the right")
    top: bool = Field(True, title="Border on top")
    bottom: bool = Field(True, title="Border below")


class NameText(Part):
    """A name on the border."""

    on: bool = Field(False, title="Name switched on")
    text: str = Field("", max_length=200, title="Name")
    side: Literal["bottom", "top"] = Field("bottom", title="Which border")
    height_mm: float = Field(2.0, ge=0.4, le=100, title="Letter height")
    depth_mm: float = Field(0.6, ge=0.05, le=20, title="Letter depth")
    sunk: bool = Field(True, title="Letters sunk")


class FootPart(Part):
    """A plate that it stands on."""

    on: bool = Field(False, title="Foot switched on")
    margin_mm: float = Field(8.0, ge=0.2, le=200, title="Foot reaches out")
    height_mm: float = Field(3.0, ge=0.2, le=100, title="Foot height")


class BottomPart(Part):
    """The bottom of a lantern."""

    on: bool = Field(False, title="Bottom switched on")
    thickness_mm: float = Field(2.4, ge=0.2, le=50, title="Bottom thickness")
    hole_mm: float = Field(28.0, ge=0, le=900, title="Hole for the lamp")


class LidPart(Part):
    """A ledge for a lid."""

    on: bool = Field(False, title="Lid seat switched on")
    depth_mm: float = Field(2.0, ge=0.2, le=100, title="Lid thickness")
    ledge_mm: float = Field(1.6, ge=0.2, le=50, title="Ledge")


class RailsPart(Part):
    """Tongues for slots."""

    on: bool = Field(False, title="Rails switched on")
    slot_mm: float = Field(2.2, ge=0.4, le=50, title="Slot width")
    depth_mm: float = Field(4.0, ge=0.4, le=100, title="Rail depth")


class ClipPart(Part):
    """A hook behind the upper edge."""

    on: bool = Field(False, title="Clip switched on")
    slot_mm: float = Field(4.0, ge=0.4, le=100, title="Clip slot")
    width_mm: float = Field(20.0, ge=2, le=500, title="Clip width")
    length_mm: float = Field(12.0, ge=1, le=200, title="Clip length")


class HolePart(Part):
    """A hole to hang it by."""

    on: bool = Field(False, title="Hanging hole switched on")
    diameter_mm: float = Field(3.0, ge=0.5, le=50, title="Hole diameter")
    from_edge_mm: float = Field(3.5, ge=0.4, le=200, title="Hole below the edge")


class LithophaneParts(Part):
    """Everything besides the picture."""

    rim: RimPart = RimPart()
    name: NameText = NameText()
    foot: FootPart = FootPart()
    bottom: BottomPart = BottomPart()
    lid: LidPart = LidPart()
    rails: RailsPart = RailsPart()
    clip: ClipPart = ClipPart()
    hole: HolePart = HolePart()

    def to_core(self) -> core.WallParts:
        """Those that are joined or cut, for the solid."""
        foot, bottom, lid, rails, clip, hole = self.foot, self.bottom, self.lid, self.rails, self.clip, self.hole
        return core.WallParts(
            foot=core.Foot(foot.margin_mm, foot.height_mm) if foot.on else None,
            bottom=core.Bottom(bottom.thickness_mm, bottom.hole_mm) if bottom.on else None,
            lid=core.LidSeat(lid.depth_mm, lid.ledge_mm) if lid.on else None,
            rails=core.Rails(rails.slot_mm, rails.depth_mm) if rails.on else None,
            clip=core.Clip(clip.slot_mm, clip.width_mm, clip.length_mm) if clip.on else None,
            hole=core.HangingHole(hole.diameter_mm, hole.from_edge_mm) if hole.on else None,
        )


class LampPart(Part):
    """The light that it is looked at in."""

    colour: Colour = Field("#ffe0b3", title="Lamp colour")
    power: float = Field(1.0, ge=0, le=4, title="Lamp power")
    ambient: float = Field(0.03, ge=0, le=1, title="Light of the room")

    def to_core(self) -> CoreLamp:
        """The same for the core."""
        return CoreLamp(linear(self.colour), self.power, self.ambient)


class LithophaneDocument(PicturedDocument):
    """One immutable state of a lithophane."""

    glow: TransmissionPart = TransmissionPart()
    form: LithophaneForm = LithophaneForm()
    parts: LithophaneParts = LithophaneParts()
    lamp: LampPart = LampPart()
    finish: Finish = Finish()

    @property
    def width_mm(self) -> float:
        """Width of the picture on the sheet."""
        left, right = self.side_borders_mm
        return max(self.form.across_mm - left - right, 0.5)

    @property
    def side_borders_mm(self) -> tuple[float, float]:
        """Borders on the left and right; a form that runs round has none."""
        rim = self.parts.rim
        if self.form.around or not rim.on:
            return 0.0, 0.0
        return rim.width_mm if rim.left else 0.0, rim.width_mm if rim.right else 0.0

    @property
    def picture_width_mm(self) -> float:
        """That on the sheet."""
        return self.width_mm
