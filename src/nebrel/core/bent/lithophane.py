"""A lithophane: a bent wall with the parts that hold it, as one closed solid."""

from dataclasses import dataclass, replace

import numpy as np

from nebrel.core.bent.bend import Progress, bend
from nebrel.core.bent.forms import Cone, Floats, Form, Globe, Upright
from nebrel.core.bent.parts import WallParts, refuse_misplaced, with_parts
from nebrel.core.bent.sheet import Sheet
from nebrel.core.csg.boolean import cleanup, mesh_of, solid_of
from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.surface_error import Deviation

MERGE_SHARE = 0.02
MOST_SKETCHED = 70_000


@dataclass(frozen=True)
class MadeLithophane:
    """A made lithophane.

    Attributes:
        mesh: closed, outward, its lowest corner at the origin.
        deviation: of the thickness along the normal.
        shift: (3,) mm that took it there from where its form is placed.
        unlined: whether lines of its sheet were left out, since it was worse with them.
    """

    mesh: TriMesh
    deviation: Deviation
    shift: Floats
    unlined: bool = False


def make_lithophane(
    sheet: Sheet,
    form: Form,
    inside: bool,
    rim: float,
    parts: WallParts,
    tolerance: float,
    progress: Progress = lambda _stage, _fraction: None,
    sketch: bool = False,
    between: bool = False,
    unlined: Sheet | None = None,
) -> MadeLithophane:
    """The wall of `sheet` over `form` with its parts.

    Where lines of the sheet keep it from being sound, or as true as asked, and it is better without, it has none.

    Args:
        sheet, form, inside, tolerance: as for `bend`.
        rim: thickness of the border, mm.
        parts: what is joined to it and cut out of it.
        progress: called with stage name and fraction.
        sketch: for looking at: light enough to draw smoothly, joined without mending slivers.
        between: whether thicknesses are held between samples too.
        unlined: the sheet without lines, where it has some.

    Raises:
        BadValueError: the form is too tight for the wall, or a part does not fit.
    """
    refuse_tight(form, inside, float(sheet.thickness.max()))
    refuse_misplaced(parts, form)

    def made(sheet: Sheet) -> MadeLithophane:
        return _made(sheet, form, inside, rim, parts, tolerance, progress, sketch, between)

    found = made(sheet)
    if sketch or unlined is None or sheet.lines is None:
        return found
    crosses = len(crossing_pairs(found.mesh, 1)) > 0
    if not crosses and found.deviation.max <= tolerance:
        return found
    plain = made(unlined)
    return replace(plain, unlined=True) if crosses or plain.deviation.max < found.deviation.max else found


def _made(
    sheet: Sheet,
    form: Form,
    inside: bool,
    rim: float,
    parts: WallParts,
    tolerance: float,
    progress: Progress,
    sketch: bool,
    between: bool,
) -> MadeLithophane:
    thickest = float(sheet.thickness.max())
    wall = bend(sheet, form, inside, tolerance, progress, MOST_SKETCHED if sketch else None, between)
    mesh = wall.mesh
    if not parts.none:
        progress("Joining the parts", 0.0)
        solid = with_parts(solid_of(mesh), form, inside, rim, (float(sheet.thickness.min()), thickest), parts)
        mesh = mesh_of(solid.as_original()) if sketch else cleanup(solid, MERGE_SHARE * tolerance)
        progress("Joining the parts", 1.0)
    shift = -mesh.vertices.min(axis=0)
    moved = (mesh.vertices + shift).astype(np.float32).astype(np.float64)
    return MadeLithophane(TriMesh(moved, mesh.faces), wall.deviation, shift)


def refuse_tight(form: Form, inside: bool, thickest: float) -> None:
    """Refuse a form that bends tighter than its wall is thick, where walls would run into each other.

    Raises:
        BadValueError: it is too tight.
    """
    if isinstance(form, Upright):
        radius, what = form.curve.tightest(hollow=not inside), "form's tightest bend"
    elif isinstance(form, Cone):
        radius, what = (min(form.bottom, form.top) if inside else np.inf), "cone's narrow end"
    elif isinstance(form, Globe):
        radius, what = (form.radius if inside else np.inf), "sphere"
    else:
        return
    if radius <= 1.05 * thickest:
        raise BadValueError(
            f"The wall is up to {thickest:g} mm thick and the {what} has a radius of {radius:.1f} mm; "
            f"a radius above {1.05 * thickest:.1f} mm, or a thinner wall, is needed."
        )
