"""`nebrel carve`, `nebrel simulate` and `nebrel reach`: a relief as work for a router."""

from __future__ import annotations

import json as jsons
from dataclasses import asdict, replace
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from nebrel.cli.bit_spellings import EXAMPLES, bit_of, stock_of, tabs_of
from nebrel.cli.endings import DRAWINGS, AsJson, Unit
from nebrel.cli.files import check_target
from nebrel.cli.progress import progress_bar
from nebrel.cli.spellings import angle, choice
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length
from nebrel.interface.reading import read_file

if TYPE_CHECKING:
    from nebrel.core.carve.finish import Direction, Steep
    from nebrel.core.carve.sunk.outline import Walls
    from nebrel.core.proof.carving import Carved
    from nebrel.core.router.run import Ran

What = Annotated[str, typer.Argument(help="A picture, a mesh, or the title or id of a piece on the shelf.")]
BitsOption = Annotated[list[str], typer.Option("--bit", help=f"{EXAMPLES}; coarse ones first. Repeatable.")]
StockOption = Annotated[str, typer.Option("--stock", help="Width, depth and thickness, 120x140x18.")]
ZeroOption = Annotated[str, typer.Option(help="Zero point: corner or centre of the stock's face.")]
PROGRAMS = (".nc", ".ngc", ".gcode", ".tap", ".txt")
PROGRAM_BYTES = 256 * 2**20


def carve(
    ctx: typer.Context,
    what: What,
    output: Annotated[Path, typer.Option("-o", "--output", help="OUT.nc; a number, what and which bit are added.")],
    stock: StockOption,
    bit: BitsOption,
    rough_bit: Annotated[str | None, typer.Option(help="Bit for roughing; the first --bit when left out.")] = None,
    scallop: Annotated[str, typer.Option(help="Height of the ridges between lines.")] = "0.01",
    allowance: Annotated[str, typer.Option(help="What roughing leaves on everything.")] = "0.5",
    pattern: Annotated[str, typer.Option(help="How roughing goes: rings or rows.")] = "rings",
    direction: Annotated[str, typer.Option(help="Of finishing: an angle like 0deg, crossed or contour.")] = "0deg",
    steep: Annotated[str, typer.Option(help="Steep places: along contours, or closer lines.")] = "contours",
    rest: Annotated[str, typer.Option(help="Finer bits go where coarser ones left more than this.")] = "0.05",
    tolerance: Annotated[str, typer.Option("--path-tolerance", help="How far paths may pass over the surface.")] = (
        "0.0075"
    ),
    outlines: Annotated[
        str | None,
        typer.Option(help="Sink the outlines of a drawing, picture or piece: v or pockets."),
    ] = None,
    depth: Annotated[str, typer.Option(help="How deep outlines are sunk at most.")] = "4",
    cut_out: Annotated[
        str | None,
        typer.Option(help="Cut it out at the end, as deep as the piece or the stock."),
    ] = None,
    tabs: Annotated[str, typer.Option(help="Tabs of the cut-out, number:width:height; 0 for none.")] = "4:6:1.5",
    zero: ZeroOption = "corner",
    zero_height: Annotated[str, typer.Option(help="Zero point on the top of the stock or on its bed.")] = "top",
    at: Annotated[str | None, typer.Option(help="Where the piece lies in the stock, 10,12; in its middle else.")] = (
        None
    ),
    unit: Annotated[str, typer.Option(help="Unit of the programs: mm or in.")] = "mm",
    mesh_unit: Annotated[str | None, typer.Option(help="Unit of a mesh file that does not say.")] = None,
    post: Annotated[
        str,
        typer.Option(help="How programs are written: plain, tool-changer, pause, crlf, straight, or your own."),
    ] = "plain",
    json: AsJson = False,
) -> int:
    """Plan the carving of a piece, prove it on a simulated router, and write its programs.

    For a picture, the options of `nebrel make relief` are taken too; with --outlines those of `nebrel make outline`.
    """
    check_target(output, PROGRAMS)
    bits = [bit_of("--bit", given) for given in bit]
    roughing = bits[0] if rough_bit is None else bit_of("--rough-bit", rough_bit)
    size = stock_of(stock)
    lying = None if at is None else _two(at)
    ways = _direction(direction)
    cut_to = None if cut_out is None else choice("--cut-out", cut_out, ("piece", "stock"))
    count, wide, tall = tabs_of(tabs)
    round_steep: Steep = "lines" if choice("--steep", steep, ("contours", "lines")) == "lines" else "contours"
    sunk = None if outlines is None else choice("--outlines", outlines, ("v", "pockets"))
    if sunk is None and what.lower().endswith(DRAWINGS):
        raise BadValueError("A drawing has no heights; --outlines v or --outlines pockets sinks it into the stock.")

    from nebrel.cli.carvable import open_carvable, open_outlines, post_named
    from nebrel.core.carve.board import Board, Machine
    from nebrel.core.carve.cut_out import CutOut
    from nebrel.core.carve.finish import Finishing
    from nebrel.core.carve.plan import Job
    from nebrel.core.carve.rough import Roughing
    from nebrel.core.carve.sunk.sinking import Sinking
    from nebrel.core.proof.carving import carve as carve_field
    from nebrel.core.proof.carving import finest_pitch
    from nebrel.core.proof.sinking import carve_outlines

    chosen = post_named(post)
    board = Board(
        size,
        lying,
        "corner" if choice("--zero", zero, ("corner", "centre")) == "corner" else "centre",
        "top" if choice("--zero-height", zero_height, ("top", "bed")) == "top" else "bed",
    )
    machine = Machine(unit="in" if choice("--unit", unit, ("mm", "in")) == "in" else "mm")
    if sunk is not None:
        walls: Walls = "v" if sunk == "v" else "straight"
        all_bits = tuple(bits) if rough_bit is None else (roughing, *bits)
        sinking = Sinking(walls, parse_length(depth), all_bits, parse_length(rest), parse_length(tolerance))
        region, piece_size, title = open_outlines(what, ctx.args)
        with progress_bar() as progress:
            carved = carve_outlines(region, piece_size, sinking, board, machine, chosen, title, progress)
        return _deliver(carved, output, json)
    job = Job(
        tuple(bits),
        roughing,
        Roughing(
            parse_length(allowance), "rows" if choice("--pattern", pattern, ("rings", "rows")) == "rows" else "rings"
        ),
        Finishing(_scallop(scallop), parse_length(tolerance), ways, round_steep),
        parse_length(rest),
    )
    made = open_carvable(what, ctx.args, mesh_unit, finest_pitch(job.bits))
    if cut_to is not None:
        deep = size[2] if cut_to == "stock" else made.thickness
        job = replace(job, cut_out=CutOut(deep, count, wide, tall))
    with progress_bar() as progress:
        carved = carve_field(made.field, made.thickness, job, board, machine, chosen, made.title, progress)
    return _deliver(carved, output, json)


