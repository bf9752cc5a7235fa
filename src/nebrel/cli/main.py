"""The command line: one module a group of commands. Lengths are millimetres unless they end in `in`."""

import sys
from importlib import import_module
from typing import Any, NoReturn

import typer
from typer.core import TyperGroup
from typer.exceptions import Abort, TyperException
from typer.main import get_command

from nebrel.core.errors import NebrelError

BAD_INPUT = 2
# In which module each command is, and what it is called there.
COMMANDS = {
    "make": ("make", "make"),
    "check": ("check", "check"),
    "wedge": ("lithophanes", "wedge"),
    "fit-material": ("lithophanes", "fit"),
    "light": ("lithophanes", "light"),
    "trace": ("outlines", "trace"),
    "convert": ("meshes", "convert"),
    "simplify": ("meshes", "simplify"),
    "repair": ("meshes", "repair"),
    "remesh": ("meshes", "remesh"),
    "cut": ("meshes", "cut"),
    "decorate": ("decorations", "decorate"),
    "prepare": ("pictures", "prepare"),
    "audit": ("pictures", "audit"),
    "serve": ("serve", "serve"),
    "warm-up": ("warm_up", "warm_up"),
}
# `prepare` reads shorthands, whose order counts, by itself.
SETTINGS: dict[str, dict[str, Any]] = {
    "prepare": {"context_settings": {"allow_extra_args": True, "ignore_unknown_options": True}},
    "warm-up": {"hidden": True},
}


class _OnDemand(TyperGroup):
    """All commands, each loaded once it is named: what one needs is seconds of imports to another."""

    def list_commands(self, ctx: object) -> list[str]:
        return list(COMMANDS)

    def get_command(self, ctx: object, cmd_name: str) -> Any:
        if cmd_name not in COMMANDS:
            return None
        module, name = COMMANDS[cmd_name]
        found = getattr(import_module(f"nebrel.cli.{module}"), name)
        if isinstance(found, typer.Typer):
            return get_command(found)
        alone = typer.Typer(add_completion=False, rich_markup_mode=None)
        alone.command(cmd_name, **SETTINGS.get(cmd_name, {}))(found)
        return get_command(alone)


app = typer.Typer(
    name="nebrel", cls=_OnDemand, add_completion=False, pretty_exceptions_enable=False, rich_markup_mode=None
)


@app.callback()
def _nebrel() -> None:
    """Turns pictures into true-size, closed relief solids. Lengths are millimetres unless they end in `in`."""


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
