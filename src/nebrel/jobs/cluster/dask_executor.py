"""Tasks done by a cluster of `dask.distributed`: its scheduler hands them out, and does equal work once."""

import logging
import threading
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass, field
from importlib.metadata import version
from pathlib import Path
from typing import Any

import cloudpickle
import dask
import distributed
from distributed import Client, Future, KilledWorker, LocalCluster

from nebrel.core.errors import BadValueError, NebrelError
from nebrel.jobs.cluster import readiness
from nebrel.jobs.cluster.carrier import Carrier
from nebrel.jobs.cluster.readiness import MOST_FAILURES, NEWS, RESOURCE, Readiness, expect_failures
from nebrel.jobs.cluster.task import is_running, run_task, stop_task
from nebrel.jobs.executor import STARTING, Executor, Handle, OnEnd, OnProgress, Outcome
from nebrel.jobs.local_executor import ABROAD, LocalExecutor, LocalTask
from nebrel.jobs.workplace import Whereabouts
from nebrel.piece.evaluation.cache import step_key
from nebrel.settings import Settings

LOG = logging.getLogger("nebrel.jobs")
CONNECT_SECONDS = 5.0
# A worker that does not leave a cancelled task for so long is ended.
LEAVE_SECONDS = 2.0
ASK_SECONDS = 1.0
# So long a worker may take to load Nebrel.
READY_SECONDS, READY_PAUSE = 60.0, 0.2
# How tasks that outlive the server are found again.
PUBLISHED = "nebrel-job-"
DIED = (
    "The worker of the cluster ended before the job was done, and so did the next that took it; the piece is unharmed, "
    "please build it again, coarser where it may have been too large."
)
# What workers have no use for, or are not to know.
NOT_SENT = {
    "data_dir": Path(), "access_token": None, "service_token": None, "certificate": None, "key": None,
    "printer_url": "", "service_url": "",
}  # fmt: skip
WAITING = "Waiting for a worker that has Nebrel"

# Workers and schedulers may lack Nebrel, and are to be able to say so.
cloudpickle.register_pickle_by_value(readiness)


def wait_for_workers(executor: Executor, most_seconds: float = READY_SECONDS) -> None:
    """Return as soon as a worker of a cluster is ready.

    Raises:
        BadValueError: none is in time.
    """
    end = time.monotonic() + most_seconds
    while not executor.capacity():
        unfit = executor.unfit if isinstance(executor, DaskExecutor) else []
        if time.monotonic() > end:
            why = f" {unfit[0]}" if unfit else ""
            raise BadValueError(
                f"The cluster has no worker that is ready with Nebrel.{why} Start one where Nebrel is installed, with "
                "`dask worker` and the address of the scheduler."
            )
        time.sleep(READY_PAUSE)


@dataclass(eq=False)
class DaskTask:
    """A task that somebody waits for."""

    task_id: str
    key: str
    on_progress: OnProgress
    on_end: OnEnd


@dataclass(eq=False)
class _Work:
    """What the cluster does once, for all who wait for it."""

    future: Future
    tasks: list[DaskTask] = field(default_factory=list)
    worker: str = ""
    reached: tuple[str, float] | None = None


