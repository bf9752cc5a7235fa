"""One opened data folder: pieces, blobs, kept results and the sources over them."""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from nebrel.jobs.beginnings import Source, document_on, drawing_in, model_in, picture_in, plain_name
from nebrel.jobs.workplace import Workplace, workplace_in
from nebrel.piece.documents.document import Document
from nebrel.piece.kinds.model.document import ModelSource
from nebrel.piece.registry import Piece, open_piece, parse_document
from nebrel.settings import Settings
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

# The document of a piece that is not on the shelf yet, and the label of its first revision.
Begun = tuple[dict[str, object], str]


@dataclass(frozen=True)
class Workshop(Workplace):
    """What the API and the command line work with."""

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

    def start_piece(self, data: bytes, file_name: str, title: str | None = None, **parts: object) -> PieceState:
        """A new piece from a picture file, refused before anything is stored when it could not be made.

        Args:
            data: the file.
            file_name: what the person calls it; a path before the name is dropped.
            title: what to call the piece; the file's name without its ending by default.
            parts: other parts of the document, such as `body` and `height`, or `trace` and `solid`.
        """
        source = picture_in(data, plain_name(file_name, "picture"), self.settings.read_limits)
        return self._started(document_on(source, title, parts), source, data)

    def start_model(self, data: bytes, file_name: str, unit: str | None = None, title: str | None = None) -> PieceState:
        """A new piece from a mesh file; nothing is stored when it is refused.

        Raises:
            UnitNeededError: the file does not say its unit and its size is implausible in millimetres.
        """
        source = model_in(data, plain_name(file_name, "model"), unit)
        return self._started(document_on(source, title), source, data)

    def start_drawing(
        self,
        data: bytes,
        file_name: str,
        unit: str | None = None,
        title: str | None = None,
        parts: Mapping[str, object] = MappingProxyType({}),
    ) -> PieceState:
        """A new piece from an SVG or DXF file; nothing is stored when it is refused.

        `parts` are further parts of its document.

        Raises:
            UnitNeededError: the file does not say how large it is.
        """
        source = drawing_in(data, plain_name(file_name, "drawing"), unit)
        return self._started(document_on(source, title, parts), source, data)

    def begun(self, document: Document, source: Source, data: bytes) -> Begun:
        """Keep the file that a document starts from, unless nothing can be made of it, which is refused."""

        def read(blob: str) -> bytes:
            return data if blob == source.blob else self.blobs.read(blob)

        if not isinstance(source, ModelSource):
            open_piece(document, self.sources.reading(read)).evaluator.check()
        self.blobs.add(data, source.blob)
        return document.model_dump(mode="json"), f"Started from {source.name}"

    def _started(self, document: Document, source: Source, data: bytes) -> PieceState:
        return self.pieces.create(*self.begun(document, source, data))

    def document(self, state: PieceState) -> Document:
        """The document of a piece's present revision."""
        return parse_document(state.document)

    def piece(self, piece_id: str) -> Piece:
        """A piece of the shelf at its present revision."""
        return self.opened(self.document(self.pieces.get(piece_id)))

    def close(self) -> None:
        """Let go of the database."""
        self.database.close()


def open_workshop(settings: Settings, computes: bool = True) -> Workshop:
    """The workshop in `settings.data_dir`, made when missing; one that never `computes` has what is kept, no more."""
    folder = settings.data_dir
    make_folder(folder)
    database = open_database(folder / DATABASE)
    place = workplace_in(settings, computes)
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
        blobs=place.blobs,
        kept=place.kept,
        sources=place.sources,
    )
