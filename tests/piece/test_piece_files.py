"""Pieces as open files: whole, the same again elsewhere, and refused in a sentence when they are not."""

import hashlib
import io
import json
import zipfile

import numpy as np
import pytest

from nebrel.core.errors import BadValueError, NebrelError, NotFoundError, TooLargeError
from nebrel.jobs.piece_file import INDEX, put_piece, read_piece_file, saved_piece, take_sources
from nebrel.jobs.workshop import open_workshop
from nebrel.piece.registry import merge
from nebrel.settings import Settings

MOST = 2**30


@pytest.fixture
def workshop(tmp_path):
    opened = open_workshop(Settings(data_dir=tmp_path / "here"))
    yield opened
    opened.close()


@pytest.fixture
def elsewhere(tmp_path):
    opened = open_workshop(Settings(data_dir=tmp_path / "there"))
    yield opened
    opened.close()


def with_past(workshop, hill, encode):
    """A piece with two versions, a picture laid over it, and a tag."""
    state = workshop.start_piece(hill, "hill north.png", "Hill")
    workshop.versions.name(state.id, "First")
    mask = workshop.blobs.add(encode((np.eye(64) * 255).astype("uint8")))
    change = {"height": {"mask": {"on": True, "blob": mask, "name": "mask.png"}}}
    document = merge(workshop.document(state), change).model_dump(mode="json")
    state = workshop.pieces.revise(state.id, state.revision, document, "Masked")
    workshop.versions.name(state.id, "Masked")
    document = merge(workshop.document(state), {"height": {"rule": {"relief_mm": 4.5}}}).model_dump(mode="json")
    state = workshop.pieces.revise(state.id, state.revision, document, "Deeper")
    return workshop.pieces.set_tags(state.id, ["garden"])


def read(workshop, data: bytes):
    return read_piece_file(data, "hill.piece.zip", workshop.settings.read_limits, MOST)


def rewritten(data: bytes, change) -> bytes:
    """The file with `change` applied to its index."""
    held = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as before, zipfile.ZipFile(held, "w") as after:
        for entry in before.namelist():
            if entry == INDEX:
                index = json.loads(before.read(entry))
                change(index)
                after.writestr(INDEX, json.dumps(index))
            else:
                after.writestr(entry, before.read(entry))
    return held.getvalue()


@pytest.fixture
def saved(workshop, hill, encode) -> bytes:
    name, path = saved_piece(workshop, with_past(workshop, hill, encode))
    assert name == "Hill.piece.zip"
    return path.read_bytes()


def test_a_piece_is_the_same_elsewhere_with_its_versions(workshop, elsewhere, saved):
    packed = read(elsewhere, saved)
    take_sources(elsewhere, packed)
    state = put_piece(elsewhere, packed)
    [before] = workshop.pieces.all()
    assert state.document == before.document
    assert state.tags == ("garden",)
    there, here = ([version.name for version in each.versions.of(piece.id)] for each, piece in (
        (elsewhere, state), (workshop, before),
    ))  # fmt: skip
    assert there == here == ["Masked", "First"]
    for mine, theirs in zip(workshop.versions.of(before.id), elsewhere.versions.of(state.id), strict=True):
        assert workshop.pieces.document_of(mine.revision) == elsewhere.pieces.document_of(theirs.revision)
    meshes = [each.piece(piece.id).evaluator.mesh() for each, piece in ((elsewhere, state), (workshop, before))]
    assert np.array_equal(meshes[0].vertices, meshes[1].vertices)


def test_any_program_can_read_what_is_in_it(saved, hill):
    with zipfile.ZipFile(io.BytesIO(saved)) as archive:
        index = json.loads(archive.read(INDEX))
        assert index["format"] == "nebrel piece" and index["title"] == "Hill"
        files = {source["name"]: archive.read(source["file"]) for source in index["sources"]}
        assert files["hill north.png"] == hill
        for source in index["sources"]:
            assert hashlib.sha256(archive.read(source["file"])).hexdigest() == source["sha256"]


def test_a_piece_of_a_model_and_one_of_a_drawing_are_whole(workshop, elsewhere):
    cube = b"solid c\n" + b"".join(
        f"facet normal 0 0 0\nouter loop\n{a}\n{b}\n{c}\nendloop\nendfacet\n".encode()
        for a, b, c in (
            ("vertex 0 0 0", "vertex 0 9 0", "vertex 9 0 0"), ("vertex 0 0 0", "vertex 9 0 0", "vertex 0 0 9"),
            ("vertex 9 0 0", "vertex 0 9 0", "vertex 0 0 9"), ("vertex 0 0 0", "vertex 0 0 9", "vertex 0 9 0"),
        )
    ) + b"endsolid"  # fmt: skip
    drawing = b'<svg xmlns="http://www.w3.org/2000/svg" width="20mm" height="20mm"><rect width="9" height="9"/></svg>'
    for state in (workshop.start_model(cube, "c.stl"), workshop.start_drawing(drawing, "d.svg")):
        _, path = saved_piece(workshop, state)
        packed = read(elsewhere, path.read_bytes())
        take_sources(elsewhere, packed)
        assert put_piece(elsewhere, packed).document == state.document


def drop_source(index):
    index["sources"].pop()


def other_bytes(index):
    index["sources"][0]["file"] = index["sources"][1]["file"]


def other_kind(index):
    index["format"] = "somebody's piece"


def from_the_future(index):
    index["version"] = 99


def broken_document(index):
    index["document"]["height"] = 7


def no_document(index):
    del index["document"]


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (drop_source, "lacks mask.png"),
        (other_bytes, "damaged"),
        (other_kind, "no piece in a form"),
        (from_the_future, "no piece in a form"),
        (broken_document, "."),
        (no_document, "holds no piece"),
    ],
)
def test_what_is_not_whole_is_told(workshop, saved, change, words):
    with pytest.raises(NebrelError, match=words):
        read(workshop, rewritten(saved, change))


@pytest.mark.parametrize("data", [b"", b"PK\x03\x04", b"no zip at all"])
def test_what_is_no_piece_file_is_told(workshop, data):
    with pytest.raises(BadValueError, match=INDEX):
        read(workshop, data)


def test_cut_short_or_flipped_it_is_refused_or_the_same(workshop, saved):
    whole = read(workshop, saved)
    for at in range(0, len(saved), max(1, len(saved) // 60)):
        for data in (saved[:at], saved[:at] + bytes([saved[at] ^ 0x55]) + saved[at + 1 :]):
            try:
                found = read(workshop, data)
            except NebrelError:
                continue
            assert found.sources == whole.sources


def test_no_more_is_unpacked_than_is_accepted(workshop, saved):
    with pytest.raises(TooLargeError, match="unpacks to more than"):
        read_piece_file(saved, "hill.piece.zip", workshop.settings.read_limits, 2000)


def test_a_source_that_is_gone_is_told(workshop, hill, encode):
    state = with_past(workshop, hill, encode)
    for path in (workshop.settings.data_dir / "blobs").glob("??/*"):
        path.unlink()
    with pytest.raises(NotFoundError, match="missing"):
        saved_piece(workshop, state)