class DaskExecutor:
    """Hands tasks to a scheduler, and hears from it how far they are.

    Their names are made of what is asked for, so what is asked for twice is done once.
    """

    def __init__(self, settings: Settings, where: Whereabouts, scheduler: str = "", workers: int = 0) -> None:
        """
        Args:
            settings: of who asks; their data folder is the server's.
            where: workers find source files and results.
            scheduler: the address of one that is there; otherwise a cluster of this machine is started.
            workers: how many processes that has.
        """
        self._settings = settings
        self._sent = settings.model_copy(update=NOT_SENT)
        self._where = where
        self._scheduler = scheduler
        self._workers = workers
        self._carrier = Carrier(settings.data_dir, where, settings.folder_cache_bytes)
        # What waits for others elsewhere is asked from here, where its token is.
        self._here = LocalExecutor(settings, workers=0)
        self._cluster: LocalCluster | None = None
        self._client: Client | None = None
        self._open: dict[str, _Work] = {}
        # How often each work was left off: what is asked for again is not taken for what is being ended.
        self._left: Counter[str] = Counter()
        self._unfit: list[str] = []
        self._lock = threading.RLock()
        self._news = ThreadPoolExecutor(1, thread_name_prefix="jobs-news")
        self._aside = ThreadPoolExecutor(4, thread_name_prefix="jobs-cluster")

    def start(self) -> None:
        """Begin to take tasks; see `connect`."""
        self._here.start()
        self.connect()

    def connect(self) -> None:
        """Find the scheduler, or start a cluster here; workers get ready meanwhile.

        Raises:
            BadValueError: there is no scheduler, or it is of another version.
        """
        if self._client is not None:
            return
        if not self._scheduler:
            limits = {"distributed.scheduler.allowed-failures": MOST_FAILURES}
            with dask.config.set(limits):
                self._cluster = LocalCluster(
                    n_workers=self._workers,
                    threads_per_worker=1,
                    dashboard_address="127.0.0.1:0",
                    silence_logs=logging.CRITICAL,
                )
        self._client = self._connected()

    def stop(self) -> None:
        """Let go of the scheduler; a cluster that was started here is ended."""
        self._here.stop()
        client, self._client = self._client, None
        with self._lock:
            self._open.clear()
        for each in (client, self._cluster):
            _close(each)
        for pool in (self._aside, self._news):
            pool.shutdown(wait=False, cancel_futures=True)

    @property
    def alive(self) -> bool:
        """Whether the scheduler answers."""
        return self._client is not None and self._client.status == "running" and self._here.alive

    @property
    def outlasts(self) -> bool:
        """Whether tasks go on when the server stops."""
        return bool(self._scheduler)

    @property
    def unfit(self) -> list[str]:
        """Why workers are given no work, a sentence each."""
        return [*self._unfit]

    def capacity(self) -> int:
        """How many workers are ready."""
        client = self._client
        if client is None or client.status != "running":
            return 0
        workers = client.scheduler_info()["workers"].values()
        return sum(RESOURCE in worker["resources"] for worker in workers)

    def submit(
        self, task_id: str, kind: str, payload: dict[str, Any], on_progress: OnProgress, on_end: OnEnd
    ) -> DaskTask | LocalTask:
        """Queue a task; see `Executor`."""
        if kind in ABROAD:
            return self._here.submit(task_id, kind, payload, on_progress, on_end)
        told = [kind, payload, self._where.address, version("nebrel")]
        name = f"nebrel-{kind}-{step_key('task', 1, told)}"
        task = DaskTask(task_id, name, on_progress, on_end)
        try:
            self._carrier.bring(payload)
            with self._lock:
                key = task.key = f"{name}-{self._left[name]}"
                known = self._open.get(key)
                if known is None:
                    client = self._connected()
                    given = (run_task, self._where, self._sent, kind, payload, key)
                    future = client.submit(*given, key=key, resources={RESOURCE: 1}, retries=0)
                    self._follow(task, future)
                else:
                    self._join(task, known)
        except (NebrelError, OSError) as cause:
            on_end(Outcome("failed", message=str(cause)))
        return task

    def adopt(self, task_id: str, on_progress: OnProgress, on_end: OnEnd) -> DaskTask | None:
        """Follow a task that was submitted before this server started; None where the cluster does not have it."""
        client = self._client
        if client is None or not self.outlasts:
            return None
        try:
            future = client.get_dataset(f"{PUBLISHED}{task_id}")
        except (KeyError, OSError):
            return None
        task = DaskTask(task_id, future.key, on_progress, on_end)
        with self._lock:
            known = self._open.get(task.key)
            if known is None:
                self._follow(task, future)
            else:
                self._join(task, known)
        return task

    def cancel(self, handle: Handle) -> None:
        """End a task that waits or runs, unless somebody else waits for it, too."""
        if isinstance(handle, LocalTask):
            self._here.cancel(handle)
            return
        assert isinstance(handle, DaskTask)
        with self._lock:
            work = self._open.get(handle.key)
            if work is None or handle not in work.tasks:
                return
            work.tasks.remove(handle)
            last = not work.tasks
            if last:
                del self._open[handle.key]
                self._left[handle.key.rpartition("-")[0]] += 1
        handle.on_end(Outcome("cancelled"))
        self._aside.submit(self._let_go, handle, work if last else None)

    def _follow(self, task: DaskTask, future: Future) -> None:
        work = self._open[task.key] = _Work(future)
        self._join(task, work)
        future.add_done_callback(self._ended)
        if len(self._open) == 1 and future.status == "pending" and not self.capacity():
            task.on_progress(WAITING, 0.0)

    def _join(self, task: DaskTask, work: _Work) -> None:
        work.tasks.append(task)
        if work.reached is not None:
            task.on_progress(STARTING, 0.0)
            task.on_progress(*work.reached)
        if self.outlasts and self._client is not None:
            self._client.publish_dataset(work.future, name=f"{PUBLISHED}{task.task_id}", override=True)

    def _connected(self) -> Client:
        """The scheduler, found again where it went away.

        Raises:
            BadValueError: it does not answer, or is of another version.
        """
        if self._client is not None:
            if self._client.status == "running":
                return self._client
            _close(self._client)
        address = self._cluster.scheduler_address if self._cluster is not None else self._scheduler
        client = None
        try:
            client = Client(address, timeout=CONNECT_SECONDS, set_as_default=False, name="nebrel")
            there = client.get_versions(check=False)["scheduler"]["packages"]["distributed"]
        except (OSError, ValueError, TypeError, KeyError) as cause:
            _close(client)
            raise BadValueError(
                f"There is no scheduler at {address} ({type(cause).__name__}); start one there with `dask scheduler`, "
                "or name the address that it printed, such as tcp://10.0.0.5:8786."
            ) from cause
        if there != distributed.__version__:
            _close(client)
            raise BadValueError(
                f"The scheduler at {address} has distributed {there}, and this is {distributed.__version__}; please "
                "install the same on both."
            )
        # News come on the thread that all questions to the scheduler are answered on; nothing may wait there.
        client.subscribe_topic(NEWS, lambda event: self._news.submit(self._hear, event[1]))
        client.run_on_scheduler(expect_failures)
        self._aside.submit(self._get_ready, client)
        self._client = client
        return client

    def _get_ready(self, client: Client) -> None:
        """Have the workers that are there, and all that will come, load Nebrel."""
        try:
            client.register_plugin(Readiness(version("nebrel")))
        except Exception:
            LOG.exception("Workers of the cluster could not be made ready")

    def _hear(self, news: dict[str, Any]) -> None:
        if "unfit" in news:
            LOG.warning("%s", news["unfit"])
            self._unfit.append(news["unfit"])
            return
        with self._lock:
            work = self._open.get(news["key"])
            if work is None:
                return
            work.worker, work.reached = news["worker"], (news["stage"], float(news["fraction"]))
            tasks = [*work.tasks]
        for task in tasks:
            task.on_progress(news["stage"], float(news["fraction"]))

    def _ended(self, future: Future) -> None:
        outcome = self._outcome(future)
        with self._lock:
            work = self._open.pop(future.key, None)
        for task in () if work is None else work.tasks:
            task.on_end(outcome)
            self._let_go(task, None)

    def _outcome(self, future: Future) -> Outcome:
        try:
            if future.status == "finished":
                state, told = future.result()
                if state != "done":
                    return Outcome(state, message=told)
                self._carrier.take(told)
                return Outcome("done", told)
            fault = future.exception() if future.status == "error" else None
        except Exception as cause:
            fault = cause
        if isinstance(fault, KilledWorker):
            return Outcome("died", message=DIED, retried=True)
        if isinstance(fault, NebrelError):
            return Outcome("failed", message=str(fault))
        if fault is not None:
            return Outcome("broken", message=f"{type(fault).__name__}: {fault}")
        return Outcome(
            "failed", message=f"The scheduler {self._scheduler} went away; start this again once it is back."
        )

    def _let_go(self, task: DaskTask, work: _Work | None) -> None:
        """Forget a task; what was doing it, and is wanted by nobody any more, is ended."""
        client = self._client
        if client is None:
            return
        try:
            if self.outlasts:
                client.unpublish_dataset(f"{PUBLISHED}{task.task_id}")
            if work is not None:
                work.future.cancel()
                if work.worker:
                    self._end_on(client, work.worker, task.key)
        except (KeyError, OSError, ValueError):
            LOG.info("A task of the cluster could not be forgotten", exc_info=True, extra={"job": task.task_id})

    def _end_on(self, client: Client, worker: str, key: str) -> None:
        """Have a worker leave a task, by a flag first, then by its end."""
        waited = threading.Event()
        for pause in (0.0, LEAVE_SECONDS):
            waited.wait(pause)
            try:
                if not pause:
                    client.sync(client._run, stop_task, key, workers=[worker], callback_timeout=ASK_SECONDS)
                elif not any(
                    client.sync(client._run, is_running, key, workers=[worker], callback_timeout=ASK_SECONDS).values()
                ):
                    return
            except (OSError, TimeoutError):
                continue
        try:
            client.restart_workers([worker], timeout=10, raise_for_error=False)
        except ValueError as cause:
            LOG.warning("The worker %s is at a cancelled task still, and has none who could end it: %s", worker, cause)


def _close(what: Client | LocalCluster | None) -> None:
    """Let go of it, though the other side may not answer any more."""
    if what is not None:
        with suppress(TimeoutError, OSError):
            what.close(timeout=LEAVE_SECONDS)
