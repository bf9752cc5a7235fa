"""`python -m tools.handbook`: writes the site to where the server ships it."""

import shutil
import sys
import tempfile
from pathlib import Path

import yaml
from mkdocs.commands.build import build
from mkdocs.config import load_config

from tools.handbook.addresses import addresses_page
from tools.handbook.commands import commands_page
from tools.handbook.findings import findings_table
from tools.handbook.interface import interface_page
from tools.handbook.pictures import write_pictures
from tools.handbook.settings import ops_table, settings_of
from tools.handbook.shipped import shipped_tables

ROOT = Path(__file__).parent.parent.parent
DOCS, HANDBOOK = ROOT / "docs", ROOT / "docs" / "handbook"
TARGET = ROOT / "src" / "nebrel" / "api" / "help"
# Documents of the repository that are pages, too.
BESIDE = ("piece-file", "depth-service", "printer-link", "router-link", "glossary")
# What stands in a page written by hand for what the program tells.
TOLD = {
    "<!-- findings -->": findings_table,
    "<!-- ops -->": ops_table,
    "<!-- shipped -->": shipped_tables,
    **{f"<!-- settings {kind} -->": lambda kind=kind: settings_of(kind) for kind in
       ("panel", "lithophane", "figure", "traced", "model", "assembly", "mould")},
}  # fmt: skip
PAGES = {"commands.md": commands_page, "api.md": addresses_page, "python.md": interface_page}


def main() -> None:
    """Write all pages, and make the site of them."""
    with tempfile.TemporaryDirectory() as folder:
        pages = Path(folder) / "pages"
        write_pages(pages)
        write_pictures(DOCS / "screenshots", pages / "pictures")
        made = Path(folder) / "site"
        build_site(pages, made)
        shutil.rmtree(TARGET, ignore_errors=True)
        shutil.copytree(made, TARGET)


def write_pages(target: Path) -> None:
    """All pages as Markdown: those by hand with what is told put in, those of the program, those beside."""
    shutil.copytree(HANDBOOK, target, ignore=shutil.ignore_patterns("mkdocs.yml"))
    for page in target.rglob("*.md"):
        text = page.read_text(encoding="utf-8")
        for place, told in TOLD.items():
            if place in text:
                text = text.replace(place, told())
        page.write_text(text, encoding="utf-8")
    for name, told in PAGES.items():
        (target / name).write_text(told(), encoding="utf-8")
    shutil.copyfile(ROOT / "web" / "public" / "mark.svg", target / "mark.svg")
    for name in BESIDE:
        shutil.copyfile(DOCS / f"{name}.md", target / f"{name}.md")


def build_site(pages: Path, target: Path) -> None:
    """Make the site; a link that leads nowhere is an error."""
    told = yaml.safe_load((HANDBOOK / "mkdocs.yml").read_text(encoding="utf-8"))
    fonts = target / "assets" / "fonts"
    config = load_config(
        config_file=str(HANDBOOK / "mkdocs.yml"), docs_dir=str(pages), site_dir=str(target), nav=told["nav"],
        strict=True, hooks=[str(Path(__file__).parent / "hooks.py")],
    )  # fmt: skip
    build(config)
    fonts.mkdir(parents=True, exist_ok=True)
    shipped = ROOT / "web/node_modules/@fontsource-variable/source-sans-3/files"
    shutil.copyfile(shipped / "source-sans-3-latin-wght-normal.woff2", fonts / "source-sans-3.woff2")
    (target / "sitemap.xml").unlink(missing_ok=True)
    (target / "sitemap.xml.gz").unlink(missing_ok=True)


if __name__ == "__main__":
    sys.exit(main())
