"""`nebrel make lithophane` and `light`: pictures that appear in light."""

from __future__ import annotations

import json as jsons
from dataclasses import asdict
from pathlib import Path
from tempfile import TemporaryDirectory
from types import SimpleNamespace
from typing import TYPE_CHECKING, Annotated, Any

import typer

from nebrel.cli.endings import MESHES, NO_BLOB
from nebrel.cli.files import check_target
from nebrel.cli.idle import Need, refuse_idle, was_given
from nebrel.cli.progress import progress_bar
from nebrel.cli.recipes import RecipeOption, by_recipe
from nebrel.cli.spellings import choice, lithophane_form_of
from nebrel.cli.tell import tell_build
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length
from nebrel.interface.reading import read_file

if TYPE_CHECKING:
    from nebrel.piece.kinds.lithophane.document import LithophaneDocument
    from nebrel.piece.parts.material import TranslucentMaterialPart
    from nebrel.piece.report import LitColoursReport
    from nebrel.settings import Settings


MEMORY_BYTES = 512 * 2**20
COLOUR_ENDINGS = (".3mf", ".glb", ".obj")
MOST_TABLE_BYTES = 2**16
LIGHT_PX = 1440
# What options need before they have an effect: the option that has to say so, and what it has to say.
LITHOPHANE_NEEDS: dict[str, Need] = {
    "beyond": ("rule", "light"),
    "strength": ("rule", "light"),
    "colour_layer": ("colour_layers", "> 0"),
    "colour_table": ("colour_layers", "> 0"),
}
# Of a wall's places, so many are thinner than what counts as its thinnest: a few pinholes do not dim all the rest.
PINHOLES = 0.002
Output = Annotated[Path, typer.Option("-o", "--output", help="STL, OBJ, PLY, OFF, 3MF or GLB by its ending.")]
MaterialName = Annotated[str | None, typer.Option("--material", help="A name of the material table.")]
AsJson = Annotated[bool, typer.Option("--json", help="Print the report as JSON.")]


