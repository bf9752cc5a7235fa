"""`nebrel decorate`: a picture or outline on the skin of a model."""

import json as jsons
import math
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from nebrel.cli.endings import DRAWINGS, MESHES, NO_BLOB, Unit
from nebrel.cli.files import check_target, refuse_missing
from nebrel.cli.progress import progress_bar
from nebrel.cli.spellings import choice, direction, edge_profile_of, place, signed_angle
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length
from nebrel.interface.reading import read_file

if TYPE_CHECKING:
    from nebrel.core.surface.outcome import Decorated

SPREADS = ("row", "ring", "grid", "scatter")


def decorate(
    model: Annotated[Path, typer.Argument(help="STL, OBJ, PLY, OFF, 3MF or GLB.")],
    art: Annotated[Path, typer.Option("--with", help="A picture, or an SVG or DXF drawing.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The file to write; its ending tells the format.")],
    at: Annotated[str, typer.Option(help="Where its middle lies, X,Y,Z; the nearest place of the skin is taken.")],
    up: Annotated[str, typer.Option(help="Which way its top points: x, y, z, or three numbers like 0,0,1.")] = "0,0,1",
    width: Annotated[str, typer.Option(help="Width on the skin.")] = "24",
    depth: Annotated[str, typer.Option(help="How far it is raised along the skin's normal.")] = "0.6",
    sink: Annotated[bool, typer.Option("--sink", help="Sink it instead.")] = False,
    both: Annotated[bool, typer.Option("--both", help="Middle gray stays; tones go up and down from there.")] = False,
    turn: Annotated[str, typer.Option(help="Turn, counter-clockwise seen from outside: 15deg.")] = "0",
    mirror: Annotated[bool, typer.Option("--mirror", help="Exchange left and right.")] = False,
    lie: Annotated[str, typer.Option(help="follow the skin, wrap round a cylinder, cone or sphere, or project.")] = (
        "follow"
    ),
    along: Annotated[
        str | None, typer.Option(help="Which way --lie project looks: x, y, z, or three numbers like 0,1,0.")
    ] = None,
    rim: Annotated[
        str, typer.Option(help="At sharp edges: clip what reaches over them, or continue round them (follow).")
    ] = "clip",
    allow_distortion: Annotated[
        bool, typer.Option("--allow-distortion", help="Make it even where it lies a tenth and more off its size.")
    ] = False,
    repeat: Annotated[
        str, typer.Option(help="ring:8, row:5:12 (apart), grid:4x3:12x10 or scatter:20:8x30 (apart, within).")
    ] = "once",
    seed: Annotated[int, typer.Option(help="Seed of scattered copies.")] = 1,
    bevel: Annotated[str | None, typer.Option(help="Let it slope down over this distance all around.")] = None,
    fade: Annotated[str | None, typer.Option(help="Let it fade out over this distance.")] = None,
    edge_profile: Annotated[
        str | None, typer.Option(help="Rise from its edge: roof:45deg, dome:4, cove:4, rope:4 or pillow.")
    ] = None,
    fade_side: Annotated[str, typer.Option(help="around, left, right, top or bottom.")] = "around",
    tile: Annotated[bool, typer.Option("--tile", help="Repeat it all over the skin, as a texture.")] = False,
    grain: Annotated[
        list[str] | None,
        typer.Option(help="With --tile: where it points up, from place to place: X,Y,Z:X,Y,Z; give it more than once."),
    ] = None,
    tall: Annotated[str, typer.Option(help="bright or dark: which tones of a picture go all the way.")] = "bright",
    edges: Annotated[
        str, typer.Option(help="Where depths of a picture jump, walls follow curves, or the pixels: curves or pixels.")
    ] = "curves",
    colour: Annotated[str | None, typer.Option(help="Only colour the faces inside it: #2f6f5e.")] = None,
    wall: Annotated[str, typer.Option(help="Wall that sunk decorations leave.")] = "0.8",
    tolerance: Annotated[str, typer.Option(help="How far depths may be off.")] = "0.01",
    unit: Unit = None,
    json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
) -> int:
    """Lay a picture or outline on a model, raised or sunk evenly along its skin; other faces stay as they are."""
    check_target(output, MESHES)
    if sink + both + (colour is not None) > 1:
        raise BadValueError("--sink, --both and --colour exclude each other; one of them would be accepted.")
    profile, reach = _edge(bevel, fade, edge_profile, parse_length(depth))
    _refuse_side(fade_side, profile)
    if tile and (bevel or fade or edge_profile or repeat != "once"):
        raise BadValueError("--tile covers all of the skin, so --bevel, --fade and --repeat do not go with it.")
    if grain and not tile:
        raise BadValueError(
            "--grain says which way a texture points, so it goes with --tile; add that, or leave it out."
        )
    if edges == "pixels" and (tile or colour is not None or art.suffix.lower() in DRAWINGS):
        raise BadValueError("--edges is for a picture that is raised or sunk once or in copies; leave it out.")
    if along is not None and lie != "project":
        raise BadValueError("--along is for --lie project; add that, or leave --along out.")
    refuse_missing(model, art)
    told = {
        "at": place("--at", at),
        "up": _unit("--up", direction("--up", up)),
        "width_mm": parse_length(width),
        "turn_deg": signed_angle("--turn", turn),
        "mirror": mirror,
        "lie": choice("--lie", lie, ("follow", "wrap", "project")),
        "along": None if along is None else _unit("--along", direction("--along", along)),
        "rim": choice("--rim", rim, ("clip", "continue")),
        "distort": allow_distortion,
        "effect": "colour" if colour else "sink" if sink else "both" if both else "raise",
        "depth_mm": parse_length(depth),
        "tall": choice("--tall", tall, ("bright", "dark")),
        "curves": choice("--edges", edges, ("curves", "pixels")) == "curves",
        "edge": {
            "profile": profile,
            "side": choice("--fade-side", fade_side, ("around", "left", "right", "top", "bottom")),
            "width_mm": reach,
        },
        "copies": _copies(repeat, seed),
        "tiled": tile,
        "grain": [_stroke(each) for each in grain or ()],
        **({"colour": colour} if colour else {}),
    }
    thinnest, exact = parse_length(wall), parse_length(tolerance)

    from nebrel.cli.mesh_files import open_mesh
    from nebrel.core.mesh.formats import format_of
    from nebrel.interface.meshes import decorated_as, plain_art
    from nebrel.interface.writing import save_mesh
    from nebrel.piece.parts.decoration import DecorationPart
    from nebrel.piece.parts.refusals import parse_part

    found = open_mesh(model, unit)
    data, outlined = plain_art(read_file(art, "picture_bytes"), art.name)
    if both and outlined:
        raise BadValueError(f"--both is for pictures with middle gray; {art.name} is a drawing, so leave it out.")
    source = {"kind": "outline" if outlined else "picture", "blob": NO_BLOB, "name": art.name}
    recipe = parse_part(DecorationPart, {"art": source, **told})
    with progress_bar() as progress:
        laid = decorated_as(found.mesh, recipe, data, exact, thinnest, progress)
    made, report = laid.made, laid.report
    save_mesh(made.mesh, output, format_of(output.name))
    assert made.deviation is not None
    if json:
        facts = {
            "added_mm3": made.added_mm3,
            "removed_mm3": made.removed_mm3,
            "untouched_faces": made.untouched,
            "max_stretch": made.most_stretch,
            **_layout(made),
            "thinnest_wall_mm": made.thinnest_wall if math.isfinite(made.thinnest_wall) else None,
            "max_error_mm": made.deviation.max,
            "rms_error_mm": made.deviation.rms,
            "error_how": made.deviation.how,
            "error_where": made.deviation.where,
            "joined": made.joined,
            "copies": sum(outcome.copies for outcome in made.outcomes),
            "copies_asked": sum(outcome.copies_asked for outcome in made.outcomes),
            "covered": made.outcomes[0].covered,
            "row_ends": made.outcomes[0].row_ends,
            "came_with": asdict(made.came_with),
            "lost_mm2": made.fold.area + made.eased.area,
            "lost_mm": max(made.fold.by, made.eased.by),
            "file_bytes": output.stat().st_size,
        }
        print(jsons.dumps({**facts, **report.model_dump(mode="json")}, indent=2))
        return 0 if report.sound else 1
    print(
        f"{output}: {report.triangles:,} triangles, {'closed' if report.closed else 'open'}; "
        f"{made.untouched:,} of {len(found.mesh.faces):,} faces are as they came"
    )
    print(f"added {made.added_mm3:,.2f} mm³, removed {made.removed_mm3:,.2f} mm³, stretch {made.most_stretch:.1%}")
    print(f"off by up to {made.deviation.max:.4f} mm, {made.deviation.how}")
    for note in report.findings:
        print(f"{note.severity}: {note.what} {note.why}")
    return 0 if report.sound else 1


