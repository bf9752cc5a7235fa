"""`nebrel make relief --laid`: reliefs on reliefs, from a list of pictures."""

import io
import json

import numpy as np
import pytest
from PIL import Image

from nebrel.core.mesh.formats import read_mesh


def png(samples: np.ndarray) -> bytes:
    file = io.BytesIO()
    Image.fromarray(np.round(samples * 255).astype(np.uint8)).save(file, "PNG")
    return file.getvalue()


@pytest.fixture
def ground(tmp_path):
    path = tmp_path / "ground.png"
    path.write_bytes(png(np.full((121, 161), 0.5)))
    away = np.hypot(*np.meshgrid(np.linspace(-1, 1, 121), np.linspace(-1, 1, 121)))
    (tmp_path / "crest.png").write_bytes(png(np.where(away < 0.9, 0.2, 1.0)))
    return path


def test_a_relief_lies_where_the_list_says(nebrel, ground, tmp_path):
    told = [
        {"picture": "crest.png", "width_mm": 30, "x_share": 0.25, "left_out": "background", "blend": "add",
         "rule": {"relief_mm": 2.5, "tall": "dark"}},
    ]  # fmt: skip
    listed, out = tmp_path / "laid.json", tmp_path / "out.stl"
    listed.write_text(json.dumps(told))
    code, text, _ = nebrel("make", "relief", ground, "-o", out, "--laid", listed, "--relief", "2", "--json")
    assert code == 0
    report = json.loads(text)
    assert report["closed"] and report["max_error_mm"] <= 0.02
    upper = read_mesh(out.read_bytes(), out.name, "mm").mesh.vertices
    inside = np.hypot(upper[:, 0] - 20, upper[:, 1] - 30) < 13
    outside = (upper[:, 0] > 40) & (upper[:, 2] > 0.5)
    # Half of 2 mm on a backing of 1.2 mm; a crest of one tone is a plate of its own height.
    assert upper[inside & (upper[:, 2] > 0.5), 2] == pytest.approx(1.2 + 1.0 + 2.5, abs=0.03)
    assert upper[outside, 2] == pytest.approx(1.2 + 1.0, abs=0.03)


@pytest.mark.parametrize(
    ("told", "words"),
    [
        ("{", "is not json"),
        ("{}", "holds no list"),
        ('[{"width_mm": 3}]', "each with its picture"),
        ('[{"picture": "nowhere.png"}]', "nowhere.png"),
        ('[{"picture": "crest.png", "width_mm": -3}]', "width"),
        ('[{"picture": "crest.png", "blend": "over"}]', "lowest"),
        ('[{"picture": "crest.png", "left_out": "dark", "left_out_tone": 7}]', "left"),
    ],
)
def test_lists_that_are_none_get_one_sentence(nebrel, ground, tmp_path, told, words):
    listed, out = tmp_path / "laid.json", tmp_path / "out.stl"
    listed.write_text(told)
    code, _, errors = nebrel("make", "relief", ground, "-o", out, "--laid", listed)
    assert code == 2 and words in errors.lower()
    assert not out.exists()
