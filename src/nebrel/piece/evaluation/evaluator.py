"""What can be looked at and measured on any piece, whatever it starts from."""

import io
from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import astuple, dataclass
from typing import Generic, TypeVar

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.shading import ShadedMesh, shade
from nebrel.core.proof import Finding
from nebrel.core.proof.maps import MapKind, SurfaceMap, surface_map
from nebrel.core.proof.render import View, render
from nebrel.core.proof.section import Profile, cut_mesh
from nebrel.piece.evaluation.cache import ResultCache, step_key
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.report import BuildReport

Progress = Callable[[str, float], None]
Document = TypeVar("Document")
PREVIEW_PX = 720
THUMBNAIL_PX = (720, 540)
LOOKS_VERSION = 3


def quiet(_stage: str, _fraction: float) -> None:
    """Progress that nobody follows."""


@dataclass(frozen=True)
class SectionCut:
    """A piece along a line: what was asked, where that is known, and what was made."""

    length: float
    asked: Profile | None
    made: list[list[tuple[float, float]]]


def png_of(picture: NDArray[np.uint8]) -> bytes:
    """A picture as a PNG file."""
    file = io.BytesIO()
    Image.fromarray(picture).save(file, "PNG")
    return file.getvalue()


class Looks(ABC, Generic[Document]):
    """Views of the solid of a document. `longest_px` chooses between the final solid, `FULL`, and a preview."""

    def __init__(self, cache: ResultCache) -> None:
        self._cache = cache

    @abstractmethod
    def check(self, document: Document, progress: Progress = quiet) -> None:
        """Refuse a document that cannot be made, before it is kept."""

    @abstractmethod
    def mesh(self, document: Document, longest_px: int = FULL) -> TriMesh:
        """The solid for looking at, its lowest corner at the origin."""

    @abstractmethod
    def solid_key(self, document: Document, longest_px: int) -> str:
        """The key of what `mesh` shows."""

    @abstractmethod
    def size(self, document: Document) -> tuple[float, float, float]:
        """Width, depth and thickness, mm."""

    @abstractmethod
    def findings(self, document: Document, longest_px: int = FULL, progress: Progress = quiet) -> tuple[Finding, ...]:
        """What is known before the build."""

    @abstractmethod
    def build(self, document: Document, progress: Progress = quiet) -> tuple[Slab, BuildReport]:
        """The solid that is delivered, with its measured report."""

    @abstractmethod
    def off_asked(self, document: Document, mesh: TriMesh, longest_px: int) -> NDArray[np.float64]:
        """How far every face of `mesh` is from what was asked, float64 (M,) mm; NaN where nothing was."""

    def asked_along(
        self, document: Document, start: tuple[float, float], end: tuple[float, float], longest_px: int
    ) -> Profile | None:
        """The asked surface along a line, or None where a mesh is all that is known."""
        return None

    def shaded(self, document: Document, longest_px: int = FULL) -> ShadedMesh:
        """The solid prepared for looking at."""
        key = step_key("shaded", LOOKS_VERSION, None, self.solid_key(document, longest_px))
        return self._cache.get(key, lambda: shade(self.mesh(document, longest_px)))

    def surface_map(self, document: Document, kind: MapKind, longest_px: int = FULL) -> SurfaceMap:
        """A measure over the shaded solid."""
        key = step_key("map", LOOKS_VERSION, kind, self.solid_key(document, longest_px))

        def look() -> SurfaceMap:
            mesh = self.mesh(document, longest_px)
            shaded = self.shaded(document, longest_px)
            return surface_map(mesh, shaded, kind, lambda: self.off_asked(document, mesh, longest_px))

        return self._cache.get(key, look)

    def section(
        self,
        document: Document,
        start: tuple[float, float],
        end: tuple[float, float],
        longest_px: int,
        tilt_deg: float = 0.0,
        lift_mm: float = 0.0,
    ) -> SectionCut:
        """The piece along a line, mm from the lower left corner, in a plane that may lean (see `cut_mesh`)."""
        made = cut_mesh(self.mesh(document, longest_px), start, end, tilt_deg, lift_mm)
        return SectionCut(
            length=float(np.hypot(end[0] - start[0], end[1] - start[1])),
            asked=self.asked_along(document, start, end, longest_px) if tilt_deg == 0 else None,
            made=[[(float(s), float(z)) for s, z in line] for line in made],
        )

    def shelf_view(self, document: Document) -> View:
        """From where the piece is looked at on the shelf."""
        return View()

    def thumbnail(self, document: Document) -> bytes:
        """A rendered PNG of the piece."""
        view = self.shelf_view(document)
        key = step_key("thumbnail", LOOKS_VERSION, (*THUMBNAIL_PX, astuple(view)), self.solid_key(document, PREVIEW_PX))

        def paint() -> bytes:
            return png_of(render(self.shaded(document, PREVIEW_PX), *THUMBNAIL_PX, view))

        return self._cache.get(key, paint, lambda data: data, lambda data: data)
