"""Mesh files: what is written comes back; what is broken is refused in one sentence."""

import io
import json
import struct
import subprocess
import zipfile
from pathlib import Path

import lib3mf
import numpy as np
import pytest
import trimesh

from nebrel.core.errors import NebrelError, TooLargeError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import MESH_FORMATS, format_of, read_mesh, write_mesh
from nebrel.core.mesh.formats.lines import lines_of
from nebrel.core.mesh.formats.plain import obj_materials
from nebrel.core.mesh.shells import together
from nebrel.core.mesh.topology import analyse
from tests.api.hostile import nested_components

COLOURED = ("obj", "ply", "off", "3mf", "glb")


@pytest.fixture
def brick() -> TriMesh:
    """80 × 30.5 × 12.25 mm, every corner in another colour."""
    corners = np.array([[x, y, z] for z in (0, 12.25) for y in (0, 30.5) for x in (0, 80)], dtype=np.float64)
    quads = [(0, 2, 3, 1), (4, 5, 7, 6), (0, 1, 5, 4), (1, 3, 7, 5), (3, 2, 6, 7), (2, 0, 4, 6)]
    faces = [triangle for a, b, c, d in quads for triangle in ((a, b, c), (a, c, d))]
    colours = np.array([[30 * i, 255 - 30 * i, 7 * i, 255] for i in range(8)], dtype=np.uint8)
    return TriMesh(corners, np.array(faces, dtype=np.uint32), colours)


def written(mesh: TriMesh, form: str, **options: bool) -> bytes:
    file = io.BytesIO()
    write_mesh(mesh, file, form, **options)
    return file.getvalue()


def moved(mesh: TriMesh, right: float) -> TriMesh:
    return TriMesh(mesh.vertices + np.array([right, 0, 0]), mesh.faces, mesh.colours)


def volume(mesh: TriMesh) -> float:
    a, b, c = mesh.corners.swapaxes(0, 1)
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)


@pytest.mark.parametrize("form", MESH_FORMATS)
def test_a_mesh_comes_back_at_its_size_closed_and_outward(form, brick):
    found = read_mesh(written(brick, form), f"brick.{form}")
    mesh = found.mesh
    assert np.ptp(mesh.vertices, axis=0) == pytest.approx((80, 30.5, 12.25), abs=0.001)
    assert (len(mesh.vertices), len(mesh.faces)) == (8, 12)
    assert analyse(mesh).closed
    assert volume(mesh) == pytest.approx(80 * 30.5 * 12.25, rel=1e-6)


@pytest.mark.parametrize("form", COLOURED)
def test_colours_come_back(form, brick):
    mesh = read_mesh(written(brick, form), f"brick.{form}").mesh
    assert mesh.colours is not None
    for place, colour in zip(mesh.vertices, mesh.colours, strict=True):
        nearest = np.linalg.norm(brick.vertices - place, axis=1).argmin()
        assert np.abs(colour.astype(int) - brick.colours[nearest]).max() <= 1


def test_stl_as_text_says_the_same_as_binary(brick):
    text, binary = written(brick, "stl", text=True), written(brick, "stl")
    assert text.startswith(b"solid")
    assert np.array_equal(read_mesh(text, "a.stl").mesh.corners, read_mesh(binary, "b.stl").mesh.corners)


def test_units_are_told_asked_or_read(brick):
    inches = read_mesh(written(brick, "stl"), "brick.stl", "in")
    assert np.ptp(inches.mesh.vertices, axis=0)[0] == pytest.approx(80 * 25.4)
    small = TriMesh(brick.vertices / 1000, brick.faces)
    assert not read_mesh(written(small, "obj"), "small.obj").plausible
    assert read_mesh(written(small, "obj"), "small.obj", "m").plausible
    assert read_mesh(written(brick, "glb"), "brick.glb").plausible


def test_3mf_carries_millimetres_and_opens_without_a_warning(brick):
    model = lib3mf.get_wrapper().CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(written(brick, "3mf"))
    assert reader.GetWarningCount() == 0
    assert model.GetUnit() == lib3mf.ModelUnit.MilliMeter
    bodies = model.GetMeshObjects()
    assert bodies.MoveNext()
    assert bodies.GetCurrentMeshObject().IsManifoldAndOriented()


