"""Many pieces, one after another or beside each other, each made once."""

import json
import os
import queue
import shutil
import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import asdict, dataclass, field, replace
from pathlib import Path
from typing import Any

from nebrel.core.errors import BadValueError, NebrelError
from nebrel.jobs.batch.orders import Order
from nebrel.jobs.batch.values import with_values
from nebrel.jobs.beginnings import document_on, picture_in
from nebrel.jobs.executor import STARTING, Executor, Handle, Outcome
from nebrel.jobs.made import Made
from nebrel.jobs.workplace import Workplace
from nebrel.piece.documents.document import Document
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.recipes.recipe import Recipe, follow
from nebrel.piece.registry import kind_of
from nebrel.store.means import refusal_for

JOURNAL, THUMBNAILS = "journal.jsonl", "thumbnails"
# A job whose worker ends is tried again so often.
MOST_TRIES = 2
# How often it is looked who takes too long.
LOOK_SECONDS = 1.0
LOST = "The worker process ended twice before the job was done."
MISTAKE = "Nebrel made a mistake here; the log tells what it was."


class Batch:
    """A recipe over orders, into a folder.

    What is made is written down as it ends, so a killed run goes on where it was.
    """

    def __init__(
        self,
        place: Workplace,
        recipe: Recipe,
        folder: Path,
        journal: Path,
        form: str | None = None,
        most_seconds: float = float("inf"),
    ) -> None:
        """
        Args:
            place: where files to begin with, and results, are kept while it goes.
            recipe: that all follow.
            folder: where files go.
            journal: the folder of what is remembered between runs.
            form: the format of the files; that of the recipe by default.
            most_seconds: what takes longer is given up.
        """
        self._place = place
        self._most_seconds = most_seconds
        self._recipe = recipe
        self._folder = folder
        self._journal = journal
        self._form = form
        self._taken: set[str] = set()
        self._past = {made["key"]: made for made in _lines(journal / JOURNAL)}

    def run(
        self, orders: Sequence[Order], executor: Executor, on_progress: Callable[[Order, str, float], None]
    ) -> Iterator[Made]:
        """Have all of them made; yields each as it ends.

        Args:
            orders: what is to be made.
            executor: who makes it; it has been started.
            on_progress: called with an order, what is done for it and the fraction of that.
        """
        ended: queue.Queue[tuple[_Task, Outcome]] = queue.Queue()
        waiting = iter(orders)
        running: dict[str, _Task] = {}
        more = True
        while more or running:
            # No more files are opened than are soon needed.
            while more and len(running) < 2 * max(1, executor.capacity()):
                order = next(waiting, None)
                if order is None:
                    more = False
                    break
                task = self._begin(order)
                if isinstance(task, Made):
                    yield task
                    continue
                if task.key in running:
                    running[task.key].equal.append(order)
                    continue
                running[task.key] = task
                self._submit(task, executor, ended, on_progress)
            if not running:
                continue
            self._give_up_late([*running.values()], executor)
            try:
                task, outcome = ended.get(timeout=LOOK_SECONDS)
            except queue.Empty:
                continue
            if outcome.state == "died" and not outcome.retried and task.tries < MOST_TRIES:
                self._submit(task, executor, ended, on_progress)
                continue
            made = self._end(task, outcome)
            yield made
            # What is asked for twice is made once.
            for equal in running.pop(task.key).equal:
                yield replace(made, number=equal.number, picture=str(equal.picture), seconds=0.0)

    def _begin(self, order: Order) -> "_Task | Made":
        """What a worker is to do, or what became of it without one."""
        try:
            data = _bytes_of(order.picture, self._place.settings.picture_bytes)
            source = picture_in(data, order.picture.name, self._place.settings.read_limits)
            document = self._document(document_on(source, order.title), order)
            plain = document.model_dump(mode="json")
            key = step_key("batch", 1, plain)
            known = self._known(order, key)
            if known is not None:
                return known
            self._place.blobs.add(data, source.blob)
        except NebrelError as refused:
            return self._written(Made(order.number, str(order.picture), order.title, "refused", str(refused)))
        except OSError as cause:
            why = str(refusal_for(cause) or f"{order.picture} cannot be read: {cause.strerror}.")
            return self._written(Made(order.number, str(order.picture), order.title, "failed", why))
        return _Task(order, key, document, plain)

    def _document(self, document: Document, order: Order) -> Document:
        made = with_values(follow(document, self._recipe), order.values)
        if self._form is None:
            return made
        return made.model_copy(update={"delivery": made.delivery.model_copy(update={"format": self._form})})

    def _known(self, order: Order, key: str) -> Made | None:
        """What an earlier run, or an equal order, made of it; None where that is not there any more."""
        past = self._past.get(key)
        if past is None or past["state"] != "done" or not (self._folder / past["file"]).is_file():
            return None
        self._taken.add(past["file"])
        return Made(**{**past, "number": order.number, "picture": str(order.picture), "earlier": True})

    def _submit(
        self,
        task: "_Task",
        executor: Executor,
        ended: "queue.Queue[tuple[_Task, Outcome]]",
        on_progress: Callable[[Order, str, float], None],
    ) -> None:
        task.tries += 1

        def follow_it(stage: str, fraction: float) -> None:
            if stage == STARTING:
                task.began = time.monotonic()
            on_progress(task.order, stage, fraction)

        task.handle = executor.submit(
            task.key, "deliver", {"document": task.plain}, follow_it, lambda outcome: ended.put((task, outcome))
        )

    def _give_up_late(self, running: Sequence["_Task"], executor: Executor) -> None:
        """End what has taken too long."""
        for task in running:
            if task.handle is not None and task.began and time.monotonic() - task.began > self._most_seconds:
                executor.cancel(task.handle)

    def _end(self, task: "_Task", outcome: Outcome) -> Made:
        order, seconds = task.order, round(time.monotonic() - (task.began or time.monotonic()), 2)
        told: dict[str, Any] = {"seconds": seconds, "key": task.key}
        begun = (order.number, str(order.picture), order.title)
        if outcome.state == "done" and outcome.result is not None:
            name = self._free_name(outcome.result["file_name"])
            made = Made(*begun, "done", "", name, outcome.result["report"], **told)
            try:
                self._deliver(task, outcome.result, made)
            except OSError as cause:
                why = str(refusal_for(cause) or f"The file cannot be written: {cause.strerror}.")
                return self._written(Made(*begun, "failed", why, **told))
            return made
        if outcome.state == "failed":
            return self._written(Made(*begun, "refused", outcome.message, **told))
        if outcome.state == "cancelled":
            why = f"It took longer than {self._most_seconds / 60:g} minutes; allow more, or make the picture simpler."
            return self._written(Made(*begun, "failed", why, **told))
        return self._written(Made(*begun, "failed", LOST if outcome.state == "died" else MISTAKE, **told))

    def _deliver(self, task: "_Task", result: dict[str, Any], made: Made) -> None:
        """Put what was made where it belongs.

        It is written down before its file gets its name: after a kill between the two the file is missing, and made
        again under that name.
        """
        kept, name = self._place.kept, made.file
        path = kept.path(result["file_key"])
        if path is None:
            raise OSError(None, "its result is no longer kept")
        for extra in kind_of(task.document).extras:
            text = kept.get(result[f"{extra.name}_key"])
            if text is not None:
                (self._folder / (name.rpartition(".")[0] + extra.ending)).write_bytes(text)
        picture = kept.get(result["thumbnail_key"])
        if picture is not None:
            (self._journal / THUMBNAILS).mkdir(exist_ok=True)
            (self._journal / THUMBNAILS / f"{task.key}.png").write_bytes(picture)
        self._written(made)
        _move(path, self._folder / name)

    def picture_of(self, made: Made) -> bytes | None:
        """A PNG of what was made, in this run or an earlier one."""
        path = self._journal / THUMBNAILS / f"{made.key}.png"
        return path.read_bytes() if path.is_file() else None

    def _free_name(self, name: str) -> str:
        stem, _, ending = name.rpartition(".")
        for number in range(1, 100_000):
            found = name if number == 1 else f"{stem}-{number}.{ending}"
            if found not in self._taken and not (self._folder / found).exists():
                self._taken.add(found)
                return found
        raise BadValueError(f"There are too many files named {name}.")

    def _written(self, made: Made) -> Made:
        """The same, written down before it is told."""
        if made.key:
            self._past[made.key] = asdict(made)
            with (self._journal / JOURNAL).open("a", encoding="utf-8") as file:
                file.write(json.dumps(asdict(made)) + "\n")
                file.flush()
                os.fsync(file.fileno())
        return made


@dataclass(eq=False)
class _Task:
    order: Order
    key: str
    document: Document
    plain: dict[str, Any]
    equal: list[Order] = field(default_factory=list)
    handle: Handle | None = None
    tries: int = 0
    began: float = 0.0


def _lines(path: Path) -> Iterator[dict[str, Any]]:
    """What was written down; a line that a kill cut off is none."""
    if not path.exists():
        return
    for line in path.read_text(encoding="utf-8", errors="replace").splitlines():
        try:
            yield json.loads(line)
        except json.JSONDecodeError:
            continue


def _bytes_of(path: Path, most: int) -> bytes:
    if not path.is_file():
        raise BadValueError(f"There is no file {path}; please check the name.")
    size = path.stat().st_size
    if size > most:
        raise BadValueError(f"{path.name} has {size / 2**20:,.0f} MiB; up to {most / 2**20:,.0f} MiB are accepted.")
    return path.read_bytes()


def _move(source: Path, target: Path) -> None:
    try:
        source.replace(target)
    except OSError:
        part = target.with_name(target.name + ".part")
        shutil.copyfile(source, part)
        part.replace(target)
        source.unlink(missing_ok=True)
