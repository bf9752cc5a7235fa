"""Faces of more than three corners keep their shape in every format that has them."""

import numpy as np
import pytest

from nebrel.core.mesh.formats import read_mesh
from nebrel.core.mesh.formats.polygons import triangulated
from nebrel.core.proof import check_soundness

TURNS = np.arange(10) * np.pi / 5
STAR = (np.column_stack([np.cos(TURNS), np.sin(TURNS)]) * np.where(np.arange(10) % 2, 2.0, 0.8)[:, np.newaxis]).tolist()
ARROW = [(0.0, 0.0), (2.0, -1.0), (0.6, 0.0), (2.0, 1.0)]
HOOK = [(0, 0), (3, 0), (3, 3), (2, 3), (2, 1), (1, 1), (1, 3), (0, 3)]


def prism(outline, high=1.5):
    """Corners, and faces as polygons: both ends whole, and a quad for every side."""
    count = len(outline)
    points = np.array([(x, y, z) for z in (0.0, high) for x, y in outline])
    sides = [(at, (at + 1) % count, count + (at + 1) % count, count + at) for at in range(count)]
    return points, [tuple(range(count - 1, -1, -1)), tuple(range(count, 2 * count)), *sides]


def as_obj(points, faces, back=False):
    lines = [f"v {x} {y} {z}" for x, y, z in points]
    number = (lambda at: at - len(points)) if back else (lambda at: at + 1)
    return "\n".join([*lines, *("f " + " ".join(str(number(at)) for at in face) for face in faces)]).encode()


def as_ply(points, faces):
    head = (
        f"ply\nformat ascii 1.0\nelement vertex {len(points)}\nproperty float x\nproperty float y\nproperty float z\n"
    )
    head += f"element face {len(faces)}\nproperty list uchar int vertex_indices\nend_header\n"
    rows = [" ".join(map(str, point)) for point in points] + [f"{len(f)} " + " ".join(map(str, f)) for f in faces]
    return (head + "\n".join(rows) + "\n").encode()


def as_off(points, faces):
    rows = [" ".join(map(str, point)) for point in points] + [f"{len(f)} " + " ".join(map(str, f)) for f in faces]
    return ("\n".join(["OFF", f"{len(points)} {len(faces)} 0", *rows]) + "\n").encode()


@pytest.mark.parametrize("outline", [STAR, ARROW, HOOK, ARROW[1:] + ARROW[:1], HOOK[3:] + HOOK[:3]])
@pytest.mark.parametrize(
    ("name", "write"),
    [
        ("a.obj", as_obj),
        ("b.obj", lambda points, faces: as_obj(points, faces, True)),
        ("a.ply", as_ply),
        ("a.off", as_off),
    ],
)
def test_a_prism_that_is_not_convex_is_sound(outline, name, write):
    points, faces = prism(outline)
    x, y = np.array(outline, dtype=float).T
    found = check_soundness(read_mesh(write(points, faces), name).mesh)
    assert found.sound
    assert found.volume_mm3 == pytest.approx(1.5 * 0.5 * abs(x @ np.roll(y, -1) - y @ np.roll(x, -1)), rel=1e-6)


def test_corners_keep_what_an_obj_says_of_them():
    """Numbers of textures and normals go with their corner."""
    points, _ = prism(ARROW)
    lines = [f"v {x} {y} {z}" for x, y, z in points] + ["vt 0 0", "vt 1 0", "vt 0.5 0.5", "vt 1 1"]
    mesh = read_mesh("\n".join([*lines, "f 1/1 2/2 3/3 4/4"]).encode(), "a.obj").mesh
    assert sorted(map(sorted, mesh.faces.tolist())) == [[0, 1, 2], [0, 2, 3]]


def test_triangles_come_in_the_order_of_their_polygons():
    points = np.array([(x, y, 0.0) for x, y in [*HOOK, *ARROW]])
    polygons = [np.array([8, 9, 10, 11]), np.arange(8), np.array([0, 1, 2])]
    found = triangulated(points, polygons)
    assert len(found) == 2 + 6 + 1
    assert found[:2].min() == 8 and found[2:8].max() == 7 and found[8].tolist() == [0, 1, 2]


def test_colours_of_faces_become_those_of_corners_and_it_is_said():
    head = "ply\nformat ascii 1.0\nelement vertex 4\n" + "".join(f"property float {axis}\n" for axis in "xyz")
    head += "element face 2\nproperty list uchar int vertex_indices\n"
    head += "".join(f"property uchar {colour}\n" for colour in ("red", "green", "blue")) + "end_header\n"
    rows = "0 0 0\n4 0 0\n4 4 0\n0 4 0\n3 0 1 2 200 0 0\n3 0 2 3 0 0 100\n"
    found = read_mesh((head + rows).encode(), "a.ply")
    assert found.mesh.colours is not None
    places, colours = found.mesh.vertices.tolist(), found.mesh.colours[:, :3].tolist()
    told = {tuple(place): tuple(colour) for place, colour in zip(places, colours, strict=True)}
    assert told == {(0, 0, 0): (100, 0, 50), (4, 0, 0): (200, 0, 0), (4, 4, 0): (100, 0, 50), (0, 4, 0): (0, 0, 100)}
    assert found.remark is not None and "colours its faces" in found.remark
    quad = head.replace("element face 2", "element face 1") + "0 0 0\n4 0 0\n4 4 0\n0 4 0\n4 0 1 2 3 9 8 7\n"
    plain = read_mesh(quad.encode(), "a.ply").mesh
    assert len(plain.faces) == 2 and plain.colours is not None and (plain.colours[:, :3] == (9, 8, 7)).all()
