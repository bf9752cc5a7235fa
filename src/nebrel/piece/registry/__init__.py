"""The kinds of piece, and everything that depends on which one a document is. A new kind is one line in `KINDS`."""

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Union

from nebrel.core.errors import BadValueError
from nebrel.piece.documents.document import Document
from nebrel.piece.evaluation.abilities import ABILITIES, AnyAbility, has, having
from nebrel.piece.evaluation.evaluator import PieceEvaluator
from nebrel.piece.evaluation.kind import Kind, Shape
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.assembly.kind import assembly_kind
from nebrel.piece.kinds.figure.kind import FIGURE
from nebrel.piece.kinds.lithophane.kind import LITHOPHANE
from nebrel.piece.kinds.model.kind import MODEL
from nebrel.piece.kinds.mould.kind import mould_kind
from nebrel.piece.kinds.outline.kind import DRAWN, TRACED
from nebrel.piece.kinds.panel.kind import panel_kind
from nebrel.piece.parts.refusals import parse_part


def opened(data: dict[str, Any], sources: Sources) -> PieceEvaluator[Any]:
    """The evaluator of a document that another one holds."""
    return open_piece(parse_document(data), sources).evaluator


KINDS: tuple[Kind[Any], ...] = (
    panel_kind(opened),
    LITHOPHANE,
    FIGURE,
    TRACED,
    DRAWN,
    MODEL,
    assembly_kind(opened),
    mould_kind(opened),
)

if TYPE_CHECKING:
    AnyDocument = Document
else:
    # What the API's schema lists; the parts of plain data tell which one it is.
    AnyDocument = Union[tuple(kind.document for kind in KINDS)]  # noqa: UP007


@dataclass(frozen=True)
class Piece:
    """A document with what its kind knows of it."""

    kind: Kind[Any]
    document: Document
    evaluator: PieceEvaluator[Any]

    def having(self, ability: type[AnyAbility]) -> AnyAbility:
        """The evaluator as one that can do what is asked for.

        Raises:
            ConflictError: pieces of this kind cannot.
        """
        return having(self.evaluator, ability, self.kind.being)

    def can(self, ability: type[AnyAbility]) -> bool:
        """Whether pieces of this kind can do something."""
        return has(self.evaluator, ability)

    @property
    def abilities(self) -> list[str]:
        """The names of everything that pieces of this kind can do."""
        return [name for name, ability in ABILITIES.items() if self.can(ability)]

    @property
    def words(self) -> str:
        """What the shelf calls it."""
        return self.kind.words(self.document)


def kind_of(document: Document) -> Kind[Any]:
    """The kind of a document."""
    return next(kind for kind in KINDS if type(document) is kind.document)


def parse_document(data: object) -> Document:
    """A document from plain data, refused with one sentence when it is not valid; its parts tell its kind."""
    parts = data if isinstance(data, dict) else {}
    told = next((kind for kind in KINDS if kind.told_by and kind.told_by in parts), KINDS[0])
    document: Document = parse_part(told.document, data)
    return document


def open_piece(document: Document, sources: Sources) -> Piece:
    """A document with its kind and its evaluator."""
    kind = kind_of(document)
    return Piece(kind, document, kind.evaluator(document, sources))


def merge(document: Document, change: dict[str, object]) -> Document:
    """The document after a JSON merge patch (RFC 7396).

    Raises:
        BadValueError: the result would not be a valid document; one sentence names the first fault.
    """
    return parse_document(_merge(document.model_dump(mode="json"), change))


def shape_of(document: Document) -> str:
    """Which of the shapes of its kind a document is, "" where its kind has none."""
    return kind_of(document).shape(document)


def shapes_for(document: Document) -> list[Shape]:
    """What a piece can be made: whatever can be made of what it starts from, its own shape too."""
    return [shape for kind in _reachable(document) for shape in kind.shapes]


def become(document: Document, shape: str) -> Document:
    """The same piece as another thing. What both kinds share stays, the rest begins afresh at the same width.

    Raises:
        BadValueError: there is no such shape, or none that can be made of what the piece starts from.
    """
    now = kind_of(document)
    for kind in _reachable(document):
        for each in kind.shapes:
            if each.name != shape:
                continue
            kept = document.model_dump(mode="json", include=_shared_parts(now.document, kind.document))
            fresh = {} if kind is now else kind.begin(document, now.width(document))
            made: Document = parse_part(kind.document, {**kept, **fresh, **each.parts})
            return made
    known = ", ".join(each.title for each in shapes_for(document)) or "nothing else"
    raise BadValueError(f"This piece cannot be made a {shape}; {known} would be accepted.")


def _reachable(document: Document) -> list[Kind[Any]]:
    """Kinds that need no source that the document does not have."""
    source = _source_of(type(document))
    return [kind for kind in KINDS if _source_of(kind.document) == source]


def _source_of(document: type[Document]) -> str:
    return next((name for name in ("picture", "drawing", "model") if name in document.model_fields), "")


def _shared_parts(one: type[Document], other: type[Document]) -> set[str]:
    """Parts that two kinds of document inherit from the same class; all of them where the kinds are one."""
    if one is other:
        return set(one.model_fields)
    common = (base for base in one.__mro__ if base in other.__mro__ and issubclass(base, Document))
    return {name for base in common for name in base.model_fields}


def _merge(target: object, change: object) -> object:
    if not isinstance(change, dict):
        return change
    result = dict(target) if isinstance(target, dict) else {}
    for key, value in change.items():
        if value is None:
            result.pop(key, None)
        else:
            result[key] = _merge(result.get(key), value)
    return result
