"""The notebook of examples says what its cells do."""

import ast
import base64
import contextlib
import io
import json
from pathlib import Path

import pytest
from PIL import Image

NOTEBOOK = Path(__file__).parents[2] / "docs" / "examples" / "first-pieces.ipynb"


def test_its_cells_run_in_their_order_and_give_what_is_kept(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    names: dict[str, object] = {}
    printed = []
    for cell in json.loads(NOTEBOOK.read_text(encoding="utf-8"))["cells"]:
        if cell["cell_type"] != "code":
            continue
        said = io.StringIO()
        with contextlib.redirect_stdout(said):
            exec(compile(ast.parse("".join(cell["source"])), "cell", "exec"), names)
        kept = "".join(line for output in cell["outputs"] for line in output.get("text", ()))
        # How many triangles come out may differ by a few from machine to machine; what is told of them does not.
        assert said.getvalue().count("\n") == kept.count("\n")
        assert said.getvalue().count("True") == kept.count("True")
        printed.append(kept)
    assert "sound: True" in "".join(printed)
    assert (tmp_path / "pond.stl").exists()


def test_it_shows_what_is_made():
    shown = [
        output["data"]
        for cell in json.loads(NOTEBOOK.read_text(encoding="utf-8"))["cells"]
        for output in cell.get("outputs", ())
        if "data" in output
    ]
    pictures = [Image.open(io.BytesIO(base64.b64decode(data["image/png"]))) for data in shown if "image/png" in data]
    assert [picture.size for picture in pictures] == [(480, 360)] * 3
    assert any("<svg" in "".join(data.get("image/svg+xml", ())) for data in shown)


def test_what_is_built_shows_itself():
    import numpy as np

    import nebrel

    built = nebrel.relief(np.eye(24), width_mm=20).build()
    picture = Image.open(io.BytesIO(built._repr_png_()))
    assert picture.size == (480, 360)
    assert len(picture.getcolors(480 * 360) or ()) > 20
    assert "<path" in nebrel.trace(np.where(np.hypot(*np.mgrid[-1:1:64j, -1:1:64j]) < 0.7, 0.0, 1.0))._repr_svg_()
    assert built.picture((64, 48)) == pytest.approx(built.picture((64, 48)))
