"""Nebrel: pictures become true-size, closed solids for printing and carving."""

import os

# What is solved here are many small blocks: threads gain nothing on them, and wait on each other where work runs beside
# work. Said before numpy is loaded, which looks once.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