def _layout(made: "Decorated") -> dict[str, Any]:
    """How large it lies beside how large it was asked to be, and on which share of its area."""
    found = made.outcomes[0].layout
    if found is None:
        return {"asked_mm": None, "laid_mm": None, "laid_area": None}
    return {"asked_mm": found.asked_mm, "laid_mm": found.laid_mm, "laid_area": found.area}


def _edge(bevel: str | None, fade: str | None, profile: str | None, depth: float) -> tuple[str, float]:
    """How a decoration ends, and over how many mm."""
    if sum(each is not None for each in (bevel, fade, profile)) > 1:
        raise BadValueError("--bevel, --fade and --edge-profile exclude each other; one of them would be accepted.")
    if profile is not None:
        kind, reach = edge_profile_of(profile, depth)
        return ("bevel" if kind == "roof" else kind), reach or 1.0
    kind = "bevel" if bevel is not None else "fade" if fade is not None else "square"
    return kind, parse_length(bevel or fade or "1")


def _refuse_side(side: str, profile: str) -> None:
    if side != "around" and profile == "square":
        raise BadValueError("--fade-side needs --fade or --bevel with a width, like --fade 3.")
    if side != "around" and profile in ("pillow", "rope"):
        raise BadValueError(f"A {profile} goes all around, so --fade-side does not go with it; leave that out.")