def simulate(
    program: Annotated[list[Path], typer.Argument(help="Programs (RS-274) in the order in which they run.")],
    stock: StockOption,
    bits: Annotated[list[str], typer.Option("--bits", help=f"{EXAMPLES}, in the order they are put in. Repeatable.")],
    zero: ZeroOption = "corner",
    zero_height: Annotated[str, typer.Option(help="Zero point on the top of the stock or on its bed.")] = "top",
    against: Annotated[str | None, typer.Option(help="A piece or mesh that should be left.")] = None,
    at: Annotated[str | None, typer.Option(help="Where it lies in the stock, 10,12; in its middle else.")] = None,
    mesh_unit: Unit = None,
    cell: Annotated[str, typer.Option(help="How close together the stock is looked at.")] = "0.1",
    json: AsJson = False,
) -> int:
    """Run programs on a simulated router, and tell what they would do to the stock."""
    texts = [read_file(path, PROGRAM_BYTES) for path in program]
    board_size = stock_of(stock)
    cutters = [bit_of("--bits", given) for given in bits]
    lying = None if at is None else _two(at)
    on_top = choice("--zero-height", zero_height, ("top", "bed")) == "top"
    corner = choice("--zero", zero, ("corner", "centre")) == "corner"

    import numpy as np

    from nebrel.cli.carvable import asked_in_stock, open_carvable
    from nebrel.core.carve.board import Board
    from nebrel.core.proof.carving import cutter_of
    from nebrel.core.router.run import run_program
    from nebrel.core.router.sweep import fresh_stock
    from nebrel.core.router.timing import Drive

    board = Board(board_size, lying, "corner" if corner else "centre", "top" if on_top else "bed")
    width, depth, thickness = board.size
    low = (0.0, 0.0) if corner else (-width / 2, -depth / 2)
    top = 0.0 if on_top else thickness
    left = fresh_stock((width, depth), low, top, _cell(cell, width, depth), low)
    wanted = None
    if against is not None:
        made = open_carvable(against, [], mesh_unit, left.cell)
        wanted = asked_in_stock(made, board, left, low, top)
    ran: list[Ran] = []
    with progress_bar() as progress:
        for number, data in enumerate(texts):
            one_bit = cutters[min(number, len(cutters) - 1) :]
            ran.append(
                run_program(
                    data.decode("utf-8", "replace"),
                    tuple(cutter_of(one) for one in one_bit),
                    left,
                    Drive(),
                    wanted,
                    progress=lambda part: progress("Running it", part),
                )
            )
    over = np.array([np.nan]) if wanted is None else left.tops - wanted
    _tell_run(program, ran, over[np.isfinite(over)], thickness + float(left.tops.min()) - top, json)
    return 1 if any(one.faults for one in ran) else 0


