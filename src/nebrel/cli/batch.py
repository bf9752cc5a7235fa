"""`nebrel batch`: one recipe over many pictures."""

from __future__ import annotations

import json as jsons
import shutil
import time
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from nebrel.cli.clusters import Results, Scheduler
from nebrel.cli.endings import AsJson
from nebrel.core.errors import BadValueError

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    from nebrel.jobs.batch.orders import Order
    from nebrel.jobs.executor import Executor
    from nebrel.jobs.made import Made
    from nebrel.piece.recipes.recipe import Recipe
    from nebrel.settings import Settings

MEMORY = ".nebrel-batch"
TABLE, SHEET = "report.csv", "sheet.pdf"
FORMATS = ("stl", "obj", "ply", "off", "3mf", "glb")
MOST_JOBS = 16
DEFAULT_MINUTES = 15.0


def batch(
    source: Annotated[
        Path, typer.Argument(help="A folder of pictures, or a CSV file: a column picture, and values for each piece.")
    ],
    recipe: Annotated[str, typer.Option(help="A recipe, a JSON file, or the name of one that ships.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The folder to write into.")],
    jobs: Annotated[int, typer.Option(help="How many pieces are made beside each other.")] = 2,
    format_: Annotated[
        str | None, typer.Option("--format", help="stl, obj, ply, off, 3mf or glb; the recipe says it otherwise.")
    ] = None,
    minutes: Annotated[float, typer.Option(help="A piece that takes longer is given up.", min=0.05)] = DEFAULT_MINUTES,
    scheduler: Scheduler = None,
    results: Results = None,
    resume: Annotated[bool, typer.Option("--resume", help="Go on with what an earlier run left undone.")] = False,
    json: AsJson = False,
) -> int:
    """Make a piece of every picture by one recipe; write a table and a sheet of pictures beside the files.

    A table sets values by its columns: title, width, name (the text of a name plate or lettering), colour, and any
    setting by its place in the recipe, such as height.rule.relief_mm.
    """
    if not 1 <= jobs <= MOST_JOBS:
        raise BadValueError(f"--jobs is {jobs}; 1 to {MOST_JOBS} would be accepted.")
    if format_ is not None and format_ not in FORMATS:
        raise BadValueError(f"--format is “{format_}”; {', '.join(FORMATS)} would be accepted.")
    if output.exists() and not output.is_dir():
        raise BadValueError(f"{output} is a file; the name of a folder is needed.")

    from nebrel.interface.settled import recipe_in
    from nebrel.jobs.batch.orders import orders_in
    from nebrel.jobs.cluster.asked import check_cluster
    from nebrel.settings import Settings

    own = Settings().model_copy(
        update={"workers": jobs, "cluster_workers": 0, "scheduler": scheduler or "", "results": results or ""}
    )
    check_cluster(own)

    settings = recipe_in(recipe)
    orders = orders_in(source)
    memory = output / MEMORY
    if memory.exists() and not resume:
        raise BadValueError(f"{output} holds what an earlier run made; add --resume to go on, or name another folder.")

    from sqlalchemy.exc import SQLAlchemyError

    from nebrel.store.means import refusal_for

    began = time.monotonic()
    try:
        title = f"{settings.name}: {source.name}"
        made = _made(own, settings, orders, output, format_, minutes * 60, json, title)
    except (OSError, SQLAlchemyError) as cause:
        why = cause.strerror if isinstance(cause, OSError) else str(cause).partition("\n")[0]
        raise refusal_for(cause) or BadValueError(
            f"{output} cannot be written into: {why}. What is done is kept; --resume goes on."
        ) from cause
    return _tell(made, output, time.monotonic() - began, json)


def _made(
    settings: Settings,
    recipe: Recipe,
    orders: list[Order],
    output: Path,
    form: str | None,
    most_seconds: float,
    json: bool,
    title: str,
) -> list[Made]:
    """Have all made, and write the table and the sheet."""
    from nebrel.jobs.batch.batch import Batch
    from nebrel.jobs.made_sheet import sheet_bytes, table_text
    from nebrel.jobs.workplace import workplace_in

    memory = output / MEMORY
    work = memory / "work"
    work.mkdir(parents=True, exist_ok=True)
    own = settings.model_copy(update={"data_dir": work, "workers": min(settings.workers, len(orders))})
    todo = Batch(workplace_in(own), recipe, output, memory, form, most_seconds)
    made = []
    with _working(own) as executor, _followed(orders, json) as (show, tell):
        for each in todo.run(orders, executor, show):
            made.append(each)
            tell(each)
    shutil.rmtree(work, ignore_errors=True)
    (output / TABLE).write_text(table_text(made), encoding="utf-8", newline="")
    (output / SHEET).write_bytes(sheet_bytes(made, todo.picture_of, title))
    return made


