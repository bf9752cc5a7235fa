"""The command line: one module a group of commands. Lengths are millimetres unless they end in `in`."""

import gc
import sys
from typing import Annotated, ClassVar, NoReturn

import typer
from typer.exceptions import Abort, TyperException

from nebrel.cli.on_demand import Named, OnDemand
from nebrel.core.errors import NebrelError

BAD_INPUT = 2
# `prepare` reads shorthands, whose order counts, by itself; `carve` and `reach` hand on the options of `make relief`.
READS_MORE = {"context_settings": {"allow_extra_args": True, "ignore_unknown_options": True}}


class _Nebrel(OnDemand):
    commands_by_name: ClassVar[dict[str, Named]] = {
        "make": Named("make", "make", "Make a solid from a picture."),
        "batch": Named("batch", "batch", "Make a piece of every picture in a folder or table by one recipe."),
        "check": Named("check", "check", "Tell whether a mesh is closed, 2-manifold, outward and free of crossings."),
        "wedge": Named("materials", "wedge", "Make a step wedge to print, for measuring a material."),
        "fit-material": Named("materials", "fit", "Fit a material to readings behind a step wedge."),
        "light": Named("lithophanes", "light", "Paint what is seen of a piece or a mesh when a lamp stands behind."),
        "trace": Named("outlines", "trace", "Follow the edges of a picture, or read a drawing."),
        "convert": Named("meshes", "convert", "Write a mesh in another format, at the same size."),
        "simplify": Named("meshes", "simplify", "Make a mesh lighter, and measure how far it is from the original."),
        "repair": Named("meshes", "repair", "Drop, turn, fill and join what is wrong with a mesh; tell what changed."),
        "remesh": Named("meshes", "remesh", "Make the surface anew with even triangles, and closed."),
        "cut": Named("meshes", "cut", "Cut a closed mesh by a plane and keep one side, the cut closed."),
        "place": Named("placing", "place", "Turn, stand up, mirror and size a mesh, and set it down."),
        "join": Named("joining", "join", "Put meshes together: joined to one, cut away from the first, or apart."),
        "new": Named("sheets", "new", "Make a sheet to begin with, with lettering."),
        "decorate": Named("decorations", "decorate", "Lay a picture or outline on the skin of a model."),
        "colours": Named("colours", "colours", "Give a coloured mesh few colours, one to a triangle."),
        "carve": Named("carve", "carve", "Plan the carving of a piece, prove it, and write programs.", READS_MORE),
        "simulate": Named("carve", "simulate", "Run programs on a simulated router."),
        "reach": Named("carve", "reach", "Map where bits cannot reach into a piece.", READS_MORE),
        "layers": Named(
            "layers", "layers", "Cut a solid into layers; tell what would hang, lines in walls, time and weight."
        ),
        "turn": Named("turning", "turn", "Turn a mesh so that it prints well: little support, low, smooth."),
        "plate": Named("turning", "plate", "Lay meshes side by side on one bed, and write them as one file."),
        "turntable": Named("turntable", "turntable", "Turn a mesh once round, as a film or as pictures."),
        "prepare": Named("pictures", "prepare", "Prepare a picture by ops.", READS_MORE),
        "audit": Named("pictures", "audit", "Tell what of a picture would go wrong as relief."),
        "serve": Named("serve", "serve", "Serve the shelf and the bench."),
        "backup": Named("keeping", "backup", "Write all pieces to one file, also while a server works."),
        "restore": Named("keeping", "restore", "Make a data folder of a backup."),
        "save-piece": Named("keeping", "save_piece", "Write a piece with its versions and sources to one open file."),
        "open-piece": Named("keeping", "open_piece", "Put a piece from such a file on the shelf."),
        "data": Named("keeping", "data", "Tell how much the data folder holds, and let go of what is not needed."),
        "tokens": Named("tokens", "tokens", "Tell who may work on this server from elsewhere; give a token out."),
        "warm-up": Named("warm_up", "warm_up", "Compile the hot loops once.", {"hidden": True}),
    }


app = typer.Typer(
    name="nebrel", cls=_Nebrel, add_completion=False, pretty_exceptions_enable=False, rich_markup_mode=None
)


def _tell_version(asked: bool) -> None:
    if asked:
        from importlib.metadata import version

        print(f"nebrel {version('nebrel')}")
        raise typer.Exit


@app.callback()
def _nebrel(
    version: Annotated[
        bool, typer.Option("--version", callback=_tell_version, is_eager=True, help="Tell the version and exit.")
    ] = False,
) -> None:
    """Turns pictures into true-size, closed relief solids. Lengths are millimetres unless they end in `in`."""


def run() -> NoReturn:
    """Run the program: exit 0 done, 1 the check found a fault, 2 bad input with one sentence on stderr."""
    # Loading makes many objects and hardly any garbage; looking for it that often takes a tenth of the time.
    gc.set_threshold(50_000, 20, 100)
    try:
        code = app(standalone_mode=False)
    except NebrelError as refusal:
        _refuse(str(refusal))
    except TyperException as refusal:
        _refuse(f"{refusal.format_message().rstrip('.')}; `nebrel --help` tells what is accepted.")
    except (Abort, KeyboardInterrupt):
        _refuse("Stopped.")
    except BrokenPipeError:
        sys.stderr.close()
        sys.exit(BAD_INPUT)
    sys.exit(code if isinstance(code, int) else 0)


def _refuse(sentence: str) -> NoReturn:
    print(f"nebrel: {sentence}", file=sys.stderr)
    sys.exit(BAD_INPUT)
