"""Who does the jobs of an installation: processes of this machine, or a cluster."""

from pathlib import Path
from typing import TYPE_CHECKING

from nebrel.jobs.executor import Executor
from nebrel.jobs.local_executor import LocalExecutor
from nebrel.jobs.workplace import Whereabouts
from nebrel.settings import Settings

if TYPE_CHECKING:
    from nebrel.store.shared.lent import Lent


def executor_for(settings: Settings, lent: "Lent | None" = None, address: str = "") -> Executor:
    """The executor that settings ask for, its scheduler found.

    Args:
        settings: of the installation; `scheduler`, `cluster_workers` and `results` ask for a cluster.
        lent: what workers without a folder of the server may ask it for.
        address: where it answers them.

    Raises:
        BadValueError: there is no scheduler, or it is of another version.
    """
    if not settings.scheduler and not settings.cluster_workers:
        return LocalExecutor(settings)

    # Takes half a second to load.
    from nebrel.jobs.cluster.dask_executor import DaskExecutor

    executor = DaskExecutor(
        settings, _whereabouts(settings, lent, address), settings.scheduler, settings.cluster_workers
    )
    executor.connect()
    return executor


def _whereabouts(settings: Settings, lent: "Lent | None", address: str) -> Whereabouts:
    """Where workers find results: this machine's own in its folder, others where they are told, or at the server."""
    if not settings.scheduler:
        return Whereabouts(str(settings.data_dir.absolute()))
    if settings.results:
        return Whereabouts(settings.results if "://" in settings.results else str(Path(settings.results).absolute()))
    assert lent is not None
    return Whereabouts(address, lent.token)
