"""Processes that look at pieces, shared by the tests of a run: starting them anew for each would take longer than all
else."""

import atexit
from functools import cache

from nebrel.jobs.looking import Looking

CACHE_BYTES = 256 * 2**20


@cache
def shared_looking() -> Looking:
    """The processes, ended with the run."""
    looking = Looking(2, CACHE_BYTES)
    atexit.register(looking.close)
    return looking