def reach(
    ctx: typer.Context,
    what: What,
    bit: BitsOption,
    output: Annotated[Path, typer.Option("-o", "--output", help="PNG: what the bits cannot reach, dark to bright.")],
    over: Annotated[str, typer.Option(help="Leftover that counts.")] = "0.05",
    mesh_unit: Annotated[str | None, typer.Option(help="Unit of a mesh file that does not say.")] = None,
    json: AsJson = False,
) -> int:
    """Map where bits cannot reach into a piece, in mm. For a picture, the options of `nebrel make relief` count."""
    check_target(output, (".png",))
    bits = [bit_of("--bit", given) for given in bit]
    counts = parse_length(over)

    from nebrel.cli.carvable import open_carvable, save_map
    from nebrel.core.carve.asked import asked_of
    from nebrel.core.carve.reach import reach_of
    from nebrel.core.proof.carving import finest_pitch

    made = open_carvable(what, ctx.args, mesh_unit, finest_pitch(tuple(bits)))
    asked = asked_of(made.field, 1.5 * max(one.radius for one in bits) + 1.0, finest_pitch(tuple(bits)))
    found = reach_of(asked, tuple(bits), counts)
    save_map(found.all, output)
    facts = {
        "cannot_reach_max_mm": round(found.most, 6),
        "over_mm": counts,
        "share_over": round(found.share, 6),
        "bits": [
            {"bit": one.name, "cannot_reach_max_mm": round(most, 6), "share_over": round(share, 6)}
            for one, most, share in zip(bits, found.each_most, found.each_share, strict=True)
        ],
        "map_white_mm": round(found.most, 6),
    }
    if json:
        print(jsons.dumps(facts, indent=2))
        return 0
    for one, most, share in zip(bits, found.each_most, found.each_share, strict=True):
        print(f"{one.name}: leaves up to {most:.3f} mm, more than {counts:g} mm on {share:.1%} of the surface")
    if len(bits) > 1:
        print(f"together: up to {found.most:.3f} mm, more than {counts:g} mm on {found.share:.1%}")
    print(f"{output}: black where all is reached, white where {found.most:.3f} mm stay")
    return 0


def _deliver(carved: Carved, output: Path, json: bool) -> int:
    files = [] if carved.faults else [*_save(carved, output), *_save_cut_out(carved, output)]
    _tell(carved, files, json)
    return 1 if carved.faults else 0


def _save(carved: Carved, output: Path) -> list[Path]:
    from nebrel.store.blobs import write_atomically

    files = []
    for program, name in zip(carved.programs, carved.names, strict=True):
        path = output if len(carved.programs) == 1 and carved.whole else output.with_stem(f"{output.stem}-{name}")
        check_target(path, PROGRAMS)
        data = program.text.encode()
        try:
            write_atomically(path, lambda file, data=data: file.writelines([data]))  # type: ignore[misc]
        except OSError as cause:
            raise BadValueError(f"{path} cannot be written: {cause.strerror}.") from cause
        files.append(path)
    return files


