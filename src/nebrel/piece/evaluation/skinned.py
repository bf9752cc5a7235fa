"""What evaluators of pieces share whose mesh is worked on: steps, decorations on its skin, strokes of the brush."""

from abc import abstractmethod
from dataclasses import replace
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.affine import affine_between
from nebrel.core.mesh.collapse import collapse_in_halves
from nebrel.core.mesh.surface_error import Deviation
from nebrel.core.proof import Finding
from nebrel.core.proof.skin_audit import decoration_findings, stroke_findings
from nebrel.core.surface.decorate import decorate
from nebrel.core.surface.displace.sculpt import Sculpted
from nebrel.core.surface.outcome import Decorated
from nebrel.core.surface.placing import Box, Placed, Snap, place_decoration, snap
from nebrel.core.surface.scatter.copies import Copies
from nebrel.core.surface.skin.skin import Skin, SkinPlace, place_on, skin_of
from nebrel.piece.documents.worked import WorkedDocument
from nebrel.piece.evaluation.abilities import HasSkin, StepResult
from nebrel.piece.evaluation.brushing import brush_over
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.decorating import art_for, carried_along, lay_out, repair_first, round_edges
from nebrel.piece.evaluation.evaluator import PieceEvaluator, Progress, quiet
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.shown import ShownSolid, Size, three
from nebrel.piece.parts.decoration import DecorationPart
from nebrel.piece.parts.model_steps import ModelStep, Worked

MOST_SHOWN, MOST_HOVERED = 100_000, 24_000
STAGE, LAYING, BRUSHING = "Working on the model", "Laying decorations on", "Following the brush"
BEFORE_STROKES = ", before the strokes of the brush"
SKETCH_PX, ART_PX = 720, 480
SKETCH_SHARE, TEXTURE_SHARE = 0.03, 0.12
AnyWorked = TypeVar("AnyWorked", bound=WorkedDocument)
_VERSION = 3


