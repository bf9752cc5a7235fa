"""One recipe over many pictures: what is made, what is refused, and what a kill costs."""

import csv
import io
import json
from collections.abc import Iterable

import numpy as np
import pytest

import nebrel
from nebrel.core.errors import BadValueError, NebrelError
from nebrel.jobs.batch.batch import JOURNAL, Batch
from nebrel.jobs.batch.orders import Order, orders_in
from nebrel.jobs.batch.values import with_values
from nebrel.jobs.executor import STARTING, Handle, OnEnd, OnProgress, Outcome
from nebrel.jobs.made import Made
from nebrel.jobs.made_sheet import COLUMNS, sheet_bytes, table_text
from nebrel.jobs.work import KINDS
from nebrel.jobs.workshop import Workshop, open_workshop
from nebrel.piece.recipes.ready import ready_recipe
from nebrel.settings import Settings

COIN = ready_recipe("Coin")


def dome(height: float) -> bytes:
    return nebrel.read_picture(np.clip(height - np.hypot(*np.mgrid[-1:1:40j, -1:1:40j]), 0, 1)).data


class Here:
    """An executor that does everything at once, here; some tasks lose their worker first."""

    def __init__(self, workshop: Workshop, losses: Iterable[int] = ()) -> None:
        self.workshop = workshop
        self.losses = list(losses)
        self.done: list[str] = []
        self.begun = 0

    alive = True

    def start(self) -> None: ...

    def stop(self) -> None: ...

    def capacity(self) -> int:
        return 2

    def cancel(self, handle: Handle) -> None: ...

    def submit(self, task_id: str, kind: str, payload: dict, on_progress: OnProgress, on_end: OnEnd) -> Handle:  # type: ignore[type-arg]
        self.begun += 1
        on_progress(STARTING, 0.0)
        if self.begun in self.losses:
            on_end(Outcome("died", message="It was killed."))
        else:
            try:
                on_end(Outcome("done", KINDS[kind](self.workshop, payload, on_progress)))
                self.done.append(task_id)
            except NebrelError as refused:
                on_end(Outcome("failed", message=str(refused)))
        return None  # type: ignore[return-value]


@pytest.fixture
def folder(tmp_path):
    pictures = tmp_path / "pictures"
    pictures.mkdir()
    for name, height in (("low", 0.6), ("middle", 0.8), ("tall", 1.0)):
        (pictures / f"{name}.png").write_bytes(dome(height))
    return pictures


@pytest.fixture
def place(tmp_path):
    """Where it goes, and a batch into it with an executor."""
    out = tmp_path / "out"
    (out / "memory").mkdir(parents=True)
    workshops = []

    def begin(losses: Iterable[int] = (), form: str | None = None) -> tuple[Batch, Here]:
        workshops.append(open_workshop(Settings(data_dir=tmp_path / "work")))
        return Batch(workshops[-1], COIN, out, out / "memory", form), Here(workshops[-1], losses)

    begin.out = out  # type: ignore[attr-defined]
    yield begin
    for each in workshops:
        each.close()


def run(begun: tuple[Batch, Here], orders: list[Order]) -> list[Made]:
    return list(begun[0].run(orders, begun[1], lambda *_: None))


