"""How true walls along curves are on what is bent and on skins: unrolled, and held beside what was drawn."""

from collections.abc import Callable

import manifold3d
import numpy as np

from bench.edges import BACKING_MM, RELIEF_MM, SIDE_MM, TOLERANCE_MM, Drawn, drawn, off_curve, shapes
from bench.report import Row
from bench.timing import best_of
from nebrel.core.bent.bend import is_out_of_place
from nebrel.core.bent.forms import cylinder
from nebrel.core.bent.lined import lined
from nebrel.core.bent.lithophane import MadeLithophane, make_lithophane
from nebrel.core.bent.parts import WallParts
from nebrel.core.bent.sheet import Border, Sheet, lay_out
from nebrel.core.csg.boolean import mesh_of
from nebrel.core.mesh import TriMesh
from nebrel.core.picture.picture import Picture, SourceFacts
from nebrel.core.surface.art import Setting, art_of_picture
from nebrel.core.surface.decorate import decorate
from nebrel.core.surface.laying import Decoration
from nebrel.core.surface.outcome import Decorated
from nebrel.core.surface.parameterize.chart import Way
from nebrel.core.surface.skin.skin import Skin, skin_of

PX_PER_MM = 10
# Of the round skin, mm; and how many flat faces it has, so that they are no further from round than the tolerance.
RADIUS_MM, SIDES = 30.0, 240
ASKED = "RMS ≤ 0.1 px, triangles ≤ 1.1 ×, time ≤ 2 ×"


def bent_and_laid() -> list[Row]:
    """The shapes of the walls of reliefs, round a cylinder as a lithophane and as a decoration."""
    return [row for name, shape in shapes().items() if name != "dome" for row in _rows(name, shape)]


def _rows(name: str, shape: Drawn) -> list[Row]:
    lithophane = _row(f"Lithophane round a cylinder, wall of a {name}", shape, *_lithophanes(shape))
    return [lithophane, _row(f"Picture on a cylinder, wall of a {name}", shape, *_decorations(shape))]


def _row(what: str, shape: Drawn, plain: Callable[[], TriMesh], curved: Callable[[], TriMesh]) -> Row:
    before, after = plain(), curved()
    rms, most = off_curve(after, shape, 1 / PX_PER_MM)
    rms_before, most_before = off_curve(before, shape, 1 / PX_PER_MM)
    slow, fast = best_of(3, curved, plain)
    share = len(after.faces) / len(before.faces)
    return Row(
        f"{what}, {PX_PER_MM} px/mm, soft edge",
        f"RMS {rms:.3f} px, at most {most:.2f} (pixels: {rms_before:.3f}, {most_before:.2f}); {len(after.faces):,} "
        f"triangles, {share:.2f} × those of pixels, {slow / fast:.2f} × as long ({slow:.2f} s)",
        ASKED,
        rms <= 0.1 and share <= 1.1 and slow <= 2 * fast,
    )


def _lithophanes(shape: Drawn) -> tuple[Callable[[], TriMesh], Callable[[], TriMesh]]:
    """A third of the way round a cylinder, with walls along pixels and along curves."""
    heights = drawn(shape, PX_PER_MM, True).heights
    level = np.full_like(heights, 0.0)[:, :-1]
    thickness = (BACKING_MM + np.hstack([level, heights, level])).astype(np.float32)
    form = cylinder(3 * SIDE_MM, SIDE_MM)
    sheet = lay_out(thickness, form.width, form.height, Border(thickness=BACKING_MM), 0.0)

    def made(sheet: Sheet) -> TriMesh:
        solid: MadeLithophane = make_lithophane(sheet, form, False, BACKING_MM, WallParts(), TOLERANCE_MM)
        places = form.unrolled(is_out_of_place(form, solid.mesh.vertices - solid.shift))
        faces = solid.mesh.faces
        there = faces[np.ptp(places[:, 0][faces], axis=1) < form.width / 2]
        return TriMesh(places - [SIDE_MM, 0.0, 0.0], there)

    return lambda: made(sheet), lambda: made(lined(sheet, form, TOLERANCE_MM).sheet)


def _decorations(shape: Drawn) -> tuple[Callable[[], TriMesh], Callable[[], TriMesh]]:
    """Wrapped round a can, with walls along pixels and along curves."""
    tones = drawn(shape, PX_PER_MM, True).heights / np.float32(RELIEF_MM)
    facts = SourceFacts("made", tones.shape[1], tones.shape[0], 8, "gray")
    art = art_of_picture(Picture(tones, np.ones_like(tones), facts), SIDE_MM, "bright", False)
    can: Skin = skin_of(mesh_of(manifold3d.Manifold.cylinder(2 * SIDE_MM, RADIUS_MM, RADIUS_MM, SIDES)))

    def made(curves: bool) -> TriMesh:
        at, up = np.array([RADIUS_MM, 0.0, SIDE_MM]), np.array([0.0, 0.0, 1.0])
        asked = Decoration(art, at, up, Setting(RELIEF_MM, curves=curves), Way("wrap"))
        laid: Decorated = decorate(can, [asked], TOLERANCE_MM, 0.8)
        x, y, z = laid.mesh.vertices.T
        # As wide as the flat faces are, which is how a decoration is laid.
        around = np.arctan2(y, x) * SIDES * np.sin(np.pi / SIDES) / np.pi * RADIUS_MM
        unrolled = np.column_stack([around + SIDE_MM / 2, z - SIDE_MM / 2, np.hypot(x, y) - RADIUS_MM + BACKING_MM])
        near = (np.abs(around) < SIDE_MM)[laid.mesh.faces].all(axis=1)
        return TriMesh(unrolled, laid.mesh.faces[near])

    return lambda: made(False), lambda: made(True)
