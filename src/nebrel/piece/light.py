"""How light a piece is made for the next program."""

from collections.abc import Callable
from typing import Literal

from pydantic import Field

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.fit import to_bytes
from nebrel.core.mesh.formats import MeshFormat
from nebrel.core.mesh.simplify import Simplified, to_count, to_tolerance
from nebrel.piece.part import Part


class Lightness(Part):
    """What a mesh is simplified to before it is delivered."""

    on: bool = Field(False, title="Lightness switched on")
    by: Literal["triangles", "tolerance", "bytes"] = Field("triangles", title="Lightness target")
    triangles: int = Field(100_000, ge=4, le=60_000_000, title="Triangles")
    tolerance_mm: float = Field(0.05, ge=0.0001, le=100, title="Largest deviation")
    megabytes: float = Field(20.0, ge=0.001, le=4000, title="File size")

    def key(self, form: MeshFormat) -> list[object]:
        """What the result depends on."""
        if not self.on:
            return []
        goal = {"triangles": self.triangles, "tolerance": self.tolerance_mm, "bytes": [self.megabytes, form]}
        return [self.by, goal[self.by]]

    def made(
        self, mesh: TriMesh, form: MeshFormat, progress: Callable[[float], None] = lambda _: None
    ) -> Simplified | None:
        """The lighter mesh with its measured deviation, or None when nothing is asked."""
        if not self.on:
            return None
        if self.by == "triangles":
            return to_count(mesh, self.triangles, progress)
        if self.by == "tolerance":
            return to_tolerance(mesh, self.tolerance_mm, progress)
        return to_bytes(mesh, form, int(self.megabytes * 1e6), progress)