@contextmanager
def _working(settings: Settings) -> Iterator[Executor]:
    """Who makes them; for a cluster, files and results are lent to its workers meanwhile."""
    from nebrel.jobs.cluster.choosing import executor_for

    with ExitStack() as around:
        lent, address = None, ""
        if settings.scheduler and not settings.results:
            from nebrel.api.lending import lending, own_host_towards
            from nebrel.store.shared.lent import lent_from

            lent = lent_from(settings.data_dir, settings.folder_cache_bytes)
            address = around.enter_context(lending(lent, own_host_towards(settings.scheduler)))
        executor = executor_for(settings, lent, address)
        around.callback(executor.stop)
        executor.start()
        if settings.scheduler:
            from nebrel.jobs.cluster.dask_executor import wait_for_workers

            wait_for_workers(executor)
        yield executor


@contextmanager
def _followed(
    orders: list[Order], json: bool
) -> Iterator[tuple[Callable[[Order, str, float], None], Callable[[Made], None]]]:
    """A line for every piece that ends, and on a terminal how far those are that run."""
    from rich.console import Console
    from rich.progress import BarColumn, Progress, TextColumn

    console = Console(stderr=True)
    began, ended, earlier = time.monotonic(), 0, 0
    bar = Progress(TextColumn("{task.description}"), BarColumn(), console=console, transient=True)
    running: dict[int, Any] = {}

    def show(order: Order, stage: str, fraction: float) -> None:
        if not console.is_terminal:
            return
        if order.number not in running:
            running[order.number] = bar.add_task("", total=1.0)
        bar.update(running[order.number], description=f"{order.title[:24]}: {stage}", completed=fraction)

    def tell(made: Made) -> None:
        nonlocal ended, earlier
        ended += 1
        earlier += made.earlier
        if made.number in running:
            bar.remove_task(running.pop(made.number))
        if not json:
            left = _left(time.monotonic() - began, ended - earlier, len(orders) - ended)
            line = f"{ended:>5}/{len(orders)}  {_words(made)}{left}"
            bar.console.print(line, highlight=False, markup=False, soft_wrap=True)

    with bar if console.is_terminal else _nothing():
        yield show, tell


@contextmanager
def _nothing() -> Iterator[None]:
    yield


def _words(made: Made) -> str:
    name = Path(made.picture).name
    if made.state != "done":
        return f"{made.state:<8} {name}: {made.why}"
    count = len(made.told)
    found = f", {count} {'finding' if count == 1 else 'findings'}" if count else ""
    told = f"{made.report['triangles']:,} triangles{found}"
    return f"{'kept' if made.earlier else 'done':<8} {name} → {made.file}, {told}"


def _left(seconds: float, made: int, left: int) -> str:
    if not left or not made:
        return ""
    minutes = seconds / made * left / 60
    return f", {minutes:.0f} min left" if minutes >= 1.5 else f", {minutes * 60:.0f} s left"


def _tell(made: list[Made], output: Path, seconds: float, json: bool) -> int:
    done = [each for each in made if each.state == "done"]
    unsound = [each for each in done if not each.sound]
    if json:
        pieces = [
            {
                "number": each.number, "picture": each.picture, "title": each.title, "state": each.state,
                "file": each.file or None, "why": each.why or None, "earlier": each.earlier, "seconds": each.seconds,
                "report": each.report or None,
            }
            for each in sorted(made, key=lambda each: each.number)
        ]  # fmt: skip
        told = {
            "pieces": pieces, "done": len(done), "not_done": len(made) - len(done), "unsound": len(unsound),
            "earlier": sum(each.earlier for each in made), "seconds": round(seconds, 2), "table": TABLE, "sheet": SHEET,
        }  # fmt: skip
        print(jsons.dumps(told, indent=2))
    else:
        print(f"{output}: {len(done):,} of {len(made):,} done in {seconds:.0f} s; {TABLE}, {SHEET}")
        for each in unsound:
            print(f"warn: {each.file} is not sound.")
    return 0 if len(done) == len(made) and not unsound else 1