def test_3mf_in_inches_and_with_placed_parts(brick):
    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    model.SetUnit(lib3mf.ModelUnit.Inch)
    body = model.AddMeshObject()
    for corner in brick.vertices:
        place = lib3mf.Position()
        place.Coordinates[:] = corner / 25.4
        body.AddVertex(place)
    for face in brick.faces:
        triangle = lib3mf.Triangle()
        triangle.Indices[:] = [int(at) for at in face]
        body.AddTriangle(triangle)
    whole = model.AddComponentsObject()
    for shift in (0.0, 10.0):
        whole.AddComponent(body, wrapper.GetTranslationTransform(shift, 0, 0))
    model.AddBuildItem(whole, wrapper.GetTranslationTransform(0, 1, 0))
    mesh = read_mesh(bytes(model.QueryWriter("3mf").WriteToBuffer()), "two.3mf").mesh
    assert len(mesh.faces) == 24
    assert np.ptp(mesh.vertices, axis=0) == pytest.approx((80 + 254, 30.5, 12.25), abs=0.001)
    assert mesh.vertices[:, 1].min() == pytest.approx(25.4, abs=1e-4)


def test_glb_is_in_metres_and_adds_up(brick):
    data = written(brick, "glb")
    magic, version, length = struct.unpack_from("<4sII", data)
    assert (magic, version, length) == (b"glTF", 2, len(data))
    size, kind = struct.unpack_from("<I4s", data, 12)
    document = json.loads(data[20 : 20 + size])
    assert kind == b"JSON"
    position = document["accessors"][0]
    assert position["max"] == pytest.approx([0.08, 0.0305, 0.01225])
    for view in document["bufferViews"]:
        assert view["byteOffset"] % 4 == 0
        assert view["byteOffset"] + view["byteLength"] <= document["buffers"][0]["byteLength"]


OFF_SQUARE = b"OFF\n# a comment\n4 1 0\n0 0 0\n20 0 0\n20 20 0\n0 20 0\n4 0 1 2 3\n"


def test_polygons_become_triangles():
    mesh = read_mesh(OFF_SQUARE, "square.off").mesh
    assert len(mesh.faces) == 2


def package(**parts: bytes) -> bytes:
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in parts.items():
            archive.writestr(name.replace("__", "/").replace("_dot_", "."), data)
    return file.getvalue()


ENTITIES = b'<?xml version="1.0"?><!DOCTYPE m [<!ENTITY a "aaaa">]><model>&a;</model>'
NAN_PLY = (
    b"ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\n"
    b"element face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\nnan 1 0\n0 1 0\n3 0 1 2\n"
)


@pytest.mark.parametrize(
    ("name", "data", "told"),
    [
        ("a.stl", b"", "empty file"),
        ("a.xyz", b"1", "does not end in"),
        ("a.ply", b"no ply", "not a PLY file"),
        ("a.ply", NAN_PLY, "not numbers"),
        ("a.obj", b"v 0 0 0\nv 1 0 0\n", "cannot be read|no triangles"),
        ("a.off", b"OFF\n3 1 0\n0,5 0 0\n1 0 0\n0 1 0\n3 0 1 2\n", "decimals need a point"),
        ("a.off", OFF_SQUARE[:-6], "ends too early"),
        ("a.off", OFF_SQUARE.replace(b"4 0 1 2 3", b"4 0 1 2 9"), "corners that it does not hold"),
        ("a.off", OFF_SQUARE.replace(b"20 20 0", b"20 nan 0"), "not numbers"),
        ("a.off", b"OFF\nnan nan 0\n", "no triangles"),
        ("a.glb", b"glTF\x02\0\0\0\xff\xff\xff\x7f" + b"\0" * 40, "declares 2,147,483,647 bytes"),
        ("a.3mf", b"PK no", "not a 3MF package"),
        ("a.3mf", package(**{"3D__3dmodel_dot_model": ENTITIES}), "XML entities"),
        ("a.3mf", package(**{"..__evil_dot_model": b"x"}), "out of its package"),
        ("a.3mf", package(**{"3D__big_dot_model": b"\0" * 30_000_000}), "unpacks to"),
        ("a.3mf", package(**{"3D__3dmodel_dot_model": b"<model/>"}), "cannot be read as 3MF"),
    ],
)
def test_broken_and_hostile_files_get_one_sentence(name, data, told):
    with pytest.raises(NebrelError, match=told) as refusal:
        read_mesh(data, name)
    assert str(refusal.value).endswith(".")
    assert "\n" not in str(refusal.value)


@pytest.mark.parametrize("form", MESH_FORMATS)
@pytest.mark.parametrize("share", [0.3, 0.6, 0.9])
def test_files_cut_short_never_crash(form, share, brick):
    data = written(brick, form)
    try:
        read_mesh(data[: int(share * len(data))], f"cut.{form}")
    except NebrelError as refusal:
        assert str(refusal).endswith(".")


