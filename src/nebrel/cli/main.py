"""The command line: one module a group of commands. Lengths are millimetres unless they end in `in`."""

import sys
from typing import NoReturn

import typer
from typer.exceptions import Abort, TyperException

from nebrel.cli.check import check
from nebrel.cli.decorations import decorate
from nebrel.cli.lithophanes import fit, light, wedge
from nebrel.cli.make import make
from nebrel.cli.meshes import convert, cut, remesh, repair, simplify
from nebrel.cli.outlines import trace
from nebrel.cli.pictures import SHORT, audit, prepare
from nebrel.cli.serve import serve
from nebrel.core.errors import NebrelError

BAD_INPUT = 2

app = typer.Typer(
    name="nebrel",
    help="Turns pictures into true-size, closed relief solids. Lengths are millimetres unless they end in `in`.",
    add_completion=False,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
)
app.add_typer(make, name="make")
app.command()(check)
app.command()(wedge)
app.command("fit-material")(fit)
app.command()(light)
app.command()(trace)
app.command()(convert)
app.command()(simplify)
app.command()(repair)
app.command()(remesh)
app.command()(cut)
app.command()(decorate)
app.command(context_settings=SHORT)(prepare)
app.command()(audit)
app.command()(serve)


@app.command(hidden=True)
def warm_up() -> None:
    """Compile the hot loops once, so that no one waits for it later."""
    from nebrel.cli.warm_up import run_every_loop

    run_every_loop()


def run() -> NoReturn:
    """Run the program: exit 0 done, 1 the check found a fault, 2 bad input with one sentence on stderr."""
    try:
        code = app(standalone_mode=False)
    except NebrelError as refusal:
        _refuse(str(refusal))
    except TyperException as refusal:
        _refuse(f"{refusal.format_message().rstrip('.')}; `nebrel --help` tells what is accepted.")
    except (Abort, KeyboardInterrupt):
        _refuse("Stopped.")
    except BrokenPipeError:
        sys.stderr.close()
        sys.exit(BAD_INPUT)
    sys.exit(code if isinstance(code, int) else 0)


def _refuse(sentence: str) -> NoReturn:
    print(f"nebrel: {sentence}", file=sys.stderr)
    sys.exit(BAD_INPUT)