def lithophane(
    picture: Annotated[Path, typer.Argument(help="PNG, JPEG, TIFF, WebP, BMP, GIF, AVIF, HEIC, JPEG XL or EXR.")],
    output: Output,
    width: Annotated[str, typer.Option(help="Width with its border; once round where it runs round.")] = "90",
    thinnest: Annotated[str, typer.Option(help="Wall where the picture is white.")] = "0.8",
    thickest: Annotated[str, typer.Option(help="Thickest wall allowed.")] = "3.2",
    spread: Annotated[
        str | None, typer.Option(help="By how much light spreads in the wall; the material's own where left out.")
    ] = None,
    no_sharpen: Annotated[bool, typer.Option("--no-sharpen", help="Do not make up for the spread of light.")] = False,
    tones: Annotated[
        str, typer.Option(help="Of colours: luminance, as the light they send out; coded, as the file has them.")
    ] = "luminance",
    rule: Annotated[str, typer.Option(help="light: the lit picture matches; straight: even steps.")] = "light",
    material: MaterialName = None,
    beyond: Annotated[str, typer.Option(help="Tones darker than the thickest wall: compress or clip.")] = "compress",
    strength: Annotated[float, typer.Option(help="How much of the light rule, 0 to 1.")] = 1.0,
    border: Annotated[str, typer.Option(help="Width of a border as thick as the thickest wall; 0 for none.")] = "0",
    form: Annotated[
        str,
        typer.Option(
            help="flat, arc:120deg, arc:60 (radius), cylinder, cylinder:80 (diameter), cone:30x50x80 (top, bottom, "
            "height), sphere:80, dome:80, heart or prism:6."
        ),
    ] = "flat",
    relief: Annotated[str, typer.Option(help="Side on which thickness grows: outside or inside.")] = "outside",
    opening: Annotated[str, typer.Option(help="Opening under a sphere.")] = "30",
    name: Annotated[str | None, typer.Option(help="Text sunk into the lower border.")] = None,
    foot: Annotated[bool, typer.Option("--foot", help="Add a foot.")] = False,
    flat: Annotated[
        str | None, typer.Option(help="Cut off so much below, so that a sphere or cone stands, 0.6.")
    ] = None,
    lamp_hole: Annotated[str | None, typer.Option("--bottom", help="Add a bottom with a lamp hole, 28.")] = None,
    tolerance: Annotated[str, typer.Option(help="Largest error of the thickness.")] = "0.02",
    colour_layers: Annotated[
        int, typer.Option(help="Layers of each colour behind a flat wall, 1 to 10; 0 for none.")
    ] = 0,
    colour_layer: Annotated[str, typer.Option(help="Height of such a layer.")] = "0.1",
    colour_table: Annotated[
        Path | None, typer.Option(help="CSV of tinted materials as measured: name,mm,red,green,blue shares that pass.")
    ] = None,
    hold_between: Annotated[
        bool,
        typer.Option(
            "--hold-between", help="Of a flat wall: hold the tolerance between samples too; takes more triangles."
        ),
    ] = False,
    edges: Annotated[
        str, typer.Option(help="Where thickness jumps, walls follow curves, or the pixels: curves or pixels.")
    ] = "pixels",
    recipe: RecipeOption = None,
    json: AsJson = False,
) -> int:
    """Make a lithophane, with its print recipe beside it."""
    given = dict(locals())
    check_target(output, MESHES)
    if recipe is None:
        refuse_idle(given, LITHOPHANE_NEEDS, lithophane)
        if was_given(given, "opening", lithophane) and not form.startswith("sphere"):
            raise BadValueError("--opening has no effect without --form sphere:80; leave it out, or add that.")
    data = read_file(picture, "picture_bytes")
    document = by_recipe(lithophane, given, lambda options: _document(SimpleNamespace(**options), data))

    from nebrel.core.mesh.formats import format_of
    from nebrel.interface.computing import sources_of
    from nebrel.interface.writing import save_mesh
    from nebrel.piece.kinds.lithophane.evaluator import LithophaneEvaluator

    evaluator = LithophaneEvaluator(document, sources_of({NO_BLOB: data}, MEMORY_BYTES))
    with progress_bar() as progress:
        slab, report = evaluator.build(progress)
        mesh, objects = evaluator.delivered_as(slab.mesh)
        save_mesh(
            mesh, output, format_of(output.name), lambda part: progress("Writing the file", part),
            names=evaluator.colour_names, objects=objects,
        )  # fmt: skip
    card = output.with_name(output.stem + "-recipe.txt")
    card.write_text(evaluator.recipe(), encoding="utf-8")
    report = report.model_copy(update={"file_bytes": output.stat().st_size})
    tell_build(report, output, json)
    if not json and report.lit is not None:
        print(
            f"lit: contrast 1 : {report.lit.contrast:.1f}, {report.lit.tones_lost:.1%} of the picture darker than can "
            f"be shown, likeness {report.lit.ssim_within_reach:.3f} within reach; recipe in {card.name}"
        )
        if report.lit.colours is not None:
            _tell_colours(report.lit.colours)
    colours = None if report.lit is None else report.lit.colours
    return 0 if report.sound and (colours is None or all(body.sound for body in colours.bodies)) else 1


def _tell_colours(colours: LitColoursReport) -> None:
    print(
        f"colours: {colours.mean_difference:.1f} off on average (CIEDE2000), nine tenths within "
        f"{colours.largest_tenth:.1f}, {colours.far_off:.1%} of the picture more than 10 off"
    )
    for body in colours.bodies:
        print(f"body {body.name}: {body.volume_mm3:.1f} mm3, {body.triangles} triangles, sound: {body.sound}")


