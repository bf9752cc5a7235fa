"""Groups of commands that load a command when it is named, and not before."""

from collections.abc import Mapping
from importlib import import_module
from types import MappingProxyType
from typing import Any, ClassVar, NamedTuple

import typer
from typer.core import TyperGroup
from typer.main import get_command


class Named(NamedTuple):
    """A command: in which module it is, what it is called there, and the first sentence of its help."""

    module: str
    function: str
    help: str
    settings: Mapping[str, Any] = MappingProxyType({})


class OnDemand(TyperGroup):
    """All commands, each loaded once it is named: what one needs is seconds of imports to another."""

    commands_by_name: ClassVar[dict[str, Named]] = {}

    def list_commands(self, ctx: object) -> list[str]:
        return list(self.commands_by_name)

    def get_command(self, ctx: object, cmd_name: str) -> Any:
        named = self.commands_by_name.get(cmd_name)
        if named is None:
            return None
        found = getattr(import_module(f"nebrel.cli.{named.module}"), named.function)
        if isinstance(found, typer.Typer):
            return get_command(found)
        alone = typer.Typer(add_completion=False, rich_markup_mode=None)
        alone.command(cmd_name, **named.settings)(found)
        return get_command(alone)

    def format_commands(self, ctx: Any, formatter: Any) -> None:
        """List the commands by the sentences that stand here, without loading any."""
        shown = [
            (name, named.help) for name, named in self.commands_by_name.items() if not named.settings.get("hidden")
        ]
        with formatter.section("Commands"):
            formatter.write_dl(shown)
