"""The recipe of a lithophane: how thick for which tone, over which form, with which parts, in which light."""

import math
from typing import Literal

from pydantic import model_validator

from nebrel.core.bent.forms import Cone, Flat, Form, Globe, Upright, arc, cylinder, globe
from nebrel.core.bent.plan_curve import heart_curve, prism_curve
from nebrel.core.height import transmission as core_glow
from nebrel.core.proof.lamp_colour import lamp_of_temperature
from nebrel.core.proof.lit import Lamp as CoreLamp
from nebrel.core.tinted.mix import FilterBands
from nebrel.piece.documents.document import PicturedDocument
from nebrel.piece.kinds.lithophane.colours import ColourLayersPart
from nebrel.piece.kinds.lithophane.parts import LithophaneParts
from nebrel.piece.parts.edge_curves import EdgeCurves
from nebrel.piece.parts.fields import angle, choice, colour, length, share, switch, whole
from nebrel.piece.parts.finish import ReliefFinish
from nebrel.piece.parts.height_strokes import ByHand
from nebrel.piece.parts.material import Colour, TranslucentMaterialPart, linear, shown_of
from nebrel.piece.parts.part import Part

FormKind = Literal["flat", "arc", "cylinder", "cone", "sphere", "dome", "heart", "prism"]
AROUND = ["cylinder", "cone", "sphere", "dome", "heart", "prism"]
BENT = ["arc", *AROUND]
# Lamps that people have, by their colours.
LAMPS = {
    shown_of(lamp_of_temperature(kelvin)): f"{name}, {kelvin} K"
    for name, kelvin in (("Candle", 1900), ("Warm white", 2700), ("Neutral white", 4000), ("Daylight", 6500))
}


class TransmissionPart(Part):
    """From tones to thickness."""

    rule: core_glow.RuleKind = choice(
        "Thickness rule",
        "light",
        {"light": "True to light", "straight": "Straight"},
        label="How does thickness follow tone?",
        hints={
            "light": "Each wall is as thick as the material needs for its tone to appear when lit.",
            "straight": "Thickness falls evenly from black to white; lit, middle tones come out too dark.",
        },
    )
    thinnest_mm: float = length("Thinnest wall", 0.8, 0.2, 20, slider=(0.2, 3), label="Thinnest wall, for white")
    thickest_mm: float = length("Thickest wall", 3.2, 0.3, 40, slider=(1, 8), step=0.1)
    beyond: core_glow.Beyond = choice(
        "Tones out of reach",
        "compress",
        {"compress": "Move all closer", "clip": "Cut off"},
        label="Tones darker than that can show",
        shown={"rule": ["light"]},
    )
    tones: Literal["luminance", "coded"] = choice(
        "Tones of colours",
        "luminance",
        {"luminance": "By their light", "coded": "As they are coded"},
        label="What counts as bright in a colour picture?",
        hints={
            "luminance": "A colour is as bright as the light that it sends out.",
            "coded": "A weighted mean of red, green and blue as the file has them; strong colours come out darker.",
        },
    )
    strength: float = share(
        "Strength of the light rule", 1.0, label="Strength against the straight rule", shown={"rule": ["light"]}
    )
    material: TranslucentMaterialPart = TranslucentMaterialPart()
    spread_mm: float = length(
        "Light spreads by",
        0.0,
        0,
        10,
        slider=(0, 2),
        step=0.05,
        label="Light spreads in the wall by",
        hint="The radius of the blur, read across the edge of a step; 0 where it was not measured.",
    )
    sharpen: bool = switch(
        "Sharpen against the spread", True, hint="Walls are made so that what is wanted shows after light has spread."
    )

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

    kind: FormKind = choice(
        "Form",
        "flat",
        {
            "flat": "Flat",
            "arc": "Arc",
            "cylinder": "Cylinder",
            "prism": "Prism of flat panels",
            "cone": "Cone, lamp shade",
            "sphere": "Sphere",
            "dome": "Dome",
            "heart": "Heart",
        },
        hints={
            "flat": "It is printed standing or lying, and lit from its smooth back.",
            "arc": "The picture keeps its width along the bend.",
            "cylinder": "The picture goes once round; its ends meet at the back.",
            "prism": "The picture goes once round over flat panels, mitred where they meet.",
            "cone": "Shapes keep their angles; half-way up they are true in size.",
            "sphere": "Shapes keep their angles; at the equator they are true in size.",
            "dome": "Shapes keep their angles; at the lower edge they are true in size.",
            "heart": "The picture goes once round, its middle at the tip in front.",
        },
    )
    width_mm: float = length(
        "Width", 90.0, 5, 3000, slider=(40, 300), step=1, shown={"kind": ["flat", "arc", "cylinder", "prism", "heart"]}
    )
    arc_by: Literal["angle", "radius"] = choice(
        "Arc told by",
        "angle",
        {"angle": "Angle", "radius": "Radius"},
        label="How far it bends",
        shown={"kind": ["arc"]},
    )
    angle_deg: float = angle(
        "Arc angle", 120.0, 5, 350, slider=(5, 350), label="Angle", shown={"kind": ["arc"], "arc_by": ["angle"]}
    )
    radius_mm: float = length(
        "Arc radius",
        60.0,
        2,
        5000,
        slider=(20, 200),
        step=1,
        label="Radius",
        shown={"kind": ["arc"], "arc_by": ["radius"]},
    )
    sides: int = whole("Sides", 6, 3, 24, slider=(3, 12), label="Panels", shown={"kind": ["prism"]})
    top_mm: float = length("Width on top", 50.0, 2, 1000, slider=(20, 200), step=1, shown={"kind": ["cone"]})
    bottom_mm: float = length("Width below", 80.0, 2, 1000, slider=(20, 250), step=1, shown={"kind": ["cone"]})
    rise_mm: float = length("Height", 90.0, 2, 1000, slider=(20, 250), step=1, shown={"kind": ["cone"]})
    diameter_mm: float = length("Diameter", 80.0, 2, 1000, slider=(30, 200), step=1, shown={"kind": ["sphere", "dome"]})
    opening_mm: float = length("Opening below", 30.0, 0, 1000, slider=(5, 80), step=1, shown={"kind": ["sphere"]})
    open_top: bool = switch("Open on top", False, shown={"kind": ["sphere", "dome"]})
    top_opening_mm: float = length(
        "Opening on top",
        20.0,
        0.5,
        1000,
        slider=(5, 80),
        step=1,
        shown={"kind": ["sphere", "dome"], "open_top": ["true"]},
    )
    relief: Literal["outside", "inside"] = choice(
        "Relief",
        "outside",
        {"outside": "Outside", "inside": "Inside"},
        label="Relief on which side?",
        shown={"kind": BENT},
    )
    seam_mm: float = length(
        "Easing of the seam",
        6.0,
        0,
        200,
        slider=(0, 40),
        step=1,
        label="Ease the ends together over",
        shown={"kind": AROUND},
    )

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
        return self.kind in AROUND

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
            return Upright(heart_curve(self.width_mm), height)
        if self.kind == "prism":
            return Upright(prism_curve(self.width_mm, self.sides), height)
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


