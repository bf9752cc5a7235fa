"""What can be looked at and measured on any piece, whatever kind it is."""

from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import astuple, replace
from typing import Generic, TypeVar

import numpy as np
from numpy.typing import NDArray

from nebrel.core.height import HeightField
from nebrel.core.heightfield.from_above import heights_from_above
from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.shading import ShadedMesh, shade
from nebrel.core.mesh.shells import together_coloured
from nebrel.core.mesh.texture import Texture
from nebrel.core.proof import Finding
from nebrel.core.proof.maps import MapKind, SurfaceMap, surface_map
from nebrel.core.proof.render import Viewpoint, render
from nebrel.core.proof.section import Profile, cut_mesh
from nebrel.piece.documents.document import Document
from nebrel.piece.evaluation.banded import in_bands
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.shown import Plan, SectionCut, ShownSolid, Size, png_of, three
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.report import BuildReport

Progress = Callable[[str, float], None]
AnyDocument = TypeVar("AnyDocument", bound=Document)
Result = TypeVar("Result")
PREVIEW_PX = 720
THUMBNAIL_PX = (720, 540)
LOOKS_VERSION = 3
FINEST_CARVED_MM, FEWEST_CARVED_PX, MOST_CARVED_PX = 0.02, 200, 2400


def quiet(_stage: str, _fraction: float) -> None:
    """Progress that nobody follows."""


STANDING = Viewpoint(turn_deg=-12.0, tilt_deg=68.0, light_from_deg=-128.0, light_above_deg=34.0, upright=True)


