"""Jobs on a cluster whose workers share no folder with each other or with whoever asks."""

import json
import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import distributed
import numpy as np
import psutil
import pytest

import nebrel
from nebrel.api.lending import lending
from nebrel.core.errors import BadValueError
from nebrel.jobs.beginnings import document_on, picture_in
from nebrel.jobs.cluster.asked import check_cluster
from nebrel.jobs.cluster.choosing import executor_for
from nebrel.jobs.cluster.dask_executor import DaskExecutor, wait_for_workers
from nebrel.jobs.executor import STARTING, Outcome
from nebrel.jobs.local_executor import LocalExecutor
from nebrel.jobs.manager import JobManager
from nebrel.jobs.workplace import workplace_in
from nebrel.jobs.workshop import open_workshop
from nebrel.settings import Settings
from nebrel.store.shared.lent import lent_from

START_SECONDS = 60.0
RUN = "from nebrel.cli.main import run; run()"
# A worker that cannot import Nebrel, as on a machine where it is not installed.
WITHOUT_NEBREL = """
import sys
class Missing:
    def find_spec(self, name, path=None, target=None):
        if name.partition(".")[0] == "nebrel":
            raise ModuleNotFoundError("No module named 'nebrel'")
sys.meta_path.insert(0, Missing())
from dask.__main__ import main
main()
"""


def started(*words: str, log: Path) -> subprocess.Popen[bytes]:
    with log.open("ab") as file:
        return subprocess.Popen([sys.executable, *words], stdout=file, stderr=file, start_new_session=True)


def until(holds: Callable[[], object], most: float = START_SECONDS) -> None:
    end = time.monotonic() + most
    while not holds():
        assert time.monotonic() < end, "it did not come about"
        time.sleep(0.05)


