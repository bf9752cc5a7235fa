"""Steps that work on a mesh: mending it, keeping some of its parts, making its surface anew, cutting it."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from nebrel.core.csg.chamfer import chamfered_below
from nebrel.core.csg.feet import with_foot
from nebrel.core.csg.halve import halve
from nebrel.core.csg.split import Pegs, split_with_pegs
from nebrel.core.errors import BadValueError
from nebrel.core.mend.pipeline import Mended, StepName, mend
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.colouring import colour_like
from nebrel.core.mesh.distance import measure_between
from nebrel.core.mesh.formats import MM_PER
from nebrel.core.mesh.pose import (
    Matrix,
    angle_of,
    flat_sides,
    mirrored,
    scaled,
    sized,
    stand_up,
    turn_about,
    turn_onto,
    turned,
)
from nebrel.core.mesh.remesh import remesh
from nebrel.core.mesh.shells import only_shells, shells_of
from nebrel.piece.parts.fields import angle, choice, length, made_by_hand, measure, share, switch, whole
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
    """Mend what can be mended without making the surface anew; what would make anything worse is left."""

    heading: ClassVar[str] = "Repair"
    hint: ClassVar[str] = "Mends step by step and measures each; a step that would make anything worse is taken back."
    kind: Literal["repair"] = "repair"
    weld_mm: float = length("Weld", 0.0, 0.0, 1.0, step=0.001, label="Join corners within, 0 by itself")
    clean: bool = switch("Clean faces", True, label="Drop faces that are none or twice")
    divide: bool = switch("Divide at corners", True, label="Divide edges where corners lie on them")
    orient: bool = switch("Turn faces", True, label="Turn faces outward")
    fill: bool = switch("Fill holes", True, label="Fill holes")
    part: bool = switch("Take apart", True, label="Take apart what only touches")
    join: bool = switch("Join overlaps", True, label="Join what overlaps, cut out folds")

    def worked(self, mesh: TriMesh, progress: Progress) -> Worked:
        """The mended mesh."""
        switched: list[tuple[bool, tuple[StepName, ...]]] = [
            (self.clean, ("flat_faces", "duplicates")),
            (self.divide, ("junctions",)),
            (self.orient, ("orient", "orient_again", "orient_at_last")),
            (self.fill, ("holes", "close_again")),
            (self.part, ("part",)),
            (self.join, ("join", "folds", "join_again")),
        ]
        without = [name for on, names in switched if not on for name in names]
        mended = mend(mesh, self.weld_mm or None, without, progress)
        return Worked(mended.mesh, told_mending(mended))


def told_mending(mended: Mended) -> str:
    """What was done to a mesh, what was taken back, and what is left, in words."""
    counts = [
        (mended.count("welded_vertices"), "corner joined", "corners joined"),
        (
            mended.count("dropped_degenerate_faces") + mended.count("dropped_duplicate_faces"),
            "face dropped",
            "faces dropped",
        ),
        (mended.count("divided_edges"), "edge divided", "edges divided"),
        (mended.count("turned_faces"), "face turned", "faces turned"),
        (mended.count("filled_holes"), "hole filled", "holes filled"),
        (mended.count("parted_vertices"), "touching corner taken apart", "touching corners taken apart"),
        (mended.count("joined_shells"), "part joined", "parts joined"),
        (mended.count("dropped_inner_shells"), "inner part dropped", "inner parts dropped"),
        (mended.count("recut_faces"), "crossing face cut out", "crossing faces cut out"),
        (mended.open_holes, "hole left open", "holes left open"),
        (mended.after.faults.self_crossings, "crossing left", "crossings left"),
        (sum(bool(step.worse) for step in mended.steps), "step taken back", "steps taken back"),
    ]
    done = [f"{count:,} {one if count == 1 else many}" for count, one, many in counts if count]
    return ", ".join(done) or "Nothing had to be mended"


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
        made = remesh(mesh, self.voxel_mm, self.keep_edges, lambda part: progress(0.7 * part))
        anew = colour_like(made, mesh)
        away = measure_between(mesh, anew, lambda part: progress(0.7 + 0.3 * part))
        told = f"{len(mesh.faces):,} → {len(anew.faces):,} triangles, at most {away.max:.3g} mm from what it was"
        return Worked(anew, told)


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


class TurnStep(_Step):
    """Turn it: stand it up, lay it on a flat side, or by typed angles. It stays where it stood, on its ground."""

    heading: ClassVar[str] = "How it lies"
    hint: ClassVar[str] = "Stood up by its longest direction and its flat sides, laid on one of them, or by angles."
    kind: Literal["turn"] = "turn"
    way: Literal["stand", "side", "typed"] = choice(
        "Turned", "stand", {"stand": "Stand it up", "side": "On a flat side", "typed": "By angles"}
    )
    side: int = whole("Flat side", 1, 1, 12, label="Which, the largest first", shown={"way": ["side"]})
    x_deg: float = angle("About X", 0, -360, 360, step=15, shown={"way": ["typed"]})
    y_deg: float = angle("About Y", 0, -360, 360, step=15, shown={"way": ["typed"]})
    z_deg: float = angle("About Z", 0, -360, 360, step=15, shown={"way": ["typed"]})

    def worked(self, mesh: TriMesh, progress: Progress) -> Worked:
        """The turned mesh."""
        matrix, how = self._turn(mesh)
        progress(0.5)
        return Worked(turned(mesh, matrix), how)

    def _turn(self, mesh: TriMesh) -> tuple[Matrix, str]:
        if self.way == "typed":
            matrix = turn_about("z", self.z_deg) @ turn_about("y", self.y_deg) @ turn_about("x", self.x_deg)
            return matrix, f"Turned by {angle_of(matrix):.4g}° in all"
        if self.way == "stand":
            matrix, by = stand_up(mesh)
            return matrix, f"Stood up, {by}; turned by {angle_of(matrix):.4g}°"
        sides = flat_sides(mesh)
        if not sides:
            raise BadValueError("Nothing of the mesh is flat where it could lie; turn it by angles.")
        at = min(self.side, len(sides)) - 1
        matrix = turn_onto(sides[at].outward, np.array([0.0, 0.0, -1.0]))
        return (
            matrix,
            f"On flat side {at + 1} of {len(sides)}, {sides[at].area:,.0f} mm²; turned by {angle_of(matrix):.4g}°",
        )


class SizeStep(_Step):
    """Make it as large as is typed along one direction, in proportion or that direction alone; or by a factor."""

    heading: ClassVar[str] = "How large it is"
    hint: ClassVar[str] = "By its size along one direction, a factor, the unit of its numbers, or to fill the bed."
    kind: Literal["size"] = "size"
    by: Literal["size", "factor", "unit", "bed"] = choice(
        "By", "size", {"size": "Size", "factor": "Factor", "unit": "Unit", "bed": "Bed"}
    )
    axis: Literal["x", "y", "z"] = choice(
        "Direction", "z", {"x": "X", "y": "Y", "z": "Z"}, label="Along", shown={"by": ["size"]}
    )
    size_mm: float = length("Size", 90, 0.001, 100_000, step=1, shown={"by": ["size"]})
    alone: bool = switch("That direction only", False, shown={"by": ["size"]})
    factor: float = measure("Factor", 1.0, 0.0001, 10_000, unit="", step=0.1, shown={"by": ["factor"]})
    unit: Literal["cm", "m", "in", "ft"] = choice(
        "Unit", "in", {"cm": "cm", "m": "m", "in": "inches", "ft": "feet"}, label="Its mm are", shown={"by": ["unit"]}
    )
    bed_mm: tuple[float, float, float] = made_by_hand("Bed to fill", (220.0, 220.0, 240.0))
    bed_share: float = share("Share of the bed", 0.9, 0.05, 1.0, label="So much of it", shown={"by": ["bed"]})

    def worked(self, mesh: TriMesh, progress: Progress) -> Worked:
        """The mesh at that size."""
        if self.by == "size":
            found = sized(mesh, self.axis, self.size_mm, self.alone)
        else:
            found = scaled(mesh, [self._factor_for(mesh)] * 3)
        progress(1.0)
        sides = np.ptp(found.vertices[np.unique(found.faces)], axis=0)
        return Worked(found, " × ".join(f"{side:.2f}" for side in sides) + " mm")

    def _factor_for(self, mesh: TriMesh) -> float:
        if self.by == "factor":
            return self.factor
        if self.by == "unit":
            return MM_PER[self.unit]
        sides = np.ptp(mesh.vertices[np.unique(mesh.faces)], axis=0)
        if not (np.array(self.bed_mm) > 0).all():
            raise BadValueError("The bed to fill has no size; choose a maker with a bed.")
        return float(min(self.bed_share * bed / side for bed, side in zip(self.bed_mm, sides, strict=True) if side > 0))


class MirrorStep(_Step):
    """Mirror it."""

    heading: ClassVar[str] = "Mirror"
    hint: ClassVar[str] = "What is on one side comes to the other; lettering reads the other way."
    kind: Literal["mirror"] = "mirror"
    axis: Literal["x", "y", "z"] = choice("Direction", "x", {"x": "X", "y": "Y", "z": "Z"}, label="Across")

    def worked(self, mesh: TriMesh, progress: Progress) -> Worked:
        """The mirrored mesh."""
        progress(1.0)
        return Worked(mirrored(mesh, self.axis), f"Mirrored across {self.axis.upper()}")


class FootStep(_Step):
    """Set it on a foot."""

    heading: ClassVar[str] = "Foot below"
    hint: ClassVar[str] = "What it covers as high as the foot is, and a margin all round, so that it stands and holds."
    kind: Literal["foot"] = "foot"
    margin_mm: float = length("Margin", 3.0, 0, 200, step=0.5, label="Reaches beyond by")
    height_mm: float = length("Height", 1.2, 0.1, 200, step=0.2)

    def worked(self, mesh: TriMesh, progress: Progress) -> Worked:
        """The mesh on its foot."""
        made = with_foot(mesh, self.margin_mm, self.height_mm)
        progress(1.0)
        return Worked(made, f"A foot {self.height_mm:g} mm high")


class SplitStep(_Step):
    """Cut it in two that pegs join again; both lie on their cut."""

    heading: ClassVar[str] = "In two, with pegs"
    hint: ClassVar[str] = "Both halves lie on their cut, beside each other; pegs stand beside them."
    kind: Literal["split"] = "split"
    axis: Literal["x", "y", "z"] = choice("Axis", "z", {"x": "X", "y": "Y", "z": "Z"}, label="Axis of the cut")
    at_mm: float = length("Place of the cut", 20.0, 0.01, 1e6, step=0.5, label="From the lower end")
    pegs: int = whole("Pegs", 2, 0, 2)
    peg_mm: float = length("Peg thickness", 4.0, 0.5, 200, step=0.5)
    peg_length_mm: float = length("Peg length", 8.0, 1, 500, step=1)
    clearance_mm: float = length("Clearance of pegs", 0.1, 0, 5, step=0.02, label="Holes are wider by, all round")

    def worked(self, mesh: TriMesh, progress: Progress) -> Worked:
        """Both halves and the pegs."""
        pegs = Pegs(self.pegs, self.peg_mm, self.peg_length_mm, self.clearance_mm)
        made = split_with_pegs(mesh, self.axis, self.at_mm, pegs)
        progress(1.0)
        return Worked(made, f"Cut across {self.axis.upper()} at {self.at_mm:g} mm")


class ChamferBelowStep(_Step):
    """Slopes under what hangs level."""

    heading: ClassVar[str] = "Slopes below"
    hint: ClassVar[str] = "Under what hangs level beside a wall, as small as they can be, so that no support is needed."
    kind: Literal["chamfer-below"] = "chamfer-below"
    slope_deg: float = angle("Slope", 45, 10, 80, label="From upright")

    def worked(self, mesh: TriMesh, progress: Progress) -> Worked:
        """The mesh with slopes."""
        made, count = chamfered_below(mesh, self.slope_deg)
        progress(1.0)
        return Worked(made, f"{count} {'slope' if count == 1 else 'slopes'} of {self.slope_deg:g}°")


ModelStep = Annotated[
    RepairStep
    | KeepPartsStep
    | RemeshStep
    | CutStep
    | TurnStep
    | SizeStep
    | MirrorStep
    | FootStep
    | SplitStep
    | ChamferBelowStep,
    Field(discriminator="kind"),
]
