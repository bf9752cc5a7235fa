"""A server that cannot start says why in one sentence; one that says it is ready answers."""

import os
import signal
import socket
import sqlite3
import ssl
import subprocess
from datetime import UTC, datetime, timedelta
from pathlib import Path

import httpx
import pytest
import trustme
from tools.running import PROGRAM, RunningServer

from nebrel.api.serving.addresses import shown_host
from nebrel.core.errors import BadValueError, ConflictError
from nebrel.store.copies import KEPT, copies_in, copy_when_due
from nebrel.store.database import newest_version, open_database
from nebrel.store.folder import DATABASE, check_database, held_by_server, make_folder
from nebrel.store.pieces import Pieces


@pytest.fixture
def folder(tmp_path) -> Path:
    """A data folder with a piece in it."""
    database = open_database(tmp_path / DATABASE)
    Pieces(database).create({"title": "one", "long": "x" * 200_000}, "Start")
    database.close()
    return tmp_path


def serve(*options: str) -> subprocess.CompletedProcess:
    asked = [*PROGRAM, "serve", "--port", "0", *options]
    return subprocess.run(asked, capture_output=True, text=True, check=False, timeout=60)


def test_a_folder_that_is_a_file_is_one_sentence(tmp_path):
    (tmp_path / "file").write_text("x")
    ended = serve("--data", str(tmp_path / "file"))
    assert (ended.returncode, ended.stdout, ended.stderr.count("\n")) == (2, "", 1)
    assert "is a file; a folder is needed" in ended.stderr


def test_a_folder_that_cannot_be_written_is_told(tmp_path, monkeypatch):
    def refuse(**_):
        raise OSError(30, "Read-only file system")

    monkeypatch.setattr("nebrel.store.folder.tempfile.TemporaryFile", refuse)
    with pytest.raises(BadValueError, match=r"cannot be written to \(Read-only file system\); let this user"):
        make_folder(tmp_path)


def test_a_folder_of_a_newer_version_is_told(folder):
    with sqlite3.connect(folder / DATABASE) as connection:
        connection.execute("UPDATE alembic_version SET version_num = '9999'")
    ended = serve("--data", str(folder))
    assert ended.returncode == 2
    assert f"newer version of Nebrel (tables 9999, this one knows {newest_version()})" in ended.stderr


@pytest.mark.parametrize("damage", ["no database", "holes"])
def test_a_damaged_database_is_told_with_the_last_copy(folder, damage):
    copy = copy_when_due(folder, folder / DATABASE)
    data = bytearray((folder / DATABASE).read_bytes())
    if damage == "holes":
        data[8192:-4096] = os.urandom(len(data) - 8192 - 4096)
    else:
        data = bytearray(b"This is no database at all, though it is long enough. " * 40)
    (folder / DATABASE).write_bytes(data)
    with pytest.raises(BadValueError, match=f"is damaged; the last copy of it is there: nebrel restore {copy}"):
        check_database(folder)
    copy.unlink()
    with pytest.raises(BadValueError, match="is damaged; restore a backup"):
        check_database(folder)


def test_a_whole_database_is_let_through(folder, tmp_path):
    check_database(folder)
    check_database(tmp_path / "nothing there")


def test_one_folder_has_one_server_and_a_killed_one_holds_nothing(tmp_path):
    first = RunningServer(tmp_path)
    ended = serve("--data", str(tmp_path))
    assert ended.returncode == 2
    assert f"process {first.process.pid} at {first.url}" in ended.stderr
    (tmp_path / "blobs" / "ab").mkdir(parents=True)
    (tmp_path / "blobs" / "ab" / ".part-left").write_bytes(b"half")
    os.kill(first.process.pid, signal.SIGKILL)
    first.process.wait()
    first.start()
    try:
        assert httpx.get(f"{first.url}/api/pieces").json() == []
        assert not list(tmp_path.rglob(".part-*"))
    finally:
        first.process.terminate()
        first.process.wait(timeout=60)
    with (
        held_by_server(tmp_path, "http://here"),
        pytest.raises(ConflictError, match="at http://here"),
        held_by_server(tmp_path, "http://there"),
    ):
        pass


def test_the_address_that_is_printed_opens():
    assert shown_host("127.0.0.1") == "127.0.0.1"
    assert shown_host("::1") == "[::1]"
    assert shown_host("studio.lan") == "studio.lan"
    for everywhere in ("0.0.0.0", "::"):
        shown = shown_host(everywhere).strip("[]")
        family = socket.AF_INET6 if ":" in shown else socket.AF_INET
        with socket.socket(family) as listening:
            listening.bind((shown, 0))
        assert shown != everywhere


def test_over_tls_pages_come_by_https(tmp_path):
    authority = trustme.CA()
    certificate, key = tmp_path / "own.pem", tmp_path / "key.pem"
    issued = authority.issue_cert("127.0.0.1")
    certificate.write_bytes(b"".join(blob.bytes() for blob in issued.cert_chain_pems))
    key.write_bytes(issued.private_key_pem.bytes())
    options = ["serve", "--port", "0", "--data", str(tmp_path / "data")]
    asked = [*PROGRAM, *options, "--certificate", str(certificate), "--key", str(key)]
    with subprocess.Popen(asked, stdout=subprocess.PIPE, text=True) as server:
        address = server.stdout.readline().split()[-1]
        context = ssl.create_default_context()
        authority.configure_trust(context)
        try:
            assert address.startswith("https://127.0.0.1:")
            assert httpx.get(f"{address}/api/pieces", verify=context).json() == []
        finally:
            server.terminate()


def test_a_certificate_that_is_none_is_one_sentence(tmp_path):
    (tmp_path / "no.pem").write_text("nothing")
    for options in (["--certificate", str(tmp_path / "no.pem")], ["--certificate", str(tmp_path / "gone.pem")]):
        ended = serve("--data", str(tmp_path / "data"), *options)
        assert (ended.returncode, ended.stderr.count("\n")) == (2, 1)
        assert "certificate cannot be used" in ended.stderr
    assert "--key has no effect without --certificate" in serve("--key", str(tmp_path / "no.pem")).stderr
    assert "debug, info, warning, error" in serve("--log-level", "loud").stderr


def test_a_week_of_copies_is_kept_one_a_day(folder):
    begun = datetime(2026, 5, 1, 12, tzinfo=UTC)
    made = [copy_when_due(folder, folder / DATABASE, begun + timedelta(hours=hours)) for hours in range(0, 24 * 12, 8)]
    assert [copy is not None for copy in made] == [hours % 24 == 0 for hours in range(0, 24 * 12, 8)]
    copies = copies_in(folder)
    assert len(copies) == KEPT and copies[-1] == next(copy for copy in reversed(made) if copy)
    with sqlite3.connect(copies[-1]) as connection:
        assert connection.execute("SELECT count(*) FROM pieces").fetchone() == (1,)
    assert not list(folder.rglob(".part-*"))
