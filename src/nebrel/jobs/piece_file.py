"""A piece as one open file: a ZIP of its document, its named versions and the files that they start from."""

import hashlib
import io
import json
import re
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from typing import Any, BinaryIO

from nebrel.core.errors import BadValueError, NebrelError, TooLargeError
from nebrel.core.picture import ReadLimits
from nebrel.jobs.beginnings import drawing_in, model_in, picture_in
from nebrel.jobs.packed import unpacked, words_of
from nebrel.jobs.workshop import Workshop
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.registry import parse_document
from nebrel.store.pieces import Document, PieceState

ENDING = ".piece.zip"
FORMAT, VERSION = "nebrel piece", 1
INDEX, FOLDER = "piece.json", "sources"
MOST_VERSIONS, MOST_SOURCES, MOST_INDEX_BYTES = 1000, 2000, 256 * 2**20
_UNSAFE = re.compile(r"[^\w.-]+")


@dataclass(frozen=True)
class PackedVersion:
    """A state of a piece that has a name."""

    name: str
    document: Document


@dataclass(frozen=True)
class PackedPiece:
    """A piece from a file: its state, its named ones, the oldest first, and the files of all of them."""

    document: Document
    tags: tuple[str, ...]
    versions: tuple[PackedVersion, ...]
    sources: tuple[bytes, ...]


def write_piece_file(workshop: Workshop, state: PieceState, file: BinaryIO) -> None:
    """Write a piece, as `docs/piece-file.md` tells.

    Raises:
        NotFoundError: one of its files is missing from the data folder.
    """
    versions = [
        {
            "name": version.name,
            "created": version.created.isoformat(),
            "document": workshop.pieces.document_of(version.revision),
        }
        for version in reversed(workshop.versions.of(state.id))
    ]
    named: dict[str, str] = {}
    for document in (state.document, *(version["document"] for version in versions)):
        named |= {blob: name for blob, name in sources_in(document) if blob not in named}
    listed = [
        {"file": f"{FOLDER}/{number:03}-{_safe(name)}", "sha256": blob, "name": name}
        for number, (blob, name) in enumerate(named.items(), 1)
    ]
    index = {
        "format": FORMAT,
        "version": VERSION,
        "written": datetime.now(UTC).isoformat(timespec="seconds"),
        "title": state.document.get("title"),
        "tags": state.tags,
        "document": state.document,
        "versions": versions,
        "sources": listed,
    }
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(INDEX, json.dumps(index, indent=1, ensure_ascii=False))
        for source in listed:
            # Pictures are packed already, and meshes are too large to be worth the time.
            archive.writestr(source["file"], workshop.blobs.read(source["sha256"]), zipfile.ZIP_STORED)