def _document(asked: Any, data: bytes) -> LithophaneDocument:
    border_mm, letters = parse_length(asked.border), None if asked.name is None else asked.name.strip()
    thick = parse_length(asked.thickest)
    glow: dict[str, object] = {
        "rule": choice("--rule", asked.rule, ("light", "straight")),
        "tones": choice("--tones", asked.tones, ("luminance", "coded")),
        "thinnest_mm": parse_length(asked.thinnest),
        "thickest_mm": thick,
        "beyond": choice("--beyond", asked.beyond, ("compress", "clip")),
        "strength": asked.strength,
        "sharpen": not asked.no_sharpen,
    }
    bent = {
        **lithophane_form_of(asked.form, parse_length(asked.width)),
        "relief": choice("--relief", asked.relief, ("outside", "inside")),
        "opening_mm": parse_length(asked.opening),
    }
    if asked.hold_between and bent["kind"] != "flat":
        raise BadValueError(
            f"--hold-between is for flat walls, and --form is {asked.form}; its report tells max_error_between_mm."
        )
    colours = _colours(asked, bent["kind"])
    parts = _parts(border_mm, thick, letters, asked.foot, asked.lamp_hole, asked.flat)
    finish = {"tolerance_mm": parse_length(asked.tolerance), "between": asked.hold_between}

    from nebrel.core.mesh.formats import format_of
    from nebrel.core.picture import read_picture
    from nebrel.piece.kinds.lithophane.document import LithophaneDocument
    from nebrel.piece.parts.pictured import picture_source
    from nebrel.piece.parts.refusals import parse_part
    from nebrel.settings import Settings

    settings, picture = Settings(), asked.picture
    material, spread_mm = material_named(asked.material, settings)
    glow["material"] = material.model_dump()
    glow["spread_mm"] = spread_mm if asked.spread is None else parse_length(asked.spread)
    opened = read_picture(data, picture.name, settings.read_limits)
    return parse_part(
        LithophaneDocument,
        {
            "title": picture.stem[:120] or "Lithophane",
            "picture": picture_source(NO_BLOB, picture.name, opened.facts).model_dump(),
            "glow": glow,
            "form": bent,
            "parts": parts,
            "finish": finish,
            "edges": {"on": choice("--edges", asked.edges, ("curves", "pixels")) == "curves"},
            "colours": colours,
            "delivery": {"format": format_of(asked.output.name)},
        },
    )


def _colours(asked: Any, kind: object) -> dict[str, object]:
    if asked.colour_layers == 0:
        return {}
    if kind != "flat":
        raise BadValueError(f"--colour-layers lie behind flat walls, and --form is {asked.form}; --form flat has one.")
    ending = asked.output.suffix.lower()
    if ending not in COLOUR_ENDINGS:
        raise BadValueError(
            f"{ending.removeprefix('.').upper()} cannot tell one colour's body from another's; "
            f"{', '.join(each.removeprefix('.').upper() for each in COLOUR_ENDINGS)} can."
        )
    made: dict[str, object] = {
        "on": True, "layers": asked.colour_layers, "layer_mm": parse_length(asked.colour_layer),
    }  # fmt: skip
    if asked.colour_table is not None:
        try:
            made["table"] = read_file(asked.colour_table, MOST_TABLE_BYTES).decode("utf-8-sig")
        except UnicodeDecodeError as cause:
            raise BadValueError(
                f"{asked.colour_table.name} is not plain text; lines like Cyan,0.1,0.52,0.86,0.92 are needed."
            ) from cause
    return made


def _parts(
    border_mm: float, thick: float, letters: str | None, foot: bool, lamp_hole: str | None, flat: str | None
) -> dict[str, object]:
    if border_mm < 0:
        raise BadValueError(f"--border is {border_mm:g} mm; 0 for none, or a width above it, would be accepted.")
    if letters and border_mm == 0:
        raise BadValueError("--name needs a border to stand on; give its width as --border 5.")
    rim = {"on": True, "width_mm": border_mm, "thickness_mm": thick}
    name = {"on": True, "text": letters, "height_mm": round(0.7 * border_mm, 3), "depth_mm": 0.6}
    return {
        "rim": rim if border_mm > 0 else {"on": False},
        "name": name if letters else {},
        "foot": {"on": foot},
        "flat": {} if flat is None else {"on": True, "depth_mm": parse_length(flat)},
        "bottom": {} if lamp_hole is None else {"on": True, "hole_mm": parse_length(lamp_hole)},
    }


