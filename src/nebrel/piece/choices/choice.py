"""What a piece could be."""

from dataclasses import dataclass

from nebrel.core.errors import NotFoundError
from nebrel.piece.documents.document import Document
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.registry import become, merge, shape_of, shapes_for

HELD_BACK, BY_DEPTH = "held-back", "by-depth"


# What makes a panel of another choice a plain one.
PLAIN: dict[str, dict[str, object]] = {HELD_BACK: {"rule": {"kind": "straight"}}, BY_DEPTH: {"form": {"of": "tones"}}}


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
            found.append(Choice(BY_DEPTH, "Relief by depth", "panel", {"height": {"form": {"of": "both"}}}))
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
    if not isinstance(document, PanelDocument):
        return shape
    if document.height.form.on:
        return BY_DEPTH
    return HELD_BACK if document.height.rule.kind == "compress" else shape


def chosen(document: Document, choice: Choice) -> Document:
    """The piece as one of its choices."""
    if choice_of(document) == choice.name:
        return document
    made = document if shape_of(document) == choice.shape else become(document, choice.shape)
    plain = merge(made, {"height": PLAIN[choice_of(made)]}) if choice_of(made) in PLAIN else made
    return merge(plain, choice.parts)
