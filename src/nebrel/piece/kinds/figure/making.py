"""From the recipe of a figure to its solid: outline, front and back, surface, colours, made light; each step kept."""

from collections.abc import Callable
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.colour.few import FewColours
from nebrel.core.figure.figure import ShapedFigure, shape_figure
from nebrel.core.figure.foot import on_foot
from nebrel.core.figure.learned import network_hash
from nebrel.core.figure.lighten import lighten
from nebrel.core.figure.silhouette import silhouette_of
from nebrel.core.figure.surface import surface_of
from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.atlas import unwrap
from nebrel.core.mesh.collapse import collapse_in_halves
from nebrel.core.mesh.distance import measure_between
from nebrel.core.mesh.formats import TEXTURED
from nebrel.core.mesh.place import at_origin
from nebrel.core.mesh.surface_error import BOTH_WAYS, Deviation
from nebrel.core.mesh.texture import Texture, bake
from nebrel.piece.depths.by_hand import hand_over, hand_told
from nebrel.piece.depths.sources import depth_source
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.codec import decode_slab, encode_slab
from nebrel.piece.evaluation.evaluator import Progress, quiet
from nebrel.piece.evaluation.pictured import PicturedEvaluator
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.skinned import SKETCH_PX, SkinnedEvaluator
from nebrel.piece.kinds.figure.colours import coloured, colours_told, detail_of, painted, picture_behind
from nebrel.piece.kinds.figure.document import FigureDocument
from nebrel.piece.kinds.figure.few import given_few
from nebrel.piece.kinds.figure.mirroring import mirror_line
from nebrel.piece.parts.model_steps import Worked

SKETCH_CELLS = 144
MOST_SHOWN = 120_000
RELIEF_MM = 2.0
OUTLINING, SHAPING, SURFACING = "Finding the outline", "Swelling it", "Making the surface"
OF_FINE = "to the nearest place, from the surface before it was made light"
OF_WORKED = "to the nearest place, from the figure before it was made lighter"
# What does not change front and back.
BESIDE_FORM = {"cells", "tolerance_mm", "strokes", "order", "colour", "few", "foot"}
_VERSION = 4


