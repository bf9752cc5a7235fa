"""`nebrel make relief`: from a picture to a relief panel, without the shelf."""

from __future__ import annotations

import json as jsons
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from nebrel.cli.endings import HEIGHT_MAPS, MESHES, NO_BLOB
from nebrel.cli.files import check_target, read_file
from nebrel.cli.progress import progress_bar
from nebrel.cli.spellings import angle, backing_of, choice, frame_of, opening_of, points_of, share, steps_of
from nebrel.cli.tell import tell_build
from nebrel.core.units import parse_length

if TYPE_CHECKING:
    from nebrel.core.height.export import HeightMap


MEMORY_BYTES = 64 * 2**20
MASK_BLOB = "1" * 64


def relief(
    picture: Annotated[Path, typer.Argument(help="PNG, JPEG, TIFF, WebP or BMP.")],
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
    smooth: Annotated[str, typer.Option(help="Radius of a light smoothing.")] = "0",
    keep_edges: Annotated[str, typer.Option(help="Steps taller than this stay when smoothing.")] = "0",
    rule: Annotated[str, typer.Option(help="straight, curve, steps or compress.")] = "straight",
    steps: Annotated[
        str | None, typer.Option(help='Tones and millimetres, "0:0,0.5:1,1:2"; found in the picture when left out.')
    ] = None,
    curve: Annotated[str | None, typer.Option(help='Tones and shares of the relief, "0:0,0.3:0.6,1:1".')] = None,
    strength: Annotated[float, typer.Option(help="How much --rule compress attenuates, 0 to 1.")] = 0.5,
    cut_below: Annotated[float | None, typer.Option(help="Tones below this become blank, 0 to 1.")] = None,
    mask: Annotated[Path | None, typer.Option(help="A second picture that scales the height.")] = None,
    base: Annotated[str, typer.Option(help="rectangle, rounded, ellipse, polygon or outline.")] = "rectangle",
    corner: Annotated[str, typer.Option(help="Corner radius of a rounded base.")] = "5",
    sides: Annotated[int, typer.Option(help="Sides of a polygon base.")] = 6,
    margin: Annotated[str, typer.Option(help="How far an outline base reaches beyond the picture.")] = "0",
    frame: Annotated[
        str | None, typer.Option(help="Width by height, 4x2; with a profile, 4x2:round (flat, bevel, round, cove).")
    ] = None,
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
    json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
) -> int:
    """Make a relief panel: tones become heights over a back."""
    check_target(output, (*MESHES, *HEIGHT_MAPS))
    data = read_file(picture, "picture_bytes")
    masking = None if mask is None else read_file(mask, "picture_bytes")
    relief_mm = parse_length(relief)
    rule_of = {
        "kind": choice("--rule", rule, ("straight", "curve", "steps", "compress")),
        "tall": choice("--raise", raise_, ("bright", "dark")),
        "relief_mm": relief_mm,
        "strength": strength,
        **({} if curve is None else {"points": points_of(curve)}),
    }
    table = None if steps is None else steps_of(steps)
    height = {
        "cut": _switch("tone", None if cut_below is None else share("--cut-below", cut_below)),
        "mask": {} if mask is None else {"blob": MASK_BLOB, "name": mask.name[-255:]},
        "smooth_mm": parse_length(smooth),
        "smooth_keep_mm": parse_length(keep_edges),
        "smooth_where": choice("--smooth-where", smooth_where, ("all", "slopes", "terraces")),
        "draft": _switch("wall_deg", None if draft is None else angle("--draft", draft)),
        "rounding": _switch("radius_mm", None if round_ is None else parse_length(round_)),
    }
    body = {
        "width_mm": parse_length(width),
        **backing_of(backing),
        "shape": choice("--base", base, ("rectangle", "rounded", "ellipse", "polygon", "outline")),
        "corner_mm": parse_length(corner),
        "sides": sides,
        "margin_mm": parse_length(margin),
        "frame": frame_of(frame),
        "edge": {
            **_switch("bevel_mm", None if bevel is None else parse_length(bevel), "bevel_on"),
            **_switch("draft_deg", None if wall_draft is None else angle("--wall-draft", wall_draft), "draft_on"),
        },
        "openings": [opening_of(given) for given in hole or []],
    }
    finish = {"tolerance_mm": parse_length(tolerance)}

    from nebrel.cli.mesh_files import save_mesh
    from nebrel.core.height import found_steps
    from nebrel.core.mesh.formats import format_of
    from nebrel.core.picture import read_picture
    from nebrel.piece.evaluation.cache import ResultCache
    from nebrel.piece.evaluation.sources import Sources
    from nebrel.piece.kinds.panel.document import PanelDocument
    from nebrel.piece.kinds.panel.evaluator import PanelEvaluator
    from nebrel.piece.parts.pictured import picture_source
    from nebrel.piece.parts.refusals import parse_part
    from nebrel.settings import Settings

    settings = Settings()
    opened = read_picture(data, picture.name, settings.read_limits)
    if rule == "steps":
        rows = found_steps(opened, relief_mm) if table is None else table
        rule_of["steps"] = [{"tone": tone, "mm": mm} for tone, mm, *_ in rows]
    document = parse_part(
        PanelDocument,
        {
            "title": picture.stem[:120] or "Relief",
            "picture": picture_source(NO_BLOB, picture.name, opened.facts).model_dump(),
            "height": {"rule": rule_of, **height},
            "body": body,
            "finish": finish,
        },
    )
    sources = Sources(
        lambda blob: data if blob == NO_BLOB else masking or b"", ResultCache(MEMORY_BYTES), settings.read_limits
    )
    evaluator = PanelEvaluator(document, sources)
    if output.suffix.lower() in HEIGHT_MAPS:
        return _as_picture(evaluator.height_map(), output, json)
    with progress_bar() as progress:
        slab, report = evaluator.build(progress)
        save_mesh(slab.mesh, output, format_of(output.name), lambda part: progress("Writing the file", part))
    report = report.model_copy(update={"file_bytes": output.stat().st_size})
    tell_build(report, output, json)
    return 0 if report.sound else 1


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
