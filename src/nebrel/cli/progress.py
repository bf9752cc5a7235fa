"""A progress bar for long work, on a terminal only."""

import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager


@contextmanager
def progress_bar() -> Iterator[Callable[[str, float], None]]:
    """A function that takes stage and fraction; it draws on stderr when that is a terminal."""
    if not sys.stderr.isatty():
        yield lambda _stage, _fraction: None
        return

    from rich.console import Console
    from rich.progress import BarColumn, Progress, TaskProgressColumn, TextColumn, TimeElapsedColumn

    columns = (TextColumn("{task.description:<24}"), BarColumn(), TaskProgressColumn(), TimeElapsedColumn())
    with Progress(*columns, console=Console(stderr=True), transient=True) as bar:
        task = bar.add_task("", total=1.0)

        def show(stage: str, fraction: float) -> None:
            bar.update(task, description=stage, completed=fraction)

        yield show
