"""`nebrel make relief` with rules, outlines, frames and backs; `remesh`, `cut` and the longer `repair`."""

import io
import json

import manifold3d
import numpy as np
import pytest
from PIL import Image

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import read_mesh, write_mesh
from nebrel.core.picture import read_picture


@pytest.fixture
def plate(tmp_path):
    """Three tones, blank nowhere, and a mask of half its size."""
    tones = np.zeros((90, 120), dtype=np.uint8)
    tones[15:75, 15:105] = 128
    tones[30:60, 40:80] = 255
    path = tmp_path / "plate.png"
    Image.fromarray(tones).save(path)
    Image.fromarray(np.tile(np.repeat([0, 255], 30).astype(np.uint8), (45, 1))).save(tmp_path / "mask.png")
    return path


@pytest.fixture
def made(nebrel, tmp_path):
    """Make a relief; returns the report and the mesh in the file."""

    def make(picture, *options):
        target = tmp_path / "made.stl"
        code, out, err = nebrel("make", "relief", picture, "-o", target, "--json", *options)
        assert code == 0, err or out
        return json.loads(out), read_mesh(target.read_bytes(), target.name).mesh

    return make


@pytest.mark.parametrize(
    "options",
    [
        ("--rule", "curve", "--curve", "0:0,0.4:0.8,1:1"),
        ("--rule", "compress", "--strength", "0.7"),
        ("--rule", "steps", "--draft", "5deg"),
        ("--base", "rounded", "--corner", "6", "--frame", "4x2"),
        ("--base", "ellipse", "--frame", "4x2:cove", "--bevel", "0.5"),
        ("--base", "polygon", "--sides", "8"),
        ("--cut-below", "0.2", "--base", "outline", "--margin", "3"),
        ("--backing", "follow:1.2"),
        ("--backing", "5", "--wall-draft", "4deg", "--hole", "corners:3x5", "--hole", "keyhole", "--hole", "stand"),
        ("--hole", "hanging:4x6", "--smooth", "0.3", "--smooth-where", "slopes"),
        ("--smooth", "0.4", "--keep-edges", "0.5", "--round", "0.5"),
    ],
)
def test_every_option_gives_a_sound_solid_of_true_size(made, plate, options):
    report, mesh = made(plate, *options)
    assert (report["closed"], report["manifold"], report["outward"]) == (True, True, True)
    assert (report["degenerate_faces"], report["self_crossings"]) == (0, 0)
    assert report["max_error_mm"] <= report["tolerance_mm"]
    assert np.ptp(mesh.vertices, axis=0) == pytest.approx(report["size_mm"], abs=0.001)
    if "outline" not in options:
        assert report["size_mm"][0] == pytest.approx(80, abs=0.001)


def test_steps_are_as_tall_as_the_table_says(made, plate):
    report, mesh = made(plate, "--rule", "steps", "--steps", "0:0,0.5:1,1:2.5", "--backing", "1")
    assert np.unique(mesh.vertices[:, 2]) == pytest.approx([0, 1, 2, 3.5], abs=1e-6)
    pitch = 80 / 119
    asked = 80 * 89 * pitch * 1 + 90 * 60 * pitch**2 * 1 + 40 * 30 * pitch**2 * 1.5
    assert report["volume_mm3"] == pytest.approx(asked, rel=0.002)


def test_a_surface_only_is_done_and_open(made, plate):
    report, _ = made(plate, "--backing", "none")
    assert not report["closed"]


