"""`nebrel make mould`: from a mesh to what it is cast in."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from nebrel.cli.endings import MESHES, AsJson, Unit
from nebrel.cli.files import check_target, refuse_missing
from nebrel.cli.idle import was_given
from nebrel.cli.progress import progress_bar
from nebrel.cli.spellings import angle, choice
from nebrel.cli.tell import tell_build
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length
from nebrel.interface.reading import read_file

MODEL_BLOB = "e" * 64
MEMORY_BYTES = 512 * 2**20
OF_HALVES = ("keys", "gap", "spout")
SIDES = ("none", "below", "above", "left", "right")


def mould(
    mesh: Annotated[Path, typer.Argument(help="A closed solid: STL, OBJ, PLY, OFF, 3MF or GLB.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The file to write; its ending tells the format.")],
    kind: Annotated[
        str,
        typer.Option(help="open, poured from the back; halves, that close on each other; die, a face to press with."),
    ] = "open",
    pull: Annotated[str, typer.Option(help="Which way casts come out: up, front or side.")] = "up",
    shrink: Annotated[float, typer.Option(help="Per cent by which what is cast shrinks.")] = 0.0,
    draft: Annotated[str, typer.Option(help="Every wall of the cavity leans at least this much.")] = "3deg",
    rim: Annotated[str, typer.Option(help="Width of the level face around the cavity.")] = "8",
    floor: Annotated[str, typer.Option(help="Thickness behind the deepest place.")] = "3",
    plane: Annotated[
        str | None, typer.Option(help="Height of the parting over the lowest place; found when left out.")
    ] = None,
    keys: Annotated[str, typer.Option(help="Width of the keys that hold halves in place, 0 for none.")] = "5",
    gap: Annotated[str, typer.Option(help="Room around the keys.")] = "0.15",
    spout: Annotated[
        str, typer.Option(help="Where halves are poured from, and how wide the channel is: below:8; or none.")
    ] = "below:8",
    detail: Annotated[str, typer.Option(help="How far apart the piece is looked at.")] = "0.15",
    tolerance: Annotated[str, typer.Option(help="Largest distance from the asked surface.")] = "0.02",
    unit: Unit = None,
    json: AsJson = False,
) -> int:
    """Make a mould or a die of a solid."""
    given = dict(locals())
    check_target(output, MESHES)
    refuse_missing(mesh)
    choice("--kind", kind, ("open", "halves", "die"))
    for name in OF_HALVES if kind != "halves" else ():
        if was_given(given, name, mould):
            raise BadValueError(f"--{name} has no effect without --kind halves; leave it out, or add that.")
    part = _part(given)

    from nebrel.cli.mesh_files import open_mesh
    from nebrel.core.mesh.formats import format_of
    from nebrel.interface.computing import sources_of
    from nebrel.interface.writing import save_mesh
    from nebrel.piece.kinds.model.document import ModelDocument
    from nebrel.piece.kinds.model.evaluator import model_source
    from nebrel.piece.kinds.mould.document import MouldDocument
    from nebrel.piece.kinds.mould.evaluator import MouldEvaluator
    from nebrel.piece.parts.refusals import parse_part
    from nebrel.piece.registry import opened

    found = open_mesh(mesh, unit)
    model = ModelDocument(title="Cast", model=model_source(MODEL_BLOB, mesh.name[-255:], found))
    part["source"] = {"kind": "piece", "document": model.model_dump(mode="json")}
    form = format_of(output.name)
    told = {"title": mesh.stem[:120] or "Mould", "mould": part, "delivery": {"format": form}}
    files = {MODEL_BLOB: read_file(mesh, "mesh_bytes")}
    evaluator = MouldEvaluator(parse_part(MouldDocument, told), sources_of(files, MEMORY_BYTES), opened)
    with progress_bar() as progress:
        slab, report = evaluator.build(progress)
        whole, objects = evaluator.delivered_as(slab.mesh)
        save_mesh(whole, output, form, lambda done: progress("Writing the file", done), objects=objects)
    report = report.model_copy(update={"file_bytes": output.stat().st_size})
    tell_build(report, output, json)
    return 0 if report.sound else 1


def _part(given: dict[str, Any]) -> dict[str, Any]:
    """The part of the document that options ask for, without its source."""
    side, _, width = str(given["spout"]).partition(":")
    choice("--spout", side, SIDES)
    key = parse_length(given["keys"])
    return {
        "kind": given["kind"],
        "pull": choice("--pull", given["pull"], ("up", "front", "side")),
        "shrink": given["shrink"] / 100,
        "draft_deg": angle("--draft", given["draft"]),
        "rim_mm": parse_length(given["rim"]),
        "floor_mm": parse_length(given["floor"]),
        **({} if given["plane"] is None else {"plane": "typed", "plane_mm": parse_length(given["plane"])}),
        "keys": key > 0,
        **({"key_mm": key} if key > 0 else {}),
        "gap_mm": parse_length(given["gap"]),
        "spout": side,
        **({"spout_mm": parse_length(width)} if width else {}),
        "sample_mm": parse_length(given["detail"]),
        "tolerance_mm": parse_length(given["tolerance"]),
    }
