"""What became of one piece of many."""

from dataclasses import dataclass, field
from typing import Any, Literal

State = Literal["done", "refused", "failed"]


@dataclass(frozen=True)
class Made:
    """What became of one order.

    Attributes:
        number, picture, title: of the order.
        state: `done`; `refused`, for what was asked for; `failed`, by whatever else.
        why: a sentence, where it is not done.
        file: the name of what was written.
        report: the keys of `--json` reports.
        seconds: that a worker had it.
        earlier: whether it was made by an earlier run, and is there still.
    """

    number: int
    picture: str
    title: str
    state: State
    why: str = ""
    file: str = ""
    report: dict[str, Any] = field(default_factory=dict)
    seconds: float = 0.0
    earlier: bool = False
    key: str = ""

    @property
    def told(self) -> list[str]:
        """What was found that must be mended, or should be looked at."""
        return [finding["what"] for finding in self.report.get("findings", ()) if finding["severity"] != "note"]

    @property
    def sound(self) -> bool:
        """Whether it is done, and sound."""
        return self.state == "done" and not any(each["severity"] == "fault" for each in self.report["findings"])