@pytest.fixture(scope="module")
def scheduler(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """The address of a scheduler without workers."""
    folder = tmp_path_factory.mktemp("scheduler")
    told = folder / "scheduler.json"
    words = ("-m", "dask", "scheduler", "--port", "0", "--no-dashboard", "--scheduler-file", str(told))
    process = started(*words, "--host", "127.0.0.1", log=folder / "log")
    until(told.exists)
    until(told.read_text)
    yield json.loads(told.read_text())["address"]
    _end(process)


@pytest.fixture(scope="module")
def cluster(scheduler: str, tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """The address of a scheduler with two workers, each with a folder of its own."""
    workers = [_worker(scheduler, tmp_path_factory.mktemp(name)) for name in ("one", "two")]
    yield scheduler
    for worker in workers:
        _end(worker)


def _worker(scheduler: str, folder: Path, *words: str, program: tuple[str, str] = ("-m", "dask")) -> Any:
    asked = ("worker", scheduler, "--nthreads", "1", "--no-dashboard", "--local-directory", str(folder), *words)
    return started(*program, *asked, log=folder / "log")


def _end(process: subprocess.Popen[bytes]) -> None:
    process.terminate()
    try:
        process.wait(10)
    except subprocess.TimeoutExpired:
        os.killpg(process.pid, signal.SIGKILL)


@dataclass
class Heard:
    """What was told of one task."""

    stages: list[str] = field(default_factory=list)
    outcome: Outcome | None = None
    ended: threading.Event = field(default_factory=threading.Event)

    def progress(self, stage: str, fraction: float) -> None:
        assert 0.0 <= fraction <= 1.0
        self.stages.append(stage)

    def end(self, outcome: Outcome) -> None:
        assert self.outcome is None
        self.outcome = outcome
        self.ended.set()

    def wait(self, most: float = START_SECONDS) -> Outcome:
        assert self.ended.wait(most)
        assert self.outcome is not None
        return self.outcome


@pytest.fixture
def executor(cluster: str, tmp_path: Path) -> Iterator[DaskExecutor]:
    settings = Settings(data_dir=tmp_path / "data", scheduler=cluster)
    settings.data_dir.mkdir()
    lent = lent_from(settings.data_dir, 2**30)
    with lending(lent, "127.0.0.1") as address:
        made = executor_for(settings, lent, address)
        assert isinstance(made, DaskExecutor)
        made.start()
        wait_for_workers(made)
        until(lambda: made.capacity() == 2)
        yield made
        made.stop()


def payload_in(folder: Path, side: int = 90, title: str = "Dome") -> dict[str, Any]:
    """A document of a dome, whose picture is in the data folder."""
    dome = np.clip(1 - np.hypot(*np.mgrid[-1 : 1 : side * 1j, -1 : 1 : side * 1j]), 0, 1)
    data = nebrel.read_picture(dome).data
    source = picture_in(data, f"dome-{side}.png", Settings().read_limits)
    workplace_in(Settings(data_dir=folder)).blobs.add(data, source.blob)
    return {"document": document_on(source, title).model_dump(mode="json")}


def ask(executor: DaskExecutor | LocalExecutor, name: str, payload: dict[str, Any]) -> tuple[Heard, Any]:
    heard = Heard()
    return heard, executor.submit(name, "build", payload, heard.progress, heard.end)


def test_two_workers_that_share_no_folder_make_the_same_bytes_as_one_process(
    executor: DaskExecutor, tmp_path: Path
) -> None:
    payloads = [payload_in(tmp_path / "data", side) for side in (80, 90, 100, 110)]
    asked = [ask(executor, f"job-{number}", payload)[0] for number, payload in enumerate(payloads)]
    here = Settings(data_dir=tmp_path / "here")
    one = LocalExecutor(here)
    one.start()
    try:
        for heard, side in zip(asked, (80, 90, 100, 110), strict=True):
            there = heard.wait()
            assert there.state == "done", there.message
            assert heard.stages[0] == STARTING
            assert "Triangulating" in heard.stages
            own = ask(one, "here", payload_in(here.data_dir, side))[0].wait()
            assert there.result is not None
            assert own.result is not None
            for key in ("file_key", "solid_key"):
                name = there.result[key]
                assert name == own.result[key]
                assert (tmp_path / "data/kept" / name).read_bytes() == (here.data_dir / "kept" / name).read_bytes()
    finally:
        one.stop()


def test_what_is_asked_for_twice_is_done_once(executor: DaskExecutor, tmp_path: Path) -> None:
    payload = payload_in(tmp_path / "data", 300)
    asked = [ask(executor, f"job-{number}", payload) for number in range(3)]
    executor.cancel(asked[0][1])
    assert asked[0][0].wait(1).state == "cancelled"
    results = [heard.wait().result for heard, _ in asked[1:]]
    assert results[0] is not None
    assert results[0] == results[1]
    assert results[0]["report"]["seconds"] == results[1]["report"]["seconds"]


def test_a_cancelled_task_leaves_its_worker_at_once(executor: DaskExecutor, tmp_path: Path) -> None:
    large = payload_in(tmp_path / "data", 1500)
    (first, one), (second, two) = ask(executor, "one", large), ask(executor, "two", {**large, "again": 1})
    until(lambda: first.stages and second.stages)
    began = time.monotonic()
    for task in (one, two):
        executor.cancel(task)
    assert first.wait(1).state == second.wait(1).state == "cancelled"
    small = ask(executor, "small", payload_in(tmp_path / "data", 40))[0]
    assert small.wait().state == "done"
    assert time.monotonic() - began < 25


def test_what_is_asked_for_again_right_after_it_was_cancelled_is_done(executor: DaskExecutor, tmp_path: Path) -> None:
    payload = payload_in(tmp_path / "data", 600)
    for _ in range(3):
        heard, task = ask(executor, "again", payload)
        executor.cancel(task)
        assert heard.wait(1).state == "cancelled"
    asked = ask(executor, "again", payload)[0]
    assert asked.wait().state == "done"


def test_a_task_goes_on_with_another_worker_and_fails_after_two(
    executor: DaskExecutor, cluster: str, tmp_path: Path
) -> None:
    def kill() -> None:
        address = executor._open[task.key].worker
        os.kill(int(pids[address]), signal.SIGKILL)

    with distributed.Client(cluster, set_as_default=False) as client:
        pids = client.run(os.getpid)
    heard, task = ask(executor, "lost", payload_in(tmp_path / "data", 1500, "Lost"))
    until(lambda: heard.stages)
    kill()
    until(lambda: heard.stages.count(STARTING) == 2)
    assert heard.outcome is None
    began = time.monotonic()
    kill()
    outcome = heard.wait(30)
    assert outcome.state == "died"
    assert outcome.retried
    assert "worker of the cluster ended" in outcome.message
    assert time.monotonic() - began < 30
    until(lambda: executor.capacity() == 2)
    assert ask(executor, "next", payload_in(tmp_path / "data", 50))[0].wait().state == "done"


def test_a_server_that_starts_again_follows_what_still_runs(cluster: str, tmp_path: Path) -> None:
    settings = Settings(data_dir=tmp_path / "data", scheduler=cluster)
    workshop = open_workshop(settings)
    lent = lent_from(settings.data_dir, 2**30)
    with lending(lent, "127.0.0.1") as address:
        first = JobManager(workshop, executor=executor_for(settings, lent, address))
        first.start()
        wait_for_workers(first._executor)
        payload = payload_in(settings.data_dir, 700)
        piece = workshop.pieces.create(payload["document"], "Started")
        job = first.submit("build", piece.id, piece.revision, payload)
        lost = workshop.jobs.create("build", piece.id, piece.revision)
        until(lambda: first.get(job.id).state == "running")
        first.stop()
        assert workshop.jobs.get(job.id).state == "running"
        news: list[str] = []
        second = JobManager(workshop, lambda record: news.append(record.state), executor_for(settings, lent, address))
        second.start()
        assert second.get(lost.id).state == "interrupted"
        until(lambda: second.get(job.id).state == "done")
        result = second.get(job.id).result
        assert result is not None
        assert workshop.kept.path(str(result["file_key"])) is not None
        assert "done" in news
        second.stop()
    workshop.close()


def test_a_worker_without_nebrel_is_told_and_given_no_work(scheduler: str, tmp_path: Path) -> None:
    plain = _worker(scheduler, tmp_path, "--no-nanny", program=("-c", WITHOUT_NEBREL))
    settings = Settings(data_dir=tmp_path / "data", scheduler=scheduler)
    settings.data_dir.mkdir()
    try:
        with lending(lent_from(settings.data_dir, 2**30), "127.0.0.1") as address:
            made = executor_for(settings, lent_from(settings.data_dir, 2**30), address)
            assert isinstance(made, DaskExecutor)
            made.start()
            until(lambda: made.unfit)
            assert "has no Nebrel" in made.unfit[0]
            made.stop()
    finally:
        _end(plain)


def test_a_batch_on_a_cluster_is_that_of_one_machine(cluster: str, tmp_path: Path) -> None:
    pictures = tmp_path / "pictures"
    pictures.mkdir()
    for side in (60, 70):
        dome = np.clip(1 - np.hypot(*np.mgrid[-1 : 1 : side * 1j, -1 : 1 : side * 1j]), 0, 1)
        (pictures / f"dome-{side}.png").write_bytes(nebrel.read_picture(dome).data)
    made = {}
    for name, asked in {"there": ("--scheduler", cluster), "here": ("--jobs", "1")}.items():
        words = ("batch", str(pictures), "--recipe", "Coin", "-o", str(tmp_path / name), "--json", *asked)
        run = subprocess.run([sys.executable, "-c", RUN, *words], capture_output=True, text=True, check=False)
        assert run.returncode == 0, run.stderr
        assert json.loads(run.stdout)["done"] == 2
        made[name] = {path.name: path.read_bytes() for path in (tmp_path / name).glob("*.stl")}
    assert len(made["here"]) == 2
    assert made["there"] == made["here"]


def test_a_scheduler_that_is_not_there_is_refused_with_what_to_do(tmp_path: Path) -> None:
    settings = Settings(data_dir=tmp_path, scheduler="tcp://127.0.0.1:9")
    with pytest.raises(BadValueError, match=r"no scheduler at tcp://127\.0\.0\.1:9 .*`dask scheduler`"):
        executor_for(settings, lent_from(tmp_path, 1), "http://127.0.0.1:1")


def test_a_scheduler_of_another_version_is_refused(
    scheduler: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(distributed, "__version__", "2019.1.0")
    settings = Settings(data_dir=tmp_path, scheduler=scheduler)
    with pytest.raises(BadValueError, match=r"has distributed 20.*and this is 2019\.1\.0; please install the same"):
        executor_for(settings, lent_from(tmp_path, 1), "http://127.0.0.1:1")


@pytest.mark.parametrize(
    ("asked", "words"),
    [
        ({"scheduler": "10.0.0.5"}, "tcp://"),
        ({"scheduler": "tcp://10.0.0.5:8786", "cluster_workers": 2}, "go not together"),
        ({"results": "s3://bucket"}, "--scheduler"),
    ],
)
def test_what_does_not_go_together_is_refused_at_once(asked: dict[str, Any], words: str) -> None:
    with pytest.raises(BadValueError, match=words):
        check_cluster(Settings().model_copy(update=asked))


def test_a_cluster_of_this_machine_works_in_the_servers_folder_and_ends_with_it(tmp_path: Path) -> None:
    before = psutil.Process().children(recursive=True)
    settings = Settings(data_dir=tmp_path, cluster_workers=1)
    made = executor_for(settings)
    assert isinstance(made, DaskExecutor)
    made.start()
    wait_for_workers(made)
    outcome = ask(made, "one", payload_in(tmp_path))[0].wait()
    assert outcome.state == "done", outcome.message
    assert outcome.result is not None
    assert (tmp_path / "kept" / outcome.result["file_key"]).is_file()
    workers = [each for each in psutil.Process().children(recursive=True) if each not in before and _is_worker(each)]
    assert len(workers) == 1
    made.stop()
    until(lambda: not _is_worker(workers[0]), 15)


def _is_worker(process: psutil.Process) -> bool:
    try:
        return process.status() != psutil.STATUS_ZOMBIE and any("spawn_main" in word for word in process.cmdline())
    except psutil.Error:
        return False
