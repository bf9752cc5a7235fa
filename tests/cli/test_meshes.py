"""Meshes from the command line: other formats, lighter files."""

import io
import json

import manifold3d
import numpy as np
import pytest

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import MESH_FORMATS, read_mesh, write_mesh
from nebrel.core.mesh.formats.stl import read_stl, write_stl


@pytest.fixture
def relief(nebrel, picture, tmp_path):
    """A built relief as STL."""
    path = tmp_path / "relief.stl"
    code, _, _ = nebrel("make", "relief", picture, "-o", path, "--tolerance", "0.002")
    assert code == 0
    return path


@pytest.mark.parametrize("form", MESH_FORMATS)
def test_a_relief_is_made_in_the_format_of_its_ending(nebrel, picture, tmp_path, form):
    path = tmp_path / f"relief.{form}"
    code, out, _ = nebrel("make", "relief", picture, "-o", path, "--json")
    report = json.loads(out)
    assert code == 0
    assert report["file_bytes"] == path.stat().st_size
    mesh = read_mesh(path.read_bytes(), path.name).mesh
    assert len(mesh.faces) == report["triangles"]
    assert np.ptp(mesh.vertices, axis=0) == pytest.approx(report["size_mm"], abs=0.001)
    code, out, _ = nebrel("check", path, "--json")
    assert code == 0
    assert json.loads(out)["closed"]


def test_converting_keeps_the_size(nebrel, relief, tmp_path):
    middle, back = tmp_path / "a.glb", tmp_path / "b.stl"
    assert nebrel("convert", relief, "-o", middle)[0] == 0
    assert nebrel("convert", middle, "-o", back, "--text")[0] == 0
    assert back.read_bytes().startswith(b"solid")
    before, after = read_stl(relief.read_bytes()), read_stl(back.read_bytes())
    assert np.ptp(after.vertices, axis=0) == pytest.approx(np.ptp(before.vertices, axis=0), abs=0.001)
    assert len(after.faces) == len(before.faces)


def test_a_missing_unit_is_asked_for(nebrel, relief, tmp_path):
    mesh = read_stl(relief.read_bytes())
    tiny = tmp_path / "tiny.off"
    rows = "\n".join(" ".join(f"{x / 1000:.9g}" for x in place) for place in mesh.vertices)
    faces = "\n".join("3 " + " ".join(map(str, face)) for face in mesh.faces)
    tiny.write_text(f"OFF\n{len(mesh.vertices)} {len(mesh.faces)} 0\n{rows}\n{faces}\n")
    code, _, err = nebrel("convert", tiny, "-o", tmp_path / "x.stl")
    assert code == 2
    assert "--unit" in err
    assert not (tmp_path / "x.stl").exists()
    assert nebrel("convert", tiny, "-o", tmp_path / "x.stl", "--unit", "m")[0] == 0
    assert nebrel("convert", tiny, "-o", tmp_path / "x.stl", "--unit", "furlong")[0] == 2


def test_any_size_is_checked_and_text_is_for_stl_only(nebrel, relief, tmp_path):
    mesh = read_stl(relief.read_bytes())
    large = tmp_path / "large.stl"
    with large.open("wb") as file:
        write_mesh(TriMesh(mesh.vertices * 100, mesh.faces), file, "stl")
    code, out, _ = nebrel("check", large, "--json")
    assert code == 0
    assert json.loads(out)["size_mm"][0] == pytest.approx(8000)
    code, _, err = nebrel("convert", relief, "-o", tmp_path / "x.ply", "--text")
    assert code == 2
    assert "--text is for STL" in err