class FigureMaking(PicturedEvaluator[FigureDocument], SkinnedEvaluator[FigureDocument]):
    """The steps of figures. X runs right and Y up as in the picture, Z towards the viewer."""

    looked_px = SKETCH_PX

    @property
    def relief_mm(self) -> float:
        """What tones are judged as: nothing is raised by them."""
        return RELIEF_MM

    @property
    def tall_tones(self) -> Literal["bright", "dark"]:
        return "bright"

    @property
    def tolerance_mm(self) -> float:
        return self.document.figure.tolerance_mm

    def check(self, progress: Progress = quiet) -> None:
        self.shaped(SKETCH_PX, progress)

    def shaped(self, longest_px: int = FULL, progress: Progress = quiet) -> ShapedFigure:
        """Front and back of the figure."""

        def shape() -> ShapedFigure:
            view = self.view(longest_px, None, progress)
            progress(OUTLINING, 0.0)
            silhouette = silhouette_of(view.picture.coverage, view.mm_per_px, self._cells(longest_px))
            progress(SHAPING, 0.3)
            figure = self.document.figure
            behind = figure.depth.behind_blob
            back = None if behind is None else (behind, figure.depth.behind_name)
            source = depth_source(figure.depth, view.picture, self._sources, back)
            own_back = picture_behind(figure.back, view.picture, self._sources)
            detail = detail_of(figure.detail, view.picture, own_back)
            line = mirror_line(figure.symmetry, view, silhouette)
            by_hand = figure.strokes, figure.order
            hand = hand_over(*by_hand, view) if any(hand_told(*by_hand)) else None
            return shape_figure(silhouette, figure.to_core(), source, hand, detail, line)

        return self._cache.get(self._form_key(longest_px), shape)

    def mesh(self, longest_px: int = FULL) -> TriMesh:
        return at_origin(self.placed(longest_px))

    def placed(self, longest_px: int) -> TriMesh:
        return self.delivered().mesh if longest_px == FULL else self.painted_sketch()

    def solid_key(self, longest_px: int) -> str:
        return self._with_few(self._finished_key if longest_px == FULL else self.made_key(longest_px))

    def unworked(self, longest_px: int, progress: Progress = quiet) -> Worked:
        made = self._lightened(progress).mesh if longest_px == FULL else self.coloured_sketch()
        return Worked(made, f"{len(made.faces):,} triangles made")

    def unworked_key(self, longest_px: int) -> str:
        coloured = self._coloured_key(longest_px)
        if longest_px != FULL:
            return coloured
        return step_key("figure light", _VERSION, [self.tolerance_mm, self._paints_picture], coloured)

    def delivered(self, progress: Progress = quiet) -> Slab:
        """The finished solid, made as light as its tolerance and what is asked allow."""
        slab = self._finished(progress)
        few = self.few_delivered(progress)
        return slab if few is None else replace(slab, mesh=few.mesh)

    def few_delivered(self, progress: Progress = quiet) -> FewColours | None:
        """The finished solid in few colours, where they are asked for."""
        if not self.has_few:
            return None
        mesh, few = self._finished(progress).mesh, self.document.figure.few
        key = step_key("figure few delivered", _VERSION, None, self.solid_key(FULL))
        return self._cache.get(key, lambda: given_few(few, mesh, lambda part: progress("Choosing colours", part)))

    def _lightened(self, progress: Progress = quiet) -> Slab:
        """The figure with all colours before its steps, as light as its tolerance allows."""

        def make() -> Slab:
            plain = self.surface(FULL, progress)
            # Where a texture carries the picture, triangles need not end where colours do.
            fine = plain if self._paints_picture else self._coloured(plain, FULL)
            lighter = lighten(fine, self.tolerance_mm, lambda part: progress("Making it light", part))
            apart = lighter.deviation
            return Slab(lighter.mesh, Deviation(apart.max, apart.rms, OF_FINE, BOTH_WAYS), self.tolerance_mm)

        return self._cache.get(self.unworked_key(FULL), make, encode_slab, decode_slab)

    def _finished(self, progress: Progress = quiet) -> Slab:
        """The figure with all colours after its steps and decorations, as light as is asked."""

        def make() -> Slab:
            light, mesh = self._lightened(progress), self.made(FULL, progress)
            asked = self.document.light.simplify(
                mesh, self.document.delivery.format, lambda part: progress("Making it lighter", part)
            )
            if asked is not None:
                before = mesh if self.document.is_worked else self.surface(FULL)
                apart = measure_between(before, asked.mesh, lambda part: progress("Measuring the surface", part))
                how = OF_WORKED if self.document.is_worked else OF_FINE
                return Slab(asked.mesh, Deviation(apart.max, apart.rms, how, BOTH_WAYS), self.tolerance_mm)
            of_decorations = self.decoration_error(progress)
            return replace(light, mesh=mesh, deviation=of_decorations or light.deviation)

        return self._cache.get(self._finished_key, make, encode_slab, decode_slab)

    @property
    def _is_textured(self) -> bool:
        """Whether a texture carries the colours of what is delivered."""
        colour = self.document.figure.colour
        return colour.on and colour.carried == "texture" and self.document.delivery.format in TEXTURED

    @property
    def _paints_picture(self) -> bool:
        """Whether a texture carries the picture itself, and not what few colours or decorations make of it."""
        tinted = any(each.on and each.effect in ("colour", "picture") for each in self.document.decorations)
        return self._is_textured and not self.has_few and not tinted

    def texture(self, progress: Progress = quiet) -> Texture | None:
        if not self._is_textured:
            return None
        mesh = self.delivered(progress).mesh

        def paint() -> Texture:
            progress("Laying it flat", 0.0)
            atlas = unwrap(mesh, self.document.figure.colour.texture_px)
            return bake(mesh, atlas, self.painted_at(mesh), lambda part: progress("Painting the texture", part))

        told = self.document.figure.colour.texture_px
        return self._cache.get(step_key("figure texture", _VERSION, told, self.solid_key(FULL)), paint)

    def painted_at(self, mesh: TriMesh) -> Callable[[NDArray[np.float64], NDArray[np.int64]], NDArray[np.uint8]]:
        form, picture = self.shaped(FULL).form, self.picture(FULL)
        return painted(mesh, form, self.document.figure, picture, self._sources)

    def sketch(self) -> TriMesh:
        def sketch() -> TriMesh:
            mesh = self.surface(SKETCH_PX)
            return mesh if len(mesh.faces) <= MOST_SHOWN else collapse_in_halves(mesh, MOST_SHOWN)

        return self._cache.get(step_key("figure sketch", _VERSION, MOST_SHOWN, self.surface_key(SKETCH_PX)), sketch)

    def coloured_sketch(self) -> TriMesh:
        key = step_key("figure coloured sketch", _VERSION, MOST_SHOWN, self._coloured_key(SKETCH_PX))
        return self._cache.get(key, lambda: self._coloured(self.sketch(), SKETCH_PX))

    @property
    def has_few(self) -> bool:
        return self.document.figure.colour.on and self.document.figure.few.on

    def painted_sketch(self) -> TriMesh:
        """The sketch as it is seen, in few colours where they are asked for."""
        made = self.made(SKETCH_PX)
        if not self.has_few:
            return made
        return self._cache.get(self.solid_key(SKETCH_PX), lambda: given_few(self.document.figure.few, made).mesh)

    def _coloured(self, mesh: TriMesh, longest_px: int) -> TriMesh:
        """The mesh with the picture's colours, where they are asked for."""
        form, picture = self.shaped(longest_px).form, self.picture(longest_px)
        return coloured(mesh, form, self.document.figure, picture, self._sources)

    def surface(self, longest_px: int, progress: Progress = quiet) -> TriMesh:
        def surface() -> TriMesh:
            form = self.shaped(longest_px, progress).form
            made = surface_of(form, lambda part: progress(SURFACING, part))
            foot = self.document.figure.foot
            return on_foot(made, foot.to_core(), rough=longest_px != FULL) if foot.on else made

        return self._cache.get(self.surface_key(longest_px), surface)

    def _cells(self, longest_px: int) -> int:
        cells = self.document.figure.cells
        return cells if longest_px == FULL else min(cells, SKETCH_CELLS)

    def _form_key(self, longest_px: int) -> str:
        figure = self.document.figure.model_dump(mode="json", exclude=BESIDE_FORM)
        network = network_hash() if self.document.figure.depth.kind == "learned" else None
        return step_key(
            "figure form",
            _VERSION,
            [
                figure,
                hand_told(self.document.figure.strokes, self.document.figure.order),
                self._cells(longest_px),
                network,
            ],
            self.picture_key(longest_px),
        )

    def _coloured_key(self, longest_px: int) -> str:
        told = colours_told(self.document.figure)
        return step_key("figure coloured", _VERSION, told, self.surface_key(longest_px))

    def _with_few(self, key: str) -> str:
        """The key of what few colours make of a mesh."""
        if not self.has_few:
            return key
        told = self.document.figure.few.model_dump(mode="json", exclude={"layer_mm", "purge_mm3", "printed"})
        return step_key("figure few colours", _VERSION, told, key)

    @property
    def _finished_key(self) -> str:
        light = self.document.light.key(self.document.delivery.format)
        return step_key("figure finished", _VERSION, light, self.made_key(FULL))

    def surface_key(self, longest_px: int) -> str:
        foot = self.document.figure.foot
        told = foot.model_dump(mode="json") if foot.on else None
        return step_key("figure surface", _VERSION, told, self._form_key(longest_px))
