"""Changes pages so that a browser shows them under the rules of the server: no script and no style within a page."""

import hashlib
import re
from pathlib import Path
from typing import Any

_SCRIPT = re.compile(r"<script>(.*?)</script>", re.DOTALL)
_STYLE = re.compile(r"<style>.*?</style>", re.DOTALL)
_found: dict[str, str] = {}


def on_post_page(output: str, page: Any, config: Any) -> str:
    """Let a page load its scripts from files."""

    def moved(match: re.Match[str]) -> str:
        name = f"{hashlib.sha256(match[1].encode()).hexdigest()[:12]}.js"
        _found[name] = match[1]
        return f'<script src="{"../" * page.url.count("/")}assets/{name}"></script>'

    return _STYLE.sub("", _SCRIPT.sub(moved, output))


def on_post_template(output_content: str, template_name: str, config: Any) -> str:
    """The page that says there is none needs no scripts."""
    return _STYLE.sub("", _SCRIPT.sub("", output_content)) if template_name == "404.html" else output_content


def on_post_build(config: Any) -> None:
    """Write the scripts."""
    for name, text in _found.items():
        (Path(config["site_dir"]) / "assets" / name).write_text(text, encoding="utf-8")
