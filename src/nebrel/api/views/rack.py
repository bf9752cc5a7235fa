"""Bits of the rack, as pieces have them."""

from nebrel.piece.parts.carving import BitPart
from nebrel.store.kept_parts import KeptPart


def bit_in(kept: KeptPart) -> BitPart:
    """A bit of the rack, as pieces have it."""
    return BitPart.model_validate({"name": kept.name, **kept.facts})
