"""ZIP files from elsewhere: no more of them is unpacked than is accepted, whatever they say of themselves."""

import zipfile

from nebrel.core.errors import TooLargeError


def unpacked(archive: zipfile.ZipFile, entry: str, name: str, most: int) -> bytes:
    """A file of an archive that a person calls `name`, of at most so many bytes.

    Raises:
        TooLargeError: it is larger.
        KeyError: there is none.
    """
    with archive.open(entry) as file:
        data = file.read(most + 1)
    if len(data) > most:
        raise TooLargeError(f"{name} unpacks to more than {most / 2**20:,.0f} MiB, the most accepted.")
    return data


def words_of(told: object, most: int) -> str:
    """What a file says, as text that can be kept: halves of characters are none."""
    return str(told).encode(errors="replace").decode()[:most].strip()
