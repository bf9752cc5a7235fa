"""`nebrel serve`: the web application on this machine."""

import contextlib
from functools import partial
from pathlib import Path
from typing import Annotated

import typer


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
    from nebrel.demo.beside import draw_beside
    from nebrel.settings import Settings

    given = {"host": host, "port": port, "data_dir": data}
    settings = Settings().model_copy(update={name: value for name, value in given.items() if value is not None})
    with contextlib.suppress(KeyboardInterrupt):
        if demo:
            run_server(settings, partial(draw_beside, settings))
        else:
            run_server(settings)
