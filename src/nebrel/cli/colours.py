"""`nebrel colours`: a coloured mesh in few colours; and how few colours are told on the command line."""

from __future__ import annotations

import json as jsons
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from nebrel.cli.endings import MESHES, MeshArgument, Unit
from nebrel.cli.files import check_target, refuse_missing
from nebrel.cli.progress import progress_bar
from nebrel.cli.spellings import choice
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length
from nebrel.interface.reading import read_file

if TYPE_CHECKING:
    from nebrel.piece.report import ColoursReport

MOST_FILE_BYTES = 2**20
FILE_EXAMPLE = '[{"name": "Clay red", "colour": "#a03020"}]'
MOST_FILAMENTS = 64


def colours(
    mesh: MeshArgument,
    output: Annotated[Path, typer.Option("-o", "--output", help="OBJ, PLY, 3MF or GLB by its ending.")],
    to: Annotated[str, typer.Option(help="How many, 4; or FILE.json with filaments; or both, 4:FILE.json.")] = "4",
    smallest: Annotated[float, typer.Option(help="No patch is smaller than this, mm².")] = 1.0,
    layer: Annotated[str, typer.Option(help="Height of a layer, for the estimate of changes.")] = "0.2",
    purge: Annotated[float, typer.Option(help="What a change of colour purges, mm³.")] = 140.0,
    up: Annotated[str, typer.Option(help="Axis that points up when it is printed: y or z.")] = "z",
    unit: Unit = None,
    json: Annotated[bool, typer.Option("--json", help="Print the report as JSON.")] = False,
) -> int:
    """Give a coloured mesh few colours, one to a triangle, and estimate what printing them takes."""
    check_target(output, MESHES)
    if output.suffix.lower() in (".stl", ".off"):
        raise BadValueError(f"{output.name} would keep no colours; OBJ, PLY, 3MF or GLB would be accepted.")
    refuse_missing(mesh)
    choice("--up", up, ("y", "z"))
    if not smallest >= 0 or not purge >= 0:
        raise BadValueError("--smallest and --purge are 0 or more.")
    count, filaments = few_told("--to", to)

    from nebrel.cli.mesh_files import open_mesh
    from nebrel.core.colour.changes import PrintPlan
    from nebrel.core.colour.few import face_lab, in_few
    from nebrel.core.colour.palette import chosen, gathered, tint_of
    from nebrel.core.mesh.formats import format_of
    from nebrel.core.mesh.measure import face_areas
    from nebrel.interface.writing import save_mesh
    from nebrel.piece.report import colours_report

    plan = PrintPlan(parse_length(layer), purge, "xyz".index(up))
    found = open_mesh(mesh, unit, sharp=True).mesh
    lab, areas = face_lab(found), face_areas(found)
    own = tuple(tint_of(each["name"], each["colour"]) for each in filaments)
    tints = chosen(lab, areas, own, count) if own else gathered(lab, areas, count)
    with progress_bar() as progress:
        few = in_few(found, tints, smallest, lambda part: progress("Choosing colours", part))
        names = {tint.hex: tint.name for tint in own}
        save_mesh(few.mesh, output, format_of(output.name), names=names)
    report = colours_report(few.mesh, few, names, plan)
    assert report is not None
    if json:
        print(jsons.dumps(report.model_dump(mode="json"), indent=2))
    else:
        print(f"{output}: {len(few.mesh.faces):,} triangles")
        tell_colours(report)
    return 0


def few_told(option: str, given: str) -> tuple[int, list[dict[str, str]]]:
    """How many colours, and of which filaments, from 4, FILE.json or 4:FILE.json.

    Raises:
        BadValueError: none of these.
    """
    count, _, rest = given.partition(":")
    if not count.isdigit():
        count, rest = "", given
    filaments = filaments_in(Path(rest)) if rest.endswith(".json") else []
    if (rest and not filaments) or not (count or rest):
        raise BadValueError(f"{option} is “{given}”; a number like 4, or filaments.json, would be accepted.")
    most = int(count) if count else len(filaments)
    if not 1 <= most <= 16 and count:
        raise BadValueError(f"{option} asks for {most} colours; 1 to 16 would be accepted.")
    return min(most, 16), filaments


def filaments_in(path: Path) -> list[dict[str, str]]:
    """Names and colours of filaments in a file.

    Raises:
        BadValueError: it holds none.
    """
    try:
        told = jsons.loads(read_file(path, MOST_FILE_BYTES))
    except (ValueError, UnicodeDecodeError) as cause:
        raise BadValueError(f"{path.name} is not JSON; {FILE_EXAMPLE} would be accepted.") from cause
    listed = told.get("filaments") if isinstance(told, dict) else told
    if not isinstance(listed, list) or not 1 <= len(listed) <= MOST_FILAMENTS:
        raise BadValueError(f"{path.name} holds no list of 1 to {MOST_FILAMENTS} filaments, as in {FILE_EXAMPLE}.")
    filaments = []
    for each in listed:
        part = {"colour": each} if isinstance(each, str) else each
        if not isinstance(part, dict) or not isinstance(part.get("colour"), str):
            raise BadValueError(f"{path.name} has a filament without a colour; {FILE_EXAMPLE} would be accepted.")
        filaments.append({"name": str(part.get("name") or part["colour"])[:80], "colour": str(part["colour"]).lower()})
    return filaments


def tell_colours(report: ColoursReport) -> None:
    """The report in words."""
    whole = sum(tint.area_mm2 for tint in report.tints)
    for tint in report.tints:
        named = tint.name if tint.name == tint.colour else f"{tint.name} {tint.colour}"
        print(f"{named}: {tint.area_mm2:,.1f} mm², {tint.area_mm2 / max(whole, 1e-9):.1%}")
    print(
        f"{report.patches:,} patches, the smallest {report.smallest_patch_mm2:.2f} mm²; "
        f"colours {report.error:.4f} off in OKLab ({report.least_error:.4f} without patches joined)"
    )
    print(
        f"about {report.swaps:,} changes of colour over {report.layers:,} layers, "
        f"{report.purged_mm3 / 1000:,.1f} cm³ purged"
    )