def read_piece_file(data: bytes, name: str, limits: ReadLimits, most_bytes: int) -> PackedPiece:
    """The piece in a file; what it starts from is read as well.

    Raises:
        BadValueError: it is none, or damaged.
        TooLargeError: it unpacks to more than `most_bytes`.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return _Unpacking(archive, name, most_bytes).piece(limits)
    except NebrelError:
        raise
    except Exception as cause:
        raise BadValueError(f"{name} holds no piece, or is damaged; a ZIP with {INDEX} is needed.") from cause


def take_sources(workshop: Workshop, packed: PackedPiece) -> None:
    """Keep the files of a piece; where it is refused after all, they go by themselves after a while."""
    for source in packed.sources:
        workshop.blobs.add(source)


def put_piece(workshop: Workshop, packed: PackedPiece) -> PieceState:
    """Put a piece on the shelf, whose files are kept, with its versions below its present state."""
    label = "From a file"
    states = [*packed.versions, PackedVersion("", packed.document)]
    state = workshop.pieces.create(states[0].document, label)
    for at, each in enumerate(states):
        if at:
            state = workshop.pieces.revise(state.id, state.revision, each.document, label)
        if each.name:
            workshop.versions.name(state.id, each.name)
    return workshop.pieces.set_tags(state.id, list(packed.tags)) if packed.tags else state


def saved_piece(workshop: Workshop, state: PieceState) -> tuple[str, Path]:
    """What the file of a piece is called, and where it is."""
    versions = [(version.revision, version.name) for version in workshop.versions.of(state.id)]
    key = step_key("piece file", VERSION, [state.id, state.revision, state.tags, versions])
    path = workshop.kept.path(key) or workshop.kept.put_file(key, partial(write_piece_file, workshop, state))
    return f"{_safe(str(state.document.get('title', 'piece')))}{ENDING}", path


def sources_in(value: object) -> Iterator[tuple[str, str]]:
    """The blobs that a document names, each with what its file is called there."""
    if isinstance(value, dict):
        for key, each in value.items():
            if isinstance(each, str) and (key == "blob" or key.endswith("_blob")):
                yield each, str(value.get("name") or key)
            else:
                yield from sources_in(each)
    elif isinstance(value, list):
        for each in value:
            yield from sources_in(each)


class _Unpacking:
    """Reads a piece file, no more of which is unpacked than is accepted, whatever it says."""

    def __init__(self, archive: zipfile.ZipFile, name: str, most_bytes: int) -> None:
        self._archive = archive
        self._name = name
        self._left = most_bytes

    def piece(self, limits: ReadLimits) -> PackedPiece:
        index = json.loads(self._unpacked(INDEX, MOST_INDEX_BYTES))
        if index["format"] != FORMAT or not 1 <= int(index["version"]) <= VERSION:
            raise BadValueError(f"{self._name} is no piece in a form up to {VERSION}, which this Nebrel reads.")
        versions, sources = list(index["versions"]), list(index["sources"])
        if len(versions) > MOST_VERSIONS or len(sources) > MOST_SOURCES:
            raise TooLargeError(
                f"{self._name} holds more than {MOST_VERSIONS:,} versions or {MOST_SOURCES:,} files, the most accepted."
            )
        documents = [self._document(each["document"]) for each in versions]
        document = self._document(index["document"])
        files = {str(source["sha256"]): self._source(source) for source in sources}
        for each in (document, *documents):
            self._refuse_incomplete(each, files)
        for each in (document, *documents):
            _read_start(each, files, limits)
        return PackedPiece(
            document,
            tuple(words_of(tag, 40) for tag in index.get("tags") or ())[:20],
            tuple(
                PackedVersion(words_of(version["name"], 120) or "Version", each)
                for version, each in zip(versions, documents, strict=True)
            ),
            tuple(files.values()),
        )

    @staticmethod
    def _document(told: Any) -> Document:
        return parse_document(told).model_dump(mode="json")

    def _source(self, source: dict[str, object]) -> bytes:
        data = self._unpacked(str(source["file"]), self._left)
        if hashlib.sha256(data).hexdigest() != source["sha256"]:
            raise BadValueError(f"{self._name} is damaged: {source['file']} is not what it was when it was written.")
        return data

    def _refuse_incomplete(self, document: Document, files: dict[str, bytes]) -> None:
        for blob, name in sources_in(document):
            if blob not in files:
                raise BadValueError(f"{self._name} lacks {name}, which the piece is made of; save it again.")

    def _unpacked(self, entry: str, most: int) -> bytes:
        data = unpacked(self._archive, entry, self._name, min(most, self._left))
        self._left -= len(data)
        return data


def _read_start(document: Document, files: dict[str, bytes], limits: ReadLimits) -> None:
    """Read what a document starts from, which refuses what cannot be."""
    for part in ("picture", "model", "drawing"):
        source = document.get(part)
        if not isinstance(source, dict):
            continue
        data, name = files[str(source["blob"])], str(source["name"])
        if part == "picture":
            picture_in(data, name, limits)
        elif part == "model":
            model_in(data, name, str(source["unit"]))
        else:
            drawing_in(data, name, "mm")


def _safe(name: str) -> str:
    return _UNSAFE.sub("-", name)[-80:].strip("-.") or "file"
