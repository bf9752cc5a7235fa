"""`nebrel make figure`: from a cut-out picture to a solid in the round, without the shelf."""

from __future__ import annotations

import json as jsons
from pathlib import Path
from types import SimpleNamespace
from typing import TYPE_CHECKING, Annotated, Any

import typer

from nebrel.cli.colours import few_told, tell_colours
from nebrel.cli.depths import COMPUTED, PICTURES, depth_of, fine_of, strokes_of
from nebrel.cli.endings import MESHES, NO_BLOB
from nebrel.cli.files import check_target
from nebrel.cli.idle import was_given
from nebrel.cli.progress import progress_bar
from nebrel.cli.recipes import RecipeOption, by_recipe
from nebrel.cli.spellings import choice
from nebrel.cli.tell import tell_build
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length
from nebrel.interface.reading import read_file

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from nebrel.core.mesh import TriMesh
    from nebrel.core.mesh.formats import MeshFormat
    from nebrel.piece.evaluation.sources import Sources
    from nebrel.piece.kinds.figure.document import FigureDocument
    from nebrel.piece.kinds.figure.evaluator import FigureEvaluator
    from nebrel.piece.report import BuildReport

MEMORY_BYTES = 512 * 2**20
BACK_BLOB, BEHIND_BLOB = "2" * 64, "3" * 64
TEXTURED = (".glb", ".obj")
WHOLE_MM = 100.0


