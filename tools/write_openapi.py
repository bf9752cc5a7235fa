"""Write what the pages are built and tested from: the API's description, and the parts that it tells of."""

import json
import sys
from pathlib import Path

from nebrel.api.app import create_app
from nebrel.api.routes.parts import all_parts
from nebrel.piece.ops.catalogue import catalogue
from nebrel.settings import Settings

WEB = Path(__file__).parent.parent / "web"


def written() -> dict[Path, str]:
    """The files and what stands in them."""
    return {
        WEB / "openapi.json": json.dumps(create_app(Settings()).openapi(), indent=1, ensure_ascii=False) + "\n",
        WEB / "src" / "testing" / "parts.json": _line_by_line(all_parts().model_dump(mode="json")),
        WEB / "src" / "testing" / "ops.json": _line_by_line(
            {"kinds": {op.kind: op.model_dump() for op in catalogue()}}
        ),
    }


def _line_by_line(content: dict[str, dict[str, object]]) -> str:
    """JSON with a line for every entry of the second level."""
    parts = []
    for name, entries in content.items():
        lines = ",\n".join(
            f"{json.dumps(key)}: {json.dumps(entry, ensure_ascii=False)}" for key, entry in entries.items()
        )
        parts.append(f"{json.dumps(name)}: {{\n{lines}\n}}")
    return "{\n" + ",\n".join(parts) + "\n}\n"


def main() -> None:
    """Write the files, or with `--check` fail when one is out of date."""
    for path, text in written().items():
        if "--check" not in sys.argv[1:]:
            path.write_text(text, encoding="utf-8")
        elif not path.exists() or path.read_text(encoding="utf-8") != text:
            sys.exit(f"{path.relative_to(WEB.parent)} is out of date; run `make client` and commit the result.")


if __name__ == "__main__":
    main()
