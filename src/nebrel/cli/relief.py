"""`nebrel make relief`: from a picture to a relief panel, without the shelf."""

from __future__ import annotations

import json as jsons
from collections.abc import Mapping
from pathlib import Path
from types import SimpleNamespace
from typing import TYPE_CHECKING, Annotated, Any

import typer

from nebrel.cli.endings import HEIGHT_MAPS, MESHES, NO_BLOB
from nebrel.cli.files import check_target
from nebrel.cli.idle import Need, refuse_idle, was_given
from nebrel.cli.laid import laid_of
from nebrel.cli.progress import progress_bar
from nebrel.cli.recipes import RecipeOption, by_recipe
from nebrel.cli.relief_form import form_of, refuse_idle_form, texture_of
from nebrel.cli.spellings import angle, backing_of, choice, frame_of, opening_of, points_of, share, steps_of
from nebrel.cli.tell import tell_build
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length
from nebrel.interface.reading import read_file

if TYPE_CHECKING:
    from nebrel.core.height.export import HeightMap
    from nebrel.piece.kinds.panel.document import PanelDocument
    from nebrel.piece.kinds.panel.evaluator import PanelEvaluator


MEMORY_BYTES = 64 * 2**20
MASK_BLOB = "1" * 64


def relief(
    picture: Annotated[Path, typer.Argument(help="PNG, JPEG, TIFF, WebP, BMP, GIF, AVIF, HEIC, JPEG XL or EXR.")],
    output: Annotated[
        Path,
        typer.Option(
            "-o", "--output", help="STL, OBJ, PLY, OFF, 3MF or GLB by its ending; PNG or TIFF for a height map."
        ),
    ],
    width: Annotated[str, typer.Option(help="Width of the panel.")] = "80",
    relief: Annotated[str, typer.Option(help="From the lowest to the highest point that tones can give.")] = "3",
    backing: Annotated[
        str, typer.Option(help="Solid thickness under the lowest point; follow:1.2 along the relief; none.")
    ] = "1.2",
    raise_: Annotated[str, typer.Option("--raise", help="Which tones stand tall: bright or dark.")] = "bright",
    tolerance: Annotated[str, typer.Option(help="Largest distance from the asked surface.")] = "0.02",
    hold_between: Annotated[
        bool, typer.Option("--hold-between", help="Hold the tolerance between samples, too; it takes more triangles.")
    ] = False,
    smooth: Annotated[str, typer.Option(help="Radius of a light smoothing.")] = "0",
    keep_edges: Annotated[str, typer.Option(help="Steps taller than this stay when smoothing.")] = "0",
    rule: Annotated[
        str,
        typer.Option(help="straight, curve, steps, compress, or an edge rule like edge:dome:4."),
    ] = "straight",
    steps: Annotated[
        str | None, typer.Option(help='Tones and millimetres, "0:0,0.5:1,1:2"; found in the picture when left out.')
    ] = None,
    curve: Annotated[str | None, typer.Option(help='Tones and shares of the relief, "0:0,0.3:0.6,1:1".')] = None,
    strength: Annotated[float, typer.Option(help="How much --rule compress attenuates, 0 to 1.")] = 0.5,
    form: Annotated[
        str | None,
        typer.Option(
            help="Heights follow depth and not tones: learned, swell, light, a depth picture, or MODEL.onnx with its "
            "card."
        ),
    ] = None,
    hold_back: Annotated[float, typer.Option(help="How much of a depth is held back, 0 to 1.")] = 0.5,
    step: Annotated[str, typer.Option(help="Least step where one thing hides another.")] = "0.3",
    fine: Annotated[
        str | None, typer.Option(help="Fine tones on the form: a strength, 0.5, with the radius of light, 0.5:2.")
    ] = None,
    strokes: Annotated[
        Path | None, typer.Option(help="JSON of strokes, and of parts in order, as for `nebrel make figure`.")
    ] = None,
    ground: Annotated[bool, typer.Option(help="What is cut out stands on a ground, or by itself.")] = True,
    span: Annotated[str, typer.Option(help="From the furthest to the nearest of a depth picture.")] = "15",
    near: Annotated[str, typer.Option(help="Tones of a depth picture that are nearer: bright or dark.")] = "bright",
    cut_out: Annotated[bool, typer.Option("--cut-out", help="Cut what matters out of a plain background.")] = False,
    texture: Annotated[
        str | None,
        typer.Option(
            help="A texture of the ground by its size and depth, hammered:2.5x0.3; or noise, leather, wood, hatching. "
            "all:hammered:2.5x0.3 lies everywhere."
        ),
    ] = None,
    laid: Annotated[
        Path | None,
        typer.Option(help="JSON of reliefs that are laid on the heights, each a picture beside it; see the README."),
    ] = None,
    cut_below: Annotated[float | None, typer.Option(help="Tones below this become blank, 0 to 1.")] = None,
    mask: Annotated[Path | None, typer.Option(help="A second picture that scales the height.")] = None,
    base: Annotated[str, typer.Option(help="rectangle, rounded, ellipse, polygon or outline.")] = "rectangle",
    corner: Annotated[str, typer.Option(help="Corner radius of a rounded base.")] = "5",
    sides: Annotated[int, typer.Option(help="Sides of a polygon base.")] = 6,
    margin: Annotated[str, typer.Option(help="How far an outline base reaches beyond the picture.")] = "0",
    frame: Annotated[
        str | None, typer.Option(help="Width by height, 4x2; with a profile, 4x2:round (flat, bevel, round, cove).")
    ] = None,
    edges: Annotated[
        str, typer.Option(help="Where heights jump, walls follow curves, or the pixels of the picture.")
    ] = "curves",
    draft: Annotated[str | None, typer.Option(help="Walls lean at least this much, 5deg.")] = None,
    round_: Annotated[str | None, typer.Option("--round", help="Radius of upper edges.")] = None,
    bevel: Annotated[str | None, typer.Option(help="45 degree cut along the outer edge.")] = None,
    wall_draft: Annotated[str | None, typer.Option(help="Outer walls lean inwards, 5deg.")] = None,
    smooth_where: Annotated[str, typer.Option(help="all, slopes or terraces.")] = "all",
    hole: Annotated[
        list[str] | None,
        typer.Option(
            help="hanging:4x6 or corners:3.2x5, diameter by distance from the edge; keyhole; stand. Repeatable."
        ),
    ] = None,
    recipe: RecipeOption = None,
    json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
) -> int:
    """Make a relief panel: tones become heights over a back."""
    given = dict(locals())
    check_target(output, (*MESHES, *HEIGHT_MAPS))
    evaluator = relief_evaluator(given)

    from nebrel.core.mesh.formats import format_of
    from nebrel.interface.writing import save_mesh

    if output.suffix.lower() in HEIGHT_MAPS:
        return _as_picture(evaluator.height_map(), output, json)
    with progress_bar() as progress:
        slab, report = evaluator.build(progress)
        save_mesh(slab.mesh, output, format_of(output.name), lambda part: progress("Writing the file", part))
    report = report.model_copy(update={"file_bytes": output.stat().st_size})
    tell_build(report, output, json)
    return 0 if report.sound else 1


