"""What Proof noticed, in words for the person who makes the piece."""

from dataclasses import dataclass
from typing import Literal

# The kind of a fix that is a change of the document itself.
CHANGE = "change"
Severity = Literal["fault", "caution", "note"]


@dataclass(frozen=True)
class Fix:
    """What would mend what was found: a picture op, a step, or a change of the document.

    Attributes:
        kind: of the op or step; `CHANGE` for a change.
        parameters: those that differ from its usual ones; for a change, what replaces the document's parts.
        words: what it does, for its button.
    """

    kind: str
    parameters: dict[str, object]
    words: str


@dataclass(frozen=True)
class Finding:
    """One thing noticed.

    Attributes:
        severity: `fault` must be mended, `caution` should be looked at, `note` is good to know.
        what: one sentence saying what was found.
        why: one sentence saying why it matters and what would help.
        where: a place in mm (x, y, z), or None when it concerns the whole piece.
        measure: short name of the quantity, stable for scripts.
        value, unit: what was measured, where it is one number.
        fix: what would mend it, where a picture op can.
    """

    severity: Severity
    what: str
    why: str
    measure: str
    where: tuple[float, float, float] | None = None
    value: float | None = None
    unit: str = ""
    fix: Fix | None = None
