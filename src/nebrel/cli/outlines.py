"""`nebrel trace` and `nebrel make outline`, `cutter`, `stamp`: outlines from pictures and drawings."""

from __future__ import annotations

import json as jsons
import re
from pathlib import Path
from types import SimpleNamespace
from typing import TYPE_CHECKING, Annotated, Any

import typer

from nebrel.cli.endings import DRAWINGS, MESHES, NO_BLOB
from nebrel.cli.files import check_target, read_file, refuse_missing
from nebrel.cli.progress import progress_bar
from nebrel.cli.recipes import RecipeOption, by_recipe
from nebrel.cli.spellings import angle, choice, edge_profile_of
from nebrel.cli.tell import tell_build
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from nebrel.core.region.curves import Figure
    from nebrel.piece.evaluation.evaluator import Progress
    from nebrel.piece.kinds.outline.document import OutlineDocument
    from nebrel.piece.kinds.outline.evaluator import DrawnEvaluator, TracedEvaluator

    AnyOutlines = TracedEvaluator | DrawnEvaluator


MEMORY_BYTES = 256 * 2**20
Width = Annotated[str, typer.Option(help="Width of the finished outline.")]
Smooth = Annotated[float, typer.Option(help="0 as faithful as the picture is, to 1 for broad strokes.")]
Level = Annotated[str, typer.Option(help="Tone at the edge, 0 to 1, or auto.")]
Smallest = Annotated[float, typer.Option(help="Parts and holes of fewer square millimetres are left out.")]
Unit = Annotated[str | None, typer.Option(help="Unit of a drawing that does not say: mm, cm, m, in or ft.")]
Json = Annotated[bool, typer.Option("--json", help="Print the report as JSON.")]
Output = Annotated[
    Path,
    typer.Option(
        "-o", "--output", help="The file to write; its ending tells the format: STL, OBJ, PLY, OFF, 3MF, GLB."
    ),
]
Source = Annotated[Path, typer.Argument(help="A picture, or an SVG or DXF drawing.")]


