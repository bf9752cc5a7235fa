"""Bytes by key, in each of their homes."""

import errno
import io
import time
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

import pytest

from nebrel.api.lending import lending
from nebrel.core.errors import BadValueError, NoSpaceError, NotFoundError
from nebrel.jobs.cluster.carrier import Carrier
from nebrel.jobs.workplace import Whereabouts, workplace_at
from nebrel.settings import Settings
from nebrel.store.blobs import BlobFolder, KeptFolder, blob_name
from nebrel.store.means import NO_SPACE
from nebrel.store.shared.bucket_store import BucketStore
from nebrel.store.shared.lent import Lent, lent_from
from nebrel.store.shared.objects import FolderStore, ObjectStore, StoreError
from nebrel.store.shared.server_store import ServerStore

KEY = "kept/" + "5" * 64


@pytest.fixture
def lent(tmp_path: Path) -> Lent:
    (tmp_path / "server").mkdir()
    return lent_from(tmp_path / "server", 2**20)


@pytest.fixture(params=["folder", "server", "bucket", "memory"])
def store(request: pytest.FixtureRequest, tmp_path: Path, lent: Lent) -> Iterator[ObjectStore]:
    if request.param == "folder":
        yield lent.store
    elif request.param == "server":
        with lending(lent, "127.0.0.1") as address:
            yield ServerStore(address, lent.token)
    elif request.param == "bucket":
        yield BucketStore(f"file://{tmp_path}/bucket")
    else:
        yield BucketStore(f"memory://{tmp_path.name}")


def _solid(file: BinaryIO) -> None:
    file.write(b"solid")


def kept_in(store: ObjectStore, key: str) -> bytes | None:
    into = io.BytesIO()
    return into.getvalue() if store.get(key, into) else None


def test_what_is_put_under_a_key_is_there_in_every_home(store: ObjectStore) -> None:
    assert not store.has(KEY)
    assert kept_in(store, KEY) is None
    store.put(KEY, io.BytesIO(b"a result"))
    assert store.has(KEY)
    assert kept_in(store, KEY) == b"a result"
    store.put(KEY, io.BytesIO(b"the same, made again"))
    assert kept_in(store, KEY) == b"the same, made again"
    large = bytes(range(256)) * 20_000
    blob = f"blobs/{blob_name(large)}"
    store.put(blob, io.BytesIO(large))
    assert kept_in(store, blob) == large


NO_KEYS = ("kept/../server.lock", "kept/short", "other/" + "5" * 64, "nebrel.sqlite", "kept/")


@pytest.mark.parametrize("key", NO_KEYS)
def test_nothing_but_keys_opens_anything(lent: Lent, tmp_path: Path, key: str) -> None:
    with lending(lent, "127.0.0.1") as address:
        asked = ServerStore(address, lent.token)
        assert not asked.has(key)
        assert not asked.get(key, io.BytesIO())
    for store in (lent.store, BucketStore(f"file://{tmp_path}")):
        with pytest.raises(ValueError, match="is no key"):
            store.has(key)


def test_another_token_opens_nothing(lent: Lent) -> None:
    with lending(lent, "127.0.0.1") as address:
        ServerStore(address, lent.token).put(KEY, io.BytesIO(b"a result"))
        for token in ("another", "-"):
            with pytest.raises(StoreError, match="the token"):
                ServerStore(address, token).get(KEY, io.BytesIO())
        assert ServerStore(address, lent.token).has(KEY)


def test_a_token_stays_the_same_and_is_read_by_nobody_else(tmp_path: Path) -> None:
    first = lent_from(tmp_path, 1).token
    assert lent_from(tmp_path, 1).token == first
    assert len(first) > 30
    assert (tmp_path / "workers.token").stat().st_mode & 0o077 == 0


def test_a_source_file_that_was_cut_off_is_refused(lent: Lent) -> None:
    with lending(lent, "127.0.0.1") as address, pytest.raises(StoreError, match="cut off"):
        ServerStore(address, lent.token).put(f"blobs/{blob_name(b'whole')}", io.BytesIO(b"who"))
    assert not lent.store.has(f"blobs/{blob_name(b'whole')}")


