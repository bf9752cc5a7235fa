"""The cluster that does the jobs of a server."""

from dataclasses import dataclass

from nebrel.jobs.executor import Executor
from nebrel.store.shared.lent import Lent


@dataclass(frozen=True)
class ClusterAccess:
    """Who does the jobs, and what is lent to them.

    Attributes:
        executor: None for processes of this machine that share the server's folder.
        lent: None where nobody asks for results.
    """

    executor: Executor | None = None
    lent: Lent | None = None


ALONE = ClusterAccess()
