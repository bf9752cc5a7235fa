"""No folder of the program imports from one that, round some corner, imports from it."""

import ast
from pathlib import Path

import nebrel

ROOT = Path(nebrel.__file__).parent


def imports() -> dict[str, set[str]]:
    """Which folders every folder imports from, wherever in its files it does."""
    found: dict[str, set[str]] = {}
    for path in ROOT.rglob("*.py"):
        if path == ROOT / "__init__.py":
            # The door of the house names rooms, and leads to them once someone asks.
            continue
        here = path.parent.relative_to(ROOT.parent).as_posix()
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if not isinstance(node, ast.ImportFrom | ast.Import):
                continue
            names = [node.module or ""] if isinstance(node, ast.ImportFrom) else [each.name for each in node.names]
            for name in names:
                there = folder_of(name)
                if there and there != here:
                    found.setdefault(here, set()).add(there)
    return found


def folder_of(module: str) -> str | None:
    """The folder of a module of the program."""
    if module.split(".", maxsplit=1)[0] != "nebrel":
        return None
    path = ROOT.parent / module.replace(".", "/")
    folder = path if path.is_dir() else path.parent
    return folder.relative_to(ROOT.parent).as_posix()


def circle(folders: dict[str, set[str]]) -> list[str] | None:
    """A way from a folder back to itself, or None."""
    done: set[str] = set()

    def walk(folder: str, path: list[str]) -> list[str] | None:
        if folder in path:
            return [*path[path.index(folder) :], folder]
        if folder in done:
            return None
        for other in sorted(folders.get(folder, ())):
            found = walk(other, [*path, folder])
            if found:
                return found
        done.add(folder)
        return None

    return next((found for folder in sorted(folders) if (found := walk(folder, []))), None)


def test_a_circle_is_found_where_there_is_one():
    assert circle({"a": {"b"}, "b": {"c"}, "c": {"b"}}) == ["b", "c", "b"]
    assert circle({"a": {"b"}, "b": {"c"}, "c": set()}) is None


def test_folders_import_in_no_circle():
    folders = imports()
    assert len(folders) > 30
    assert circle(folders) is None


def test_no_file_is_longer_than_four_hundred_lines():
    long = [
        f"{path}: {count}"
        for folder in (ROOT, Path(__file__).parents[1])
        for path in folder.rglob("*.py")
        if (count := len(path.read_text(encoding="utf-8").splitlines())) > 400
    ]
    assert long == []
