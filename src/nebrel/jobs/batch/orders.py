"""What is to be made: pictures of a folder, or of a table that sets values for each."""

import csv
import io
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import TypeVar

from nebrel.core.errors import BadValueError
from nebrel.jobs.batch.values import refuse_unknown

# What is taken from a folder; a table may name whatever can be read.
ENDINGS = frozenset(
    ".png .jpg .jpeg .tif .tiff .webp .bmp .gif .avif .heic .heif .jxl .exr".split()  # noqa: SIM905
)
PICTURE = "picture"
MOST_ORDERS = 20_000
MOST_TABLE_BYTES = 64 * 2**20
Item = TypeVar("Item")


@dataclass(frozen=True)
class Order:
    """One piece that is to be made.

    Attributes:
        number: its place in the list, 1 for the first.
        picture: its file.
        values: what the table says of it, by column; what it leaves empty is left out.
    """

    number: int
    picture: Path
    values: Mapping[str, str] = field(default_factory=dict)

    @property
    def title(self) -> str:
        """What it is called."""
        return (self.values.get("title") or self.picture.stem).strip()[:120] or "Untitled"


def orders_in(source: Path) -> list[Order]:
    """The pictures of a folder in the order of their names, or the rows of a table.

    Args:
        source: a folder, or a CSV file with a column `picture`; files are looked for beside it.

    Raises:
        BadValueError: it is neither, has none, or has columns that are not known; one sentence.
    """
    if source.is_dir():
        found = sorted(path for path in source.iterdir() if path.suffix.lower() in ENDINGS and path.is_file())
        if not found:
            raise BadValueError(f"There is no picture in {source}; PNG, JPEG, TIFF and the like would be accepted.")
        return [Order(number, path) for number, path in enumerate(_some(found), 1)]
    if not source.exists():
        raise BadValueError(f"There is no folder or file {source}; please check the name.")
    return _rows(source)


def _rows(source: Path) -> list[Order]:
    try:
        if source.stat().st_size > MOST_TABLE_BYTES:
            raise BadValueError(f"{source.name} has more than {MOST_TABLE_BYTES / 2**20:,.0f} MiB; a table has less.")
        text = source.read_bytes().decode("utf-8-sig")
    except UnicodeDecodeError as cause:
        raise BadValueError(
            f"{source.name} is no table; a CSV file in UTF-8 with a column picture is needed."
        ) from cause
    except OSError as cause:
        raise BadValueError(f"{source} cannot be read: {cause.strerror}.") from cause
    head = text.partition("\n")[0]
    reader = csv.DictReader(io.StringIO(text, newline=""), delimiter=max(",;\t", key=head.count), strict=True)
    try:
        columns = [(name or "").strip() for name in reader.fieldnames or ()]
        if PICTURE not in columns:
            raise BadValueError(f"{source.name} has no column picture; it names the file of every piece.")
        if len(set(columns)) < len(columns):
            raise BadValueError(f"{source.name} has two columns of one name; each would be accepted once.")
        refuse_unknown([name for name in columns if name != PICTURE], source.name)
        reader.fieldnames = columns
        orders: list[Order] = []
        for row in reader:
            if None in row or None in row.values():
                raise BadValueError(
                    f"Line {reader.line_num} of {source.name} has another number of values than there are columns."
                )
            told = {name: value.strip() for name, value in row.items() if value.strip()}
            if not told:
                continue
            if PICTURE not in told:
                raise BadValueError(f"Line {reader.line_num} of {source.name} names no picture.")
            orders.append(Order(len(orders) + 1, source.parent / told.pop(PICTURE), told))
    except csv.Error as cause:
        raise BadValueError(f"Line {reader.line_num + 1} of {source.name} cannot be read: {cause}.") from cause
    if not orders:
        raise BadValueError(f"{source.name} has no rows; a line for every piece is needed.")
    return _some(orders)


def _some(found: list[Item]) -> list[Item]:
    if len(found) > MOST_ORDERS:
        raise BadValueError(f"There are {len(found):,} pictures; up to {MOST_ORDERS:,} are made in one go.")
    return found
