"""`nebrel make …`: from a picture or a drawing to a file, without the shelf."""

import typer

from nebrel.cli.lithophanes import lithophane
from nebrel.cli.outlines import cutter, outline, stamp
from nebrel.cli.relief import relief

make = typer.Typer(rich_markup_mode=None, add_completion=False)


@make.callback()
def _group() -> None:
    """Make a solid from a picture."""


make.command()(relief)
make.command()(lithophane)
make.command()(outline)
make.command()(cutter)
make.command()(stamp)
