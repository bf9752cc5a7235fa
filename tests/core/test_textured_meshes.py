"""Meshes that come with a picture on them."""

import numpy as np
import pytest
import trimesh
from PIL import Image

from nebrel.core.mesh.formats import read_mesh


@pytest.mark.parametrize("form", ["glb", "obj"])
def test_a_texture_is_baked_to_corners_and_said(form):
    """A square, the left half red, the right half blue, seen through its corners."""
    image = Image.new("RGB", (8, 8), (200, 10, 20))
    image.paste((10, 20, 200), (4, 0, 8, 8))
    square = trimesh.Trimesh([[0, 0, 0], [9, 0, 0], [9, 9, 0], [0, 9, 0]], [[0, 1, 2], [0, 2, 3]], process=False)
    uv = np.array([[0.1, 0.1], [0.9, 0.1], [0.9, 0.9], [0.1, 0.9]])
    square.visual = trimesh.visual.TextureVisuals(uv=uv, image=image)
    if form == "glb":
        data, beside = square.export(file_type="glb"), {}
    else:
        data, files = trimesh.exchange.obj.export_obj(square, return_texture=True)
        data, beside = data.encode(), files
    found = read_mesh(data, f"square.{form}", unit="mm", beside=beside.get)
    assert found.mesh.colours is not None
    places = found.mesh.vertices
    left = places[:, 0] < places[:, 0].mean()
    assert np.abs(found.mesh.colours[left, :3].astype(int) - [200, 10, 20]).max() < 12
    assert np.abs(found.mesh.colours[~left, :3].astype(int) - [10, 20, 200]).max() < 12
    assert "texture" in found.remark


def test_colours_at_corners_go_before_a_texture_and_it_is_said():
    corners = [(0, 0, 0), (9, 0, 0), (9, 9, 0)]
    lines = ["mtllib deep/own.mtl", *(f"v {x} {y} {z} 1 0 0" for x, y, z in corners), "usemtl own", "f 1 2 3"]
    data = "\n".join(lines).encode() + b"\n"
    painted = read_mesh(data, "a.obj", beside={"own.mtl": b"newmtl own\nmap_Kd a.png\n"}.get)
    plain = read_mesh(data, "a.obj", beside={"own.mtl": b"newmtl own\nKd 0 1 0\n"}.get)
    assert "texture; the colours at its corners are kept" in painted.remark
    assert plain.remark is None
    for found in (painted, plain):
        assert (found.mesh.colours == [255, 0, 0, 255]).all()
