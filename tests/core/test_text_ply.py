"""PLY as text is read by way of numbers, to the same mesh."""

import numpy as np
import pytest
import trimesh

from nebrel.core.errors import BadMeshError
from nebrel.core.mesh.formats import read_mesh
from nebrel.core.mesh.formats.ply_text import in_binary

CUT = b"4 0 1 2 3\n"


def ball(coloured: bool = False) -> trimesh.Trimesh:
    made = trimesh.creation.icosphere(2, 20)
    if coloured:
        made.visual.vertex_colors = np.random.default_rng(1).integers(0, 256, (len(made.vertices), 4)).astype(np.uint8)
    return made


@pytest.mark.parametrize("coloured", [False, True])
@pytest.mark.parametrize("ends", [b"\n", b"\r\n"])
def test_text_and_numbers_are_the_same_mesh(coloured, ends):
    made = ball(coloured)
    text = made.export(file_type="ply", encoding="ascii").replace(b"\n", ends)
    assert in_binary(text).find(b"binary_little_endian") > 0
    found = read_mesh(text, "ball.ply").mesh
    assert np.abs(found.corners - made.triangles).max() < 1e-5
    if coloured:
        assert (found.colours[found.faces] == made.visual.vertex_colors[made.faces]).all()


def square(faces: bytes, vertices: int = 4) -> bytes:
    corners = b"0 0 0\n9 0 0\n9 9 0\n0 9 0\n"
    return (
        b"ply\nformat ascii 1.0\ncomment a square\nelement vertex %d\n" % vertices
        + b"property float x\nproperty float y\nproperty float z\nelement face 1\n"
        + b"property list uchar int vertex_indices\nend_header\n"
        + corners
        + faces
    )


@pytest.mark.parametrize(
    "data",
    [square(CUT), square(b"3 0 1 x\n"), square(b"3 0 1\n"), square(b"3 0 1 2.5\n"), square(b"3 0 1 2\n5"), b"ply\n"],
)
def test_what_is_not_plain_triangles_is_left_to_the_reader(data):
    assert in_binary(data) is data


def test_polygons_of_text_are_still_read():
    assert len(read_mesh(square(CUT), "square.ply").mesh.faces) == 2
    assert len(read_mesh(square(b"3 0 1 2\n"), "square.ply").mesh.faces) == 1


def test_a_header_that_lies_is_refused():
    with pytest.raises(BadMeshError):
        read_mesh(square(b"3 0 1 2\n", vertices=40_000), "square.ply")
