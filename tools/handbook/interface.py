"""What programs in Python call, from its own docstrings."""

import inspect
import textwrap
from collections.abc import Callable

import nebrel

INTRO = """# Python interface

`import nebrel` has what the command line stands on. Every example on this page is run by the tests.

```python
import nebrel

picture = nebrel.read_picture("crest.png")
piece = nebrel.relief(picture, width_mm=80, relief_mm=3)
made = piece.build()
print(made.report.sound, made.report.triangles)
nebrel.write(made, "crest.stl")
```

What it refuses, it refuses as `nebrel.NebrelError`, with one sentence for people.
"""
LONGEST = 80
ORDER = (
    "read_picture", "read_drawing", "read_mesh", "relief", "lithophane", "cutter", "trace", "decorate", "simplify",
    "check", "write", "NebrelError",
)  # fmt: skip


def interface_page() -> str:
    """Every name of the interface, in the order of the work.

    Raises:
        ValueError: the page and the package differ in what there is.
    """
    if set(ORDER) != set(nebrel.__all__):
        raise ValueError(f"The handbook names {sorted(set(ORDER) ^ set(nebrel.__all__))} otherwise than the package.")
    return INTRO + "".join(_told(name, getattr(nebrel, name)) for name in ORDER)


def _told(name: str, what: object) -> str:
    text = f"\n## {name}\n\n"
    if inspect.isfunction(what):
        text += f"```python\n{name}{_signature(what)}\n```\n\n"
    return text + _markdown(inspect.getdoc(what) or "")


def _signature(what: Callable[..., object]) -> str:
    signature = inspect.signature(what)
    given = [_parameter(each) for each in signature.parameters.values()]
    kinds = [each.kind for each in signature.parameters.values()]
    if inspect.Parameter.KEYWORD_ONLY in kinds and inspect.Parameter.VAR_POSITIONAL not in kinds:
        given.insert(kinds.index(inspect.Parameter.KEYWORD_ONLY), "*")
    gives = f" -> {signature.return_annotation}"
    short = f"({', '.join(given)}){gives}"
    return short if len(short) < LONGEST else "(\n    " + ",\n    ".join(given) + f",\n){gives}"


def _parameter(parameter: inspect.Parameter) -> str:
    stars = {inspect.Parameter.VAR_POSITIONAL: "*", inspect.Parameter.VAR_KEYWORD: "**"}.get(parameter.kind, "")
    usual = "" if parameter.default is inspect.Parameter.empty else f" = {parameter.default!r}"
    return f"{stars}{parameter.name}: {parameter.annotation}{usual}"


def _markdown(text: str) -> str:
    """A docstring: sections become lists, examples become code."""
    lines, code, section = [], False, False
    for line in text.splitlines():
        if line.startswith((">>>", "...")) and not code:
            lines += ["", "```pycon"]
            code = True
        elif code and not line.strip():
            lines.append("```")
            code = False
        if not code and line in ("Args:", "Returns:", "Raises:", "Attributes:"):
            section = True
            lines += ["", f"**{line}**", ""]
            continue
        if section and line.startswith("    ") and not line.startswith("     "):
            name, colon, rest = line.strip().partition(": ")
            line = f"- `{name}`: {rest}" if colon and len(name) < 60 else f"- {line.strip()}"  # noqa: PLW2901
        elif section and line.startswith("     "):
            line = f"  {textwrap.dedent(line).strip()}"  # noqa: PLW2901
        elif line.strip():
            section = False
        lines.append(line)
    return "\n".join([*lines, "```" if code else ""]) + "\n"
