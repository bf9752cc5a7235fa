"""How light a piece is made for the next program."""

import math
from collections.abc import Callable
from typing import ClassVar, Literal

import numpy as np

from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.fewer.simplify import REACHED, Simplified, to_count, to_tolerance
from nebrel.core.mesh.formats import MeshFormat
from nebrel.core.mesh.formats.fit import bytes_of, to_bytes
from nebrel.core.mesh.surface_error import Deviation
from nebrel.core.proof.finding import Finding
from nebrel.piece.parts.fields import choice, length, measure, switch, whole
from nebrel.piece.parts.part import Part

# Of the thickness of a panel: beyond this little of its relief is left.
COARSEST_SHARE = 0.15
SEARCH_ROUNDS = 7
NEAR_ENOUGH = 0.9


class Lightness(Part):
    """What a mesh is simplified to before it is delivered."""

    heading: ClassVar[str] = "Lightness"
    hint: ClassVar[str] = "Switched off: as many triangles as the surface needs."
    on: bool = switch("Lightness switched on", False)
    by: Literal["triangles", "tolerance", "bytes"] = choice(
        "Lightness target",
        "triangles",
        {"triangles": "Triangles", "tolerance": "Deviation", "bytes": "File size"},
        label="Simplify to",
    )
    triangles: int = whole(
        "Triangles", 100_000, 4, 60_000_000, step=1000, label="Triangles, about", shown={"by": ["triangles"]}
    )
    tolerance_mm: float = length(
        "Largest deviation",
        0.05,
        0.0001,
        100,
        slider=(0.005, 0.5),
        step=0.005,
        label="No further off than",
        shown={"by": ["tolerance"]},
    )
    megabytes: float = measure(
        "File size", 20.0, 0.001, 4000, step=1, label="Megabytes at the most", shown={"by": ["bytes"]}
    )

    def key(self, form: MeshFormat) -> list[object]:
        """What the result depends on."""
        if not self.on:
            return []
        goal = {"triangles": self.triangles, "tolerance": self.tolerance_mm, "bytes": [self.megabytes, form]}
        return [self.by, goal[self.by]]

    def simplify(
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

    def missed(self, mesh: TriMesh) -> tuple[Finding, ...]:
        """That a delivered mesh has more triangles than were asked for, if it has."""
        if not self.on or self.by != "triangles" or len(mesh.faces) <= REACHED * self.triangles:
            return ()
        return (
            Finding(
                "note",
                f"{len(mesh.faces):,} triangles are left instead of {self.triangles:,}.",
                "With fewer the surface would fold, cross itself or come apart.",
                "lightness",
                value=float(len(mesh.faces)),
            ),
        )


def lighter_panel(
    finest: Slab,
    build: Callable[[float], Slab],
    measure: Callable[[TriMesh], Deviation],
    light: Lightness,
    form: MeshFormat,
) -> Slab:
    """A panel built again with as small a tolerance as makes it light enough: truer than simplifying its mesh.

    Outlines and frames keep their triangles however coarse the relief is. Where they alone are too many, or little
    would be left of the relief, the mesh is simplified after all.

    Args:
        finest: the panel within the tolerance of its finish; it is returned when it is light enough.
        build: gives the panel within a tolerance, mm.
        measure: how far a mesh is from the heights.
        light: what is asked.
        form: of the file, for its size.
    """
    if light.by == "tolerance":
        return finest if light.tolerance_mm <= finest.tolerance else build(light.tolerance_mm)

    def fill(slab: Slab) -> float:
        """Size as a share of what is allowed."""
        if light.by == "triangles":
            return len(slab.mesh.faces) / light.triangles
        return bytes_of(slab.mesh, form) / (light.megabytes * 1e6)

    if fill(finest) <= 1:
        return finest
    coarsest = COARSEST_SHARE * float(np.ptp(finest.mesh.vertices[:, 2]))
    low, high, guess = finest.tolerance, math.inf, finest.tolerance * fill(finest)
    best = None
    for _ in range(SEARCH_ROUNDS):
        guess = min(guess, coarsest)
        made = build(guess)
        if fill(made) <= 1:
            best, high = made, guess
            if fill(made) >= NEAR_ENOUGH:
                break
        elif guess >= coarsest:
            break
        else:
            low = guess
        guess = math.sqrt(low * high) if best is not None else guess * max(1.5, fill(made))
    if best is not None:
        return best
    simplified = light.simplify(finest.mesh, form)
    assert simplified is not None
    return Slab(simplified.mesh, measure(simplified.mesh), finest.tolerance)
