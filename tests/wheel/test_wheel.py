"""What pip installs: built, put into an empty environment by the pip that comes with Python, and used there."""

import os
import re
import shutil
import subprocess
import sys
import urllib.request
import venv
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

ROOT = Path(__file__).parents[2]


def ran(*words: str | Path, **more: object) -> str:
    ended = subprocess.run([str(word) for word in words], capture_output=True, text=True, check=False, **more)
    assert ended.returncode == 0, ended.stdout + ended.stderr
    return ended.stdout


@pytest.fixture(scope="module")
def installed(tmp_path_factory) -> Path:
    """The folder of programs of a fresh environment that Nebrel was installed into from its wheel."""
    folder = tmp_path_factory.mktemp("wheel")
    # Built from a copy, so that nothing is left behind in the checkout.
    source = folder / "source"
    source.mkdir()
    for name in ("pyproject.toml", "README.md"):
        shutil.copy(ROOT / name, source / name)
    shutil.copytree(ROOT / "src" / "nebrel", source / "src" / "nebrel", ignore=shutil.ignore_patterns("__pycache__"))
    ran(sys.executable, "-m", "pip", "wheel", "--no-deps", "-w", folder / "dist", source)
    (wheel,) = (folder / "dist").glob("nebrel-*.whl")
    venv.create(folder / "env", with_pip=True)
    programs = folder / "env" / "bin"
    # Modules are compiled as they are imported, few of all that come along.
    ran(programs / "pip", "install", "--disable-pip-version-check", "--no-compile", wheel)
    return programs


@pytest.fixture
def bare() -> dict[str, str]:
    """An environment that knows nothing of the checkout."""
    return {name: value for name, value in os.environ.items() if not name.startswith(("PYTHON", "VIRTUAL_ENV"))}


@pytest.fixture
def server(installed, bare, tmp_path) -> Iterator[str]:
    words = [installed / "nebrel", "serve", "--port", "0", "--data", tmp_path / "data"]
    process = subprocess.Popen(words, stdout=subprocess.PIPE, text=True, cwd=tmp_path, env=bare)
    assert process.stdout is not None
    found = re.search(r"http://\S+", process.stdout.readline())
    assert found is not None
    yield found.group()
    process.terminate()
    process.wait(timeout=60)


def fetched(address: str) -> str:
    with urllib.request.urlopen(address, timeout=60) as answer:
        return answer.read().decode()


def test_it_tells_its_version(installed, bare, tmp_path):
    told = ran(installed / "nebrel", "--version", cwd=tmp_path, env=bare)
    assert re.fullmatch(r"nebrel \d+\.\d+\.\d+\n", told)


def test_it_makes_a_relief_without_the_checkout(installed, bare, tmp_path):
    tones = np.tile(np.arange(32, dtype=np.uint8) * 8, (24, 1))
    Image.fromarray(tones).save(tmp_path / "ramp.png")
    ran(installed / "nebrel", "make", "relief", "ramp.png", "-o", "ramp.stl", "--width", "20", cwd=tmp_path, env=bare)
    assert "sound" in ran(installed / "nebrel", "check", "ramp.stl", cwd=tmp_path, env=bare)


def test_it_serves_its_pages_and_the_notices_of_their_parts(server):
    page = fetched(server)
    scripts = re.findall(r'src="(/assets/[^"]+\.js)"', page)
    assert scripts
    assert all(len(fetched(server + script)) > 1000 for script in scripts)
    told = fetched(f"{server}/notices.txt")
    for part in ("react", "three", "bootstrap", "@fontsource-variable/source-sans-3", "zustand"):
        assert f"\n{part} " in told
    assert fetched(f"{server}/api/pieces") == "[]"
