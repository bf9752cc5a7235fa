"""Whether what is asked for of a cluster goes together; light, so that commands refuse at once."""

from nebrel.core.errors import BadValueError
from nebrel.settings import Settings

SCHEMES = ("tcp://", "tls://", "ws://", "wss://")


def check_cluster(settings: Settings) -> None:
    """Look whether what is asked for of a cluster goes together.

    Raises:
        BadValueError: it does not.
    """
    if settings.scheduler and not settings.scheduler.startswith(SCHEMES):
        raise BadValueError(
            f"--scheduler is {settings.scheduler}; an address such as tcp://10.0.0.5:8786 would be accepted, as "
            "`dask scheduler` prints it."
        )
    if settings.scheduler and settings.cluster_workers:
        raise BadValueError("--scheduler and --workers go not together: the cluster has workers of its own.")
    if settings.results and not settings.scheduler:
        raise BadValueError("--results has no effect without --scheduler; leave it out, or add that.")
