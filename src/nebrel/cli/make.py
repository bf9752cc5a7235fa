"""`nebrel make …`: from a picture to a file, without the shelf."""

import typer

from nebrel.cli.relief import relief

make = typer.Typer(help="Make a solid from a picture.", rich_markup_mode=None)


@make.callback()
def _group() -> None:
    """Make a solid from a picture."""


make.command()(relief)
