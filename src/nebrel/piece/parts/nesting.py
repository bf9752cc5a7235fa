"""Which models a field holds, and what tells them apart."""

from collections.abc import Iterator
from typing import get_args

from pydantic import BaseModel


def models_in(annotation: object) -> Iterator[type[BaseModel]]:
    """The models that a field may hold: one, a choice or a list of them."""
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        yield annotation
        return
    for inside in get_args(annotation):
        yield from models_in(inside)


def kind_told(model: type[BaseModel]) -> str | None:
    """What tells a model apart where several can stand: the word in its `kind`; None where it has no such word."""
    kind = model.model_fields.get("kind")
    return None if kind is None or not isinstance(kind.default, str) else kind.default