def _rule_of(given: str) -> dict[str, Any]:
    """The kind of a rule, and what an edge rule adds to that."""
    kind, _, rest = given.partition(":")
    if kind != "edge":
        return {"kind": choice("--rule", given, ("straight", "curve", "steps", "compress"))}
    profile, _, value = rest.partition(":")
    if profile not in {"roof", "dome", "cove", "pillow", "rope"} or (profile == "pillow") == bool(value):
        raise BadValueError(
            f"--rule is “{given}”; edge:roof:45deg, edge:dome:4, edge:cove:4, edge:rope:4 or edge:pillow would be "
            "accepted."
        )
    found: dict[str, Any] = {"kind": "edge", "edge": profile}
    if profile == "roof":
        found["roof_deg"] = angle("--rule", value)
    elif profile != "pillow":
        found["edge_mm"] = parse_length(value)
    return found


def relief_evaluator(given: Mapping[str, Any]) -> PanelEvaluator:
    """The panel of a picture, by the options of `relief` under the names of its parameters."""
    if given.get("recipe") is None:
        refuse_idle(given, RELIEF_NEEDS, relief)
        refuse_idle_form(given, relief)
        _refuse_steps_above(given)
    files = {NO_BLOB: read_file(given["picture"], "picture_bytes")}
    if given["mask"] is not None:
        files[MASK_BLOB] = read_file(given["mask"], "picture_bytes")
    options = {"recipe": None, **given}
    document = by_recipe(relief, options, lambda each: _document(SimpleNamespace(**each), files))

    from nebrel.interface.computing import sources_of
    from nebrel.piece.kinds.panel.evaluator import PanelEvaluator
    from nebrel.piece.registry import opened

    return PanelEvaluator(document, sources_of(files, MEMORY_BYTES), opened)


# What options need before they have an effect: the option that has to say so, and what it has to say.
RELIEF_NEEDS: dict[str, Need] = {
    "curve": ("rule", "curve"),
    "steps": ("rule", "steps"),
    "strength": ("rule", "compress"),
    "corner": ("base", "rounded"),
    "sides": ("base", "polygon"),
    "margin": ("base", "outline"),
    "keep_edges": ("smooth", "> 0"),
    "smooth_where": ("smooth", "> 0"),
}


