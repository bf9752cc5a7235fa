"""Options of the commands that can have a cluster work for them."""

from typing import Annotated

import typer

Scheduler = Annotated[
    str | None,
    typer.Option("--scheduler", help="Have the cluster of this scheduler do the work, such as tcp://10.0.0.5:8786."),
]
Results = Annotated[
    str | None,
    typer.Option(
        "--results",
        help="Where its workers find files and results: a folder that all share, or a store such as s3://…; they ask "
        "this program otherwise.",
    ),
]
