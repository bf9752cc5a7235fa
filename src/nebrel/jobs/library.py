"""The library of motifs at work: made from pieces, laid on pieces, handed on as packs."""

import io
import json
import uuid
import zipfile
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from shapely.affinity import translate
from shapely.geometry import MultiPolygon

from nebrel.core.errors import BadValueError, NebrelError
from nebrel.core.outline_files.svg.write import svg_bytes
from nebrel.core.picture import Picture, SourceFacts
from nebrel.core.picture.write import write_picture
from nebrel.core.region.curves import Figure, bounds_of, layer_region
from nebrel.core.region.mend import only
from nebrel.core.region.raster import raster_of
from nebrel.jobs.motif_pack import INDEX, PACK_VERSION, PackedMotif
from nebrel.jobs.workshop import Workshop
from nebrel.piece.evaluation.abilities import HasOutlines, HasPicture
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.kinds.outline.tracing import Trace, trace_picture
from nebrel.piece.registry import Piece
from nebrel.store.motifs import Motif, MotifContent, followed
from nebrel.store.pieces import PieceState

LONGEST_PX = 1200
FINER = 4


@dataclass(frozen=True)
class MotifPlacement:
    """Where a motif is laid: shares of the source from its lower left corner, and how wide; whether it is followed."""

    x: float
    y: float
    width_mm: float
    follow: bool


class Library:
    """Motifs of one workshop."""

    def __init__(self, workshop: Workshop) -> None:
        self._workshop = workshop

    def content_of(self, piece: Piece, chosen: tuple[int, ...] = ()) -> MotifContent:
        """What a piece shows, as a motif: its outlines, or only the chosen ones; or its prepared picture.

        Raises:
            BadValueError: it has neither.
        """
        if piece.can(HasOutlines):
            figure = piece.having(HasOutlines).outlines().figure.drawn
            return self._of_figure(only(figure, set(chosen)) if chosen else figure)
        if piece.can(HasPicture):
            pictured = piece.having(HasPicture)
            return self._of_picture(pictured.picture(FULL), pictured.picture_width_mm)
        raise BadValueError("A model cannot be kept as a motif; a picture or outlines can.")

    def keep(self, piece: Piece, name: str, tags: tuple[str, ...], chosen: tuple[int, ...] = ()) -> Motif:
        """A new motif from a piece."""
        return self._workshop.motifs.add(name, tags, self.content_of(piece, chosen))

    def change(self, motif_id: str, content: MotifContent) -> tuple[Motif, list[PieceState]]:
        """The motif showing something else, and the pieces that followed it, each in a new revision."""
        motif = self._workshop.motifs.change(motif_id, content)

        def made(state: PieceState) -> dict[str, object] | None:
            updated, touched = followed(state.document, motif.id, motif.content)
            return updated if touched and isinstance(updated, dict) else None

        pieces, label = self._workshop.pieces, f"Followed the motif {motif.name}"[:200]
        revised = [pieces.follow_up(state, made, label) for state in pieces.all()]
        changed = [state for state in revised if state is not None]
        return motif, changed

    def lay(self, piece: Piece, motif: Motif, laid: MotifPlacement) -> dict[str, object]:
        """The edit of a piece that lays a motif on it: a step of its outlines, an op of its picture, a decoration.

        Raises:
            BadValueError: the motif has no outlines where some are needed.
        """
        return piece.evaluator.with_motif(
            {
                "id": uuid.uuid4().hex[:8],
                "name": motif.name,
                "motif": motif.id if laid.follow else None,
                "picture": motif.content.picture_blob,
                "drawing": motif.content.drawing_blob,
            },
            (laid.x, laid.y),
            laid.width_mm,
        )

    def art_of(self, motif: Motif, follow: bool) -> dict[str, object]:
        """The part of a decoration that says what is laid: a motif's outlines, or its picture where it has none."""
        drawing, picture = motif.content.drawing_blob, motif.content.picture_blob
        art = {"kind": "outline" if drawing else "picture", "blob": drawing or picture, "name": motif.name}
        return {"art": {**art, "motif": motif.id if follow else None}}

    def pack(self, motifs: list[Motif]) -> bytes:
        """Motifs as one open file: a ZIP of their SVG and PNG files and an index in JSON."""
        held = io.BytesIO()
        with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as archive:
            index = []
            for number, motif in enumerate(motifs, 1):
                content = motif.content
                picture, drawing = f"{number:03}.png", f"{number:03}.svg"
                archive.writestr(picture, self._workshop.blobs.read(content.picture_blob))
                if content.drawing_blob:
                    archive.writestr(drawing, self._workshop.blobs.read(content.drawing_blob))
                index.append(
                    {
                        "name": motif.name,
                        "tags": motif.tags,
                        "width_mm": content.width_mm,
                        "height_mm": content.height_mm,
                        "picture": picture,
                        "drawing": drawing if content.drawing_blob else None,
                    }
                )
            archive.writestr(INDEX, json.dumps({"version": PACK_VERSION, "motifs": index}, indent=2))
        return held.getvalue()

    def take(self, packed: list[PackedMotif]) -> list[Motif]:
        """Keep the motifs of a pack."""
        blobs, found = self._workshop.blobs, []
        for each in packed:
            drawing = blobs.add(each.drawing) if each.drawing else None
            content = MotifContent(blobs.add(each.picture), drawing, each.width_mm, each.height_mm)
            found.append(self._workshop.motifs.add(each.name, each.tags, content))
        return found

    def _of_figure(self, figure: Figure) -> MotifContent:
        if not figure.curves:
            raise BadValueError("There are no outlines to keep as a motif.")
        low_x, low_y, high_x, high_y = bounds_of(figure)
        blobs = self._workshop.blobs
        return MotifContent(
            blobs.add(_png(*painted(figure))), blobs.add(svg_bytes(figure)), high_x - low_x, high_y - low_y
        )

    def _of_picture(self, picture: Picture, width_mm: float) -> MotifContent:
        mm_per_px = width_mm / (picture.shape[1] - 1)
        drawing: bytes | None = None
        try:
            drawing = svg_bytes(Figure(trace_picture(picture, Trace(), width_mm).layers))
        except NebrelError:
            # A picture without an edge is a motif all the same, for panels.
            drawing = None
        blobs = self._workshop.blobs
        return MotifContent(
            blobs.add(_png(picture, mm_per_px)),
            blobs.add(drawing) if drawing else None,
            width_mm,
            mm_per_px * (picture.shape[0] - 1),
        )


