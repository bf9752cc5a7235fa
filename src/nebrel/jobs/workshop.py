"""One opened data folder: pieces, blobs, kept results and the sources over them."""

from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np

from nebrel.core.errors import UnitNeededError
from nebrel.core.mesh.formats import MM_PER, MeshFile, mesh_unit, read_mesh
from nebrel.core.outline_files.read import drawing_format, read_drawing
from nebrel.core.picture import read_picture
from nebrel.core.region.drawing import Drawing
from nebrel.piece.documents.document import Document
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.model.document import ModelDocument
from nebrel.piece.kinds.model.evaluator import ModelEvaluator, model_source
from nebrel.piece.kinds.outline.document import DrawingSource
from nebrel.piece.kinds.outline.evaluator import DrawnEvaluator
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.registry import Piece, open_piece, parse_document
from nebrel.settings import Settings
from nebrel.store.blobs import BlobFolder, KeptFolder, blob_name
from nebrel.store.database import Database, open_database
from nebrel.store.filaments import Filaments
from nebrel.store.folder import DATABASE, make_folder
from nebrel.store.jobs import JobRecords
from nebrel.store.kept_parts import KeptParts, bits_in, posts_in, recipes_in
from nebrel.store.last_choices import LastChoices
from nebrel.store.materials import Materials
from nebrel.store.motifs import Motifs
from nebrel.store.pieces import Pieces, PieceState
from nebrel.store.targets import LightTargets
from nebrel.store.tokens import AccessTokens
from nebrel.store.versions import Versions

NARROWEST_MM, WIDEST_MM = 0.5, 3000.0


