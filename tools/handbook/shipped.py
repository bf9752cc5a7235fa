"""What an empty shelf has from the beginning: materials, filaments, bits, ways of writing programs, recipes."""

import tempfile
from pathlib import Path

from nebrel.jobs.workshop import open_workshop
from nebrel.piece.parts.carving import RouterPart
from nebrel.piece.parts.maker import PrinterMaker
from nebrel.piece.recipes.ready import READY_RECIPES
from nebrel.settings import Settings
from tools.handbook.tables import table

BIT = ("kind", "diameter_mm", "feed_mm_min", "spindle_rpm")


def shipped_tables() -> str:
    """All of it, as tables."""
    with tempfile.TemporaryDirectory() as folder:
        workshop = open_workshop(Settings(data_dir=Path(folder)))
        try:
            materials = [
                (each.facts.name, f"{each.facts.attenuation_per_mm:g}", f"{each.facts.surface_loss:g}", each.facts.cast)
                for each in workshop.materials.all()
            ]
            filaments = [(each.name, each.colour) for each in workshop.filaments.all()]
            bits = [(each.name, *(each.facts[name] for name in BIT)) for each in workshop.rack.all()]
            posts = [(each.name, _plain(each.facts)) for each in workshop.posts.all()]
        finally:
            workshop.close()
    recipes = [(each.name, each.kind) for each in READY_RECIPES]
    printer, router = PrinterMaker().model_dump(mode="json"), RouterPart().model_dump(mode="json")
    return "\n".join(
        [
            "## Materials that light shines through\n",
            table(("material", "attenuation per mm", "lost at the surface", "cast"), materials),
            "## Filaments\n", table(("filament", "colour"), filaments),
            "## Bits in the rack\n", table(("bit", "kind", "mm wide", "feed, mm/min", "rpm"), bits),
            "## Ways of writing programs\n", table(("name", "what it does"), posts),
            "## Recipes\n", table(("recipe", "kind of piece"), recipes),
            "## Makers as they begin\n",
            table(("setting of the printer", "usual"), [(name, _plain(value)) for name, value in printer.items()]),
            table(("setting of the router", "usual"), [(name, _plain(value)) for name, value in router.items()]),
        ]
    )  # fmt: skip


def _plain(value: object) -> str:
    if isinstance(value, dict):
        return ", ".join(f"{name} {_plain(each)}" for name, each in value.items())
    if isinstance(value, list):
        return " × ".join(map(_plain, value))
    return f"{value:g}" if isinstance(value, float) else str(value)