def _stroke(given: str) -> dict[str, Any]:
    """A direction from `X,Y,Z:X,Y,Z`."""
    places = [place("--grain", each) for each in given.split(":")]
    if len(places) < 2:
        raise BadValueError(f"--grain is “{given}”; two places or more, like 0,-20,0:0,-20,10, would be accepted.")
    return {"places": places}


def _unit(option: str, way: tuple[float, float, float]) -> tuple[float, ...]:
    length = math.hypot(*way)
    if not (math.isfinite(length) and length > 0):
        raise BadValueError(
            f"{option} has no direction; three numbers that are not all 0, like 0,0,1, would be accepted."
        )
    return tuple(part / length for part in way)


def _copies(given: str, seed: int) -> dict[str, Any]:
    """Copies from `ring:8`, `row:5:12`, `grid:4x3:12x10`, `scatter:20:8x30` or `once`."""
    if given == "once":
        return {}
    kind, _, rest = given.partition(":")
    kind = choice("--repeat", kind, ("once", *SPREADS))
    counts, _, lengths = rest.partition(":")
    try:
        numbers = [int(part) for part in counts.replace("×", "x").split("x")]
    except ValueError as cause:
        raise BadValueError(f"--repeat is “{given}”; a count like {kind}:8 would be accepted.") from cause
    copies: dict[str, Any] = {"kind": kind, "count": numbers[0], "seed": seed}
    if kind == "grid" and len(numbers) == 2:
        copies["rows"] = numbers[1]
    elif len(numbers) != 1:
        raise BadValueError(f"--repeat is “{given}”; one count, or columns by rows like grid:4x3, would be accepted.")
    if lengths:
        sides = [parse_length(part) for part in lengths.replace("×", "x").split("x")]
        copies["across_mm"], copies["up_mm"] = sides[0], sides[-1]
    return copies