@pytest.mark.parametrize("form", MESH_FORMATS)
def test_files_with_wrong_bytes_never_crash(form, brick):
    whole, rng = written(brick, form), np.random.default_rng(7)
    for _ in range(150):
        data = bytearray(whole)
        for place in rng.integers(0, len(data), rng.integers(1, 6)):
            data[place] = rng.integers(0, 256)
        try:
            read_mesh(bytes(data), f"wrong.{form}")
        except NebrelError as refusal:
            assert str(refusal).endswith(".")


def test_endings_name_formats():
    assert format_of("Fern.STL") == "stl"
    assert format_of("a.b.3mf") == "3mf"


class TestMaterials:
    def test_an_obj_with_materials_keeps_its_colours_without_vertex_colours(self, box):
        colours = np.zeros((8, 4), dtype=np.uint8)
        colours[:, 3] = 255
        colours[:4] = (200, 40, 90, 255)
        solid = TriMesh(box(size=(9, 9, 9)).vertices, box().faces, colours)
        held = io.BytesIO()
        write_mesh(solid, held, "obj", materials="box.mtl")
        lines = held.getvalue().decode().splitlines()
        plain = "\n".join(" ".join(line.split()[:4]) if line.startswith("v ") else line for line in lines)
        asked = []

        def beside(name: str) -> bytes | None:
            asked.append(name)
            return obj_materials(solid) if name == "box.mtl" else None

        again = read_mesh(plain.encode(), "box.obj", beside=beside).mesh
        assert asked == ["box.mtl"]
        left = again.faces[(again.vertices[again.faces][:, :, 0] == 0).all(axis=1)]
        assert np.abs(again.colours[left.ravel()][:, :3].astype(int) - (200, 40, 90)).max() <= 1

    def test_materials_that_are_missing_are_no_fault(self, box):
        held = io.BytesIO()
        write_mesh(box(size=(9, 9, 9)), held, "obj")
        named = b"mtllib gone.mtl\nusemtl gone\n" + held.getvalue()
        assert len(read_mesh(named, "box.obj").mesh.faces) == 12

    def test_materials_are_looked_up_by_their_plain_name_only(self, box):
        held = io.BytesIO()
        write_mesh(box(size=(9, 9, 9)), held, "obj")
        named = b"mtllib ../../etc/secret.mtl\nusemtl x\n" + held.getvalue()
        asked = []
        read_mesh(named, "box.obj", beside=asked.append)
        assert all("/" not in name for name in asked)


@pytest.mark.parametrize("coloured", [False, True])
def test_a_glb_pleases_the_validator_of_its_standard(tmp_path, box, coloured):
    colours = np.full((8, 4), 200, dtype=np.uint8) if coloured else None
    path = tmp_path / "box.glb"
    with path.open("wb") as file:
        write_mesh(TriMesh(box(size=(9, 8, 7)).vertices, box().faces, colours), file, "glb")
    script = Path(__file__).parents[2] / "web" / "validate-glb.mjs"
    done = subprocess.run(["node", str(script), str(path)], capture_output=True, text=True, check=True)
    issues = json.loads(done.stdout)
    assert (issues["numErrors"], issues["numWarnings"]) == (0, 0), issues["messages"]
    assert issues["info"]["totalTriangleCount"] == 12


@pytest.mark.parametrize(
    ("name", "text"),
    [
        (
            "a.stl",
            "solid x\nfacet normal 0 0 1\nouter loop\nvertex 0,5 0,0 1,0\nvertex 9 0 0\nvertex 0 9 0\nendloop\n",
        ),
        ("a.obj", "v 0,5 0,0 1,0\nv 9 0 0\nv 0 9 0\nf 1 2 3\n"),
        ("a.off", "OFF\n3 1 0\n 0,5 0,0 1,0\n9 0 0\n0 9 0\n3 0 1 2\n"),
    ],
)
def test_decimal_commas_are_named(name, text):
    with pytest.raises(NebrelError, match="decimals with a comma"):
        read_mesh(text.encode(), name)


def test_coordinates_far_away_are_refused(box):
    held = io.BytesIO()
    write_mesh(box((1e8, 0, 0), (9, 9, 9)), held, "ply")
    with pytest.raises(NebrelError, match="10 km from the origin"):
        read_mesh(held.getvalue(), "far.ply")