class TestRuns:
    def test_every_picture_of_a_folder_becomes_a_file(self, folder, place):
        made = run(place(), orders_in(folder))
        assert [each.state for each in made] == ["done"] * 3
        assert all(each.sound for each in made)
        for each in made:
            mesh = nebrel.read_mesh(place.out / each.file)
            assert len(mesh.faces) == each.report["triangles"]
            assert nebrel.check(mesh).sound

    def test_what_takes_too_long_is_given_up_and_costs_nothing_else(self, folder, place, monkeypatch):
        monkeypatch.setattr("nebrel.jobs.batch.batch.LOOK_SECONDS", 0.05)
        batch, executor = place()
        batch._most_seconds = 60.0
        slow: dict[str, OnEnd] = {}

        def submit(task_id: str, kind: str, payload: dict, on_progress: OnProgress, on_end: OnEnd) -> Handle:  # type: ignore[type-arg]
            if "tall" not in payload["document"]["title"]:
                return Here.submit(executor, task_id, kind, payload, on_progress, on_end)
            slow[task_id] = on_end
            on_progress(STARTING, 0.0)
            batch._most_seconds = 0.1
            return task_id  # type: ignore[return-value]

        monkeypatch.setattr(executor, "submit", submit)
        monkeypatch.setattr(executor, "cancel", lambda handle: slow.pop(handle)(Outcome("cancelled")))
        made = {each.title: each for each in run((batch, executor), orders_in(folder))}
        assert [made[name].state for name in ("low", "middle", "tall")] == ["done", "done", "failed"]
        assert "took longer than" in made["tall"].why

    def test_what_is_refused_costs_nothing_else(self, folder, place):
        (folder / "broken.png").write_bytes(b"\x89PNG no")
        (folder / "flat.png").write_bytes(nebrel.read_picture(np.full((40, 40), 0.5)).data)
        made = {each.title: each for each in run(place(), orders_in(folder))}
        assert [made[name].state for name in ("low", "middle", "tall")] == ["done"] * 3
        assert (made["broken"].state, made["flat"].state) == ("refused", "refused")
        assert "not a picture that Nebrel can read" in made["broken"].why
        assert "same tone" in made["flat"].why

    def test_what_an_earlier_run_made_is_not_made_again(self, folder, place):
        first, _ = place(), orders_in(folder)
        run(first, orders_in(folder)[:2])
        again = place()
        made = run(again, orders_in(folder))
        assert len(again[1].done) == 1
        assert sorted((each.title, each.earlier) for each in made) == [("low", True), ("middle", True), ("tall", False)]
        assert len({each.file for each in made}) == 3

    def test_what_was_thrown_away_is_made_again(self, folder, place):
        made = run(place(), orders_in(folder))
        (place.out / made[0].file).unlink()
        again = place()
        assert sum(each.earlier for each in run(again, orders_in(folder))) == 2
        assert len(again[1].done) == 1

    def test_a_line_that_a_kill_cut_off_is_none(self, folder, place):
        run(place(), orders_in(folder))
        journal = place.out / "memory" / JOURNAL
        lines = journal.read_text().splitlines()
        journal.write_text("\n".join([*lines[:2], lines[2][: len(lines[2]) // 2]]))
        again = place()
        run(again, orders_in(folder))
        assert len(again[1].done) == 1

    def test_a_kill_before_a_file_has_its_name_leaves_no_second_one(self, folder, place, monkeypatch):
        class Killed(BaseException):
            pass

        def killed(*_):
            raise Killed

        with monkeypatch.context() as patched, pytest.raises(Killed):
            patched.setattr("nebrel.jobs.batch.batch._move", killed)
            run(place(), orders_in(folder))
        made = run(place(), orders_in(folder))
        assert [each.state for each in made] == ["done"] * 3
        assert sorted(path.name for path in place.out.glob("*.stl")) == sorted(each.file for each in made)
        assert not any("-2." in each.file for each in made)

    def test_another_setting_is_another_piece(self, folder, place):
        run(place(), orders_in(folder))
        again = place(form="ply")
        made = run(again, orders_in(folder))
        assert len(again[1].done) == 3
        assert all(each.file.endswith(".ply") for each in made)

    def test_equal_orders_are_made_once(self, folder, place):
        begun = place()
        same = [Order(number, folder / "low.png") for number in (1, 2, 3)]
        made = run(begun, same)
        assert len(begun[1].done) == 1
        assert [each.number for each in made] == [1, 2, 3]
        assert len({each.file for each in made}) == 1

    def test_two_of_one_name_get_two_files(self, folder, place):
        titled = [Order(1, folder / "low.png", {"title": "Dome"}), Order(2, folder / "tall.png", {"title": "Dome"})]
        assert len({each.file for each in run(place(), titled)}) == 2

    def test_a_lost_worker_is_tried_once_more(self, folder, place):
        begun = place(losses=[1])
        assert [each.state for each in run(begun, orders_in(folder))] == ["done"] * 3
        begun = place(losses=[1, 2], form="obj")
        made = run(begun, orders_in(folder)[:1])
        assert (made[0].state, made[0].why) == ("failed", "The worker process ended twice before the job was done.")


class TestTables:
    def table(self, folder, text: str):
        path = folder / "list.csv"
        path.write_text(text, encoding="utf-8")
        return path

    def test_set_values_for_each_piece(self, folder, place):
        text = (
            "picture;title;width;colour;height.rule.relief_mm;finish.between\n"
            "low.png;Nürnberg;1.5in;aa3311;1.2 mm;yes\n\n;;;;;\ntall.png;;;;;\n"
        )
        orders = orders_in(self.table(folder, text))
        assert [order.title for order in orders] == ["Nürnberg", "tall"]
        made = {each.number: each for each in run(place(form="3mf"), orders)}
        assert made[1].report["size_mm"][0] == pytest.approx(38.1, abs=0.01)
        assert made[2].report["size_mm"][0] == pytest.approx(40, abs=0.01)
        assert made[1].file.startswith("nurnberg-38.1x")
        mesh = nebrel.read_mesh(place.out / made[1].file)
        assert mesh.colours is not None or mesh.corner_colours is not None

    @pytest.mark.parametrize(
        ("text", "sentence"),
        [
            ("", "has no column picture"),
            ("title\nx\n", "has no column picture"),
            ("picture\n", "has no rows"),
            ("picture,girth\nlow.png,3\n", "has a column 'girth' that says nothing here"),
            ("picture,picture.blob\nlow.png,3\n", "has a column 'picture.blob' that says nothing here"),
            ("picture,ops.0.blob\nlow.png,3\n", "has a column 'ops.0.blob' that says nothing here"),
            ("picture,picture\nlow.png,a.png\n", "two columns of one name"),
            ("picture,title\nlow.png,a,b\n", "Line 2 of list.csv has another number of values"),
            ("picture,title\n,a\n", "Line 2 of list.csv names no picture"),
            ('picture,title\nlow.png,"a"b\n', "Line 2 of list.csv cannot be read"),
        ],
    )
    def test_that_are_wrong_are_refused_in_one_sentence(self, folder, text, sentence):
        with pytest.raises(BadValueError, match=sentence):
            orders_in(self.table(folder, text))

    def test_that_are_no_text_are_refused(self, folder):
        path = folder / "list.csv"
        path.write_bytes(b"picture\n\xff\xfe\n")
        with pytest.raises(BadValueError, match="is no table"):
            orders_in(path)

    @pytest.mark.parametrize(
        ("values", "sentence"),
        [
            ({"width": "wide"}, "is not a length"),
            ({"width": "-4"}, "Width is -4.*The table asks for width -4"),
            ({"name": "Ada"}, "no lettering that a column name could set"),
            ({"body.girth": "3"}, "has no body.girth"),
            ({"ops.7.radius_mm": "3"}, "has no ops.7.radius_mm"),
            ({"colour": "red"}, "The table asks for colour red"),
        ],
    )
    def test_what_a_piece_has_no_place_for_is_its_own_refusal(self, folder, place, values, sentence):
        made = run(place(), [Order(1, folder / "low.png", values), Order(2, folder / "tall.png")])
        assert [each.state for each in sorted(made, key=lambda each: each.number)] == ["refused", "done"]
        refused = next(each for each in made if each.state == "refused")
        with pytest.raises(NebrelError, match=sentence):
            raise NebrelError(refused.why)

    def test_a_name_is_that_of_a_plate_or_of_lettering(self):
        plate = nebrel.lithophane(np.eye(24), recipe="Night-light").document
        named = with_values(plate, {"name": "Ada", "parts.foot.on": "no", "ops.0.id": "first"})
        assert (named.parts.name.on, named.parts.name.text, named.parts.foot.on) == (True, "Ada", False)
        lettered = nebrel.relief(np.eye(24), parts={"ops": [{"kind": "lettering", "id": "l", "text": "?"}]}).document
        assert with_values(lettered, {"name": "Bo"}).ops[0].text == "Bo"


def test_folders_without_pictures_and_names_of_nothing_are_refused(tmp_path):
    with pytest.raises(BadValueError, match="There is no picture in"):
        orders_in(tmp_path)
    with pytest.raises(BadValueError, match="There is no folder or file"):
        orders_in(tmp_path / "none")


def test_a_table_and_a_sheet_tell_what_became_of_all(folder, place):
    (folder / "broken.png").write_bytes(b"no")
    begun = place()
    made = run(begun, orders_in(folder))
    rows = list(csv.DictReader(io.StringIO(table_text(made))))
    assert tuple(rows[0]) == COLUMNS
    assert [(row["title"], row["state"], row["sound"]) for row in rows] == [
        ("broken", "refused", ""), ("low", "done", "True"), ("middle", "done", "True"), ("tall", "done", "True"),
    ]  # fmt: skip
    many = [Made(**{**made[0].__dict__, "number": number}) for number in range(40)]
    sheet = sheet_bytes([*made, *many], begun[0].picture_of, "Coin")
    assert sheet.startswith(b"%PDF") and sheet.count(b"/Type /Page\n") == 3
    assert sheet.count(b"/Subtype /Image") == 3
    assert json.loads((place.out / "memory" / JOURNAL).read_text().splitlines()[0])["state"] == "done"
