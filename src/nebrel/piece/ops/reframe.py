"""Frame: crop, turn, straighten, border, resample."""

from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np

from nebrel.core.errors import BadValueError
from nebrel.core.picture.ops import reframe as frame
from nebrel.piece.ops.base import Group, Op, PictureView, Shape, Spot, Supplies, Tool
from nebrel.piece.parts.fields import choice, made_by_hand, measure, switch, tone
from nebrel.piece.parts.part import Part


class FrameOp(Op):
    """An op that changes what of the picture is seen."""

    group: ClassVar[Group] = "frame"


class CropBox(Part):
    """Shares of the picture that the op gets, from its lower left corner."""

    left: float = 0.0
    bottom: float = 0.0
    right: float = 1.0
    top: float = 1.0


class Crop(FrameOp):
    """Keep a part of the picture."""

    title: ClassVar[str] = "Crop"
    hint: ClassVar[str] = "Keep a part of the picture. Drag the box on the Plan, or trim to what the picture shows."
    tool: ClassVar[Tool | None] = "box"
    kind: Literal["crop"] = "crop"
    box: CropBox = made_by_hand("Box", CropBox())
    aspect: Literal["free", "kept", "1:1", "4:3", "3:2", "2:3", "3:4"] = choice(
        "Proportions",
        "free",
        {
            "free": "Free",
            "kept": "As it is",
            "1:1": "1 : 1",
            "4:3": "4 : 3",
            "3:2": "3 : 2",
            "2:3": "2 : 3",
            "3:4": "3 : 4",
        },
    )

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Cut to whole pixels."""
        return view.reframed(frame.crop(view.picture, self._box()))

    def shape_after(self, shape: Shape, mm_per_px: float) -> Shape:
        """As `core.picture.ops.frame.crop` rounds."""
        rows, columns = shape
        left, right = (round(np.clip(at, 0, 1) * (columns - 1)) for at in (self.box.left, self.box.right))
        top, bottom = (round((1 - np.clip(at, 0, 1)) * (rows - 1)) for at in (self.box.top, self.box.bottom))
        return max(2, bottom - top + 1), max(2, right - left + 1)

    def _box(self) -> frame.Box:
        return frame.Box(self.box.left, self.box.bottom, self.box.right, self.box.top)


class Turn(FrameOp):
    """Turn or straighten."""

    title: ClassVar[str] = "Turn"
    hint: ClassVar[str] = "Turn the picture counter-clockwise, or straighten it by a few degrees."
    kind: Literal["turn"] = "turn"
    angle_deg: float = measure("Angle", 0.0, -360, 360, unit="°", slider=(-180, 180), step=0.1)
    corners: Literal["grow", "cut"] = choice("Corners", "grow", {"grow": "Leave blank", "cut": "Cut away"})

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Whole quarters move pixels, other angles resample."""
        return view.reframed(frame.turn(view.picture, self.angle_deg, self.corners == "cut"))

    def shape_after(self, shape: Shape, mm_per_px: float) -> Shape:
        """A larger or a cut-back frame."""
        quarters = round(self.angle_deg / 90)
        if abs(self.angle_deg - 90 * quarters) < 1e-9:
            return (shape[1], shape[0]) if quarters % 2 else shape
        columns, rows = frame.turned_size(shape[1], shape[0], self.angle_deg, self.corners == "cut")
        return rows, columns


