"""A skin cut along decorations and moved by their depths: the decorated mesh."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.errors import TooLargeError
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.rings import rings_of
from nebrel.core.surface.parameterize.all_over import AllOver
from nebrel.core.surface.parameterize.chart import Chart, doubled_areas
from nebrel.core.surface.parameterize.coverage import leaves
from nebrel.core.surface.skin.skin import Skin, mitre
from nebrel.core.surface.subdivide import subtriangles as cut
from nebrel.core.surface.subdivide.lines import ROOM_A_LINE, draw_rings
from nebrel.core.surface.subdivide.refine import HIGHEST, LAST, SUM, WantedDepths, corner_depths, refine

Overlap = Literal["highest", "sum", "last"]
OVERLAPS: dict[Overlap, int] = {"highest": HIGHEST, "sum": SUM, "last": LAST}
SNAP_GRAINS = 64
LEAST_SNAP = 2e-4
MOST_PIECES = 6_000_000
STEPS_OFF_CHART = 200
PER_VERTEX = ("piece_at", "size")
SAME_WAY = 1e-6
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Field:
    """Depths over a plane.

    Attributes:
        depths: float32 (rows, columns) mm, raised above 0, sunk below.
        to_grid: float64 (2, 3): from places of the chart to column and row.
        pitch: mm between samples.
        tiled: whether it starts again beyond its edges.
    """

    depths: NDArray[np.float32]
    to_grid: _Reals
    pitch: float
    tiled: bool = False

    def __post_init__(self) -> None:
        object.__setattr__(self, "depths", np.ascontiguousarray(self.depths))


@dataclass(frozen=True)
class Part:
    """Where a decoration has depths of its own, which end at the lines round it.

    Attributes:
        region: mm in the chart.
        field: how deep.
    """

    region: MultiPolygon
    field: Field


@dataclass(frozen=True)
class Laid:
    """A decoration as it lies on a chart.

    Attributes:
        chart: the skin laid flat.
        region: where it is, mm in the chart; None for the whole chart.
        field: how deep, or None where nothing varies and nothing moves.
        flat: whether the field only says where to be fine, and nothing moves.
        also: further fields that it is fine enough for.
        overlap: what happens where something was before.
        within: numbers of the faces that it keeps to, or None for all of the chart.
        over: how it lies all over a skin, with how much of the depth corners carry; None for everything else.
        parts: between lines along which depths jump, of all of the region; none where they jump nowhere.
    """

    chart: Chart
    region: MultiPolygon | None
    field: Field | None
    overlap: Overlap = "highest"
    within: _Ints | None = None
    flat: bool = False
    also: tuple[Field, ...] = ()
    over: AllOver | None = None
    parts: tuple[Part, ...] = ()


@dataclass
class Carving:
    """The faces round some decorations in pieces, with the depth of every corner.

    Pieces hold numbers of vertices: those of the skin, then new ones.
    """

    skin: Skin
    faces: _Ints
    near: float
    pieces: cut.Pieces
    added: int = 0
    left_chart: int = 0

    @property
    def count(self) -> int:
        """How many pieces there are."""
        return int(self.pieces.size[0])

    @property
    def owner(self) -> NDArray[np.int32]:
        """Which decoration covers every piece, the one that was added last: 1 the first, 0 none; int32 (count,)."""
        return self.pieces.flags[: self.count] >> 1

    def add(self, laid: Laid, tolerance: float) -> _Ints:
        """Cut along a decoration and give corners its depths to within `tolerance` mm; numbers of pieces it covers."""
        self.show(laid.chart)
        period = laid.chart.period
        for region in (laid.region, *(part.region for part in laid.parts)):
            if region is not None:
                self._draw(region, laid.chart)
        self.added += 1
        own: list[tuple[MultiPolygon | None, Field | None]] = [(part.region, part.field) for part in laid.parts]
        for region, depths in own or [(laid.region, laid.field)]:
            self._take_inside(laid, region, period)
            for each in (depths, *laid.also):
                if each is not None:
                    self._refine(each, tolerance, laid)
            inside = np.flatnonzero(self.pieces.flags[: self.count] & 1)
            if depths is not None and not laid.flat:
                wanted = self._to_loops(depths, laid)
                self.pieces.corner_depth[inside] = corner_depths(inside, wanted, self.pieces)
            # Pieces of it that another part divides belong to it, too.
            self.pieces.flags[inside] = 2 * self.added
        inside = np.flatnonzero(self.owner == self.added)
        self.pieces.flags[inside] |= 1
        self._keep_sides()
        return inside

    def positions(self) -> tuple[_Reals, _Reals]:
        """Of every vertex where it is on the skin and which way it moves per mm, float64 (V, 3) each.

        On a sharp crease it moves so that the skin on both sides does.
        """
        mesh, skin = self.skin.mesh, self.skin
        count, known, used = int(self.pieces.size[1]), len(mesh.vertices), self.count
        corners = self.pieces.corner_vertex[:used].ravel()
        shares = self.pieces.corner_share[:used].reshape(-1, 2)
        whole = np.column_stack([1 - shares.sum(axis=1), shares])
        of_face = np.repeat(self.pieces.face_of[:used], 3)
        some = np.full(count, -1, dtype=np.int64)
        some[corners] = np.arange(len(corners))
        vertex = np.flatnonzero(some >= 0)
        first = some[vertex]
        points = np.zeros((count, 3))
        points[vertex] = np.einsum("ki,kij->kj", whole[first], mesh.vertices[skin.faces[of_face[first]]])
        points[:known] = mesh.vertices
        offset = np.einsum("ki,kij->kj", whole, skin.offset_vectors[skin.corners[of_face]])
        offset_vectors = np.zeros((count, 3))
        offset_vectors[vertex] = offset[first]
        creased = np.zeros(count, dtype=bool)
        creased[corners[np.abs(offset - offset_vectors[corners]).max(axis=1) > SAME_WAY]] = True
        at = np.flatnonzero(creased[corners])
        if len(at):
            # Where one side alone is moved, it goes its own way.
            moved = np.repeat((self.pieces.corner_depth[:used] != 0).any(axis=1), 3)
            partly = np.zeros(count, dtype=bool)
            partly[corners[at[moved[at]]]] = True
            at = at[moved[at] | ~partly[corners[at]]]
            sharp, local = np.unique(corners[at], return_inverse=True)
            matrix, right = np.zeros((len(sharp), 3, 3)), np.zeros((len(sharp), 3))
            # The planes on both sides, each once, not their faces, so that narrow and few faces count as much.
            planes = offset[at] / np.maximum(np.linalg.norm(offset[at], axis=1, keepdims=True), 1e-12)
            _, once = np.unique(np.column_stack([local, np.round(planes / SAME_WAY)]), axis=0, return_index=True)
            planes, local = planes[once], local[once]
            np.add.at(matrix, local, planes[:, :, np.newaxis] * planes[:, np.newaxis])
            np.add.at(right, local, planes)
            offset_vectors[sharp] = mitre(matrix, right)
        return points, offset_vectors

    def split(self, piece: int, side: int, share: float) -> None:
        """A new vertex on a side."""
        self._room(8, 8)
        cut.split_side(piece, side, share, self.pieces)

    def show(self, chart: Chart) -> None:
        """Where every corner of every piece lies in the plane of a chart."""
        local = np.full(len(self.skin.faces), -1, dtype=np.int64)
        local[chart.faces] = np.arange(len(chart.faces))
        used = self.count
        at = local[self.pieces.face_of[:used]]
        inside = at >= 0
        plane = chart.plane[at[inside]]
        shares = self.pieces.corner_share[:used][inside]
        whole = np.concatenate([1 - shares.sum(axis=2, keepdims=True), shares], axis=2)
        laid = np.einsum("kci,kij->kcj", whole, plane)
        turned = doubled_areas(plane) <= 0
        laid[turned] = np.nan
        self.pieces.corner_place[:used] = np.nan
        self.pieces.corner_place[np.flatnonzero(inside)] = laid
        self.pieces.flags[:used] &= ~1

    def _draw(self, region: MultiPolygon, chart: Chart) -> None:
        if leaves(chart, region):
            # Where lines leave the chart and come back, they are followed from place to place.
            low_x, low_y, high_x, high_y = region.bounds
            region = polygons_of(shapely.segmentize(region, max(high_x - low_x, high_y - low_y) / STEPS_OFF_CHART))
        rings = [_space(ring, 6 * self.near) for ring in rings_of(region)]
        rings = [ring for ring in rings if len(ring) >= 3]
        if not rings:
            return
        places = np.vstack(rings)
        starts = np.concatenate([[0], np.cumsum([len(ring) for ring in rings])]).astype(np.int64)
        reached, progress = np.array([-1, 0, 0, 0], dtype=np.int64), np.zeros(4)
        self._room(4 * len(places) + 2 * ROOM_A_LINE, 2 * len(places) + 2 * ROOM_A_LINE)
        while draw_rings(places, starts, chart.period, self.near, reached, progress, self.pieces) == cut.FULL:
            self._room(self.count + ROOM_A_LINE, int(self.pieces.size[1]) // 2 + ROOM_A_LINE)
        self.left_chart += int(reached[3])

    def _take_inside(self, laid: Laid, region: MultiPolygon | None, period: float) -> None:
        used = self.count
        centres = self.pieces.corner_place[:used].mean(axis=1)
        there = np.isfinite(centres[:, 0])
        if laid.within is not None:
            picked = np.zeros(len(self.skin.faces), dtype=bool)
            picked[laid.within] = True
            there &= picked[self.pieces.face_of[:used]]
        if region is not None:
            shapely.prepare(region)
            found = np.zeros(used, dtype=bool)
            for turn in (0.0, period, -period) if period else (0.0,):
                found[there] |= shapely.contains_xy(region, centres[there, 0] + turn, centres[there, 1])
            there &= found
        self.pieces.flags[:used] |= there

    def _refine(self, depths: Field, tolerance: float, laid: Laid) -> None:
        level, first = np.zeros(1), True
        errors = np.zeros((len(self.pieces.corner_vertex), 3))
        wanted = self._to_loops(depths, laid)
        while refine(first, tolerance, self.near, wanted, errors, level, self.pieces) == cut.FULL:
            first = False
            self._room(self.count, int(self.pieces.size[1]) // 2)
            grown = np.zeros((len(self.pieces.corner_vertex), 3))
            grown[: len(errors)] = errors
            errors = grown

    def _to_loops(self, depths: Field, laid: Laid) -> WantedDepths:
        """A field for the loops."""
        local, share = np.empty(0, dtype=np.int64), np.empty((0, 3))
        if laid.over is not None:
            local, share = np.full(len(self.skin.faces), -1, dtype=np.int64), laid.over.share
            local[laid.chart.faces] = np.arange(len(laid.chart.faces))
        overlap = OVERLAPS[laid.overlap]
        return WantedDepths(
            depths.depths, depths.to_grid, depths.pitch, depths.tiled, laid.chart.period, overlap, local, share
        )

    def _keep_sides(self) -> None:
        """Sides of this decoration are not turned by the next one, where that would change depths or edges."""
        used = self.count
        kinds = self.pieces.side_kind[:used]
        kinds[kinds == cut.LINE] = cut.KEPT
        deep = (self.pieces.corner_depth[:used] != 0).any(axis=1)
        fixed = deep[:, np.newaxis] & (kinds == cut.FREE)
        kinds[fixed] = cut.KEPT
        # A free side between a deep piece and a flat one counts as kept from both.
        beyond = self.pieces.neighbour[:used]
        other_deep = np.where(beyond >= 0, deep[np.maximum(beyond, 0)], False)
        kinds[other_deep & (kinds == cut.FREE)] = cut.KEPT

    def _room(self, pieces: int, vertices: int) -> None:
        """Grow the arrays until so many more pieces and vertices fit in."""
        wanted = self.count + pieces + 16 * cut.SPARE
        if wanted > MOST_PIECES:
            raise TooLargeError(
                f"The decoration would need more than {MOST_PIECES:,} triangles; a coarser tolerance or a smaller size "
                "would be accepted."
            )
        if wanted > len(self.pieces.corner_vertex):
            more = max(wanted - len(self.pieces.corner_vertex), len(self.pieces.corner_vertex) // 2)
            grown = {
                name: np.concatenate([old, np.zeros((more, *old.shape[1:]), dtype=old.dtype)])
                for name, old in self.pieces._asdict().items()
                if name not in PER_VERTEX
            }
            self.pieces = self.pieces._replace(**grown)
        wanted = int(self.pieces.size[1]) + vertices + 16 * cut.SPARE
        if wanted > len(self.pieces.piece_at):
            more = max(wanted - len(self.pieces.piece_at), len(self.pieces.piece_at) // 2)
            self.pieces = self.pieces._replace(
                piece_at=np.concatenate([self.pieces.piece_at, np.full(more, -1, dtype=np.int64)])
            )


def carving_of(skin: Skin, charts: list[Chart]) -> Carving:
    """The faces of some charts and those around them, whole still."""
    touched = np.zeros(len(skin.mesh.vertices), dtype=bool)
    for chart in charts:
        touched[skin.faces[chart.faces]] = True
    faces = np.flatnonzero(touched[skin.faces].any(axis=1))
    local = np.full(len(skin.faces), -1, dtype=np.int64)
    local[faces] = np.arange(len(faces))
    opposite = skin.opposite_halfedges.reshape(-1, 3)[faces]
    shares = np.zeros((len(faces), 3, 2))
    shares[:, 1, 0] = shares[:, 2, 1] = 1.0
    vertices = skin.faces[faces].copy()
    some_piece = np.full(len(skin.mesh.vertices), -1, dtype=np.int64)
    some_piece[vertices.ravel()] = np.repeat(np.arange(len(faces)), 3)
    grain = float(np.spacing(np.float32(np.abs(skin.mesh.vertices).max())))
    carving = Carving(
        skin=skin,
        faces=faces,
        near=max(LEAST_SNAP, SNAP_GRAINS * grain),
        pieces=cut.Pieces(
            corner_vertex=vertices,
            neighbour=np.where(opposite >= 0, local[np.maximum(opposite, 0) // 3], -1),
            side_kind=np.full((len(faces), 3), cut.SIDE, dtype=np.int8),
            corner_share=shares,
            corner_place=np.full((len(faces), 3, 2), np.nan),
            corner_depth=np.zeros((len(faces), 3)),
            face_of=faces.copy(),
            flags=np.zeros(len(faces), dtype=np.int32),
            piece_at=some_piece,
            size=np.array([len(faces), len(skin.mesh.vertices)], dtype=np.int64),
        ),
    )
    carving._room(0, 0)
    return carving


def _space(ring: _Reals, least: float) -> _Reals:
    """A ring without places nearer than `least` to the one before."""
    kept = [0]
    for at in range(1, len(ring)):
        if np.hypot(*(ring[at] - ring[kept[-1]])) >= least:
            kept.append(at)
    while len(kept) > 1 and np.hypot(*(ring[kept[-1]] - ring[0])) < least:
        kept.pop()
    return ring[kept]