@dataclass(frozen=True)
class Workshop:
    """What the API, the command line and the workers work with."""

    settings: Settings
    database: Database
    pieces: Pieces
    versions: Versions
    targets: LightTargets
    motifs: Motifs
    materials: Materials
    filaments: Filaments
    rack: KeptParts
    posts: KeptParts
    recipes: KeptParts
    last_choices: LastChoices
    jobs: JobRecords
    tokens: AccessTokens
    blobs: BlobFolder
    kept: KeptFolder
    sources: Sources

    def start_piece(self, data: bytes, file_name: str, title: str | None = None, **parts: object) -> PieceState:
        """A new piece from a picture file, refused before anything is stored when it could not be made.

        Args:
            data: the file.
            file_name: what the person calls it; a path before the name is dropped.
            title: what to call the piece; the file's name without its ending by default.
            parts: other parts of the document, such as `body` and `height`, or `trace` and `solid`.
        """
        return self._start_on_picture(data, _plain_name(file_name, "picture"), title, parts)

    def start_sheet(self, data: bytes, name: str, title: str, **parts: object) -> PieceState:
        """A new piece from a sheet that was begun here, which may be of one tone."""
        return self._start_on_picture(data, name, title, parts, is_sheet=True)

    def _start_on_picture(
        self, data: bytes, name: str, title: str | None, parts: dict[str, object], is_sheet: bool = False
    ) -> PieceState:
        facts = read_picture(data, name, self.settings.read_limits).facts
        source = picture_source(blob_name(data), name, facts, is_sheet)
        document = parse_document({"title": _title_of(title, name), "picture": source.model_dump(), **parts})
        open_piece(document, self.sources.reading(lambda _: data)).evaluator.check()
        self.blobs.add(data)
        return self.pieces.create(document.model_dump(mode="json"), f"Started from {name}")

    def start_model(
        self,
        data: bytes,
        file_name: str,
        unit: str | None = None,
        title: str | None = None,
        read: Callable[[bytes, str, str | None], MeshFile] = read_mesh,
    ) -> PieceState:
        """A new piece from a mesh file, which `read` reads; nothing is stored when it is refused.

        Raises:
            UnitNeededError: the file does not say its unit and its size is implausible in millimetres.
        """
        name = _plain_name(file_name, "model")
        with ThreadPoolExecutor(max_workers=1) as beside:
            blob = beside.submit(blob_name, data)
            found = read(data, name, unit)
        if not found.plausible:
            raise UnitNeededError(name, tuple(float(side) for side in np.ptp(found.mesh.vertices, axis=0)))
        document = ModelDocument(title=_title_of(title, name), model=model_source(blob.result(), name, found))
        self.blobs.add(data, blob.result())
        ModelEvaluator(document, self.sources).take(found)
        return self.pieces.create(document.model_dump(mode="json"), f"Started from {name}")

    def start_drawing(
        self,
        data: bytes,
        file_name: str,
        unit: str | None = None,
        title: str | None = None,
        read: Callable[[bytes, str, str | None], Drawing] | None = None,
        parts: Mapping[str, object] = MappingProxyType({}),
    ) -> PieceState:
        """A new piece from an SVG or DXF file, which `read` reads; nothing is stored when it is refused.

        `parts` are further parts of its document.

        Raises:
            UnitNeededError: the file does not say how large it is.
        """
        name, read = _plain_name(file_name, "drawing"), read or _drawing_in
        found = read(data, name, unit)
        if not found.size_given:
            raise UnitNeededError(name, (*read(data, name, "mm").size, 0.0))
        source = DrawingSource(
            blob=self.blobs.add(data),
            name=name,
            format=drawing_format(name),
            size_mm=found.size,
            told=found.size_given,
            remarks=found.remarks,
        )
        width = min(max(found.size[0], NARROWEST_MM), WIDEST_MM)
        own = {"title": _title_of(title, name), "drawing": source.model_dump(), "width_mm": width}
        document = parse_document({**own, **parts})
        evaluator = self.opened(document).evaluator
        if isinstance(evaluator, DrawnEvaluator):
            evaluator.take(found)
        evaluator.check()
        return self.pieces.create(document.model_dump(mode="json"), f"Started from {name}")

    def document(self, state: PieceState) -> Document:
        """The document of a piece's present revision."""
        return parse_document(state.document)

    def opened(self, document: Document) -> Piece:
        """A document with its kind and its evaluator."""
        return open_piece(document, self.sources)

    def piece(self, piece_id: str) -> Piece:
        """A piece of the shelf at its present revision."""
        return self.opened(self.document(self.pieces.get(piece_id)))

    def close(self) -> None:
        """Let go of the database."""
        self.database.close()


def _drawing_in(data: bytes, name: str, unit: str | None) -> Drawing:
    return read_drawing(data, name, None if unit is None else MM_PER[mesh_unit(unit)])


def _title_of(title: str | None, name: str) -> str:
    return (title or name.rsplit(".", 1)[0]).strip()[:120] or "Untitled"


def _plain_name(file_name: str, otherwise: str) -> str:
    return file_name.replace("\\", "/").rsplit("/", 1)[-1].strip()[-255:] or otherwise


def open_workshop(settings: Settings) -> Workshop:
    """The workshop in `settings.data_dir`, made when missing."""
    folder = settings.data_dir
    make_folder(folder)
    database = open_database(folder / DATABASE)
    blobs = BlobFolder(folder / "blobs")
    kept = KeptFolder(folder / "kept", settings.folder_cache_bytes)
    cache = ResultCache(settings.memory_cache_bytes, kept)
    return Workshop(
        settings=settings,
        database=database,
        pieces=Pieces(database),
        versions=Versions(database),
        targets=LightTargets(database),
        motifs=Motifs(database),
        materials=Materials(database),
        filaments=Filaments(database),
        rack=bits_in(database),
        posts=posts_in(database),
        recipes=recipes_in(database),
        last_choices=LastChoices(database),
        jobs=JobRecords(database),
        tokens=AccessTokens(database),
        blobs=blobs,
        kept=kept,
        sources=Sources(blobs.read, cache, settings.read_limits),
    )
