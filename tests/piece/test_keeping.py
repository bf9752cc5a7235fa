"""A copy of all work can be made and put back; what is not needed can go, and nothing else goes with it."""

import os
import sqlite3
import threading
import time
import zipfile
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from nebrel.core.errors import BadValueError
from nebrel.jobs.workshop import Workshop, open_workshop
from nebrel.settings import Settings
from nebrel.store import housekeeping
from nebrel.store.backup import back_up, put_back
from nebrel.store.copies import copy_when_due
from nebrel.store.folder import DATABASE
from nebrel.store.housekeeping import Housekeeping, sizes_in
from nebrel.store.tables import RevisionRow


@pytest.fixture
def folder(tmp_path):
    return tmp_path / "data"


@pytest.fixture
def workshop(folder):
    opened = open_workshop(Settings(data_dir=folder))
    yield opened
    opened.close()


@pytest.fixture
def keeping(workshop, folder) -> Housekeeping:
    return Housekeeping(workshop.database, folder)


def edited(workshop: Workshop, state, times: int):
    for number in range(times):
        document = {**state.document, "title": f"State {number}"}
        state = workshop.pieces.revise(state.id, state.revision, document, f"To {number}")
    return state


def past(workshop: Workshop, piece_id: str) -> list[str]:
    """Titles of the states that undo leads back through, the newest first."""
    state, titles = workshop.pieces.get(piece_id), []
    while True:
        titles.append(str(state.document["title"]))
        before = workshop.pieces.undo(piece_id, state.revision)
        if before.revision == state.revision:
            return titles
        state = before


class TestBackup:
    def test_all_of_it_comes_back(self, workshop, folder, tmp_path, hill):
        first = workshop.start_piece(hill, "hill.png", "Hill")
        named = workshop.versions.name(first.id, "Begun")
        last = edited(workshop, first, 3)
        made = back_up(folder, tmp_path / "all.nebrel")
        assert (made.pieces, made.sources, made.bytes) == (1, 1, (tmp_path / "all.nebrel").stat().st_size)
        again = tmp_path / "again"
        assert put_back(tmp_path / "all.nebrel", again).pieces == 1
        opened = open_workshop(Settings(data_dir=again))
        try:
            assert opened.pieces.get(first.id) == last
            assert opened.versions.of(first.id) == [named]
            assert opened.blobs.read(str(first.document["picture"]["blob"])) == hill
            assert past(opened, first.id) == ["State 2", "State 1", "State 0", "Hill"]
        finally:
            opened.close()
        assert not list(again.rglob(".part-*"))

    def test_it_is_of_one_moment_while_others_write(self, workshop, folder, tmp_path, hill):
        piece, stop = workshop.start_piece(hill, "hill.png"), threading.Event()

        def write():
            state = piece
            while not stop.is_set():
                state = edited(workshop, state, 1)

        thread = threading.Thread(target=write)
        thread.start()
        try:
            for number in range(3):
                back_up(folder, tmp_path / f"{number}.nebrel")
                put_back(tmp_path / f"{number}.nebrel", tmp_path / f"again{number}")
        finally:
            stop.set()
            thread.join()

    @pytest.mark.parametrize("harm", ["cut", "flipped", "other", "newer", "source gone"])
    def test_a_damaged_one_is_refused_and_nothing_changes(self, workshop, folder, tmp_path, hill, harm):
        workshop.start_piece(hill, "hill.png")
        path, again = tmp_path / "all.nebrel", tmp_path / "again"
        back_up(folder, path)
        data = bytearray(path.read_bytes())
        if harm == "cut":
            data = data[:-300]
        elif harm == "flipped":
            data[data.index(hill[:40]) + 200] ^= 1
        elif harm == "other":
            data = bytearray(b"This is a letter.")
        else:
            with zipfile.ZipFile(path) as archive:
                entries = {name: archive.read(name) for name in archive.namelist()}
            if harm == "newer":
                entries["backup.json"] = entries["backup.json"].replace(b'"version": 1', b'"version": 2')
            else:
                entries.popitem()
            with zipfile.ZipFile(path, "w") as archive:
                for name, content in entries.items():
                    archive.writestr(name, content)
            data = bytearray(path.read_bytes())
        path.write_bytes(data)
        with pytest.raises(BadValueError, match=r"damaged|newer version"):
            put_back(path, again)
        assert not (again / DATABASE).exists() and not (again / "blobs").exists()

    def test_what_is_there_is_put_aside_only_when_that_is_said(self, workshop, folder, tmp_path, hill):
        workshop.start_piece(hill, "hill.png")
        back_up(folder, tmp_path / "one.nebrel")
        workshop.start_piece(hill, "hill.png", "Second")
        workshop.close()
        with pytest.raises(BadValueError, match="say --replace"):
            put_back(tmp_path / "one.nebrel", folder)
        assert put_back(tmp_path / "one.nebrel", folder, replace=True).pieces == 1
        (aside,) = folder.glob("before-*.sqlite")
        with sqlite3.connect(aside) as connection:
            assert connection.execute("SELECT count(*) FROM pieces").fetchone() == (2,)

    def test_a_copy_of_the_database_is_put_back_in_place_of_a_damaged_one(self, workshop, folder, hill):
        state = workshop.start_piece(hill, "hill.png")
        copy = copy_when_due(folder, folder / DATABASE)
        workshop.close()
        (folder / DATABASE).write_bytes(b"damaged")
        assert put_back(copy, folder).pieces == 1
        opened = open_workshop(Settings(data_dir=folder))
        assert opened.piece(state.id).document.title == state.document["title"]
        opened.close()

    def test_a_folder_that_is_none_is_told(self, tmp_path):
        with pytest.raises(BadValueError, match="no data folder"):
            back_up(tmp_path / "none", tmp_path / "a.nebrel")
        with pytest.raises(BadValueError, match="There is no file"):
            put_back(tmp_path / "a.nebrel", tmp_path / "b")