@pytest.mark.parametrize("coloured", [False, True])
def test_a_3mf_pleases_the_library_of_its_consortium(brick, coloured):
    mesh = brick if coloured else TriMesh(brick.vertices, brick.faces)
    held = io.BytesIO()
    write_mesh(mesh, held, "3mf")
    model = lib3mf.get_wrapper().CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(held.getvalue())
    assert reader.GetWarningCount() == 0
    assert model.GetUnit() == lib3mf.ModelUnit.MilliMeter
    bodies = model.GetMeshObjects()
    assert bodies.MoveNext()
    body = bodies.GetCurrentMeshObject()
    assert body.IsManifoldAndOriented()
    assert (body.GetTriangleCount(), body.GetVertexCount()) == (12, 8)
    assert not bodies.MoveNext()


def test_a_3mf_holds_one_object_per_body_and_a_cavity_stays_with_its_own(brick):
    middle = np.array([40, 15.25, 6.125])
    cavity = TriMesh(middle + (brick.vertices - middle) / 2, brick.faces[:, ::-1], brick.colours)
    mesh = together([brick, moved(brick, 200), cavity])
    held = io.BytesIO()
    write_mesh(mesh, held, "3mf")
    model = lib3mf.get_wrapper().CreateModel()
    model.QueryReader("3mf").ReadFromBuffer(held.getvalue())
    bodies, counts = model.GetMeshObjects(), []
    while bodies.MoveNext():
        counts.append(bodies.GetCurrentMeshObject().GetTriangleCount())
    assert sorted(counts) == [12, 24]
    found = read_mesh(held.getvalue(), "three.3mf").mesh
    assert volume(found) == pytest.approx(80 * 30.5 * 12.25 * (1 + 1 - 1 / 8), rel=1e-6)
    assert found.colours is not None


def test_objects_of_a_3mf_that_touch_are_not_joined(brick):
    held = io.BytesIO()
    write_mesh(together([brick, moved(brick, 80)]), held, "3mf")
    topology = analyse(read_mesh(held.getvalue(), "two.3mf").mesh)
    assert (topology.shells, topology.crowded_edges, topology.open_edges) == (2, 0, 0)


def test_numbers_are_written_as_they_are():
    rows = np.array([[0.0, -1.5, 1234.000001], [-0.25, 1e-6, 99.9999999]])
    assert lines_of([b"<", b" ", b" ", b">"], rows) == b"<0 -1.5 1234.000001><-0.25 0.000001 100>"
    assert lines_of([b"", b",", b";"], np.array([[0, 12], [-7, 100]])) == b"0,12;-7,100;"


@pytest.mark.parametrize("form", ["3mf", "glb"])
def test_colours_of_faces_end_sharply(form, brick):
    tints = np.full((12, 3, 4), 255, dtype=np.uint8)
    tints[:2, :, :3] = (200, 20, 10)
    painted = TriMesh(brick.vertices, brick.faces, corner_colours=tints)
    found = read_foreign_faces(written(painted, form), form)
    assert sorted(found.count(colour) for colour in set(found)) == [2, 10]


@pytest.mark.parametrize("form", MESH_FORMATS)
def test_a_mesh_with_coloured_faces_stays_closed(form, brick):
    tints = np.full((12, 3, 4), 255, dtype=np.uint8)
    tints[:2, :, :3] = (200, 20, 10)
    found = read_mesh(written(TriMesh(brick.vertices, brick.faces, corner_colours=tints), form), f"brick.{form}").mesh
    assert (len(found.vertices), len(found.faces)) == (8, 12)
    assert analyse(found).closed


def read_foreign_faces(data: bytes, form: str) -> list[tuple[int, ...]]:
    """The colour of every face, as libraries of others read it."""
    if form == "glb":
        loaded = trimesh.load(io.BytesIO(data), file_type="glb", force="mesh", process=False)
        return [tuple(colours[0].tolist()) for colours in loaded.visual.vertex_colors[loaded.faces]]
    model = lib3mf.get_wrapper().CreateModel()
    model.QueryReader("3mf").ReadFromBuffer(data)
    items = model.GetMeshObjects()
    assert items.MoveNext()
    mesh = items.GetCurrentMeshObject()
    places = [mesh.GetTriangleProperties(at).PropertyIDs for at in range(mesh.GetTriangleCount())]
    assert all(len(set(place)) == 1 for place in places)
    return [tuple(place) for place in places]


def test_3mf_objects_that_hold_each_other_are_counted_before_they_are_laid_out():
    assert len(read_mesh(nested_components(8), "plate.3mf").mesh.faces) == 4 * 2**6
    with pytest.raises(TooLargeError, match="16,777,216 parts"):
        read_mesh(nested_components(26), "plate.3mf")
