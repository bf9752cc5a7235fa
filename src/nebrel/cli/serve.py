"""`nebrel serve`: the web application on this machine."""

import contextlib
from functools import partial
from pathlib import Path
from typing import Annotated

import typer

from nebrel.cli.clusters import Results, Scheduler
from nebrel.core.errors import BadValueError

LEVELS = ("debug", "info", "warning", "error")


def serve(
    demo: Annotated[bool, typer.Option("--demo", help="Put the Fernhollow pieces on an empty shelf.")] = False,
    host: Annotated[
        str | None, typer.Option(help="Address to listen on; others than this machine need a token.")
    ] = None,
    port: Annotated[int | None, typer.Option(help="Port to listen on; 0 takes a free one.", min=0, max=65535)] = None,
    data: Annotated[Path | None, typer.Option(help="Folder that keeps pieces and results.")] = None,
    certificate: Annotated[Path | None, typer.Option(help="Certificate for TLS, as PEM; pages come by https.")] = None,
    key: Annotated[Path | None, typer.Option(help="Key of the certificate, where it is not in the same file.")] = None,
    workers: Annotated[
        int | None,
        typer.Option(help="Start a cluster of so many worker processes on this machine.", min=1, max=64),
    ] = None,
    scheduler: Scheduler = None,
    results: Results = None,
    log_level: Annotated[str | None, typer.Option(help="What goes to the log: debug, info, warning, error.")] = None,
) -> None:
    """Serve the shelf and the bench."""
    if key is not None and certificate is None:
        raise BadValueError("--key has no effect without --certificate; leave it out, or add that.")
    if log_level is not None and log_level not in LEVELS:
        raise BadValueError(f"--log-level is {log_level}; {', '.join(LEVELS)} would be accepted.")

    from nebrel.api.run import run_server
    from nebrel.jobs.cluster.asked import check_cluster
    from nebrel.settings import Settings

    given = {
        "host": host, "port": port, "data_dir": data, "certificate": certificate, "key": key, "log_level": log_level,
        "cluster_workers": workers, "scheduler": scheduler, "results": results,
    }  # fmt: skip
    settings = Settings().model_copy(update={name: value for name, value in given.items() if value is not None})
    check_cluster(settings)
    with contextlib.suppress(KeyboardInterrupt):
        if demo:
            from nebrel.demo.beside import draw_beside

            run_server(settings, partial(draw_beside, settings))
        else:
            run_server(settings)