def light(
    what: Annotated[str, typer.Argument(help="A mesh file, or the title or id of a lithophane on the shelf.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="PNG.")],
    material: MaterialName = None,
    side: Annotated[str, typer.Option(help="For a mesh, where the eye is: auto, top or front.")] = "auto",
    lamp: Annotated[
        str, typer.Option(help="Colour of the lamp, #rrggbb or 2700K; several with commas are painted side by side.")
    ] = "#ffe0b3",
    power: Annotated[float, typer.Option(help="Power of the lamp; 1 makes the thinnest wall white.")] = 1.0,
    ambient: Annotated[float, typer.Option(help="Light of the room, 0 to 1.")] = 0.03,
    json: AsJson = False,
) -> int:
    """Paint what is seen when a lamp stands behind: the unrolled sheet of a piece, or any mesh as it stands."""
    check_target(output, (".png",))

    import numpy as np
    from PIL import Image

    from nebrel.cli.shelf import piece_named
    from nebrel.core.mesh.formats import read_mesh
    from nebrel.core.proof.from_behind import likely_side, nearest_wall
    from nebrel.core.proof.lit import lit_picture, shown_contrast, shown_tones
    from nebrel.jobs.workshop import open_workshop
    from nebrel.piece.evaluation.abilities import HasSheet
    from nebrel.piece.evaluation.prepare import FULL
    from nebrel.piece.kinds.lithophane.document import LampPart
    from nebrel.piece.parts.refusals import parse_part
    from nebrel.settings import Settings

    settings = Settings()
    if Path(what).suffix.lower() in MESHES or Path(what).is_file():
        path = Path(what)
        mesh = read_mesh(read_file(path, "mesh_bytes"), path.name, None).mesh
        chosen = choice("--side", side, ("auto", "top", "front"))
        from_top = likely_side(mesh) == "top" if chosen == "auto" else chosen == "top"
        through = nearest_wall(mesh, "top" if from_top else "front", LIGHT_PX)
        made = material_named(material, settings)[0].to_core()
        shown = through[np.isfinite(through)]
        thinnest, walls, colour = float(np.quantile(shown, PINHOLES)), shown, None
    else:
        workshop = open_workshop(settings)
        try:
            piece = workshop.piece(piece_named(workshop.pieces.all(), what).id)
            sheet = piece.having(HasSheet)
            view, rule = sheet.lit(FULL), sheet.rule
            through, colour = view.seen, view.colour
        finally:
            workshop.close()
        made = rule.material if material is None else material_named(material, settings)[0].to_core()
        inside = np.isfinite(view.tones) & (view.through > 0)
        thinnest, shown, walls = rule.thinnest, through[inside], view.through[inside]
    lamps = [lamp_colour(each.strip()) for each in lamp.split(",")]
    pictures = []
    for each in lamps:
        lamp_made = parse_part(LampPart, {"colour": each, "power": power, "ambient": ambient}).to_core()
        pictures.append(lit_picture(np.nan_to_num(through, nan=1e6), made, thinnest, lamp_made, colour))
    painted = np.hstack(pictures)
    Image.fromarray(painted).save(output)
    span = float(walls.min()), float(walls.max())
    contrast = shown_contrast(shown_tones(shown, made, thinnest))
    if json:
        facts = {
            "thinnest_mm": round(span[0], 4), "thickest_mm": round(span[1], 4), "contrast": round(contrast, 3),
            "width_px": painted.shape[1], "height_px": painted.shape[0], "lamps": lamps,
        }  # fmt: skip
        print(jsons.dumps(facts, indent=2))
    else:
        print(f"{output}: walls of {span[0]:.2f} to {span[1]:.2f} mm, contrast 1 : {contrast:.1f}")
    return 0


def lamp_colour(given: str) -> str:
    """`#rrggbb` of a lamp, from that or from a colour temperature like 2700K."""
    if not given.lower().endswith("k"):
        return given.lower()
    from nebrel.core.proof.lamp_colour import lamp_of_temperature
    from nebrel.piece.parts.material import shown_of

    try:
        kelvin = float(given[:-1])
    except ValueError as cause:
        raise BadValueError(f"--lamp is “{given}”; #ffe0b3 or 2700K, a colour or its temperature, would do.") from cause
    return shown_of(lamp_of_temperature(kelvin))


def material_named(name: str | None, settings: Settings) -> tuple[TranslucentMaterialPart, float]:
    """A material of the shelf's table, or of the table that a new shelf starts with, and by how many mm light spreads.

    Without a name the one that pieces begin with.
    """
    from nebrel.piece.parts.material import TranslucentMaterialPart
    from nebrel.store.database import open_database
    from nebrel.store.materials import Materials

    if name is None:
        return TranslucentMaterialPart(), 0.0
    kept = settings.data_dir / "nebrel.sqlite"
    with TemporaryDirectory() as folder:
        database = open_database(kept if kept.is_file() else Path(folder) / kept.name)
        try:
            facts = asdict(Materials(database).named(name))
        finally:
            database.close()
    facts.pop("measured")
    spread_mm = facts.pop("spread_mm")
    return TranslucentMaterialPart.model_validate(facts), spread_mm
