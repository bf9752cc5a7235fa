"""A piece that another one is made of."""

from typing import Any, Literal

from pydantic import Field

from nebrel.piece.parts.fields import made_by_hand, switch
from nebrel.piece.parts.part import Part


class PieceOf(Part):
    """A piece of the shelf: its document as it is, or as it was when it was copied."""

    kind: Literal["piece"] = "piece"
    piece_id: str = Field("", max_length=64, title="Piece")
    follow: bool = switch("Follow the piece", True, label="Follows its piece")
    document: dict[str, Any] = made_by_hand("Its document", {})


def in_step(document: object, piece_id: str, newer: dict[str, Any]) -> tuple[object, bool]:
    """Plain data of a document with all that follows a piece showing what that is now; whether any changed.

    Args:
        document: plain data, or a part of it.
        piece_id: of the piece that changed.
        newer: its document.
    """
    if isinstance(document, list):
        pairs = [in_step(each, piece_id, newer) for each in document]
        return [each for each, _ in pairs], any(changed for _, changed in pairs)
    if not isinstance(document, dict):
        return document, False
    if document.get("kind") == "piece" and document.get("piece_id") == piece_id:
        stale = document.get("follow", True) and document.get("document") != newer
        return ({**document, "document": newer}, True) if stale else (document, False)
    result, any_changed = {}, False
    for key, value in document.items():
        result[key], changed = in_step(value, piece_id, newer)
        any_changed = any_changed or changed
    return result, any_changed


def instead(old: dict[str, Any], new: dict[str, Any]) -> dict[str, Any]:
    """The merge patch (RFC 7396) that leaves nothing of one object and makes another of it."""
    gone = dict.fromkeys(old.keys() - new.keys())
    made = {
        name: instead(old[name], value) if isinstance(value, dict) and isinstance(old.get(name), dict) else value
        for name, value in new.items()
    }
    return {**made, **gone}
