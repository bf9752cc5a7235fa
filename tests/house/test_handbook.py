"""The handbook as it ships: complete, without a link that leads nowhere, and shown under the rules of the server."""

import re
from html.parser import HTMLParser
from pathlib import Path

import pytest
from tools.handbook.findings import findings_table
from tools.handbook.pictures import MOST_BYTES
from typer.main import get_command

import nebrel
from nebrel.api.app import HANDBOOK
from nebrel.cli.main import app
from nebrel.piece.registry import KINDS

SHARED = {"traced": "outline", "drawn": "outline"}
PAGES = sorted(HANDBOOK.rglob("*.html"))


class _Leads(HTMLParser):
    """Where a page leads, what it names, and what of it a server's rules would not let run."""

    def __init__(self) -> None:
        super().__init__()
        self.to: list[str] = []
        self.names: set[str] = set()
        self.within: list[str] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        given = dict(attrs)
        self.names.update(given[name] or "" for name in ("id", "name") if name in given)
        self.to += [given[name] or "" for name in ("href", "src") if name in given]
        if tag == "script" and "src" not in given and given.get("type") != "application/json":
            self.within.append(tag)
        self.within += [name for name in given if name == "style" or name.startswith("on")]


def leads_of(path: Path) -> _Leads:
    leads = _Leads()
    leads.feed(path.read_text(encoding="utf-8"))
    return leads


def text_of(name: str) -> str:
    return re.sub(r"<[^>]+>", "", (HANDBOOK / name).read_text(encoding="utf-8"))


def test_every_link_leads_to_what_is_there() -> None:
    told = {path: leads_of(path) for path in PAGES}
    assert len(PAGES) > 20
    for path, leads in told.items():
        for link in leads.to:
            if re.match(r"[a-z]+:", link) or path.name == "404.html":
                continue
            place, _, name = link.partition("#")
            target = (path.parent / place).resolve() if place else path
            assert target.is_file() or target == HANDBOOK.resolve(), f"{path.name} leads to {link}"
            if name and target in told:
                assert name in told[target].names, f"{path.name} leads to {link}"


def test_nothing_comes_from_elsewhere_and_no_script_or_style_stands_in_a_page() -> None:
    for path in PAGES:
        leads = leads_of(path)
        assert leads.within == [], path.name
        text = path.read_text(encoding="utf-8")
        assert not re.search(r'<(?:script|link|img)[^>]+(?:src|href)="(?:https?:)?//', text), path.name


def test_pictures_are_small_and_made_of_those_of_the_demo() -> None:
    pictures = [*HANDBOOK.rglob("*.webp")]
    assert len(pictures) > 15
    assert all(path.stat().st_size <= MOST_BYTES for path in pictures)


@pytest.mark.parametrize("kind", [kind.name for kind in KINDS])
def test_every_kind_of_piece_has_a_page_with_its_settings(kind: str) -> None:
    text = text_of(f"kinds/{SHARED.get(kind, kind)}.html")
    assert "Settings" in text
    assert "accepted" in text
    assert "<!--" not in text


def test_every_command_and_every_name_of_the_interface_is_told() -> None:
    group = get_command(app)
    commands = text_of("commands.html")
    for name in group.list_commands(None):
        if name not in ("make", "warm-up"):
            assert f"nebrel {name}" in commands
    assert "--hold-between" in commands
    python = text_of("python.html")
    assert all(name in python for name in nebrel.__all__)


def test_findings_are_read_off_the_code() -> None:
    told = findings_table()
    assert told.count("\n| ") > 90
    assert "Brightness is not height" in told
    assert "Undercuts and hollows take" in told
    assert re.search(r"\| (?:mend it|look at it|good to know) \|", told)
    page = text_of("findings.html")
    assert "Brightness is not height" in page


def test_what_pages_by_hand_name_is_called_so_in_the_program() -> None:
    root = Path(__file__).parents[2]
    sources = [*root.glob("web/src/**/*.tsx"), *root.glob("web/src/**/*.ts"), *root.glob("src/nebrel/**/*.py")]
    words = " ".join(" ".join(path.read_text(encoding="utf-8").split()) for path in sources).lower()
    for page in (root / "docs" / "handbook").rglob("*.md"):
        for name in re.findall(r"(?<!\*)\*(?!\*)([^*]+)\*(?!\*)", page.read_text(encoding="utf-8")):
            assert " ".join(name.split()).lower() in words, f"{page.name} names {name}"
