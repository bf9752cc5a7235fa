"""What Proof noticed, in words for the person who makes the piece."""

from dataclasses import dataclass
from typing import Literal

Severity = Literal["fault", "caution", "note"]


@dataclass(frozen=True)
class Finding:
    """One thing noticed.

    Attributes:
        severity: `fault` must be mended, `caution` should be looked at, `note` is good to know.
        what: one sentence saying what was found.
        why: one sentence saying why it matters and what would help.
        where: a place in mm (x, y, z), or None when it concerns the whole piece.
        measure: short name of the quantity, stable for scripts.
    """

    severity: Severity
    what: str
    why: str
    measure: str
    where: tuple[float, float, float] | None = None
