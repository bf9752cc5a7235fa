"""`nebrel make …`: from a picture or a drawing to a file, without the shelf."""

from typing import ClassVar

import typer

from nebrel.cli.on_demand import Named, OnDemand


class _Make(OnDemand):
    commands_by_name: ClassVar[dict[str, Named]] = {
        "relief": Named("relief", "relief", "Make a relief panel: tones become heights over a back."),
        "lithophane": Named("lithophanes", "lithophane", "Make a lithophane, with its print recipe beside it."),
        "figure": Named("figures", "figure", "Make a figure in the round from a cut-out picture."),
        "outline": Named("outlines", "outline", "Raise an outline, or cut it through a plate."),
        "cutter": Named("outlines", "cutter", "Make a cutter for clay or dough."),
        "mould": Named("moulds", "mould", "Make a mould of a solid, or a die of its relief."),
        "stamp": Named("outlines", "stamp", "Make a stamp: a mirrored face on a plate."),
    }


make = typer.Typer(cls=_Make, rich_markup_mode=None, add_completion=False)


@make.callback()
def _group() -> None:
    """Make a solid from a picture, or a mould from a solid."""