class PieceEvaluator(ABC, Generic[AnyDocument]):
    """Runs the steps of one document, each kept by the hash of what it depends on.

    `longest_px` chooses the resolution: `FULL`, or a preview of that many pixels. Both are the same steps; a preview
    starts from a smaller source and allows an error that the eye does not see.
    """

    def __init__(self, document: AnyDocument, sources: Sources) -> None:
        self.document = document
        self._sources = sources
        self._cache = sources.cache
        self._preparation = sources.preparation

    @abstractmethod
    def check(self, progress: Progress = quiet) -> None:
        """Refuse a document that cannot be made, before it is kept."""

    @abstractmethod
    def plan(self, longest_px: int, upto: str | None = None, progress: Progress = quiet) -> Plan:
        """The piece from above; `upto` is the picture op after which to look, "" the source, None the finished one."""

    @abstractmethod
    def mesh(self, longest_px: int = FULL) -> TriMesh:
        """The solid for looking at, its lowest corner at the origin."""

    @abstractmethod
    def solid_key(self, longest_px: int) -> str:
        """The key of what `mesh` shows."""

    @property
    @abstractmethod
    def size_mm(self) -> Size:
        """Width, depth and thickness."""

    @abstractmethod
    def findings(self, longest_px: int = FULL, progress: Progress = quiet) -> tuple[Finding, ...]:
        """What is known before the build."""

    @abstractmethod
    def build(self, progress: Progress = quiet) -> tuple[Slab, BuildReport]:
        """The solid that is delivered, with its measured report."""

    @property
    def colour_names(self) -> dict[str, str]:
        """What colours of the finished solid are called where that counts, `#rrggbb` to a name."""
        return {}

    def objects(self) -> list[tuple[str, TriMesh]]:
        """Name and mesh of the objects that it is delivered as; empty where it is one solid."""
        return []

    def delivered_as(self, solid: TriMesh) -> tuple[TriMesh, list[tuple[str, NDArray[np.int64]]]]:
        """The painted mesh that its file holds, and names of objects with the faces of each; none where it is one.

        Args:
            solid: that was built.
        """
        objects = self.objects()
        if not objects:
            return self.painted(solid), []
        whole = self.painted(together_coloured([each for _, each in objects]))
        ends = np.cumsum([0, *(len(each.faces) for _, each in objects)])
        return whole, [(name, np.arange(ends[at], ends[at + 1])) for at, (name, _) in enumerate(objects)]

    def texture(self, progress: Progress = quiet) -> Texture | None:
        """The texture that the finished solid is delivered with, or None where its triangles carry all there is."""
        return None

    @abstractmethod
    def off_target(self, mesh: TriMesh, longest_px: int) -> NDArray[np.float64]:
        """How far every face of `mesh` is from what was asked for, float64 (M,) mm; NaN where nothing was."""

    @abstractmethod
    def with_motif(self, motif: dict[str, object], at: tuple[float, float], width_mm: float) -> dict[str, object]:
        """The edit that lays a motif on the piece.

        Args:
            motif: `id`, `name`, `motif` where it is followed, `picture` and `drawing` with the blobs of its files.
            at: where its middle goes, shares of the source from its lower left corner.
            width_mm: how wide it is laid.
        """

    @property
    def standing(self) -> bool:
        """Whether it stands, and is looked at from in front and not from above."""
        return False

    @property
    def plan_mm(self) -> Size:
        """The size of what the plan shows of the finished piece."""
        return self.size_mm

    @property
    def tolerance_mm(self) -> float:
        """How far the solid may be from what was asked for."""
        return self.document.light.tolerance_mm

    def target_along(self, start: tuple[float, float], end: tuple[float, float], longest_px: int) -> Profile | None:
        """The target surface along a line, or None where a mesh is all that is known."""
        return None

    def heights_to_carve(self, pitch: float) -> HeightField:
        """Its finished upper side, as a bit from above sees it, blank where there is nothing.

        Args:
            pitch: mm between samples that would do, where they are taken from a mesh.
        """
        longest = max(self.size_mm[:2]) / max(pitch, FINEST_CARVED_MM)
        px = int(np.clip(longest, FEWEST_CARVED_PX, MOST_CARVED_PX))
        return heights_from_above(self.mesh(FULL), px)

    def heights_seen(self, longest_px: int) -> HeightField:
        """The same as `heights_to_carve` as a preview has it."""
        return heights_from_above(self.mesh(longest_px), longest_px)

    def shaded(self, longest_px: int = FULL) -> ShadedMesh:
        """The solid prepared for looking at."""
        key = step_key("shaded", LOOKS_VERSION, self.paint_key, self.solid_key(longest_px))
        return self._cache.get(key, lambda: shade(self.painted(self.mesh(longest_px))))

    def painted(self, mesh: TriMesh) -> TriMesh:
        """The solid in the piece's colours; what has colours of its own keeps them."""
        rgba = self.document.paint.rgba
        if rgba is None or mesh.colours is not None or mesh.corner_colours is not None:
            return mesh
        return replace(mesh, corner_colours=np.tile(np.array(rgba, dtype=np.uint8), (len(mesh.faces), 3, 1)))

    @property
    def paint_key(self) -> object:
        """What `painted` depends on besides the solid; None where nothing is painted."""
        return self.document.paint.colour if self.document.paint.on else None

    def shown(self, longest_px: int = FULL) -> ShownSolid:
        """The solid as a page draws it."""
        return ShownSolid(self.shaded(longest_px), self.standing)

    def surface_map(self, kind: MapKind, longest_px: int = FULL) -> SurfaceMap:
        """A measure over the shaded solid."""
        key = step_key("map", LOOKS_VERSION, kind, self.solid_key(longest_px))

        def look() -> SurfaceMap:
            mesh = self.mesh(longest_px)
            return surface_map(mesh, self.shaded(longest_px), kind, lambda: self.off_target(mesh, longest_px))

        return self._cache.get(key, look)

    def section(
        self,
        start: tuple[float, float],
        end: tuple[float, float],
        longest_px: int,
        tilt_deg: float = 0.0,
        lift_mm: float = 0.0,
    ) -> SectionCut:
        """The piece along a line, mm from the lower left corner, in a plane that may lean (see `cut_mesh`)."""
        made = cut_mesh(self.mesh(longest_px), start, end, tilt_deg, lift_mm)
        return SectionCut(
            length=float(np.hypot(end[0] - start[0], end[1] - start[1])),
            target=self.target_along(start, end, longest_px) if tilt_deg == 0 else None,
            made=[[(float(s), float(z)) for s, z in line] for line in made],
        )

    def shelf_view(self) -> Viewpoint:
        """From where the piece is looked at on the shelf."""
        return STANDING if self.standing else Viewpoint()

    def thumbnail(self) -> bytes:
        """A rendered PNG of the piece."""
        view = self.shelf_view()
        told = [(*THUMBNAIL_PX, astuple(view)), self.paint_key, *self.bands_key]
        key = step_key("thumbnail", LOOKS_VERSION, told, self.solid_key(PREVIEW_PX))

        def paint() -> bytes:
            shaded = shade(self.pictured(PREVIEW_PX)) if self.bands_key else self.shaded(PREVIEW_PX)
            return png_of(render(shaded, *THUMBNAIL_PX, view))

        return self._cache.get(key, paint, lambda data: data, lambda data: data)

    def pictured(self, longest_px: int) -> TriMesh:
        """The solid as pictures show it: painted, or in the colours of its layers."""
        mesh = self.mesh(longest_px)
        return in_bands(mesh, self.document.printing) if self.bands_key else self.painted(mesh)

    @property
    def bands_key(self) -> list[object]:
        """What colours by layers depend on besides the solid; empty where there are none."""
        printing = self.document.printing
        if self.document.carving.on or not (printing.bands.on and printing.bands.changes):
            return []
        return [printing.down, printing.bands.model_dump(mode="json")]

    def derived(self, name: str, version: int, told: object, longest_px: int, work: Callable[[], Result]) -> Result:
        """What `work` makes of the solid, kept in memory by its name, its version and what else it depends on."""
        return self._cache.get(step_key(name, version, told, self.solid_key(longest_px)), work)

    def _kept_size(self, key: str, mesh: Callable[[], TriMesh]) -> Size:
        """Sides of a mesh, kept in the folder too: the shelf asks for the size of every piece."""
        sides = self._cache.get(
            key, lambda: np.ptp(mesh().vertices, axis=0).tobytes(), lambda data: data, lambda data: data
        )
        return three(np.frombuffer(sides))
