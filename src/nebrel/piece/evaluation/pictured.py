"""What evaluators of pieces that start from a picture share: the picture through its ops, and what is known of it."""

from abc import abstractmethod
from dataclasses import asdict
from typing import Literal, TypeVar

import numpy as np

from nebrel.core.picture import Picture
from nebrel.core.proof import Finding
from nebrel.core.proof.audit import Ground, audit_picture
from nebrel.piece.documents.document import PicturedDocument
from nebrel.piece.documents.extent import extent_of
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.evaluator import PieceEvaluator, Progress, quiet
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.shown import TONES, Plan
from nebrel.piece.ops import Op, PictureView

AnyPictured = TypeVar("AnyPictured", bound=PicturedDocument)
_RECIPE_VERSION = 2


class PicturedEvaluator(PieceEvaluator[AnyPictured]):
    """An evaluator of a piece that starts from a picture."""

    @property
    @abstractmethod
    def relief_mm(self) -> float:
        """From the lowest to the highest point that tones can give."""

    @property
    @abstractmethod
    def tall_tones(self) -> Literal["bright", "dark"]:
        """Which tones stand tall."""

    @property
    def picture_ops(self) -> tuple[Op, ...]:
        """The ops of the document, those that are switched off too."""
        return self.document.ops

    @property
    def picture_width_mm(self) -> float:
        """How wide the prepared picture is on the piece."""
        return self.document.picture_width_mm

    def source_picture(self, longest_px: int | None = None) -> Picture:
        """The picture as its file holds it, in colour."""
        source = self.document.picture
        return self._sources.picture(source.blob, source.name, longest_px=longest_px)

    def picture(self, longest_px: int = FULL, progress: Progress = quiet) -> Picture:
        """The prepared picture."""
        return self.view(longest_px, None, progress).picture

    def view(self, longest_px: int, upto: str | None = None, progress: Progress = quiet) -> PictureView:
        """The picture after all its ops or after one of them, with its place on the piece."""
        return self._preparation.view(self.document, longest_px, upto, progress)

    def picture_key(self, longest_px: int) -> str:
        """The key of the prepared picture at a resolution and, through ops in mm, at the size of the piece."""
        return step_key("prepared", _RECIPE_VERSION, self.document.picture_width_mm, self._prepared_key(longest_px))

    @property
    def ground(self) -> Ground:
        """What the picture is judged for."""
        return Ground(
            relief=self.relief_mm,
            tall=self.tall_tones,
            mm_per_px=extent_of(self.document).mm_per_px,
            line=self.document.finest_line_mm,
            layer=self.document.maker.layer_mm,
        )

    def audit(self, progress: Progress = quiet, picture: Picture | None = None) -> tuple[Finding, ...]:
        """What to know about the prepared picture, always at full resolution; `picture` spares computing it."""
        ground = self.ground
        key = step_key("audit", _RECIPE_VERSION, asdict(ground), self._prepared_key(FULL))

        def look() -> tuple[Finding, ...]:
            prepared = self.picture(FULL, progress) if picture is None else picture
            return audit_picture(prepared, ground, lambda part: progress("Looking over the picture", part))

        return self._cache.get(key, look)

    def plan_of_view(
        self, longest_px: int, upto: str | None, progress: Progress, relief: float, thickness: float, dark: bool = False
    ) -> Plan:
        """The picture where an op leaves it, as a plan whose heights are those that its tones would get.

        Args:
            longest_px, upto, progress: as of `plan`.
            relief: mm from the lowest tone to the highest.
            thickness: of the whole piece, mm.
            dark: whether dark tones stand tall.
        """
        view = self.view(longest_px, upto, progress)
        picture = view.picture
        rows, columns = picture.shape
        tones = 1 - picture.tones if dark else picture.tones
        return Plan(
            tones=tones_of(picture),
            heights=np.where(picture.coverage >= 0.5, tones * np.float32(relief), np.float32(np.nan)),
            size=((columns - 1) * view.mm_per_px, (rows - 1) * view.mm_per_px, thickness),
            pitch=view.mm_per_px,
            backing=0.0,
            relief=relief,
            full_px=(round((columns - 1) / view.density) + 1, round((rows - 1) / view.density) + 1),
            from_source=shares_of(picture) @ view.from_source,
        )

    def with_motif(self, motif: dict[str, object], at: tuple[float, float], width_mm: float) -> dict[str, object]:
        op = {
            "kind": "picture",
            "id": motif["id"],
            "file": {"name": motif["name"], "motif": motif["motif"], "blob": motif["picture"]},
            "centre": at,
            "width_mm": width_mm,
        }
        return {"ops": [*(each.model_dump(mode="json") for each in self.document.ops), op]}

    def _prepared_key(self, longest_px: int) -> str:
        return self._preparation.key(self.document, longest_px)


def tones_of(picture: Picture) -> np.ndarray:
    """Tones for a plan, uint16 (H, W)."""
    return np.round(picture.tones * TONES).astype(np.uint16)


def shares_of(picture: Picture) -> np.ndarray:
    """3 × 3, takes pixels of a picture to shares of it from its lower left corner."""
    rows, columns = picture.shape
    return np.array([[1 / (columns - 1), 0, 0], [0, -1 / (rows - 1), 1], [0, 0, 1]])
