"""`nebrel trace` and `nebrel make outline`, `cutter`, `stamp`: outlines from pictures and drawings."""

from __future__ import annotations

import json as jsons
import re
from dataclasses import replace
from pathlib import Path
from types import SimpleNamespace
from typing import TYPE_CHECKING, Annotated, Any

import typer

from nebrel.cli.endings import DRAWINGS, MESHES
from nebrel.cli.files import check_target, refuse_missing, refuse_same
from nebrel.cli.outline_options import refuse_heights, refuse_idle, tracing_of
from nebrel.cli.outline_source import Opened, open_outlines
from nebrel.cli.progress import progress_bar
from nebrel.cli.recipes import RecipeOption, by_recipe
from nebrel.cli.spellings import angle, choice, edge_profile_of
from nebrel.cli.tell import tell_build
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from nebrel.core.region.curves import Figure
    from nebrel.piece.kinds.outline.document import OutlineDocument
    from nebrel.piece.kinds.outline.evaluator import DrawnEvaluator, TracedEvaluator

    AnyOutlines = TracedEvaluator | DrawnEvaluator


Width = Annotated[
    str | None,
    typer.Option(help="Width of the finished outline; without it drawings stay as large as they say."),
]
Ink = Annotated[str, typer.Option(help="What of a picture is drawn: auto, dark or bright.")]
Smooth = Annotated[float, typer.Option(help="0 as faithful as the picture is, to 1 for broad strokes.")]
Level = Annotated[str, typer.Option(help="Tone at the edge, 0 to 1, or auto.")]
Smallest = Annotated[float, typer.Option(help="Parts and holes of fewer square millimetres are left out.")]
Unit = Annotated[str | None, typer.Option(help="Unit of a drawing that does not say: mm, cm, m, in or ft.")]
JoinEnds = Annotated[str | None, typer.Option("--join", help="Join ends of lines that are no further apart: 0.05.")]
Json = Annotated[bool, typer.Option("--json", help="Print the report as JSON.")]
Output = Annotated[
    Path,
    typer.Option(
        "-o", "--output", help="The file to write; its ending tells the format: STL, OBJ, PLY, OFF, 3MF, GLB."
    ),
]
Source = Annotated[Path, typer.Argument(help="A picture, or an SVG or DXF drawing.")]


def trace(
    picture: Annotated[
        Path,
        typer.Argument(help="PNG, JPEG, TIFF, WebP, BMP, GIF, AVIF, HEIC, JPEG XL, EXR, or SVG and DXF as they are."),
    ],
    output: Annotated[Path, typer.Option("-o", "--output", help="SVG or DXF by its ending.")],
    width: Annotated[
        str | None, typer.Option(help="Width of the whole picture; without it drawings stay as large as they say.")
    ] = None,
    level: Level = "auto",
    tones: Annotated[int | None, typer.Option(help="Follow the borders between so many tones.")] = None,
    centre_line: Annotated[bool, typer.Option("--centre-line", help="Follow the middles of drawn lines.")] = False,
    smooth: Smooth = 0.3,
    smallest: Smallest = 0.2,
    tolerance: Annotated[str | None, typer.Option(help="Largest distance from the picture's edge.")] = None,
    ink: Ink = "auto",
    splines: Annotated[bool, typer.Option("--splines", help="Write SPLINEs to DXF in place of polylines.")] = False,
    unit: Unit = None,
    join: JoinEnds = None,
    json: Json = False,
) -> int:
    """Follow the edges of a picture, or read a drawing, and write the outlines at true size."""
    check_target(output, DRAWINGS)
    refuse_missing(picture)
    refuse_same(picture, output)
    if tones is not None and centre_line:
        raise BadValueError("Both --tones and --centre-line are given; one of them would be accepted.")
    drawn = picture.suffix.lower() in DRAWINGS
    refuse_idle(dict(locals()), drawn)
    if splines and output.suffix.lower() != ".dxf":
        raise BadValueError(f"--splines is for DXF, and {output.name} is none; leave it out.")
    given = {
        **({"by": "centre-line"} if centre_line else {}),
        "tolerance_mm": None if tolerance is None else parse_length(tolerance),
        **tracing_of(level, smooth, smallest, ink, tones),
    }
    with progress_bar() as progress:
        opened = open_outlines(picture, width, {"kind": "raised"}, given, unit, join)
        found, source = opened.evaluator.outlines(progress), opened.source(progress)

    from nebrel.core.outline_files.read import drawing_format
    from nebrel.core.outline_files.write import drawing_bytes
    from nebrel.store.blobs import write_atomically

    data = drawing_bytes(found.figure, drawing_format(output.name), splines, opened.frame)
    write_atomically(output, lambda file: _write(file, data))
    report = outline_report(found.figure, found.max_deviation, found.rms_deviation) | source.report()
    if json:
        print(jsons.dumps(report, indent=2))
    else:
        holes = f" with {report['holes']:,} holes" if report["holes"] else ""
        print(f"{output}: {report['regions']:,} parts{holes}, {report['nodes']:,} nodes, {report['area_mm2']:.2f} mm²")
        wide, high = report["size_mm"]
        print(
            f"{wide:.3f} × {high:.3f} mm, no further than {found.max_deviation:.3f} mm from the edge, "
            f"RMS {found.rms_deviation:.3f} mm"
        )
        for told in (*source.words(), *(f"left out: {remark}" for remark in source.remarks)):
            print(told)
        for finding in opened.evaluator.findings() if source.differs or source.off_picture else ():
            if finding.measure in ("differs-from-drawing", "differs-from-picture"):
                print(f"{finding.severity}: {finding.what} {finding.why}")
    return 0


