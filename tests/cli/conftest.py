"""Commands as a person runs them."""

import sys

import pytest

from nebrel.cli.main import run


@pytest.fixture
def nebrel(monkeypatch, capsys):
    """Run a command; returns exit code, stdout and stderr."""

    def call(*arguments: object) -> tuple[int, str, str]:
        monkeypatch.setattr(sys, "argv", ["nebrel", *map(str, arguments)])
        with pytest.raises(SystemExit) as end:
            run()
        out, err = capsys.readouterr()
        return int(end.value.code or 0), out, err

    return call


@pytest.fixture
def picture(tmp_path, hill):
    path = tmp_path / "hill.png"
    path.write_bytes(hill)
    return path
