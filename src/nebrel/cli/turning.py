"""`nebrel turn`: which side of a mesh should lie on the plate; `nebrel plate`: several meshes on one bed."""

from dataclasses import fields
from pathlib import Path
from typing import Annotated

import typer

from nebrel.cli.endings import MESHES, AsJson, Unit
from nebrel.cli.files import check_target, refuse_missing
from nebrel.core.errors import BadValueError

MOST_TOLD = 12
MOST_COPIES = 200


def turn(
    mesh: Annotated[Path, typer.Argument(help="STL, OBJ, PLY, OFF, 3MF or GLB; closed.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The file to write; its ending tells the format.")],
    best: Annotated[int, typer.Option(help="Which of the turns is written, 1 the best of them.")] = 1,
    weight: Annotated[
        list[str] | None,
        typer.Option(help="How much support, height, footprint, wobble or steps count, support:2. Repeatable."),
    ] = None,
    layer: Annotated[float, typer.Option(help="Height of a layer, mm.")] = 0.2,
    line: Annotated[float, typer.Option(help="Width of a printed line, mm.")] = 0.42,
    unit: Unit = None,
    json: AsJson = False,
) -> int:
    """Turn a mesh so that it prints well: little support, low, broad at its foot, smooth on its slopes."""
    check_target(output, MESHES)
    refuse_missing(mesh)
    counted = dict(_weight(given) for given in weight or [])

    from nebrel.cli.mesh_files import open_mesh
    from nebrel.core.layers.effort import PrintWay
    from nebrel.core.layers.study import LayerSetup, study_layers
    from nebrel.core.layers.turns import TurnWeights, ranked_turns
    from nebrel.core.mesh.formats import format_of
    from nebrel.core.mesh.place import at_origin
    from nebrel.core.mesh.pose import turned
    from nebrel.interface.writing import save_mesh
    from nebrel.piece.printing.report import TurnsReport

    unknown = set(counted) - {each.name for each in fields(TurnWeights)}
    if unknown:
        names = ", ".join(each.name for each in fields(TurnWeights))
        raise BadValueError(f"--weight names {unknown.pop()}; {names} would be accepted.")
    found = open_mesh(mesh, unit).mesh
    setup = LayerSetup(layer, PrintWay(line))
    setup.refuse_odd()
    ranked = ranked_turns(found, layer, TurnWeights(**counted))
    if not 1 <= best <= len(ranked):
        raise BadValueError(f"--best {best} is asked for; there are {len(ranked)} turns, 1 the best.")
    chosen = ranked[best - 1]
    made = at_origin(turned(found, chosen.matrix))
    before, after = (study_layers(each, setup) for each in (found, made))
    report = TurnsReport.of(ranked[:MOST_TOLD], best, before, after)
    save_mesh(made, output, format_of(output.name))
    if json:
        print(report.model_dump_json(indent=2))
        return 0
    print(f"{output}: turn {best} of {len(ranked)}{', as it came' if chosen.own else ''}")
    for name, told in (("as it came", report.before), ("as written", report.after)):
        print(
            f"{name:10}  {told.height_mm:7.2f} mm high  support {told.support_mm3 / 1000:8.2f} cm³  "
            f"about {told.minutes:6.0f} minutes  {told.grams:7.1f} g"
        )
    return 0


def plate(
    meshes: Annotated[list[Path], typer.Argument(help="Meshes as they stand: STL, OBJ, PLY, OFF, 3MF or GLB.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The file to write: 3MF keeps each as an object.")],
    bed: Annotated[str, typer.Option(help="Width and depth of the bed, mm.")] = "220x220",
    gap: Annotated[float, typer.Option(help="Between any two, mm.")] = 4.0,
    copies: Annotated[int, typer.Option(help="So many of each.")] = 1,
    unit: Unit = None,
    json: AsJson = False,
) -> int:
    """Lay meshes side by side on one bed, each set down on it, and write them as one file."""
    check_target(output, MESHES)
    for mesh in meshes:
        refuse_missing(mesh)
    if not 1 <= copies <= MOST_COPIES:
        raise BadValueError(f"--copies {copies} is asked for; 1 to {MOST_COPIES} would be accepted.")
    sides = _bed(bed)

    from nebrel.cli.mesh_files import open_mesh
    from nebrel.core.layers.plate import as_one, laid_out
    from nebrel.core.mesh.formats import format_of
    from nebrel.interface.writing import save_mesh
    from nebrel.piece.printing.report import PlateReport

    opened = [(mesh.stem, open_mesh(mesh, unit).mesh) for mesh in meshes]
    named = [
        (name if copies == 1 else f"{name} {copy}", mesh) for name, mesh in opened for copy in range(1, copies + 1)
    ]
    laid = laid_out([mesh for _, mesh in named], sides, gap)
    names = [name for name, _ in named]
    whole, objects = as_one(names, laid)
    save_mesh(whole, output, format_of(output.name), objects=objects)
    report = PlateReport.of(names, laid, sides, gap)
    if json:
        print(report.model_dump_json(indent=2))
        return 0
    width, depth = report.used_mm
    print(f"{output}: {len(laid)} pieces on {width:.1f} × {depth:.1f} mm of {sides[0]:g} × {sides[1]:g} mm")
    return 0


def _weight(given: str) -> tuple[str, float]:
    name, _, told = given.partition(":")
    try:
        value = float(told)
    except ValueError:
        value = -1.0
    if not 0 <= value < float("inf"):
        raise BadValueError(f"--weight {given} is none; a name and a number from 0 on, such as support:2, is needed.")
    return name.strip(), value


def _bed(given: str) -> tuple[float, float]:
    sides = given.lower().replace("×", "x").split("x")
    try:
        width, depth = (float(side) for side in sides)
    except ValueError:
        width = depth = 0.0
    if not (0 < width < 1e5 and 0 < depth < 1e5):
        raise BadValueError(f"--bed {given} is none; its width and depth in mm, such as 220x220, are needed.")
    return width, depth
