"""`nebrel serve`: the web application on this machine."""

import contextlib
from pathlib import Path
from typing import Annotated

import typer

from nebrel.settings import Settings


def serve(
    demo: Annotated[bool, typer.Option("--demo", help="Put the Fernhollow pieces on an empty shelf.")] = False,
    host: Annotated[
        str | None, typer.Option(help="Address to listen on; others than this machine need a token.")
    ] = None,
    port: Annotated[int | None, typer.Option(help="Port to listen on; 0 takes a free one.", min=0, max=65535)] = None,
    data: Annotated[Path | None, typer.Option(help="Folder that keeps pieces and results.")] = None,
) -> None:
    """Serve the shelf and the bench."""
    from nebrel.api.run import run_server

    given = {"host": host, "port": port, "data_dir": data}
    settings = Settings(**{name: value for name, value in given.items() if value is not None})  # type: ignore[arg-type]
    if demo:
        from nebrel.demo.load import load_demo

        load_demo(settings)
    with contextlib.suppress(KeyboardInterrupt):
        run_server(settings)