class SkinnedEvaluator(PieceEvaluator[AnyWorked], HasSkin):
    """An evaluator of a piece whose mesh is worked on. Places on it are in the mesh's own coordinates."""

    # At which resolution steps are told about, and decorations are placed.
    looked_px = FULL

    @abstractmethod
    def unworked(self, longest_px: int, progress: Progress = quiet) -> Worked:
        """The mesh before all steps."""

    @abstractmethod
    def unworked_key(self, longest_px: int) -> str:
        """The key of `unworked`."""

    def shown(self, longest_px: int = FULL) -> ShownSolid:
        return ShownSolid(self.shaded(longest_px), self.standing, three(self.low_corner(longest_px)))

    def step_results(self, progress: Progress = quiet) -> list[StepResult]:
        ids = ["", *(step.id for step in self.document.steps if step.on)]
        return [StepResult(*each) for each in zip(ids, self.worked(self.looked_px, progress), strict=True)]

    def before_step(self, step_id: str, progress: Progress = quiet) -> TriMesh | None:
        ids = [step.id for step in self.document.steps]
        if step_id not in ids:
            return None
        before = self.document.model_copy(update={"steps": self.document.steps[: ids.index(step_id)]})
        return self.with_document(before).worked(self.looked_px, progress)[-1].mesh

    def carried(self, after: AnyWorked) -> AnyWorked:
        """A document as an edit left it, with what is laid on the mesh where the edit has taken the mesh."""
        own = self.document
        same = own.decorations == after.decorations and own.strokes == after.strokes
        if own.steps == after.steps or not same or not (own.decorations or own.strokes):
            return after
        now = self.with_document(after)
        if now.unworked_key(self.looked_px) != self.unworked_key(self.looked_px):
            return after
        there = affine_between(self.worked(self.looked_px)[-1].mesh, now.worked(self.looked_px)[-1].mesh)
        return after if there is None else carried_along(after, there)

    def with_document(self, document: AnyWorked) -> "SkinnedEvaluator[AnyWorked]":
        """The same evaluator over another document."""
        return type(self)(document, self._sources)

    def with_motif(self, motif: dict[str, object], at: tuple[float, float], width_mm: float) -> dict[str, object]:
        place, up = self.first_place()
        art = {
            "kind": "outline" if motif["drawing"] else "picture",
            "blob": motif["drawing"] or motif["picture"],
            "name": motif["name"],
            "motif": motif["motif"],
        }
        decoration = {"art": art, "id": motif["id"], "width_mm": width_mm, "at": place, "up": up}
        return {"decorations": [*(each.model_dump(mode="json") for each in self.document.decorations), decoration]}

    def worked(self, longest_px: int = FULL, progress: Progress = quiet) -> list[Worked]:
        """The mesh before all steps, then after every step that is on, with what each step changed."""
        key = self.unworked_key(longest_px)
        results = [self.unworked(longest_px, progress)]
        for step in self.document.steps:
            if not step.on:
                continue
            before = results[-1].mesh
            key = step_key("model step", _VERSION, step.model_dump(mode="json", exclude={"id", "on"}), key)

            def work(step: ModelStep = step, before: TriMesh = before) -> Worked:
                return step.worked(before, lambda part: progress(STAGE, part))

            results.append(self._cache.get(key, work))
        return results

    def skin(self, longest_px: int = FULL) -> Skin:
        """The skin that decorations are laid on: of the mesh after its steps, or of a sketch of it."""
        key = step_key("skin", _VERSION, longest_px == FULL, self._steps_key(longest_px))

        def look() -> Skin:
            mesh = self.worked(longest_px)[-1].mesh
            light = longest_px == FULL or len(mesh.faces) <= MOST_SHOWN
            return skin_of(mesh if light else collapse_in_halves(mesh, MOST_SHOWN))

        return self._cache.get(key, look)

    def decorated(self, longest_px: int = FULL, progress: Progress = quiet) -> Decorated | None:
        """The mesh with its decorations, or None where none is switched on."""
        shown = [each for each in self.document.decorations if each.on]
        if not shown:
            return None

        def lay() -> Decorated:
            progress(LAYING, 0.0)
            skin = self.skin(longest_px)
            tolerance = self.document.detail_mm
            if longest_px != FULL:
                share = TEXTURE_SHARE if any(each.tiled for each in shown) else SKETCH_SHARE
                tolerance = max(tolerance, share * max(each.depth_mm for each in shown))
            laid = [lay_out(each, self._sources.read, self._sources.picture, longest_px and ART_PX) for each in shown]
            return decorate(
                skin,
                laid,
                tolerance,
                self.document.thinnest_wall_mm,
                lambda part: progress(LAYING, part),
                measured=longest_px == FULL,
            )

        return self._cache.get(self.decorated_key(longest_px), lay)

    def made(self, longest_px: int, progress: Progress = quiet) -> TriMesh:
        """The mesh after steps, decorations and strokes."""
        brushed = self.brushed(longest_px, progress)
        if brushed is not None:
            return brushed.mesh
        decorated = self.decorated(longest_px, progress)
        return self.worked(longest_px, progress)[-1].mesh if decorated is None else decorated.mesh

    def brushed(self, longest_px: int, progress: Progress = quiet) -> Sculpted | None:
        """The mesh after its strokes, or None where none of them does anything."""
        marks = self.document.strokes
        decorated = self.decorated(longest_px, progress) if marks else None
        if decorated is None and not self.document.brushed_by_itself:
            return None

        def stroke() -> Sculpted:
            if decorated is not None:
                mesh, own = decorated.mesh, decorated.of_decoration > 0
            else:
                mesh = self.worked(FULL)[-1].mesh if longest_px == FULL else self.skin(longest_px).mesh
                own = np.zeros(len(mesh.faces), dtype=np.bool_)
            progress(BRUSHING, 0.0)
            return brush_over(mesh, own, marks)

        return self._cache.get(self.made_key(longest_px), stroke)

    def decoration_error(self, progress: Progress = quiet) -> Deviation | None:
        """How far decorations are from what was asked for, or None where there are none."""
        decorated = self.decorated(FULL, progress)
        if decorated is None:
            return None
        assert decorated.deviation is not None
        how = decorated.deviation.how + (BEFORE_STROKES if self.document.strokes else "")
        return replace(decorated.deviation, how=how)

    def placement(self, decoration: DecorationPart, most_copies: int, quick: bool) -> Placed:
        key = step_key("skin", _VERSION, "coarse", self._steps_key(self.looked_px))

        def look() -> Skin:
            mesh = self.worked(self.looked_px)[-1].mesh
            return skin_of(mesh if len(mesh.faces) <= MOST_HOVERED else collapse_in_halves(mesh, MOST_HOVERED))

        box = Box(self.art_size(decoration), decoration.turn_deg, decoration.mirror, decoration.to_way())
        # A texture has one place, whatever it was repeated like before.
        skin, copies = self._cache.get(key, look), Copies() if decoration.tiled else decoration.copies.to_core()
        at, up = np.array(decoration.at), np.array(decoration.up)
        return place_decoration(skin, at, up, box, copies, most_copies, quick)

    def first_place(self) -> tuple[Size, Size]:
        """A place that is seen at once, and which way is up there: in front of what stands, else on top."""
        skin = self.skin(SKETCH_PX)
        low, high = skin.mesh.vertices.min(axis=0), skin.mesh.vertices.max(axis=0)
        middle = (low + high) / 2
        if self.standing:
            wished, out, up = np.array([middle[0], low[1], middle[2]]), np.array([0.0, -1.0, 0.0]), (0.0, 0.0, 1.0)
        else:
            wished, out, up = np.array([middle[0], middle[1], high[2]]), np.array([0.0, 0.0, 1.0]), (0.0, 1.0, 0.0)
        return three(place_on(skin, wished, out).point), up

    def art_size(self, decoration: DecorationPart) -> tuple[float, float]:
        """Width and height of a decoration, mm."""
        art = decoration.art

        def look() -> NDArray[np.float64]:
            made = art_for(decoration, self._sources.read, self._sources.picture, ART_PX)
            return np.array([made.height / made.width])

        key = step_key("art size", _VERSION, [art.kind, art.blob])
        return decoration.width_mm, decoration.width_mm * float(self._cache.get(key, look)[0])

    def snapped(self, at: tuple[float, ...], up: tuple[float, ...], to: Snap) -> SkinPlace:
        """The place that a decoration snaps to."""
        return snap(self.skin(SKETCH_PX), np.array(at), np.array(up), to)

    def low_corner(self, longest_px: int) -> NDArray[np.float64]:
        """What `mesh` takes off from the mesh's own coordinates, float64 (3,) mm."""
        key = step_key("low corner", _VERSION, None, self.solid_key(longest_px))
        return self._cache.get(key, lambda: np.asarray(self.placed(longest_px).vertices.min(axis=0)))

    @abstractmethod
    def placed(self, longest_px: int) -> TriMesh:
        """What `mesh` shows, in the mesh's own coordinates."""

    def about_decorations(self, longest_px: int) -> tuple[Finding, ...]:
        """What to know about decorations and strokes."""
        decorated, brushed = self.decorated(longest_px), self.brushed(longest_px)
        left_out = stroke_findings(0 if brushed is None else len(brushed.left_out))
        if decorated is None:
            return left_out
        shown = [each for each in self.document.decorations if each.on]
        names = [each.art.name for each in shown]
        low = self.low_corner(longest_px)
        told = (
            *decoration_findings(
                decorated,
                names,
                self.document.thinnest_wall_mm,
                self.document.detail_mm,
                [round_edges(self.document, each.id) for each in shown],
                repair_first(self.document),
            ),
            *left_out,
        )
        return tuple(replace(each, where=three(np.array(each.where) - low)) if each.where else each for each in told)

    def decorated_key(self, longest_px: int) -> str:
        """The key of the decorated mesh; empty where nothing is decorated."""
        shown = [each.model_dump(mode="json", exclude={"id", "on"}) for each in self.document.decorations if each.on]
        if not shown:
            return ""
        recipe = [shown, self.document.thinnest_wall_mm, self.document.detail_mm, longest_px == FULL]
        return step_key("decorated", _VERSION, recipe, self._steps_key(longest_px))

    def made_key(self, longest_px: int) -> str:
        """The key of `made`."""
        decorated = self.decorated_key(longest_px)
        under = decorated or self._steps_key(longest_px)
        if not self.document.strokes or not (decorated or self.document.brushed_by_itself):
            return under
        strokes = [each.model_dump(mode="json", exclude={"id"}) for each in self.document.strokes]
        return step_key("strokes", _VERSION, [strokes, longest_px == FULL], under)

    def _steps_key(self, longest_px: int) -> str:
        steps = [step.model_dump(mode="json", exclude={"id", "on"}) for step in self.document.steps if step.on]
        return step_key("model steps", _VERSION, steps, self.unworked_key(longest_px))