class Flip(FrameOp):
    """Mirror."""

    title: ClassVar[str] = "Mirror"
    hint: ClassVar[str] = "Left for right, or top for bottom; a stamp or a mould must be mirrored."
    kind: Literal["flip"] = "flip"
    direction: Literal["across", "upright"] = choice(
        "Mirror", "across", {"across": "Left and right", "upright": "Top and bottom"}
    )

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Moves pixels only."""
        return view.reframed(frame.flip(view.picture, self.direction == "across"))


class SheetOp(FrameOp):
    """Straighten a photographed sheet."""

    title: ClassVar[str] = "Straighten a sheet"
    hint: ClassVar[str] = "Drag the four corners to those of a sheet that was photographed at an angle."
    tool: ClassVar[Tool | None] = "corners"
    kind: Literal["sheet"] = "sheet"
    corners: tuple[Spot, Spot, Spot, Spot] = made_by_hand("Corners", ((0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0)))

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """By a projective map."""
        return view.reframed(frame.straighten_sheet(view.picture, np.array(self.corners)))

    def shape_after(self, shape: Shape, mm_per_px: float) -> Shape:
        """The mean lengths of opposite sides."""
        places = np.array(self.corners) * (shape[1] - 1, shape[0] - 1)
        lengths = np.hypot(*(np.roll(places, -1, axis=0) - places).T)
        return max(2, round(lengths[[1, 3]].mean()) + 1), max(2, round(lengths[[0, 2]].mean()) + 1)


class BorderOp(FrameOp):
    """More canvas or a rim."""

    title: ClassVar[str] = "Border"
    hint: ClassVar[str] = "A rim around the picture, in one tone or blank. Sides may differ."
    kind: Literal["border"] = "border"
    unit: Literal["mm", "%", "px"] = choice("Measured in", "mm", {"mm": "mm", "%": "% of the width", "px": "px"})
    left: float = measure("Left", 4.0, 0, 4000, unit="unit", slider=(0, 20), step=0.1)
    right: float = measure("Right", 4.0, 0, 4000, unit="unit", slider=(0, 20), step=0.1)
    top: float = measure("Top", 4.0, 0, 4000, unit="unit", slider=(0, 20), step=0.1)
    bottom: float = measure("Bottom", 4.0, 0, 4000, unit="unit", slider=(0, 20), step=0.1)
    blank: bool = switch("Blank, no material", False)
    tone: float = tone("Tone", 1.0)

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """To whole pixels."""
        left, bottom, right, top = self._sides(view.picture.shape, view.mm_per_px, view.density)
        return view.reframed(frame.surround(view.picture, left, bottom, right, top, None if self.blank else self.tone))

    def shape_after(self, shape: Shape, mm_per_px: float) -> Shape:
        """Larger by the sides."""
        left, bottom, right, top = self._sides(shape, mm_per_px, 1.0)
        return shape[0] + bottom + top, shape[1] + left + right

    def _sides(self, shape: Shape, mm_per_px: float, density: float) -> tuple[int, int, int, int]:
        scale = {"mm": 1 / mm_per_px, "%": (shape[1] - 1) / 100, "px": density}[self.unit]
        left, bottom, right, top = (round(side * scale) for side in (self.left, self.bottom, self.right, self.top))
        return left, bottom, right, top

    @classmethod
    def measured_in_mm(cls) -> bool:
        """Its unit may be mm."""
        return True


def _full(pixels: int, density: float) -> int:
    return round((pixels - 1) / density) + 1


class Resample(FrameOp):
    """Another number of pixels."""

    title: ClassVar[str] = "Resample"
    hint: ClassVar[str] = "Fewer pixels lose fine detail; more pixels make edges smoother but add no detail."
    kind: Literal["resample"] = "resample"
    to: Literal["width", "2x", "4x"] = choice("To", "width", {"width": "A width", "2x": "Twice", "4x": "Four times"})
    width_px: int = measure("Width", 1000, 2, 16_384, unit="px", step=10, shown={"to": ["width"]})

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Lanczos down, edge-preserving up; a preview that is coarser already stays as it is."""
        rows, columns = view.picture.shape
        full_rows, full = self._size((_full(rows, view.density), _full(columns, view.density)))
        wanted_rows, wanted = (min(full_rows, rows), min(full, columns)) if view.density < 1 else (full_rows, full)
        density = (wanted - 1) / (full - 1)
        if (wanted_rows, wanted) == (rows, columns):
            return replace(view, density=density)
        result = view.reframed(frame.resample(view.picture, wanted, wanted_rows))
        return replace(result, mm_per_px=view.mm_per_px * (columns - 1) / (wanted - 1), density=density)

    def shape_after(self, shape: Shape, mm_per_px: float) -> Shape:
        """At full resolution."""
        return self._size(shape)

    def mm_per_px_after(self, shape: Shape, mm_per_px: float) -> float:
        """Smaller pixels when there are more of them."""
        return mm_per_px * (shape[1] - 1) / (self._size(shape)[1] - 1)

    def _size(self, shape: Shape) -> Shape:
        rows, columns = shape
        wanted = {"width": self.width_px, "2x": 2 * columns, "4x": 4 * columns}[self.to]
        down = max(2, round((rows - 1) * (wanted - 1) / (columns - 1)) + 1)
        if max(down, wanted) > frame.LARGEST_SIDE_PX or down * wanted > 100_000_000:
            raise BadValueError(
                f"The picture would get {wanted:,} × {down:,} pixels; up to {frame.LARGEST_SIDE_PX:,} a side and "
                "100 megapixels are accepted."
            )
        return down, wanted