def outline(
    file: Source,
    output: Output,
    width: Width = None,
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
    ink: Ink = "auto",
    smooth: Smooth = 0.3,
    smallest: Smallest = 0.2,
    unit: Unit = None,
    join: JoinEnds = None,
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
    width: Width = None,
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
    ink: Ink = "auto",
    smooth: Smooth = 0.3,
    smallest: Smallest = 0.2,
    unit: Unit = None,
    join: JoinEnds = None,
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
    width: Width = None,
    relief: Annotated[str, typer.Option(help="How far the face stands out.")] = "2",
    plate: Annotated[str, typer.Option(help="Thickness of the plate.")] = "3",
    margin: Annotated[str, typer.Option(help="How far the plate reaches beyond the face.")] = "2",
    shape: Annotated[str, typer.Option(help="Plate: rectangle, ellipse or outline.")] = "rectangle",
    draft: Annotated[str, typer.Option(help="How far flanks lean, 5deg.")] = "5deg",
    grip: Annotated[str, typer.Option(help="none, knob or bar.")] = "none",
    level: Level = "auto",
    ink: Ink = "auto",
    smooth: Smooth = 0.3,
    smallest: Smallest = 0.2,
    unit: Unit = None,
    join: JoinEnds = None,
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
    refuse_idle(given, file.suffix.lower() in DRAWINGS)
    opened: dict[str, Opened] = {}

    def document_of(options: Mapping[str, Any]) -> OutlineDocument:
        asked = SimpleNamespace(**options)
        tracing = tracing_of(asked.level, asked.smooth, asked.smallest, asked.ink, options.get("tones"))
        here = open_outlines(file, asked.width, solid_of(asked), tracing, asked.unit, asked.join)
        # Beside a recipe it is asked a second time, for what all options begin at.
        opened.setdefault("it", here)
        return here.evaluator.document

    document = by_recipe(command, given, document_of)
    found = opened["it"]
    if document.width_mm != found.evaluator.document.width_mm:
        # A recipe says how wide its picture is; only a width that is asked for is that of what is drawn.
        found = replace(found, size_source="asked", drawn_mm=None)
    parts = {name: getattr(document, name) for name in type(document).model_fields}
    found = replace(found, evaluator=found.evaluator.with_changes(parts))

    from nebrel.core.mesh.formats import format_of
    from nebrel.interface.writing import save_mesh
    from nebrel.piece.kinds.outline.document import RaisedPart

    with progress_bar() as progress:
        sized = found.sized(progress)
        if isinstance(sized.document.solid, RaisedPart):
            refuse_heights(sized.document.solid.heights_mm, sized.outlines(progress).figure)
        slab, report = sized.build(progress)
        save_mesh(slab.mesh, output, format_of(output.name), lambda part: progress("Writing the file", part))
    report = report.model_copy(update={"file_bytes": output.stat().st_size})
    tell_build(report, output, json, found.source(progress))
    return 0 if report.sound else 1


def outlines_from(given: dict[str, Any]) -> AnyOutlines:
    """Outlines of a picture or drawing, by the options of `nebrel make outline`."""
    file = given["file"]
    refuse_missing(file)
    tracing = tracing_of(given["level"], given["smooth"], given["smallest"], given["ink"], given["tones"])
    with progress_bar() as progress:
        return open_outlines(file, given["width"], {"kind": "raised"}, tracing, given["unit"], given["join"]).sized(
            progress
        )


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
