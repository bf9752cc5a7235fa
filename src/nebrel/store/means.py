"""What the disk and other programs refuse, as refusals in plain words."""

import errno

from nebrel.core.errors import BusyError, NebrelError, NoSpaceError
from nebrel.store.database import is_busy, is_full

NO_SPACE = (
    "The disk that holds Nebrel's data folder is full; nothing that was kept is lost. Free some room on it (what is in "
    "the folder “kept” can be made again), then try again."
)
BUSY = "Another program holds Nebrel's data for too long; nothing is lost. Try again in a moment."
_FULL = (errno.ENOSPC, errno.EDQUOT)


def refusal_for(error: BaseException) -> NebrelError | None:
    """The refusal that an error of the disk or of the database amounts to; None for any other error."""
    if is_full(error) or (isinstance(error, OSError) and error.errno in _FULL):
        return NoSpaceError(NO_SPACE)
    return BusyError(BUSY) if is_busy(error) else None