class TestRoom:
    def test_removed_pieces_go_with_all_their_states_and_no_others(self, workshop, keeping, folder, hill):
        kept, gone = workshop.start_piece(hill, "hill.png"), workshop.start_piece(hill, "hill.png", "Gone")
        edited(workshop, kept, 2)
        workshop.versions.name(gone.id, "Named")
        workshop.jobs.create("build", gone.id, gone.revision)
        edited(workshop, gone, 5)
        workshop.pieces.set_removed(gone.id, True)
        assert keeping.removed() == 1
        assert keeping.empty_removed() == 1
        assert (keeping.removed(), keeping.states()) == (0, 3)
        assert [state.id for state in workshop.pieces.all()] == [kept.id]
        assert workshop.jobs.recent() == []
        assert keeping.empty_removed() == 0

    def test_of_a_long_past_what_has_a_name_or_a_result_and_one_an_hour_stay(self, workshop, keeping, hill):
        first = workshop.start_piece(hill, "hill.png", "First")
        state = edited(workshop, first, 30)
        version = workshop.versions.name(first.id, "Half way")
        state = edited(workshop, state, 10)
        workshop.jobs.create("build", first.id, state.revision)
        state = edited(workshop, state, 70)
        begun = datetime(2026, 3, 1, 9, tzinfo=UTC)
        with workshop.database.writing() as session:
            for number, row in enumerate(session.query(RevisionRow).order_by(RevisionRow.id)):
                row.created = begun + timedelta(minutes=6 * number)
        # 111 states, ten an hour: of the first 61 the last of each hour stays, and three more.
        went = keeping.thin_history()
        assert keeping.states() == 111 - went
        titles = past(workshop, first.id)
        assert titles[:50] == [f"State {number}" for number in range(69, 19, -1)]
        assert titles[-1] == "First" and 56 <= len(titles) <= 62
        assert workshop.versions.of(first.id) == [version]
        assert keeping.thin_history() == 0

    def test_sources_go_once_nothing_names_them_and_they_are_old(self, workshop, keeping, folder, hill, encode):
        kept = workshop.start_piece(hill, "hill.png")
        gone = workshop.start_piece(encode(np.eye(40, dtype=np.uint8) * 255), "gone.png")
        workshop.pieces.set_removed(gone.id, True)
        keeping.empty_removed()
        now = datetime.now(UTC)
        assert keeping.drop_unused(now) == 0
        later = now + timedelta(days=31)
        laid = workshop.blobs.add(b"a picture that a recipe lays over others")
        workshop.recipes.add("Laid over", {"ops": [{"kind": "overlay", "blob": laid}]})
        assert keeping.drop_unused(later) == 1
        assert workshop.blobs.read(laid)
        assert workshop.blobs.read(str(kept.document["picture"]["blob"])) == hill
        assert sizes_in(folder)["sources"].files == 2
        assert keeping.drop_unused(later) == 0

    def test_a_source_that_is_added_again_is_young(self, workshop, keeping, folder):
        name = workshop.blobs.add(b"again and again")
        (path,) = folder.glob("blobs/??/*")
        os.utime(path, (0, 0))
        workshop.blobs.add(b"again and again")
        assert keeping.drop_unused() == 0 and workshop.blobs.read(name)
        os.utime(path, (0, 0))
        assert keeping.drop_unused() == 1

    def test_sizes_are_told_by_kind_and_shrink(self, workshop, keeping, folder, hill):
        state = workshop.start_piece(hill, "hill.png")
        with workshop.database.writing() as session:
            row = session.get(RevisionRow, state.revision)
            for number in range(200):
                session.add(
                    RevisionRow(piece_id=state.id, parent_id=row.id, label="x", document={"long": "x" * 20_000})
                )
                if number == 0:
                    session.flush()
        workshop.kept.put("key", b"x" * 5000)
        before = sizes_in(folder)
        assert before["sources"] == housekeeping.PartSize(1, len(hill))
        assert before["results"].bytes >= 5000
        workshop.pieces.set_removed(state.id, True)
        keeping.empty_removed()
        assert keeping.forget_results() >= 5000
        after = sizes_in(folder)
        assert after["database"].bytes < before["database"].bytes / 4
        assert after["results"].files == 0

    def test_readers_are_not_held_up_by_thinning(self, workshop, keeping, hill):
        state = edited(workshop, workshop.start_piece(hill, "hill.png"), 80)
        done = threading.Event()

        def thin():
            keeping.thin_history()
            done.set()

        threading.Thread(target=thin).start()
        while not done.is_set():
            assert workshop.pieces.get(state.id).revision == state.revision
            time.sleep(0.001)
