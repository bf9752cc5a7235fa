"""Steps that work on a mesh: mending it, keeping some of its parts, making its surface anew, cutting it."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from nebrel.core.csg.halve import halve
from nebrel.core.csg.merge import without_crossings
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.colouring import colour_like
from nebrel.core.mesh.remesh import remesh
from nebrel.core.mesh.repair import repair
from nebrel.core.mesh.shells import only_shells, shells_of
from nebrel.piece.parts.fields import choice, length, switch, whole
from nebrel.piece.parts.part import Part

Progress = Callable[[float], None]


@dataclass(frozen=True)
class Worked:
    """A mesh after a step, and what the step changed, in words."""

    mesh: TriMesh
    description: str


class _Step(Part):
    id: str = Field("", max_length=40)
    on: bool = Field(True, title="Step switched on")


class RepairStep(_Step):
    """Mend what can be mended without making the surface anew."""

    heading: ClassVar[str] = "Repair"
    hint: ClassVar[str] = "Drops faces that are none, turns faces outward, fills holes, joins parts that overlap."
    kind: Literal["repair"] = "repair"

    def worked(self, mesh: TriMesh, progress: Progress) -> Worked:
        """The mended mesh."""
        mended = repair(mesh, lambda part: progress(part / 2))
        merged = without_crossings(mended.mesh, lambda part: progress(0.5 + part / 2))
        counts = [
            (mended.degenerate + mended.duplicate, "face dropped", "faces dropped"),
            (mended.turned, "face turned", "faces turned"),
            (mended.filled, "hole filled", "holes filled"),
            (merged.joined, "part joined", "parts joined"),
            (merged.inner, "inner part dropped", "inner parts dropped"),
            (merged.recut, "crossing face cut out", "crossing faces cut out"),
            (mended.left_open, "hole left open", "holes left open"),
            (merged.left, "crossing left", "crossings left"),
        ]
        done = [f"{count:,} {one if count == 1 else many}" for count, one, many in counts if count]
        return Worked(merged.mesh, ", ".join(done) or "Nothing had to be mended")


class KeepPartsStep(_Step):
    """Keep the largest parts, or those that were chosen, and drop the others.

    `chosen` numbers parts by size, 1 the largest; when it is empty, `largest` of them are kept.
    """

    heading: ClassVar[str] = "Keep some parts"
    hint: ClassVar[str] = "Parts that hang together, sorted by size; what is not chosen goes."
    kind: Literal["keep-parts"] = "keep-parts"
    largest: int = whole("Parts kept", 1, 1, 10_000, label="Parts kept, the largest first")
    chosen: tuple[Annotated[int, Field(ge=1, le=100_000)], ...] = Field((), max_length=10_000, title="Chosen parts")

    def worked(self, mesh: TriMesh, progress: Progress) -> Worked:
        """The mesh of the largest parts."""
        shells = shells_of(mesh)
        progress(1.0)
        kept = (
            [shells[part - 1] for part in self.chosen if part <= len(shells)] if self.chosen else shells[: self.largest]
        )
        return Worked(only_shells(mesh, kept), f"{len(kept):,} of {len(shells):,} parts kept")


class RemeshStep(_Step):
    """Make the surface anew with even triangles."""

    heading: ClassVar[str] = "Make the surface anew"
    hint: ClassVar[str] = "Even triangles from a lattice, closed whatever it was before. Finer detail is lost."
    kind: Literal["remesh"] = "remesh"
    voxel_mm: float = length("Voxel", 0.5, 0.001, 1000)
    keep_edges: bool = switch("Sharp edges kept", True, label="Keep sharp edges")

    def worked(self, mesh: TriMesh, progress: Progress) -> Worked:
        """The new surface."""
        anew = colour_like(remesh(mesh, self.voxel_mm, self.keep_edges, progress), mesh)
        return Worked(anew, f"{len(mesh.faces):,} → {len(anew.faces):,} triangles")


class CutStep(_Step):
    """Cut by a plane and keep one side, the cut closed."""

    heading: ClassVar[str] = "Cut by a plane"
    hint: ClassVar[str] = "One side stays and the cut is closed. The model has to be closed."
    kind: Literal["cut"] = "cut"
    axis: Literal["x", "y", "z"] = choice("Axis", "z", {"x": "X", "y": "Y", "z": "Z"}, label="Axis of the cut")
    at_mm: float = length("Place of the plane", 0.0, -1e6, 1e6, step=0.5, label="From the lower end")
    keep: Literal["above", "below"] = choice(
        "Side kept", "above", {"above": "Above", "below": "Below"}, label="Side that stays"
    )

    def worked(self, mesh: TriMesh, progress: Progress) -> Worked:
        """The part on that side."""
        normal = (float(self.axis == "x"), float(self.axis == "y"), float(self.axis == "z"))
        axis = "xyz".index(self.axis)
        low = float(mesh.vertices[:, axis].min())
        part = halve(mesh, normal, low + self.at_mm, self.keep)
        progress(1.0)
        return Worked(part, f"{len(part.faces):,} triangles on that side")


ModelStep = Annotated[RepairStep | KeepPartsStep | RemeshStep | CutStep, Field(discriminator="kind")]
