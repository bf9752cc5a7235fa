"""`nebrel place`: how a mesh lies, and how large it is."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from nebrel.cli.endings import MESHES, AsJson, Unit
from nebrel.cli.files import check_target, refuse_missing
from nebrel.cli.spellings import angle, choice
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length

if TYPE_CHECKING:
    from nebrel.core.mesh.pose import AxisName


def place(
    mesh: Annotated[Path, typer.Argument(help="STL, OBJ, PLY, OFF, 3MF or GLB.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The file to write; its ending tells the format.")],
    turn: Annotated[list[str] | None, typer.Option(help="Axis and angle, x:90deg. Repeatable, in their order.")] = None,
    stand: Annotated[bool, typer.Option("--stand", help="Stand it up, on a flat side if it has one.")] = False,
    side: Annotated[int | None, typer.Option(help="Lay it on a flat side, 1 the largest.")] = None,
    mirror: Annotated[str | None, typer.Option(help="Across x, y or z.")] = None,
    size: Annotated[str | None, typer.Option(help="Size along one axis, z:90; the others in proportion.")] = None,
    unit: Unit = None,
    json: AsJson = False,
) -> int:
    """Turn, stand up, mirror and size a mesh, in this order, and set it down with its lowest corner at the origin."""
    check_target(output, MESHES)
    refuse_missing(mesh)
    if stand and side is not None:
        raise BadValueError("--stand and --side both say how it lies; one of them is needed, and only one.")
    turns = [_axis_and("--turn", given, "x:90deg") for given in turn or []]
    angles = [(axis, angle("--turn", given)) for axis, given in turns]
    wanted = None if size is None else _axis_and("--size", size, "z:90")
    across = None if mirror is None else choice("--mirror", mirror, ("x", "y", "z"))

    from nebrel.cli.mesh_files import open_mesh, size_of, tell_findings
    from nebrel.core.mesh import pose
    from nebrel.core.mesh.formats import format_of
    from nebrel.core.mesh.place import at_origin
    from nebrel.core.proof import check_soundness
    from nebrel.interface.writing import save_mesh
    from nebrel.piece.parts.model_steps import MirrorStep, TurnStep
    from nebrel.piece.report import mesh_report

    found = open_mesh(mesh, unit).mesh
    done: list[str] = []
    for axis, degrees in angles:
        found = pose.turned(found, pose.turn_about(axis, degrees))
        done.append(f"Turned by {degrees:g}° about {axis.upper()}")
    if stand or side is not None:
        worked = TurnStep(way="stand" if stand else "side", side=side or 1).worked(found, lambda _: None)
        found = worked.mesh
        done.append(worked.description)
    if across is not None:
        worked = MirrorStep(axis=across).worked(found, lambda _: None)
        found = worked.mesh
        done.append(worked.description)
    if wanted is not None:
        found = pose.sized(found, wanted[0], parse_length(wanted[1]))
    found = at_origin(found)
    report = mesh_report(check_soundness(found))
    save_mesh(found, output, format_of(output.name))
    if json:
        print(report.model_dump_json(indent=2))
        return 0 if report.sound else 1
    for what in done:
        print(f"{what}.")
    print(f"{output}: {size_of(found)} mm, {report.triangles:,} triangles")
    tell_findings(report)
    return 0 if report.sound else 1


def _axis_and(option: str, given: str, example: str) -> tuple[AxisName, str]:
    axis, _, rest = given.partition(":")
    if axis == "x" and rest:
        return "x", rest
    if axis == "y" and rest:
        return "y", rest
    if axis == "z" and rest:
        return "z", rest
    raise BadValueError(f"{option} is “{given}”; an axis and a value like {example} would be accepted.")
