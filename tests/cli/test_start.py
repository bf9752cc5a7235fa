"""What a command loads, and when: help, versions and refusals load nothing heavy."""

import re
import subprocess
import sys
from importlib import import_module

import pytest
import typer
from typer.main import get_command

from nebrel.cli.endings import DRAWINGS, HEIGHT_MAPS, MESHES
from nebrel.cli.height_maps import FORMATS
from nebrel.cli.main import app
from nebrel.cli.make import make
from nebrel.core.mesh.formats import MESH_FORMATS
from nebrel.core.outline_files.read import ENDINGS

HEAVY = ("numpy", "numba", "scipy", "cv2", "pydantic_settings", "shapely", "PIL", "sqlalchemy", "fastapi")
LOADED = """
import sys
from nebrel.cli.main import run
sys.argv = ["nebrel", *{words!r}]
try:
    run()
finally:
    print("loaded", *(name for name in {heavy!r} if name in sys.modules), file=sys.stderr)
"""


def heavy_after(*words: str) -> tuple[int, str, list[str]]:
    """Exit code, what was said, and which heavy packages a command had loaded when it ended."""
    code = LOADED.format(words=words, heavy=HEAVY)
    ended = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    *said, last = (ended.stdout + ended.stderr).strip().splitlines()
    return ended.returncode, "\n".join(said), last.split()[1:]


@pytest.mark.parametrize(
    "words", [("--help",), ("make", "--help"), ("make", "relief", "--help"), ("decorate", "--help"), ("--version",)]
)
def test_help_loads_nothing_heavy(words):
    code, said, heavy = heavy_after(*words)
    assert (code, heavy) == (0, [])
    assert said.startswith(("Usage: ", "nebrel "))


@pytest.mark.parametrize(
    ("words", "sentence"),
    [
        (("make", "relief", "no.png", "-o", "a.stl"), "There is no file no.png"),
        (("make", "relief", "no.png", "-o", "a.xyz"), "a.xyz does not end in"),
        (("make", "lithophane", "no.png", "-o", "a.stl"), "There is no file no.png"),
        (("make", "cutter", "no.svg", "-o", "a.stl"), "There is no file no.svg"),
        (("trace", "no.png", "-o", "a.svg"), "There is no file no.png"),
        (("check", "no.stl"), "There is no file no.stl"),
        (("simplify", "no.stl", "-o", "a.stl", "--triangles", "5"), "There is no file no.stl"),
        (("repair", "no.stl", "-o", "a.stl"), "There is no file no.stl"),
        (("decorate", "no.stl", "--with", "a.svg", "-o", "b.stl", "--at", "0,0,0"), "There is no file no.stl"),
        (("nonsense",), "No such command"),
    ],
)
def test_refusals_load_nothing_heavy(words, sentence, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    code, said, heavy = heavy_after(*words)
    assert (code, heavy) == (2, [])
    assert sentence in said
    assert said.count("\n") == 0


def test_a_wrong_option_is_refused_before_a_picture_is_read(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "hill.png").write_bytes(b"no picture")
    code, said, heavy = heavy_after("make", "relief", "hill.png", "-o", "a.stl", "--rule", "nonsense")
    assert (code, "--rule is “nonsense”" in said) == (2, True)
    assert not {"numpy", "numba", "cv2"} & set(heavy)


def test_endings_that_are_told_without_loading_are_those_that_are_read_and_written():
    assert set(MESHES) == {f".{form}" for form in MESH_FORMATS}
    assert set(DRAWINGS) == set(ENDINGS)
    assert set(HEIGHT_MAPS) == set(FORMATS)


@pytest.mark.parametrize("group", [app, make])
def test_what_the_list_of_commands_says_is_what_they_are(group):
    commands = get_command(group).commands_by_name
    assert len(commands) >= 5
    for name, named in commands.items():
        found = getattr(import_module(f"nebrel.cli.{named.module}"), named.function)
        told = found.registered_callback.callback if isinstance(found, typer.Typer) else found
        first = set(re.findall(r"[a-z]{4,}", named.help.lower()))
        known = set(re.findall(r"[a-z]{4,}", told.__doc__.lower()))
        assert len(first & known) >= min(3, len(first)), name