def test_a_mask_takes_height_away(made, plate):
    report, mesh = made(plate, "--mask", plate.with_name("mask.png"))
    left = mesh.vertices[mesh.vertices[:, 0] < 35]
    assert left[:, 2].max() == pytest.approx(1.2, abs=0.03)
    assert report["size_mm"][2] == pytest.approx(4.2, abs=0.01)


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (("--rule", "steps", "--steps", "0:0,0.9:1,0.5:2"), "not in order"),
        (("--rule", "steps", "--steps", "0=0"), "pairs like 0:0,0.5:1,1:2"),
        (("--rule", "steps", "--steps", "0:0,2:1"), "numbers from 0 to 1"),
        (("--rule", "bumpy"), "straight, curve, steps or compress would be accepted"),
        (("--frame", "4"), "width by height like 4x2"),
        (("--frame", "4x2:wavy"), "flat, bevel, round or cove would be accepted"),
        (("--frame", "50x2"), "narrower one"),
        (("--draft", "steep"), "an angle like 5deg"),
        (("--margin", "300", "--base", "outline"), "larger than the piece"),
        (("--cut-below", "1.5"), "above 0 and below 1"),
        (("--backing", "follow"), "not a length"),
        (("--mask", "nowhere.png"), "There is no file"),
        (("--hole", "hanging"), "like hanging:4x6"),
        (("--hole", "square:4x6"), "hanging, corners, keyhole or stand"),
        (("--hole", "hanging:4x1"), "does not lie inside"),
        (("--curve", "0:0,1:1"), "--curve has no effect without --rule curve"),
        (("--steps", "0:0,1:2"), "--steps has no effect without --rule steps"),
        (("--strength", "0.7"), "--strength has no effect without --rule compress"),
        (("--corner", "6"), "--corner has no effect without --base rounded"),
        (("--smooth-where", "slopes"), "--smooth-where has no effect without --smooth above 0"),
        (("--rule", "steps", "--steps", "0:0,1:5", "--relief", "4"), "--steps go up to 5 mm and --relief is 4 mm"),
    ],
)
def test_what_makes_no_sense_is_one_sentence(nebrel, plate, tmp_path, options, words):
    code, out, err = nebrel("make", "relief", plate, "-o", tmp_path / "no.stl", *options)
    assert code == 2
    assert words in err
    assert err.count("\n") == 1
    assert out == ""
    assert not (tmp_path / "no.stl").exists()


@pytest.fixture
def heap(tmp_path):
    """A block with a ball through it, a ball inside it and one apart."""
    parts = [
        manifold3d.Manifold.cube((30, 20, 10)),
        manifold3d.Manifold.sphere(5, 48).translate((30, 10, 5)),
        manifold3d.Manifold.sphere(2, 32).translate((8, 8, 5)),
        manifold3d.Manifold.sphere(2, 32).translate((60, 8, 5)),
    ]
    meshes = [mesh_of(part) for part in parts]
    shifts = np.cumsum([0, *(len(mesh.vertices) for mesh in meshes)])
    faces = np.vstack([mesh.faces + shift for mesh, shift in zip(meshes, shifts[:-1], strict=True)])
    held = io.BytesIO()
    write_mesh(TriMesh(np.vstack([mesh.vertices for mesh in meshes]), faces.astype(np.uint32)), held, "stl")
    path = tmp_path / "heap.stl"
    path.write_bytes(held.getvalue())
    return path


def test_repair_joins_what_overlaps_and_says_so(nebrel, heap, tmp_path):
    code, out, _ = nebrel("repair", heap, "-o", tmp_path / "one.stl", "--json", "--largest", "1")
    told = json.loads(out)
    assert code == 0
    assert (told["joined_shells"], told["dropped_inner_shells"], told["dropped_shells"]) == (2, 1, 1)
    assert (told["shells"], told["closed"], told["self_crossings"]) == (1, True, 0)


def test_chosen_parts_are_kept(nebrel, heap, tmp_path):
    code, out, _ = nebrel("repair", heap, "-o", tmp_path / "one.stl", "--json", "--parts", "2")
    told = json.loads(out)
    assert code == 0
    assert (told["shells"], told["dropped_shells"]) == (1, 1)
    assert told["size_mm"] == pytest.approx([4, 4, 4], abs=0.05)
    for parts, words in (("5", "1 to 2 would be accepted"), ("x", "numbers like 1,3")):
        code, _, err = nebrel("repair", heap, "-o", tmp_path / "one.stl", "--parts", parts)
        assert code == 2
        assert words in err


