"""What the process that all others are forked from has loaded, so that they are ready at once."""

from nebrel.core.jit import get_ready
from nebrel.jobs import lookers, readers, work, workshop

__all__ = ["lookers", "readers", "work", "workshop"]

get_ready()