def _png(picture: Picture, mm_per_px: float) -> bytes:
    held = io.BytesIO()
    write_picture(picture, held, "png", mm_per_px)
    return held.getvalue()


def painted(figure: Figure) -> tuple[Picture, float]:
    """The areas of a figure as a picture: bright where nothing else is said, see-through around."""
    low_x, low_y, high_x, high_y = bounds_of(figure)
    pitch = max(high_x - low_x, high_y - low_y, 1e-6) / (LONGEST_PX - 1)
    rows, columns = (max(2, round((high - low) / pitch) + 1) for low, high in ((low_y, high_y), (low_x, high_x)))
    tones, cover = np.zeros((rows, columns), np.float32), np.zeros((rows, columns), np.float32)
    for layer in figure.layers:
        share = _share(layer_region(layer, pitch / 8), low_x, low_y, pitch, rows, columns)
        tone = 1.0 if layer.tone is None or len(figure.layers) == 1 else layer.tone
        tones = np.where(share > cover, np.float32(tone), tones)
        cover = np.maximum(cover, share)
    facts = SourceFacts("PNG", columns, rows, 16, "gray and alpha")
    return Picture(tones, cover, facts), pitch


def _share(
    region: MultiPolygon, low_x: float, low_y: float, pitch: float, rows: int, columns: int
) -> NDArray[np.float32]:
    """How much of every pixel a region covers, counted on a finer grid."""
    fine = pitch / FINER
    off = pitch / 2 - fine / 2
    moved = translate(region, off - low_x, off - low_y)
    inside = raster_of(moved, (rows * FINER, columns * FINER), fine)
    share: NDArray[np.float32] = inside.reshape(rows, FINER, columns, FINER).mean(axis=(1, 3)).astype(np.float32)
    return share
