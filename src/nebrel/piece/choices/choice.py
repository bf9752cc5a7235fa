"""What a piece could be."""

from dataclasses import dataclass

from nebrel.core.errors import NotFoundError
from nebrel.piece.documents.document import Document
from nebrel.piece.registry import become, merge, shape_of, shapes_for

HELD_BACK = "held-back"


@dataclass(frozen=True)
class Choice:
    """One thing that a piece could be.

    Attributes:
        name, title: for code, and for people.
        shape: of the registry.
        parts: what is changed of it besides.
    """

    name: str
    title: str
    shape: str
    parts: dict[str, object]


def choices_for(document: Document) -> list[Choice]:
    """What can be made of what a piece starts from, in the order in which it is offered."""
    found = []
    for shape in shapes_for(document):
        found.append(Choice(shape.name, shape.title, shape.name, {}))
        if shape.name == "panel":
            rule = {"kind": "compress", "strength": 0.6}
            found.append(Choice(HELD_BACK, "Held-back relief", "panel", {"height": {"rule": rule}}))
    return found


def choice_named(document: Document, name: str) -> Choice:
    """The choice of that name.

    Raises:
        NotFoundError: the piece cannot be that.
    """
    for choice in choices_for(document):
        if choice.name == name:
            return choice
    raise NotFoundError(f"This piece cannot be made a {name}.")


def choice_of(document: Document) -> str:
    """Which of its choices a piece is, "" for none."""
    shape = shape_of(document)
    rule = getattr(getattr(document, "height", None), "rule", None)
    return HELD_BACK if shape == "panel" and getattr(rule, "kind", "") == "compress" else shape


def chosen(document: Document, choice: Choice) -> Document:
    """The piece as one of its choices."""
    if choice_of(document) == choice.name:
        return document
    made = document if shape_of(document) == choice.shape else become(document, choice.shape)
    plain: dict[str, object] = {"height": {"rule": {"kind": "straight"}}} if choice_of(made) == HELD_BACK else {}
    return merge(made, {**plain, **choice.parts})
