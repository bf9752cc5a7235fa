"""Packs of motifs as they come: a ZIP of SVG and PNG files and an index in JSON."""

import io
import json
import zipfile
from dataclasses import dataclass

from nebrel.core.errors import BadValueError, NebrelError, TooLargeError
from nebrel.core.outline_files.read import read_drawing
from nebrel.core.outline_files.svg.write import svg_bytes
from nebrel.core.picture import ReadLimits, read_facts
from nebrel.jobs.packed import unpacked, words_of

PACK_VERSION = 1
MOST_PACKED = 2000
WIDEST_MM = 3000.0
MOST_UNPACKED_BYTES = 512 * 2**20
INDEX = "motifs.json"


@dataclass(frozen=True)
class PackedMotif:
    """A motif of a pack: its files, which are whole, and how large it is."""

    name: str
    tags: tuple[str, ...]
    picture: bytes
    drawing: bytes | None
    width_mm: float
    height_mm: float


def read_pack(data: bytes, name: str, limits: ReadLimits) -> list[PackedMotif]:
    """The motifs of a pack, every file of which is read.

    Raises:
        BadValueError: not a pack, or damaged.
        TooLargeError: it unpacks to more than is accepted.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if sum(entry.file_size for entry in archive.infolist()) > MOST_UNPACKED_BYTES:
                raise TooLargeError(f"{name} unpacks to more than {MOST_UNPACKED_BYTES / 2**20:,.0f} MiB.")
            index = json.loads(unpacked(archive, INDEX, name, MOST_UNPACKED_BYTES))
            entries = list(index["motifs"])
            if index["version"] != PACK_VERSION or not 0 < len(entries) <= MOST_PACKED:
                raise BadValueError(f"{name} is no pack of up to {MOST_PACKED:,} motifs of version {PACK_VERSION}.")
            known: dict[str, bytes] = {}
            return [_motif(archive, entry, name, limits, known) for entry in entries]
    except NebrelError:
        raise
    except Exception as cause:
        raise BadValueError(f"{name} is not a motif pack, or damaged; a ZIP with {INDEX} is needed.") from cause


def _motif(
    archive: zipfile.ZipFile, entry: dict[str, object], pack: str, limits: ReadLimits, known: dict[str, bytes]
) -> PackedMotif:
    """One motif; files that were read for another, `known` by their names, are not read again."""
    width, height = (float(str(entry[side])) for side in ("width_mm", "height_mm"))
    if not (0 < width <= WIDEST_MM and 0 < height <= WIDEST_MM):
        raise BadValueError(f"{pack} holds a motif of {width:g} × {height:g} mm; up to {WIDEST_MM:g} mm are accepted.")
    pictured, drawn = str(entry["picture"]), str(entry.get("drawing") or "")
    if pictured not in known:
        known[pictured] = unpacked(archive, pictured, pack, MOST_UNPACKED_BYTES)
        read_facts(known[pictured], "motif.png", limits)
    if drawn and drawn not in known:
        # What is kept is written anew, so nothing but curves gets in.
        known[drawn] = svg_bytes(read_drawing(unpacked(archive, drawn, pack, MOST_UNPACKED_BYTES), "motif.svg").figure)
    tags = entry.get("tags")
    words = tuple(words_of(tag, 40) for tag in tags[:20]) if isinstance(tags, list) else ()
    drawing = known[drawn] if drawn else None
    return PackedMotif(words_of(entry["name"], 120) or "Motif", words, known[pictured], drawing, width, height)
