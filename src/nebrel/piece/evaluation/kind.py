"""What a kind of piece says of itself, once, for everyone who asks the registry."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Generic, TypeVar

from nebrel.piece.documents.document import Document
from nebrel.piece.evaluation.evaluator import PieceEvaluator
from nebrel.piece.evaluation.sources import Sources

AnyDocument = TypeVar("AnyDocument", bound=Document)


@dataclass(frozen=True)
class Station:
    """A stage of the work: a name for code, and a title for people; `begins` where a piece that has just become of its
    kind is worked on first."""

    name: str
    title: str
    begins: bool = False


PICTURE = Station("picture", "Picture")
BODY = Station("body", "Body")
PROOF = Station("proof", "Proof")
DELIVER = Station("deliver", "Deliver")


@dataclass(frozen=True)
class Shape:
    """One thing that a piece of a kind can be, such as a cutter.

    Attributes:
        name, title: for code, and for people.
        parts: plain data of the parts that make a piece of its kind this.
    """

    name: str
    title: str
    parts: dict[str, object]


@dataclass(frozen=True)
class Extra:
    """A file that delivery adds to the solid.

    Attributes:
        name: for code.
        ending: of its file name, after the solid's without its own.
        text: what it says.
    """

    name: str
    ending: str
    text: Callable[[PieceEvaluator[Any]], str]


@dataclass(frozen=True)
class Kind(Generic[AnyDocument]):
    """A kind of piece.

    Attributes:
        name: for code.
        document: its document class.
        evaluator: its evaluator class, over a document and the sources.
        told_by: the part of plain data that tells it apart; "" for the kind that is meant where no other is told.
        being: what it says of a piece, after "This piece": "starts from a model".
        words: what the shelf calls a piece.
        width: the width that a piece keeps when it becomes another kind, mm.
        begin: plain data of the parts that a piece begins with when it becomes this kind, from what it was
            and its width in mm.
        stations: in the order of the work.
        shapes: what a piece of the kind can be; empty where it is only ever itself.
        shape: which of them a document is.
        extras: files that delivery adds.
        print_advice: what to do besides where it is printed, a sentence each.
    """

    name: str
    document: type[AnyDocument]
    evaluator: Callable[[AnyDocument, Sources], PieceEvaluator[AnyDocument]]
    told_by: str
    being: str
    words: Callable[[AnyDocument], str]
    width: Callable[[AnyDocument], float]
    begin: Callable[[Document, float], dict[str, object]]
    stations: tuple[Station, ...]
    shapes: tuple[Shape, ...] = ()
    shape: Callable[[AnyDocument], str] = field(default=lambda _: "")
    extras: tuple[Extra, ...] = ()
    print_advice: Callable[[AnyDocument], tuple[str, ...]] = field(default=lambda _: ())
