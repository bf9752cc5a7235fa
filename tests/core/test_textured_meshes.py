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