def test_a_full_store_is_told_as_that(lent: Lent, monkeypatch: pytest.MonkeyPatch) -> None:
    def full(*_: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(FolderStore, "put", full)
    with lending(lent, "127.0.0.1") as address, pytest.raises(NoSpaceError, match=r"disk .* is full") as refused:
        ServerStore(address, lent.token).put(KEY, io.BytesIO(b"a result"))
    assert str(refused.value) == NO_SPACE


def test_a_server_that_is_away_is_waited_for_and_then_named() -> None:
    began = time.monotonic()
    with pytest.raises(StoreError, match=r"127\.0\.0\.1:9 .* does not answer this worker"):
        ServerStore("http://127.0.0.1:9", "token", patience=0.6).has(KEY)
    assert time.monotonic() - began >= 0.6


@pytest.mark.parametrize("address", ["nowhere://bucket", "s3://bucket/folder"])
def test_a_store_that_nobody_knows_is_refused(address: str) -> None:
    with pytest.raises(BadValueError, match="would be accepted"):
        BucketStore(address)


def test_only_the_oldest_go_where_there_is_no_room(tmp_path: Path) -> None:
    store = BucketStore(f"file://{tmp_path}")
    keys = [f"kept/{digit * 64}" for digit in "abc"]
    for key in keys:
        store.put(key, io.BytesIO(b"x" * 1000))
        time.sleep(0.02)
    assert store.make_room(2500) == 1
    assert [store.has(key) for key in keys] == [False, True, True]
    assert BucketStore(f"file://{tmp_path}/nothing").make_room(1) == 0


@pytest.mark.parametrize("where", ["server", "bucket", "folder"])
def test_two_workers_share_results_and_no_folder(tmp_path: Path, lent: Lent, where: str) -> None:
    def share(at: Whereabouts) -> None:
        one, two = (workplace_at(at, Settings(data_dir=tmp_path), tmp_path / name) for name in ("one", "two"))
        name = one.blobs.add(b"a picture")
        assert two.blobs.read(name) == b"a picture"
        one.kept.put("6" * 64, b"heights")
        assert two.kept.get("6" * 64) == b"heights"
        made = two.kept.put_file("7" * 64, _solid)
        assert made.read_bytes() == b"solid"
        near = one.kept.path("7" * 64)
        assert near is not None
        assert near.read_bytes() == b"solid"
        assert (near != made) == (where != "folder")
        assert one.kept.get("8" * 64) is None
        assert one.kept.path("8" * 64) is None
        with pytest.raises(NotFoundError):
            one.blobs.read("8" * 64)

    if where == "server":
        with lending(lent, "127.0.0.1") as address:
            share(Whereabouts(address, lent.token))
    else:
        share(Whereabouts(f"file://{tmp_path}/bucket" if where == "bucket" else str(tmp_path / "shared")))


def test_the_server_brings_what_is_needed_and_takes_what_was_made(tmp_path: Path) -> None:
    blob = BlobFolder(tmp_path / "data" / "blobs").add(b"a picture")
    carrier = Carrier(tmp_path / "data", Whereabouts(f"file://{tmp_path}/bucket"), 2**20)
    store = BucketStore(f"file://{tmp_path}/bucket")
    carrier.bring({"document": {"picture": {"blob": blob}, "unknown": "9" * 64}})
    assert kept_in(store, f"blobs/{blob}") == b"a picture"
    store.put(KEY, io.BytesIO(b"a solid"))
    carrier.take({"file_key": KEY.removeprefix("kept/"), "other_key": "4" * 64, "report": {}})
    assert KeptFolder(tmp_path / "data" / "kept", None).get(KEY.removeprefix("kept/")) == b"a solid"
    near = Carrier(tmp_path / "data", Whereabouts(str(tmp_path / "data")), 2**20)
    near.bring({"blob": blob})
    near.take({"file_key": "4" * 64})