def _save_cut_out(carved: Carved, output: Path) -> list[Path]:
    if carved.cut_out is None:
        return []
    from nebrel.core.outline_files.read import drawing_format
    from nebrel.core.outline_files.write import drawing_bytes
    from nebrel.store.blobs import write_atomically

    paths = [output.with_name(f"{output.stem}-cut-out{ending}") for ending in DRAWINGS]
    for path in paths:
        data = drawing_bytes(carved.cut_out, drawing_format(path.name))
        write_atomically(path, lambda file, data=data: file.writelines([data]))  # type: ignore[misc]
    return paths


def _tell(carved: Carved, files: list[Path], json: bool) -> None:
    passes = [asdict(one) for one in carved.passes]
    faults = [asdict(one) for one in carved.faults]
    if json:
        files_told = [str(path) for path in files]
        print(jsons.dumps({"passes": passes, **carved.facts, "faults": faults, "files": files_told}, indent=2))
        return
    for one in carved.passes:
        print(
            f"{one.kind}, {one.bit}: {one.minutes:.1f} min, {one.length_m:.1f} m, {one.points:,} points, "
            f"{one.lifts} {'lift' if one.lifts == 1 else 'lifts'}"
        )
    facts = carved.facts
    print(
        f"measured on the simulated stock: cuts in {facts['gouge_max_mm'] * 1000:.1f} µm, leaves up to "
        f"{facts['left_max_mm']:.3f} mm (RMS {facts['left_rms_mm']:.4f} mm), of that "
        f"{facts['left_over_reachable_max_mm']:.3f} mm where bits reach; {facts['minutes']:.1f} min in all"
    )
    for path in files:
        print(path)
    for fault in carved.faults[:5]:
        print(f"fault: {fault.what}")
    if carved.faults:
        print(f"{len(carved.faults)} faults; no program was written.")


def _tell_run(paths: list[Path], ran: list[Ran], over: object, lowest: float, json: bool) -> None:
    import numpy as np

    measured = np.asarray(over)
    facts: dict[str, object] = {
        "minutes": round(sum(one.minutes for one in ran), 3),
        "lifts": sum(one.lifts for one in ran),
        "rapids_in_stock": sum(one.rapids_in_stock for one in ran),
        "steep_entries": sum(one.steep_entries for one in ran),
        "lowest_mm": round(lowest, 6),
    }
    if measured.size:
        facts |= {
            "gouge_max_mm": round(max(0.0, -float(measured.min())), 6),
            "left_max_mm": round(float(measured.max()), 6),
            "left_rms_mm": round(float(np.sqrt(np.mean(measured**2))), 6),
        }
    faults = [
        {"program": str(path), "kind": one.kind, "line": one.line, "what": one.what}
        for path, run in zip(paths, ran, strict=True)
        for one in run.faults
    ]
    if json:
        print(jsons.dumps({**facts, "faults": faults}, indent=2))
        return
    print(f"{facts['minutes']:.1f} min, {facts['lifts']} lifts, down to {facts['lowest_mm']:.3f} mm over the bed")
    if measured.size:
        print(
            f"cuts in {float(str(facts['gouge_max_mm'])) * 1000:.1f} µm, leaves up to {facts['left_max_mm']:.3f} mm "
            f"(RMS {facts['left_rms_mm']:.4f} mm)"
        )
    for fault in faults[:10]:
        print(f"fault: {fault['program']}: {fault['what']}")
    if not faults:
        print("no faults")


def _two(given: str) -> tuple[float, float]:
    parts = given.split(",")
    if len(parts) != 2:
        raise BadValueError(f"--at is “{given}”; two lengths like 10,12 would be accepted.")
    return parse_length(parts[0]), parse_length(parts[1])


def _scallop(given: str) -> float:
    value = parse_length(given)
    if not 0.0005 <= value <= 1:
        raise BadValueError(f"--scallop is {value:g} mm; 0.0005 to 1 mm would be accepted.")
    return value


def _cell(given: str, width: float, depth: float) -> float:
    value = parse_length(given)
    if not 0.01 <= value <= 5 or width * depth / max(value, 1e-9) ** 2 > 40_000_000:
        raise BadValueError(f"--cell is {value:g} mm; 0.01 to 5 mm, and up to 40 million of them, would be accepted.")
    return value


def _direction(given: str) -> Direction:
    if given == "crossed":
        return "crossed"
    return "contour" if given == "contour" else angle("--direction", given)