def test_simplifying_to_a_count_a_tolerance_and_a_size(nebrel, relief, tmp_path):
    light = tmp_path / "light.stl"
    before = len(read_stl(relief.read_bytes()).faces)
    for option, value in (("--triangles", 800), ("--tolerance", "0.05"), ("--bytes", "30kB")):
        code, out, _ = nebrel("simplify", relief, "-o", light, option, value, "--json")
        report = json.loads(out)
        assert code == 0
        assert report["triangles_before"] == before
        assert report["triangles"] == len(read_stl(light.read_bytes()).faces) < before
        assert report["closed"] is True
        assert 0 <= report["rms_deviation_mm"] <= report["max_deviation_mm"]
        assert report["reached"] is True
        assert report["why_not"] is None
        if option == "--triangles":
            assert report["triangles"] <= 800
        if option == "--tolerance":
            assert report["max_deviation_mm"] <= 0.05
        if option == "--bytes":
            assert light.stat().st_size <= 30_000


@pytest.mark.parametrize(
    ("words", "told"),
    [
        ((), "One of --triangles"),
        (("--triangles", "100", "--tolerance", "1"), "only one"),
        (("--bytes", "many"), "not a file size"),
        (("--bytes", "90"), "would be needed"),
        (("--triangles", "1"), "at least 4"),
    ],
)
def test_bad_targets_get_one_sentence(nebrel, relief, tmp_path, words, told):
    code, _, err = nebrel("simplify", relief, "-o", tmp_path / "light.stl", *words)
    assert code == 2
    assert told in err
    assert not (tmp_path / "light.stl").exists()


def test_what_keeps_a_mesh_from_getting_lighter_is_told(nebrel, tmp_path):
    """Forty tetrahedra to a hundred triangles, and one within any tolerance."""
    speck = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]], float)
    sides = np.array([[0, 2, 1], [0, 1, 3], [1, 2, 3], [2, 0, 3]], np.uint32)
    specks, light = tmp_path / "specks.stl", tmp_path / "light.stl"
    told = ((40, ("--triangles", 100), False, "40 parts"), (1, ("--tolerance", 9), True, "9 mm"))
    for count, option, reached, word in told:
        places = np.vstack([speck + np.array([3.0 * at, 0, 0]) for at in range(count)])
        faces = np.vstack([sides + 4 * at for at in range(count)]).astype(np.uint32)
        with specks.open("wb") as file:
            write_mesh(TriMesh(places, faces), file, "stl")
        code, out, _ = nebrel("simplify", specks, "-o", light, *option, "--json")
        report = json.loads(out)
        assert (code, report["triangles"], report["reached"]) == (0, 4 * count, reached)
        assert word in report["why_not"]
        assert "note:" in nebrel("simplify", specks, "-o", light, *option)[1]


def test_repair_tells_what_it_changed(nebrel, relief, tmp_path):
    mesh = read_stl(relief.read_bytes())
    broken, whole = tmp_path / "broken.ply", tmp_path / "whole.stl"
    faces = np.delete(mesh.faces, 11, axis=0)
    faces[20:40] = faces[20:40][:, [0, 2, 1]]
    with broken.open("wb") as file:
        write_mesh(TriMesh(mesh.vertices, faces), file, "ply")
    assert nebrel("check", broken)[0] == 1
    code, out, _ = nebrel("repair", broken, "-o", whole, "--json")
    report = json.loads(out)
    assert code == 0
    assert (report["turned_faces"], report["filled_holes"], report["open_holes_left"]) == (20, 1, 0)
    assert report["closed"]
    assert report["outward"]
    assert report["volume_mm3"] == pytest.approx(
        json.loads(nebrel("check", relief, "--json")[1])["volume_mm3"], rel=1e-3
    )
    assert nebrel("check", whole)[0] == 0


def test_a_head_that_miscounts_is_told_whatever_is_done_with_the_file(nebrel, tmp_path):
    file, block = io.BytesIO(), mesh_of(manifold3d.Manifold.cube((5, 6, 7)))
    write_stl(block, file)
    data = bytearray(file.getvalue())
    data[80:84] = (13).to_bytes(4, "little")
    (tmp_path / "less.stl").write_bytes(data)
    code, _, err = nebrel("convert", tmp_path / "less.stl", "-o", tmp_path / "less.ply")
    assert code == 0
    assert "declares 13 triangles and holds 12; it may have been cut short" in err
