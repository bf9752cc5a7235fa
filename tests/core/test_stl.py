"""STL files hold exactly the mesh, and bad ones are refused in one sentence."""

import io

import numpy as np
import pytest

from nebrel.core.errors import BadMeshError, TooLargeError
from nebrel.core.heightfield.slab import build_slab
from nebrel.core.mesh.formats import read_mesh
from nebrel.core.mesh.formats.stl import read_stl, stl_bytes, write_stl
from nebrel.core.proof import check_soundness

ASCII = b"""solid demo
facet normal 0 0 1
 outer loop
  vertex 0 0 0
  vertex 1.5e0 0 0
  vertex 0 -2 .5
 endloop
endfacet
endsolid demo
"""


def written(mesh) -> bytes:
    file = io.BytesIO()
    write_stl(mesh, file)
    return file.getvalue()


def test_a_slab_comes_back_bit_for_bit(field_of):
    mesh = build_slab(field_of(lambda x, y: 2 + np.sin(x) + np.cos(y)), 1.0, 0.01).mesh
    data = written(mesh)
    assert len(data) == stl_bytes(mesh) == 84 + 50 * len(mesh.faces)
    again = read_stl(data)
    assert np.array_equal(again.corners, mesh.corners)
    assert check_soundness(again).findings == check_soundness(mesh).findings


def test_normals_are_unit_and_outward(box):
    records = np.frombuffer(written(box()), np.dtype([("n", "<f4", 3), ("c", "<f4", (3, 3)), ("a", "<u2")]), offset=84)
    assert np.allclose(np.linalg.norm(records["n"], axis=1), 1)
    middle = records["c"].mean(axis=1) - 0.5
    assert np.all(np.einsum("ij,ij->i", records["n"], middle) > 0)


def test_more_faces_than_one_batch(box, together):
    parts = [box((3.0 * i, 0, 0)) for i in range(9000)]
    mesh = together(*parts)
    assert len(mesh.faces) > 100_000
    assert np.array_equal(read_stl(written(mesh)).corners, mesh.corners)


def test_ascii_is_read(box):
    mesh = read_stl(ASCII)
    assert np.allclose(mesh.corners[0], [[0, 0, 0], [1.5, 0, 0], [0, -2, 0.5]])


def test_binary_whose_header_says_solid_is_still_binary(box):
    data = written(box())
    assert len(read_stl(b"solid " + data[6:]).faces) == 12


def test_minus_zero_and_zero_are_one_place(box):
    mesh = box((0, 0, 0), (-1, 1, 1))
    corners = mesh.corners.astype(np.float32)
    corners[corners == 0] = -0.0
    corners[0][corners[0] == 0] = 0.0
    from nebrel.core.mesh.weld import weld

    assert len(weld(corners).vertices) == 8


class TestRefusals:
    def refused(self, data: bytes) -> str:
        with pytest.raises((BadMeshError, TooLargeError)) as refusal:
            read_stl(data, "part.stl")
        assert str(refusal.value).startswith("part.stl")
        return str(refusal.value)

    def test_empty_short_and_foreign_files(self, box):
        assert "empty" in self.refused(b"")
        assert "not an STL" in self.refused(b"hello")
        assert "no triangles" in self.refused(b"solid x\nendsolid x\n")
        assert "no triangles" in self.refused(bytes(80) + bytes(4))

    def test_truncated(self, box):
        sentence = self.refused(written(box())[:-70])
        assert "12" in sentence
        assert "10" in sentence
        assert "ends too early" in self.refused(ASCII[:100])

    def test_a_tiny_file_that_declares_billions(self):
        assert "4,294,967,295" in self.refused(bytes(80) + b"\xff" * 4 + bytes(50))

    def test_coordinates_that_are_not_numbers(self, box):
        data = bytearray(written(box()))
        data[96:100] = np.float32(np.nan).tobytes()
        assert "not numbers" in self.refused(bytes(data))
        assert "not numbers" in self.refused(ASCII.replace(b"1.5e0", b"nan"))


@pytest.mark.parametrize(("declared", "told"), [(11, "all of them were read"), (13, "cut short"), (0, "all of them")])
def test_a_head_that_miscounts_is_told_and_nothing_is_lost(box, declared, told):
    file = io.BytesIO()
    write_stl(box(), file)
    data = bytearray(file.getvalue())
    data[80:84] = declared.to_bytes(4, "little")
    found = read_mesh(bytes(data), "box.stl")
    assert len(found.mesh.faces) == 12
    assert found.remark is not None and told in found.remark and f"declares {declared} triangles" in found.remark
    data[80:84] = (12).to_bytes(4, "little")
    assert read_mesh(bytes(data), "box.stl").remark is None
    longer = read_mesh(bytes(data) + b"more", "box.stl")
    assert len(longer.mesh.faces) == 12 and "goes on after" in (longer.remark or "")
    with pytest.raises(BadMeshError, match="ends too early"):
        read_mesh(bytes(data[:-7]), "box.stl")