def test_a_new_surface_is_closed_and_measured(nebrel, heap, tmp_path):
    code, out, _ = nebrel("remesh", heap, "-o", tmp_path / "anew.obj", "--voxel", "0.5", "--keep-edges", "--json")
    told = json.loads(out)
    assert code == 0
    assert (told["closed"], told["shells"]) == (True, 2)
    assert told["triangles_before"] < told["triangles"]
    assert told["file_bytes"] == (tmp_path / "anew.obj").stat().st_size
    code, _, err = nebrel("remesh", heap, "-o", tmp_path / "anew.obj", "--voxel", "0.0001")
    assert code == 2
    assert "too fine" in err


def test_a_cut_keeps_a_side(nebrel, heap, tmp_path):
    assert nebrel("repair", heap, "-o", tmp_path / "one.stl")[0] == 0
    code, out, _ = nebrel(
        "cut", tmp_path / "one.stl", "-o", tmp_path / "half.stl", "--at", "4", "--keep", "below", "--json"
    )
    assert code == 0
    assert json.loads(out)["size_mm"][2] == pytest.approx(4)
    for options, words in (
        (("--at", "90"), "Nothing of the mesh"),
        (("--at", "1", "--normal", "up"), "x, y, z or three"),
    ):
        code, _, err = nebrel("cut", tmp_path / "one.stl", "-o", tmp_path / "half.stl", *options)
        assert code == 2
        assert words in err


@pytest.mark.parametrize("ending", ["png", "tif"])
def test_heights_are_written_as_a_picture_with_facts_beside_it(nebrel, plate, tmp_path, ending):
    path = tmp_path / f"heights.{ending}"
    options = ("--rule", "steps", "--steps", "0:0,0.5:1,1:2", "--backing", "1")
    code, out, _ = nebrel("make", "relief", plate, "-o", path, "--json", *options)
    assert code == 0
    facts = json.loads((tmp_path / "heights.json").read_text())
    assert json.loads(out)["highest_mm"] == facts["highest_mm"] == pytest.approx(3)
    picture = read_picture(path.read_bytes(), path.name)
    assert picture.facts.bit_depth == 16
    up = picture.tones * 65_535 * facts["mm_per_level"]
    assert up[45, 60] == pytest.approx(3, abs=1e-4)
    assert up[20, 20] == pytest.approx(2, abs=1e-4)
    assert up[2, 2] == pytest.approx(1, abs=1e-4)
    assert facts["width_mm"] == pytest.approx(80)
    assert picture.facts.dpi == pytest.approx(25.4 / facts["mm_per_px"], rel=1e-3)


def test_a_coloured_obj_is_written_with_its_materials(nebrel, heap, tmp_path):
    mesh = read_mesh(heap.read_bytes(), heap.name).mesh
    colours = np.full((len(mesh.vertices), 4), 255, dtype=np.uint8)
    colours[mesh.vertices[:, 0] < 10, 1:3] = 0
    with (tmp_path / "heap.ply").open("wb") as file:
        write_mesh(TriMesh(mesh.vertices, mesh.faces, colours), file, "ply")
    assert nebrel("convert", tmp_path / "heap.ply", "-o", tmp_path / "heap.obj")[0] == 0
    assert b"newmtl" in (tmp_path / "heap.mtl").read_bytes()
    assert b"mtllib heap.mtl" in (tmp_path / "heap.obj").read_bytes()
    assert nebrel("convert", tmp_path / "heap.obj", "-o", tmp_path / "again.ply")[0] == 0
    again = read_mesh((tmp_path / "again.ply").read_bytes(), "again.ply").mesh
    assert again.colours is not None
    assert set(np.unique(again.colours[again.vertices[:, 0] < 9][:, 1])) == {0}
