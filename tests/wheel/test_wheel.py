"""What pip installs: built, put into an empty environment by the pip that comes with Python, and used there."""

import os
import re
import shutil
import subprocess
import sys
import urllib.request
import venv
import zipfile
from collections.abc import Iterator
from email.parser import Parser
from importlib.metadata import version
from pathlib import Path

import numpy as np
import pytest
from packaging.requirements import Requirement
from PIL import Image

ROOT = Path(__file__).parents[2]


def ran(*words: str | Path, **more: object) -> str:
    ended = subprocess.run([str(word) for word in words], capture_output=True, text=True, check=False, **more)
    assert ended.returncode == 0, ended.stdout + ended.stderr
    return ended.stdout


@pytest.fixture(scope="module")
def wheel(tmp_path_factory) -> Path:
    """The wheel, built from a copy, so that nothing is left behind in the checkout."""
    source = tmp_path_factory.mktemp("source")
    for name in ("pyproject.toml", "README.md"):
        shutil.copy(ROOT / name, source / name)
    shutil.copytree(ROOT / "src" / "nebrel", source / "src" / "nebrel", ignore=shutil.ignore_patterns("__pycache__"))
    ran(sys.executable, "-m", "pip", "wheel", "--no-deps", "-w", source / "dist", source)
    (found,) = (source / "dist").glob("nebrel-*.whl")
    return found


def put_in(wheel: Path, folder: Path, *options: str) -> str:
    """Put a wheel into a fresh environment by the pip that comes along; what that says."""
    venv.create(folder, with_pip=True)
    pip = folder / "bin" / "pip"
    return ran(pip, "install", "--disable-pip-version-check", "--no-compile", *options, wheel)


@pytest.fixture(scope="module", params=["with what is here", pytest.param("alone", marks=pytest.mark.deep)])
def installed(request, wheel, tmp_path_factory) -> Path:
    """Programs of an environment: Nebrel from its wheel, and what it needs from here or, which takes long, by pip."""
    folder = tmp_path_factory.mktemp("environment") / "env"
    if request.param == "alone":
        put_in(wheel, folder)
    else:
        put_in(wheel, folder, "--no-deps")
        (packages,) = (folder / "lib").glob("python*/site-packages")
        # A line and not a folder for sites, so that the hook there which leads to the checkout is not followed.
        (packages / "here.pth").write_text(f"{Path(np.__file__).parents[1]}\n")
    return folder / "bin"


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


def test_what_is_here_is_what_pip_may_choose(wheel):
    with zipfile.ZipFile(wheel) as held:
        (name,) = (name for name in held.namelist() if name.endswith(".dist-info/METADATA"))
        told = Parser().parsestr(held.read(name).decode())
    needed = [need for need in map(Requirement, told.get_all("Requires-Dist")) if not need.marker]
    assert len(needed) > 30
    # Releases before a first one count only where the bound itself names one, as for pip.
    assert [str(need) for need in needed if not need.specifier.contains(version(need.name))] == []


def test_it_tells_its_version(installed, bare, tmp_path):
    told = ran(installed / "nebrel", "--version", cwd=tmp_path, env=bare)
    assert re.fullmatch(r"nebrel \d+\.\d+\.\d+\n", told)


def test_it_reads_and_writes_without_the_checkout(installed, bare, tmp_path):
    (tmp_path / "tag.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="20mm" height="10mm" viewBox="0 0 20 10">'
        '<rect width="20" height="10"/></svg>'
    )
    # Loops as Python runs them: compiling takes half a minute and is part of the long trial below.
    slow = {**bare, "NUMBA_DISABLE_JIT": "1"}
    told = ran(installed / "nebrel", "trace", "tag.svg", "-o", "tag.dxf", cwd=tmp_path, env=slow)
    assert "1 parts, 4 nodes, 200.00 mm²" in told
    assert (tmp_path / "tag.dxf").read_text().rstrip().endswith("EOF")


@pytest.mark.deep
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
