"""Soften: noise, blocks and terraces out, edges kept."""

from typing import ClassVar, Literal

from nebrel.core.picture.ops import soften
from nebrel.piece.ops.base import Group, Op, PictureView, Supplies
from nebrel.piece.parts.fields import length, measure, share


class SoftenOp(Op):
    """An op that takes away what should not become relief."""

    group: ClassVar[Group] = "soften"


class KeepEdges(SoftenOp):
    """Smooth, but keep edges."""

    title: ClassVar[str] = "Smooth, keep edges"
    hint: ClassVar[str] = "Even out flat parts and leave edges where they are."
    kind: Literal["keep-edges"] = "keep-edges"
    radius_mm: float = length("Reach", 0.4, 0.01, 50, slider=(0.05, 4))
    strength: float = share("Strength", 0.08, 0.0, 1.0, slider=(0, 0.4))

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """By a guided filter."""
        return view.with_picture(soften.keep_edges(view.picture, view.px(self.radius_mm), self.strength))


class Median(SoftenOp):
    """Dots out."""

    title: ClassVar[str] = "Median"
    hint: ClassVar[str] = "Take single dots and hairs out."
    kind: Literal["median"] = "median"
    radius_mm: float = length("Reach", 0.1, 0.0, 5, slider=(0, 1), step=0.02)

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Of a square window."""
        return view.with_picture(soften.median(view.picture, min(view.px(self.radius_mm), 60)))


class Denoise(SoftenOp):
    """Noise out, texture kept."""

    title: ClassVar[str] = "Noise"
    hint: ClassVar[str] = "Take camera noise away by comparing places that look alike."
    kind: Literal["denoise"] = "denoise"
    strength: float = share("Strength", 0.03, 0.0, 0.5, slider=(0, 0.15), step=0.002)

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """By non-local means."""
        return view.with_picture(soften.non_local_means(view.picture, self.strength))


class Gaussian(SoftenOp):
    """Blur."""

    title: ClassVar[str] = "Blur"
    hint: ClassVar[str] = "Soften everything alike."
    kind: Literal["gaussian"] = "gaussian"
    radius_mm: float = length("Radius", 0.2, 0.0, 50, slider=(0, 4), step=0.02)

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Material only."""
        return view.with_picture(soften.gaussian(view.picture, view.px(self.radius_mm)))


class Deblock(SoftenOp):
    """JPEG blocks out."""

    title: ClassVar[str] = "JPEG blocks"
    hint: ClassVar[str] = "Take away the steps that JPEG leaves every 8 pixels. Belongs before any other op."
    on_source_pixels: ClassVar[bool] = True
    kind: Literal["deblock"] = "deblock"
    strength: float = share("Largest step", 0.06, 0.0, 0.5, slider=(0, 0.2))

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """On the blocks of the source, where the picture still has its pixels."""
        column, row = view.place((0.0, 1.0))
        return view.with_picture(soften.deblock(view.picture, self.strength, (round(column), round(row))))


class Deband(SoftenOp):
    """Terraces out."""

    title: ClassVar[str] = "8-bit terraces"
    hint: ClassVar[str] = "Turn the terraces of 8-bit tones into even slopes. No tone moves by more than half a level."
    kind: Literal["deband"] = "deband"
    levels: int = measure("Levels in the file", 256, 4, 4096, slider=None, step=1)
    reach_px: int = measure("Reach", 32, 1, 256, unit="px", slider=(2, 128), step=1)

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Diffusion within half a level."""
        reach = max(1, round(self.reach_px * min(1.0, view.density)))
        return view.with_picture(soften.deband(view.picture, self.levels - 1, reach))
