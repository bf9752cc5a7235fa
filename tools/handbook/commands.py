"""The command line, as the program itself tells it."""

from collections.abc import Iterator
from typing import Any

from typer.main import get_command

from nebrel.cli.main import app
from tools.handbook.tables import table

INTRO = """# Command line

`nebrel` does what the pages do, without them. Lengths are millimetres unless they end in `in`. It exits with 0 when
done, 1 when a check found a fault, and 2 on bad input, which it tells in one sentence. `--json` prints a report whose
keys stay as they are. `nebrel COMMAND --help` tells the same as this page, which is made of the program.
"""


def commands_page() -> str:
    """Every command with what it takes."""
    group = get_command(app)
    context = group.make_context("nebrel", [], resilient_parsing=True)
    return INTRO + "\n".join(
        _told(command, f"nebrel {name}") for name, command in _all(group, context) if not command.hidden
    )


def _all(group: Any, context: Any, before: str = "") -> Iterator[tuple[str, Any]]:
    for name in group.list_commands(context):
        command = group.get_command(context, name)
        if hasattr(command, "list_commands"):
            yield from _all(command, command.make_context(name, [], resilient_parsing=True), f"{before}{name} ")
        else:
            yield f"{before}{name}", command


def _told(command: Any, name: str) -> str:
    given = [each for each in command.params if each.param_type_name == "argument"]
    asked = [each for each in command.params if each.param_type_name == "option" and each.name != "help"]
    usage = " ".join([name, *(_argument(each) for each in given), *(["[OPTIONS]"] if asked else [])])
    help_ = "\n\n".join(" ".join(part.split()) for part in (command.help or "").split("\n\n"))
    rows = [(f"`{_argument(each)}`", getattr(each, "help", "") or "", "") for each in given]
    rows += [
        (", ".join(f"`{way}`" for way in (*each.opts, *each.secondary_opts)), each.help or "", _usual(each))
        for each in asked
    ]
    return f"\n## {name}\n\n{help_}\n\n```\n{usage}\n```\n\n" + (table(("", "", "usual"), rows) if rows else "")


def _argument(parameter: Any) -> str:
    name = (parameter.metavar or parameter.name).upper().strip("[]")
    many = parameter.nargs != 1 or getattr(parameter, "multiple", False)
    return f"{name} …" if many and "…" not in name else name


def _usual(option: Any) -> str:
    usual = option.default
    if usual is None or callable(usual) or usual in (False, (), [], ""):
        return ""
    return "on" if usual is True else f"`{getattr(usual, 'value', usual)}`"
