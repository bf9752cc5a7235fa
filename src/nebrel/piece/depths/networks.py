"""Networks that a user puts into the folder of models, each with a card beside it."""

import json
from dataclasses import dataclass
from pathlib import Path

from nebrel.core.errors import BadValueError, NebrelError, NotFoundError
from nebrel.piece.parts.depth import NetworkCardPart
from nebrel.piece.parts.refusals import parse_part

MOST_CARD_BYTES = 2**16
CARD_EXAMPLE = '{"side": 256, "gives": "nearer", "scale": "one"}'


@dataclass(frozen=True)
class ModelFile:
    """A network in the folder: its file's name and size, its card, and what is wrong with that."""

    name: str
    size_bytes: int
    card: NetworkCardPart | None
    problem: str = ""


def list_models(folder: Path) -> list[ModelFile]:
    """The networks of a folder, by name; none where there is no folder."""
    found = []
    for path in sorted(folder.glob("*.onnx")) if folder.is_dir() else ():
        beside = path.with_suffix(".json")
        try:
            card, problem = card_of(beside.read_bytes() if beside.is_file() else None, beside.name), ""
        except NebrelError as refusal:
            card, problem = None, str(refusal)
        found.append(ModelFile(path.name, path.stat().st_size, card, problem))
    return found


def model_path(folder: Path, name: str) -> Path:
    """The file of a network of the folder.

    Raises:
        NotFoundError: there is none of that name.
    """
    for model in list_models(folder):
        if model.name == name:
            return folder / name
    raise NotFoundError(f"There is no network {name} in the folder of models.")


def card_of(data: bytes | None, name: str) -> NetworkCardPart:
    """The card in a file; the usual one where there is none.

    Raises:
        BadValueError: it is no card.
    """
    if data is None:
        return NetworkCardPart()
    try:
        told = json.loads(data[:MOST_CARD_BYTES])
    except (ValueError, UnicodeDecodeError) as cause:
        raise BadValueError(f"{name} is not JSON; {CARD_EXAMPLE} would be accepted.") from cause
    if not isinstance(told, dict):
        raise BadValueError(f"{name} is no card; {CARD_EXAMPLE} would be accepted.")
    return parse_part(NetworkCardPart, told)