class LampPart(Part):
    """The light that it is looked at in."""

    colour: Colour = colour("Lamp colour", "#ffe0b3", label="Colour of the lamp", choices=LAMPS)
    power: float = share("Lamp power", 1.0, 0, 4, slider=(0, 2), label="Power of the lamp")
    ambient: float = share("Light of the room", 0.03)

    def to_core(self) -> CoreLamp:
        """The same for the core."""
        return CoreLamp(linear(self.colour), self.power, self.ambient)


class LithophaneDocument(PicturedDocument):
    """One immutable state of a lithophane."""

    glow: TransmissionPart = TransmissionPart()
    colours: ColourLayersPart = ColourLayersPart()
    form: LithophaneForm = LithophaneForm()
    parts: LithophaneParts = LithophaneParts()
    hand: ByHand = ByHand()
    edges: EdgeCurves = EdgeCurves(on=False)
    lamp: LampPart = LampPart()
    finish: ReliefFinish = ReliefFinish()

    @property
    def by_luminance(self) -> bool:
        return self.glow.tones == "luminance"

    @property
    def in_colour(self) -> bool:
        return self.bands is not None

    @property
    def bands(self) -> FilterBands | None:
        """The filters behind the wall; None without any. Only a flat wall has them: their layers lie flat."""
        if not self.colours.on or self.form.kind != "flat":
            return None
        return self.colours.bands(self.glow.material.attenuation_per_mm)

    @property
    def colours_key(self) -> object:
        """What its filters depend on besides the picture and the wall; None without any."""
        return [self.colours.model_dump(mode="json"), self.maker.line_width_mm] if self.bands else None

    @property
    def behind_mm(self) -> float:
        """Height of the filters behind the wall."""
        bands = self.bands
        return 0.0 if bands is None else bands.height

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
    def width_at(self) -> tuple[str, ...] | None:
        return ("form", "width_mm") if "width_mm" in type(self.form).model_fields else None

    @property
    def picture_width_mm(self) -> float:
        """That on the sheet."""
        return self.width_mm
