"""What pieces are made of: limits, starting values, units, words and choices of every part."""

from functools import cache

from pydantic import BaseModel

from nebrel.api.serving.routes import group
from nebrel.piece.ops import Op
from nebrel.piece.parts.schema import PartSchema, schemas_of
from nebrel.piece.registry import KINDS

router = group("pieces")


class Parts(BaseModel):
    """All parts by name, and which of them is the document of a kind of piece. Picture ops are told by `/api/ops`."""

    documents: dict[str, str]
    parts: dict[str, PartSchema]


@router.get("/parts")
def tell_parts() -> Parts:
    """The parts of documents, with their parameters."""
    return all_parts()


@cache
def all_parts() -> Parts:
    """The same, worked out once."""
    documents = {kind.name: kind.document.__name__ for kind in KINDS}
    return Parts(documents=documents, parts=schemas_of((kind.document for kind in KINDS), Op))