def _refuse_steps_above(given: Mapping[str, Any]) -> None:
    """Steps say how high the relief is, so that a height of it which is given as well must not be lower."""
    if given["steps"] is None or not was_given(given, "relief", relief):
        return
    highest, asked = max(mm for _, mm in steps_of(given["steps"])), parse_length(given["relief"])
    if highest > asked:
        raise BadValueError(
            f"--steps go up to {highest:g} mm and --relief is {asked:g} mm; leave --relief out, or ask for lower steps."
        )


def _document(asked: Any, files: dict[str, bytes]) -> PanelDocument:
    """The document that options ask for; `files` holds the picture, and takes what options name besides."""
    form, named = form_of(asked)
    files |= named
    laid, pictures = ([], {}) if asked.laid is None else laid_of(asked.laid)
    files |= pictures
    relief_mm = parse_length(asked.relief)
    rule_of = {
        **_rule_of(asked.rule),
        "tall": choice("--raise", asked.raise_, ("bright", "dark")),
        "relief_mm": relief_mm,
        "strength": asked.strength,
        **({} if asked.curve is None else {"points": points_of(asked.curve)}),
    }
    table = None if asked.steps is None else steps_of(asked.steps)
    height = {
        "form": form,
        "laid": laid,
        "texture": {} if asked.texture is None else texture_of(asked.texture),
        "cut": _switch("tone", None if asked.cut_below is None else share("--cut-below", asked.cut_below)),
        "mask": {} if asked.mask is None else {"blob": MASK_BLOB, "name": asked.mask.name[-255:]},
        "smooth_mm": parse_length(asked.smooth),
        "smooth_keep_mm": parse_length(asked.keep_edges),
        "smooth_where": choice("--smooth-where", asked.smooth_where, ("all", "slopes", "terraces")),
        "edges": {"on": choice("--edges", asked.edges, ("curves", "pixels")) == "curves"},
        "draft": _switch("wall_deg", None if asked.draft is None else angle("--draft", asked.draft)),
        "rounding": _switch("radius_mm", None if asked.round_ is None else parse_length(asked.round_)),
    }
    body = {
        "width_mm": parse_length(asked.width),
        **backing_of(asked.backing),
        "shape": choice("--base", asked.base, ("rectangle", "rounded", "ellipse", "polygon", "outline")),
        "corner_mm": parse_length(asked.corner),
        "sides": asked.sides,
        "margin_mm": parse_length(asked.margin),
        "frame": frame_of(asked.frame),
        "edge": {
            **_switch("bevel_mm", None if asked.bevel is None else parse_length(asked.bevel), "bevel_on"),
            **_switch(
                "draft_deg", None if asked.wall_draft is None else angle("--wall-draft", asked.wall_draft), "draft_on"
            ),
        },
        "openings": [opening_of(given) for given in asked.hole or []],
    }
    finish = {"tolerance_mm": parse_length(asked.tolerance), "between": asked.hold_between}

    from nebrel.core.height import found_steps
    from nebrel.core.picture import read_picture
    from nebrel.piece.kinds.panel.document import PanelDocument
    from nebrel.piece.parts.pictured import picture_source
    from nebrel.piece.parts.refusals import parse_part
    from nebrel.settings import Settings

    settings = Settings()
    opened = read_picture(files[NO_BLOB], asked.picture.name, settings.read_limits)
    if asked.rule == "steps":
        rows = found_steps(opened, relief_mm) if table is None else table
        rule_of["steps"] = [{"tone": tone, "mm": mm} for tone, mm, *_ in rows]
    return parse_part(
        PanelDocument,
        {
            "title": asked.picture.stem[:120] or "Relief",
            "picture": picture_source(NO_BLOB, asked.picture.name, opened.facts).model_dump(),
            "ops": [{"kind": "cut-out", "id": "cut-out"}] if asked.cut_out else [],
            "height": {"rule": rule_of, **height},
            "body": body,
            "finish": finish,
        },
    )


def _as_picture(made: HeightMap, output: Path, json: bool) -> int:
    from nebrel.cli.height_maps import save_height_map

    save_height_map(made, output)
    facts = {**made.facts, "file_bytes": output.stat().st_size}
    if json:
        print(jsons.dumps(facts, indent=2))
        return 0
    pixels = f"{facts['width_px']} × {facts['depth_px']} pixels"
    size = f"{facts['width_mm']:g} × {facts['depth_mm']:g} mm, up to {facts['highest_mm']:g} mm"
    print(f"{output}: {pixels}, {size}; facts in {output.with_suffix('.json').name}")
    return 0


def _switch(key: str, value: float | None, switch: str = "on") -> dict[str, object]:
    return {switch: False} if value is None else {switch: True, key: value}