def figure(
    picture: Annotated[Path, typer.Argument(help="PNG, TIFF or WebP whose alpha channel cuts the figure out.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="STL, OBJ, PLY, OFF, 3MF or GLB by its ending.")],
    width: Annotated[str, typer.Option(help="Width of the figure.")] = "80",
    depth: Annotated[
        str, typer.Option(help="swell, light, learned, a depth picture, or MODEL.onnx with MODEL.json.")
    ] = "learned",
    depth_behind: Annotated[
        Path | None, typer.Option(help="A depth picture of the back too, as one sees it from there.")
    ] = None,
    span: Annotated[str, typer.Option(help="From the furthest to the nearest of a depth picture.")] = "15",
    near: Annotated[str, typer.Option(help="Tones of a depth picture that are nearer: bright or dark.")] = "bright",
    profile: Annotated[str, typer.Option(help="round, soft or flat.")] = "round",
    thickness: Annotated[
        str | None, typer.Option(help="A length, 20; or how round it is against its width, x0.8.")
    ] = None,
    back: Annotated[str, typer.Option(help="mirror, flat, bulge:0.6, or a picture of the back.")] = "mirror",
    fade: Annotated[str, typer.Option(help="What the front shows fades behind within so much; 0 keeps it.")] = "1.5",
    thinnest: Annotated[str, typer.Option(help="Least thickness, kept everywhere; 0 for none.")] = "1.2",
    widen: Annotated[bool, typer.Option(help="Widen parts that are thinner than that, or refuse them.")] = True,
    cut_out: Annotated[bool, typer.Option("--cut-out", help="Cut the figure out of a plain background.")] = False,
    colour: Annotated[
        str | None, typer.Option(help="Colours of the picture: edges, or mirror, says what is behind.")
    ] = None,
    colours: Annotated[
        str | None, typer.Option(help="Few colours: how many, 4; or FILE.json with filaments; or 4:FILE.json.")
    ] = None,
    texture: Annotated[
        bool, typer.Option("--texture", help="Colours as a texture, in GLB, or in OBJ with its files beside it.")
    ] = False,
    symmetry: Annotated[
        str | None, typer.Option(help="Both sides alike: auto, or x:40 from the left of the figure.")
    ] = None,
    detail: Annotated[
        str | None, typer.Option(help="Fine tones as relief: a strength, 0.3, with the radius of light, 0.3:3.")
    ] = None,
    strokes: Annotated[
        Path | None,
        typer.Option(help="JSON of strokes: kind, places in shares of the picture, size_mm, amount_mm; and of order."),
    ] = None,
    foot: Annotated[str | None, typer.Option(help="Cut level so far above its lowest place, 1.")] = None,
    plinth: Annotated[str | None, typer.Option(help="Height of a plinth, 4, with its margin, 4:3.")] = None,
    stand: Annotated[bool, typer.Option("--stand", help="Z up in the file, as it is printed standing.")] = False,
    resolution: Annotated[int, typer.Option(help="Cells along the longer side, 64 to 512.")] = 256,
    tolerance: Annotated[str, typer.Option(help="How far the lighter surface may be off.")] = "0.06",
    recipe: RecipeOption = None,
    json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
) -> int:
    """Make a figure in the round from one cut-out picture: X right, Y up, Z towards the viewer."""
    given = dict(locals())
    check_target(output, MESHES)
    if recipe is None:
        _refuse_idle(given)
    if texture and output.suffix.lower() not in TEXTURED:
        raise BadValueError(f"{output.name} carries no texture; a name that ends in .glb or .obj would be accepted.")
    files = {NO_BLOB: read_file(picture, "picture_bytes")}
    document = by_recipe(figure, given, lambda options: _document(SimpleNamespace(**options), files))

    from nebrel.core.mesh.formats import format_of
    from nebrel.core.mesh.place import stood
    from nebrel.piece.kinds.figure.evaluator import FigureEvaluator

    if recipe is not None and document.figure.width_mm == parse_length(width):
        document = _as_wide(document, document.figure.width_mm, files)
    form = format_of(output.name)
    evaluator = FigureEvaluator(document, _sources(files))
    with progress_bar() as progress:
        slab, report = evaluator.build(progress)
        _save(evaluator, stood(slab.mesh) if stand else slab.mesh, output, form, progress)
    x, y, z = report.size_mm
    size = (x, z, y) if stand else report.size_mm
    report = report.model_copy(update={"file_bytes": output.stat().st_size, "size_mm": size})
    _tell(report, output, json)
    return 0 if report.sound else 1


def _document(asked: Any, files: dict[str, bytes]) -> FigureDocument:
    """The document that options ask for; `files` holds the picture, and takes what options name besides."""
    picture: Path = asked.picture
    near = choice("--near", asked.near, ("bright", "dark"))
    deep, own = depth_of("--depth", asked.depth, parse_length(asked.span), near)
    files |= own
    if asked.depth_behind is not None:
        if deep["kind"] != "picture":
            raise BadValueError("--depth-behind goes with a depth picture; --depth depths.png would be accepted.")
        files[BEHIND_BLOB] = read_file(asked.depth_behind, "picture_bytes")
        deep |= {"behind_blob": BEHIND_BLOB, "behind_name": asked.depth_behind.name}
    deep |= {"profile": choice("--profile", asked.profile, ("round", "soft", "flat")), **_thickness(asked.thickness)}
    behind = {**_back(asked.back, files), "fade_mm": parse_length(asked.fade)}
    wide = parse_length(asked.width)
    if not wide > 0:
        raise BadValueError(f"--width is {wide:g} mm; more than 0 would be accepted.")
    parts: dict[str, object] = {
        "depth": deep,
        "back": behind,
        "detail": {} if asked.detail is None else _detail(asked.detail),
        "colour": _colour(asked.colour or ("edges" if asked.colours or asked.texture else None), asked.texture),
        "few": {} if asked.colours is None else _few(asked.colours),
        "symmetry": {} if asked.symmetry is None else _symmetry(asked.symmetry, wide),
        **({} if asked.strokes is None else strokes_of(asked.strokes)),
        "foot": _foot(asked.foot, asked.plinth),
        "thinnest_mm": parse_length(asked.thinnest),
        "widen": asked.widen,
        "cells": asked.resolution,
        "tolerance_mm": parse_length(asked.tolerance),
    }

    from nebrel.core.mesh.formats import format_of
    from nebrel.core.picture import read_picture
    from nebrel.piece.kinds.figure.document import FigureDocument
    from nebrel.piece.parts.pictured import picture_source
    from nebrel.piece.parts.refusals import parse_part
    from nebrel.settings import Settings

    opened = read_picture(files[NO_BLOB], picture.name, Settings().read_limits)
    plain: dict[str, object] = {
        "title": picture.stem[:120] or "Figure",
        "picture": picture_source(NO_BLOB, picture.name, opened.facts).model_dump(),
        "ops": [{"kind": "cut-out", "id": "cut-out"}] if asked.cut_out else [],
    }
    form = format_of(asked.output.name)
    found = parse_part(FigureDocument, {**plain, "figure": {**parts, "width_mm": wide}, "delivery": {"format": form}})
    # What cuts the figure out may be the recipe's; its width is found once that is there.
    return found if asked.recipe is not None else _as_wide(found, wide, files)


def _as_wide(document: FigureDocument, wide: float, files: dict[str, bytes]) -> FigureDocument:
    """The document whose picture is as wide as makes what stands out of it `wide` mm."""
    from nebrel.piece.kinds.figure.evaluator import FigureEvaluator

    whole = document.figure.model_copy(update={"width_mm": WHOLE_MM})
    share = FigureEvaluator(document.model_copy(update={"figure": whole}), _sources(files)).width_share()
    sized = document.figure.model_copy(update={"width_mm": wide / share})
    return document.model_copy(update={"figure": sized})


def _sources(files: dict[str, bytes]) -> Sources:
    from nebrel.interface.computing import sources_of

    return sources_of(files, MEMORY_BYTES)


def _refuse_idle(given: Mapping[str, Any]) -> None:
    """Options that say how a depth from elsewhere is read need one."""
    choice("--near", given["near"], ("bright", "dark"))
    from_network = given["depth"].lower().endswith(".onnx")
    for name, idle in (("near", from_network or given["depth"] in COMPUTED), ("span", given["depth"] in COMPUTED)):
        if idle and was_given(given, name, figure):
            raise BadValueError(
                f"--{name} has no effect without a depth picture; leave it out, or add --depth depths.png."
            )


def _colour(given: str | None, texture: bool) -> dict[str, object]:
    if given is None:
        return {}
    behind = choice("--colour", given, ("edges", "mirror"))
    return {"on": True, "back": behind, "carried": "texture" if texture else "corners"}


def _few(given: str) -> dict[str, object]:
    count, filaments = few_told("--colours", given)
    return {"on": True, "count": count, "of": "filaments" if filaments else "picture", "filaments": filaments}


def _symmetry(given: str, width: float) -> dict[str, object]:
    if given == "auto":
        return {"on": True}
    kind, _, place = given.partition(":")
    if kind != "x" or not place:
        raise BadValueError(f"--symmetry is “{given}”; auto, or a place like x:40, would be accepted.")
    at = parse_length(place) / width
    if not 0 <= at <= 1:
        raise BadValueError(f"--symmetry is at {place}, beside the figure; x:0 to x:{width:g} would be accepted.")
    return {"on": True, "by": "hand", "at": at}


def _detail(given: str) -> dict[str, object]:
    part = fine_of(given)
    deep = float(str(part["strength_mm"]))
    return {**part, "on": deep > 0, "strength_mm": max(deep, 0.02)}


def _foot(cut: str | None, plinth: str | None) -> dict[str, object]:
    if cut is None and plinth is None:
        return {}
    part: dict[str, object] = {"on": True, **({} if cut is None else {"cut_mm": parse_length(cut)})}
    if plinth is not None:
        tall, _, margin = plinth.partition(":")
        part |= {"plinth": "oval", "plinth_mm": parse_length(tall)}
        part |= {"margin_mm": parse_length(margin)} if margin else {}
    return part


def _thickness(given: str | None) -> dict[str, object]:
    if given is None:
        return {}
    if not given.startswith("x"):
        return {"by": "mm", "thickness_mm": parse_length(given)}
    return {"by": "share", "roundness": _factor("--thickness", given[1:], "20 or x0.8")}


def _back(given: str, files: dict[str, bytes]) -> dict[str, object]:
    path = Path(given)
    if path.suffix.lower() in PICTURES:
        files[BACK_BLOB] = read_file(path, "picture_bytes")
        return {"kind": "mirror", "blob": BACK_BLOB, "name": path.name}
    kind, _, bulge = given.partition(":")
    choice("--back", kind, ("mirror", "flat", "bulge"))
    if kind != "bulge":
        return {"kind": kind}
    return {"kind": kind, **({"bulge": _factor("--back", bulge, "bulge:0.6")} if bulge else {})}


def _factor(option: str, given: str, example: str) -> float:
    try:
        return float(given)
    except ValueError as cause:
        raise BadValueError(f"{option} is “{given}”; a number, as in {example}, would be accepted.") from cause


def _save(
    evaluator: FigureEvaluator, mesh: TriMesh, output: Path, form: MeshFormat, progress: Callable[[str, float], None]
) -> None:
    from nebrel.interface.writing import save_mesh, save_textured

    def written(part: float) -> None:
        progress("Writing the file", part)

    texture = evaluator.texture(progress)
    if texture is None:
        save_mesh(mesh, output, form, written, names=evaluator.colour_names)
    else:
        save_textured(mesh, texture, output, form, written)


def _tell(report: BuildReport, output: Path, json: bool) -> None:
    """The report in words, or as JSON with what is measured of figures among its keys."""
    assert report.figure is not None
    if json:
        told = report.model_dump(mode="json", exclude={"lit", "figure"})
        print(jsons.dumps({**told, **report.figure.model_dump(mode="json")}, indent=2))
        return
    tell_build(report, output, False)
    print(
        f"seen from the front {report.figure.overlap_mask:.2%} as cut out, {report.figure.depth_mm:.2f} mm deep, "
        f"{report.figure.thickened_mm2:.1f} mm² made thicker"
    )
    if report.figure.colours is not None:
        tell_colours(report.figure.colours)
    painted = report.figure.texture
    if painted is not None:
        print(
            f"texture of {painted.width_px} × {painted.height_px} pixels in {painted.charts} charts, "
            f"{painted.mean_error:.4f} off in OKLab on average"
        )
