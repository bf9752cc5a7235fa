"""Every finding there is, read off the code that tells them."""

import ast
from collections import defaultdict
from pathlib import Path

import nebrel
from tools.handbook.tables import table

SOURCE = Path(nebrel.__file__).parent
# Where findings are told, as a person meets it.
PLACES = {
    "core/proof/audit": "Of pictures",
    "piece/kinds/panel": "Of relief panels",
    "piece/kinds/lithophane": "Of lithophanes",
    "piece/kinds/figure": "Of figures in the round",
    "piece/kinds/outline": "Of outlines, cutters and stamps",
    "piece/kinds/model": "Of models and decorations",
    "piece/kinds/assembly": "Of pieces put together",
    "piece/kinds/mould": "Of moulds and dies",
    "piece/carving": "Of carving",
    "piece/printing": "Of layers and printing",
}
OTHERS = "Of any piece"
WORDS = {"fault": "mend it", "caution": "look at it", "note": "good to know"}


def findings_table() -> str:
    """All of them, by what they are about; numbers of the moment stand as …."""
    found: dict[str, list[tuple[str, str, str]]] = defaultdict(list)
    for path in sorted(SOURCE.rglob("*.py")):
        place = path.relative_to(SOURCE).as_posix()
        about = next((words for start, words in PLACES.items() if place.startswith(start)), OTHERS)
        for call in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(call, ast.Call) and isinstance(call.func, ast.Name) and call.func.id == "Finding":
                row = _row(call)
                if row is not None and row not in found[about]:
                    found[about].append(row)
    order = [*PLACES.values(), OTHERS]
    return "\n".join(
        f"\n## {about}\n\n" + table(("", "what is found", "why, and what helps"), found[about])
        for about in order
        if found[about]
    )


def _row(call: ast.Call) -> tuple[str, str, str] | None:
    named = {each.arg: each.value for each in call.keywords}
    parts = [
        _words(named.get(name) or (call.args[at] if len(call.args) > at else None))
        for at, name in enumerate(("severity", "what", "why"))
    ]
    severity, what, why = parts
    return (WORDS.get(severity, "look at it"), what, why) if what and what != "…" and why else None


def _words(node: ast.expr | None) -> str:
    """Text as far as it stands in the code."""
    if isinstance(node, ast.Constant):
        return str(node.value)
    if isinstance(node, ast.JoinedStr):
        return "".join(str(part.value) if isinstance(part, ast.Constant) else "…" for part in node.values)
    if isinstance(node, ast.IfExp):
        return _words(node.body)
    if isinstance(node, ast.BinOp) and isinstance(node.op, ast.Add):
        return _words(node.left) + _words(node.right)
    return "…" if node is not None else ""
