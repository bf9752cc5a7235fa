"""What was measured, as lines and as a table."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Row:
    """One figure: what, how much, the bound, and whether it holds; None where there is no bound."""

    what: str
    measured: str
    bound: str
    holds: bool | None

    @property
    def verdict(self) -> str:
        """A word for the table."""
        return {True: "holds", False: "**missed**", None: "–"}[self.holds]


def as_table(rows: list[Row]) -> str:
    """A Markdown table."""
    lines = ["| what | measured | bound | |", "| --- | --- | --- | --- |"]
    lines += [f"| {row.what} | {row.measured} | {row.bound} | {row.verdict} |" for row in rows]
    return "\n".join(lines)