def trace(
    picture: Annotated[Path, typer.Argument(help="PNG, JPEG, TIFF, WebP or BMP; SVG and DXF are passed through.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="SVG or DXF by its ending.")],
    width: Annotated[str, typer.Option(help="Width of the whole picture.")] = "60",
    level: Level = "auto",
    tones: Annotated[int | None, typer.Option(help="Follow the borders between so many tones.")] = None,
    centre_line: Annotated[bool, typer.Option("--centre-line", help="Follow the middles of drawn lines.")] = False,
    smooth: Smooth = 0.3,
    smallest: Smallest = 0.2,
    tolerance: Annotated[str | None, typer.Option(help="Largest distance from the picture's edge.")] = None,
    ink: Annotated[str, typer.Option(help="What is drawn: auto, dark or bright.")] = "auto",
    splines: Annotated[bool, typer.Option("--splines", help="Write SPLINEs to DXF in place of polylines.")] = False,
    unit: Unit = None,
    json: Json = False,
) -> int:
    """Follow the edges of a picture, or read a drawing, and write the outlines at true size."""
    check_target(output, DRAWINGS)
    refuse_missing(picture)
    if tones is not None and centre_line:
        raise BadValueError("Both --tones and --centre-line are given; one of them would be accepted.")
    given = {
        **({"by": "centre-line"} if centre_line else {}),
        "tolerance_mm": None if tolerance is None else parse_length(tolerance),
        **_tracing(level, smooth, smallest, ink, tones),
    }
    with progress_bar() as progress:
        found = _open(picture, parse_length(width), {"kind": "raised"}, given, unit).outlines(progress)

    from nebrel.core.region.read import drawing_format
    from nebrel.core.region.write import drawing_bytes
    from nebrel.store.blobs import write_atomically

    data = drawing_bytes(found.figure, drawing_format(output.name), splines)
    write_atomically(output, lambda file: _write(file, data))
    report = outline_report(found.figure, found.max_deviation, found.rms_deviation)
    if json:
        print(jsons.dumps(report, indent=2))
    else:
        holes = f" with {report['holes']:,} holes" if report["holes"] else ""
        print(f"{output}: {report['regions']:,} parts{holes}, {report['nodes']:,} nodes, {report['area_mm2']:.2f} mm²")
        print(f"no further than {found.max_deviation:.3f} mm from the edge, RMS {found.rms_deviation:.3f} mm")
    return 0


def outline(
    file: Source,
    output: Output,
    width: Width = "60",
    thickness: Annotated[str, typer.Option(help="How tall the outline stands.")] = "3",
    base: Annotated[
        str, typer.Option(help="none, or rectangle, ellipse or outline with margin by thickness: outline:3x1.2.")
    ] = "none",
    edge: Annotated[str, typer.Option(help="square, bevel:0.5 or round:0.5.")] = "square",
    edge_profile: Annotated[
        str | None, typer.Option(help="Rise from the edge: roof:45deg, dome:4, cove:4, rope:4 or pillow.")
    ] = None,
    both: Annotated[bool, typer.Option("--both", help="Edges below as well.")] = False,
    cut: Annotated[bool, typer.Option("--cut", help="Cut the outline out of the base.")] = False,
    shell: Annotated[str, typer.Option(help="none, or inside, centred or outside with a width: inside:1.2.")] = "none",
    inlay: Annotated[str | None, typer.Option(help="A plate with a pocket and an insert, with this clearance.")] = None,
    tones: Annotated[int | None, typer.Option(help="Follow the borders between so many tones.")] = None,
    heights: Annotated[str | None, typer.Option(help="Heights of the tones or layers, 0,2,3.5.")] = None,
    level: Level = "auto",
    smooth: Smooth = 0.3,
    smallest: Smallest = 0.2,
    unit: Unit = None,
    recipe: RecipeOption = None,
    json: Json = False,
) -> int:
    """Raise an outline, or cut it through a plate."""
    return _make(outline, dict(locals()), _outline_solid)


def _outline_solid(asked: Any) -> dict[str, Any]:
    kind, edge_mm = _kind_and_size("--edge", asked.edge, ("square", "bevel", "round"), "bevel:0.5")
    profile: dict[str, Any] = {}
    if asked.edge_profile is not None:
        if kind != "square":
            raise BadValueError("--edge and --edge-profile exclude each other; one of them would be accepted.")
        kind, reach = edge_profile_of(asked.edge_profile, parse_length(asked.thickness))
        profile = {} if reach is None else {"profile_mm": reach}
    band, band_mm = _kind_and_size("--shell", asked.shell, ("none", "inside", "centred", "outside"), "inside:1.2")
    return {
        "kind": "raised",
        "thickness_mm": parse_length(asked.thickness),
        "base": _base("--base", asked.base),
        "edge": kind,
        **profile,
        "edge_both": asked.both,
        "cut": asked.cut,
        "shell": band,
        **({} if edge_mm is None else {"edge_mm": edge_mm}),
        **({} if band_mm is None else {"shell_mm": band_mm}),
        **({} if asked.inlay is None else {"inlay": True, "clearance_mm": parse_length(asked.inlay)}),
        **({} if asked.heights is None else {"heights_mm": [parse_length(part) for part in asked.heights.split(",")]}),
    }


def cutter(
    file: Source,
    output: Output,
    width: Width = "60",
    lines: Annotated[int, typer.Option(help="Printed lines to the wall.")] = 4,
    line: Annotated[str, typer.Option(help="Width of a printed line.")] = "0.45",
    height: Annotated[str, typer.Option(help="Height of the whole cutter.")] = "16",
    edge: Annotated[str, typer.Option(help="Cutting edge, thickness by height.")] = "0.8x4",
    rim: Annotated[str, typer.Option(help="Rim, width by height.")] = "4x2.5",
    rim_round: Annotated[bool, typer.Option("--rim-round", help="Round the rim's outer corners.")] = False,
    clearance: Annotated[str, typer.Option(help="What is cut is larger than the outline by this.")] = "0",
    holes: Annotated[bool, typer.Option("--holes", help="Cut holes too.")] = False,
    bars: Annotated[int, typer.Option(help="Bars between parts that would fall apart.")] = 2,
    handle: Annotated[str, typer.Option(help="Width of a bar to hold it by.")] = "0",
    imprint: Annotated[
        str | None, typer.Option(help="Press in the other tones, so far behind the cutting edge; needs --tones.")
    ] = None,
    tones: Annotated[int | None, typer.Option(help="Follow the borders between so many tones.")] = None,
    level: Level = "auto",
    smooth: Smooth = 0.3,
    smallest: Smallest = 0.2,
    unit: Unit = None,
    recipe: RecipeOption = None,
    json: Json = False,
) -> int:
    """Make a cutter for clay or dough."""
    return _make(cutter, dict(locals()), _cutter_solid)


def _cutter_solid(asked: Any) -> dict[str, Any]:
    edge_mm, edge_height = _two("--edge", asked.edge, "0.8x4")
    rim_mm, rim_height = _two("--rim", asked.rim, "4x2.5")
    return {
        "kind": "cutter",
        "lines": asked.lines,
        "line_mm": parse_length(asked.line),
        "height_mm": parse_length(asked.height),
        "edge_mm": edge_mm,
        "edge_height_mm": edge_height,
        "rim_mm": rim_mm,
        "rim_height_mm": rim_height,
        "rim_round": asked.rim_round,
        "clearance_mm": parse_length(asked.clearance),
        "holes": asked.holes,
        "bars": asked.bars,
        "handle_mm": parse_length(asked.handle),
        **({} if asked.imprint is None else {"imprint": True, "setback_mm": parse_length(asked.imprint)}),
    }


def stamp(
    file: Source,
    output: Output,
    width: Width = "40",
    relief: Annotated[str, typer.Option(help="How far the face stands out.")] = "2",
    plate: Annotated[str, typer.Option(help="Thickness of the plate.")] = "3",
    margin: Annotated[str, typer.Option(help="How far the plate reaches beyond the face.")] = "2",
    shape: Annotated[str, typer.Option(help="Plate: rectangle, ellipse or outline.")] = "rectangle",
    draft: Annotated[str, typer.Option(help="How far flanks lean, 5deg.")] = "5deg",
    grip: Annotated[str, typer.Option(help="none, knob or bar.")] = "none",
    level: Level = "auto",
    smooth: Smooth = 0.3,
    smallest: Smallest = 0.2,
    unit: Unit = None,
    recipe: RecipeOption = None,
    json: Json = False,
) -> int:
    """Make a stamp: a mirrored face on a plate."""
    return _make(stamp, dict(locals()), _stamp_solid)


def _stamp_solid(asked: Any) -> dict[str, Any]:
    return {
        "kind": "stamp",
        "relief_mm": parse_length(asked.relief),
        "draft_deg": angle("--draft", asked.draft),
        "plate": {
            "kind": choice("--shape", asked.shape, ("rectangle", "ellipse", "outline")),
            "margin_mm": parse_length(asked.margin),
            "thickness_mm": parse_length(asked.plate),
        },
        "grip": choice("--grip", asked.grip, ("none", "knob", "bar")),
    }


def outline_report(figure: Figure, max_deviation: float, rms_deviation: float) -> dict[str, Any]:
    """Measures of outlines; keys and units are a promise to people's scripts."""

    from nebrel.core.region.curves import Figure, bounds_of, figure_region

    parts = [part for layer in figure.layers for part in figure_region(Figure((layer,))).geoms]
    low_x, low_y, high_x, high_y = bounds_of(figure)
    return {
        "regions": len(parts),
        "holes": sum(len(part.interiors) for part in parts),
        "nodes": sum(len(curve.knots) for curve in figure.curves),
        "area_mm2": float(sum(part.area for part in parts)),
        "max_deviation_mm": max_deviation,
        "rms_deviation_mm": rms_deviation,
        "open_ends": 2 * sum(not curve.closed for curve in figure.curves),
        "size_mm": (high_x - low_x, high_y - low_y),
    }


def _make(command: Callable[..., int], given: dict[str, Any], solid_of: Callable[[Any], dict[str, Any]]) -> int:
    file, output, json = given["file"], given["output"], given["json"]
    check_target(output, MESHES)
    refuse_missing(file)
    opened: dict[str, AnyOutlines] = {}

    def document_of(options: Mapping[str, Any]) -> OutlineDocument:
        asked = SimpleNamespace(**options)
        tracing = _tracing(asked.level, asked.smooth, asked.smallest, "auto", options.get("tones"))
        opened["it"] = _open(file, parse_length(asked.width), solid_of(asked), tracing, asked.unit)
        return opened["it"].document

    document = by_recipe(command, given, document_of)
    evaluator = opened["it"].with_changes({name: getattr(document, name) for name in type(document).model_fields})
    width = parse_length(given["width"])

    from nebrel.cli.mesh_files import save_mesh
    from nebrel.core.mesh.formats import format_of

    with progress_bar() as progress:
        # A recipe says how wide its picture is; only a width that is asked for is that of what is drawn.
        sized = evaluator if document.width_mm != width else _sized(evaluator, width, progress)
        slab, report = sized.build(progress)
        save_mesh(slab.mesh, output, format_of(output.name), lambda part: progress("Writing the file", part))
    tell_build(report.model_copy(update={"file_bytes": output.stat().st_size}), output, json)
    return 0 if report.sound else 1


def outlines_from(given: dict[str, Any]) -> AnyOutlines:
    """Outlines of a picture or drawing, by the options of `nebrel make outline`."""
    file, width = given["file"], parse_length(given["width"])
    refuse_missing(file)
    tracing = _tracing(given["level"], given["smooth"], given["smallest"], "auto", given["tones"])
    with progress_bar() as progress:
        return _sized(_open(file, width, {"kind": "raised"}, tracing, given["unit"]), width, progress)


def _sized(opened: AnyOutlines, width: float, progress: Progress) -> AnyOutlines:
    """The same so that what is drawn is as wide as asked."""
    from nebrel.piece.kinds.outline.mending import MoveMend

    sized = opened.with_changes({"width_mm": opened.document.width_mm * width / _width_of(opened, progress)})
    # Another size can move an edge by what tracing allows; the rest is scaled away.
    return sized.with_changes({"mend": (MoveMend(scale=width / _width_of(sized, progress)),)})


def _width_of(evaluator: AnyOutlines, progress: Progress) -> float:
    from nebrel.core.region.curves import bounds_of

    low_x, _, high_x, _ = bounds_of(evaluator.outlines(progress).figure.drawn)
    return high_x - low_x


def _open(file: Path, width: float, solid: dict[str, Any], tracing: dict[str, Any], unit: str | None) -> AnyOutlines:

    from nebrel.core.mesh.formats import MM_PER, mesh_unit
    from nebrel.core.picture import read_picture
    from nebrel.core.region.read import drawing_format, read_drawing
    from nebrel.piece.evaluation.cache import ResultCache
    from nebrel.piece.evaluation.sources import Sources
    from nebrel.piece.kinds.outline.document import DrawnDocument, TracedDocument
    from nebrel.piece.kinds.outline.evaluator import DrawnEvaluator, TracedEvaluator
    from nebrel.piece.parts.pictured import picture_source
    from nebrel.piece.parts.refusals import parse_part
    from nebrel.settings import Settings

    settings = Settings()
    drawn = file.suffix.lower() in DRAWINGS
    data = read_file(file, "mesh_bytes" if drawn else "picture_bytes")
    parts: dict[str, Any] = {"title": file.stem[:120] or "Outline", "width_mm": width, "solid": solid}
    if drawn:
        scale = None if unit is None else MM_PER[mesh_unit(unit)]
        found = read_drawing(data, file.name, scale)
        parts["drawing"] = {
            "blob": NO_BLOB,
            "name": file.name[-255:],
            "format": drawing_format(file.name),
            "size_mm": found.size,
            "told": found.size_given,
            "remarks": found.remarks,
        }
    else:
        opened = read_picture(data, file.name, settings.read_limits)
        parts["picture"] = picture_source(NO_BLOB, file.name, opened.facts).model_dump()
        parts["trace"] = tracing
    sources = Sources(lambda _: data, ResultCache(MEMORY_BYTES), settings.read_limits)
    if drawn:
        return DrawnEvaluator(parse_part(DrawnDocument, parts), sources)
    return TracedEvaluator(parse_part(TracedDocument, parts), sources)


def _tracing(level: str, smooth: float, smallest: float, ink: str, tones: int | None = None) -> dict[str, Any]:
    if level == "auto":
        tone = None
    else:
        try:
            tone = float(level)
        except ValueError as cause:
            raise BadValueError(f"--level is “{level}”; auto or a tone between 0 and 1 would be accepted.") from cause
    return {
        **({} if tones is None else {"by": "tones", "tones": tones}),
        "level": tone,
        "smooth": smooth,
        "ink": choice("--ink", ink, ("auto", "dark", "bright")),
        "smallest_part_mm2": smallest,
        "smallest_hole_mm2": smallest,
    }


def _kind_and_size(option: str, given: str, kinds: tuple[str, ...], example: str) -> tuple[str, float | None]:
    kind, colon, size = given.partition(":")
    kind = choice(option, kind, kinds)
    if not colon and kind != kinds[0]:
        raise BadValueError(f"{option} is “{given}”; a size is needed too, like {example}.")
    return kind, parse_length(size) if colon else None


def _base(option: str, given: str) -> dict[str, Any]:
    kind, colon, size = given.partition(":")
    kind = choice(option, kind, ("none", "rectangle", "ellipse", "outline"))
    if not colon:
        return {"kind": kind}
    margin, thickness = _two(option, size, f"{kind}:3x1.2")
    return {"kind": kind, "margin_mm": margin, "thickness_mm": thickness}


def _two(option: str, given: str, example: str) -> tuple[float, float]:
    sides = re.split(r"[x×]", given)
    if len(sides) != 2:
        raise BadValueError(f"{option} is “{given}”; two measures like {example} would be accepted.")
    return parse_length(sides[0]), parse_length(sides[1])


def _write(file: Any, data: bytes) -> None:
    file.write(data)
