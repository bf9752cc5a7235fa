"""What is said about a figure before it is built."""

from nebrel.core.figure.figure import ShapedFigure
from nebrel.core.figure.foot import leaning
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import TEXTURED
from nebrel.core.mesh.shells import shells_of
from nebrel.core.proof import Finding
from nebrel.core.proof.makeable import bed_findings
from nebrel.piece.kinds.figure.document import FigureDocument

# Less than this of the figure is not worth a word.
SOME_SHARE = 0.002
# Seen from the front, a solid that is less alike than this is another one than was cut out.
ALIKE = 0.985


def figure_findings(document: FigureDocument, shaped: ShapedFigure, mesh: TriMesh) -> tuple[Finding, ...]:
    """What to know about a figure.

    Args:
        document: the piece.
        shaped: its front and back.
        mesh: a sketch of its surface.
    """
    found: list[Finding] = []
    parts = len(shells_of(mesh))
    area = float(shaped.asked.inside.sum()) * shaped.asked.pitch**2
    thinnest = document.figure.thinnest_mm
    if parts > 1:
        found.append(
            Finding(
                "note", f"The outline has {parts} parts, which do not hang together.",
                "Each becomes a solid of its own. Keep only the largest at the step Cut out to have one.",
                "parts", value=float(parts),
            )
        )  # fmt: skip
    if shaped.widened > SOME_SHARE * area:
        found.append(
            Finding(
                "caution", f"Parts narrower than {thinnest:g} mm were widened, by {shaped.widened:.1f} mm² in all.",
                "They would break as drawn. A wider figure, or a smaller least thickness, leaves them as they are.",
                "widened", value=shaped.widened, unit="mm²",
            )
        )  # fmt: skip
    if shaped.thickened > SOME_SHARE * area:
        found.append(
            Finding(
                "note", f"{shaped.thickened:.1f} mm² of the figure would be thinner than {thinnest:g} mm.",
                "They were made so thick, for thin places break. A smaller least thickness leaves them as they are.",
                "thickened", value=shaped.thickened, unit="mm²",
            )
        )  # fmt: skip
    if shaped.asked.at_frame:
        found.append(
            Finding(
                "caution", "The outline touches the edge of the picture.",
                "It may be cut off there, and is closed along that edge. A picture with room round it shows all of it.",
                "at-frame",
            )
        )  # fmt: skip
    if document.figure.foot.on:
        out = leaning(mesh)
        if out > 0:
            found.append(
                Finding(
                    "caution", f"It would fall over: its weight lies {out:.1f} mm beside what it stands on.",
                    "Cut more off its foot, or set it on a plinth, which reaches round the middle of its weight.",
                    "leaning", value=out, unit="mm",
                )
            )  # fmt: skip
    return (*found, *_about_colours(document), *bed_findings(mesh, document.maker.to_core(), "figure"))


def _about_colours(document: FigureDocument) -> tuple[Finding, ...]:
    colour, few = document.figure.colour, document.figure.few
    found: list[Finding] = []
    if not colour.on:
        return ()
    if few.on and few.of == "filaments" and not few.filaments:
        found.append(
            Finding(
                "note", "None of your filaments is chosen, so few colours are taken from the picture.",
                "Choose filaments at Few colours to have it in theirs.", "no-filaments",
            )
        )  # fmt: skip
    form = document.delivery.format
    if colour.carried == "texture" and form not in TEXTURED:
        found.append(
            Finding(
                "note", f"{form.upper()} carries no texture, so triangles carry what it can of the colours.",
                "GLB and OBJ carry a texture.", "no-texture",
            )
        )  # fmt: skip
    return tuple(found)


def unlike_outline(overlap: float) -> tuple[Finding, ...]:
    """Whether a built figure, seen from the front, is another one than was cut out; `overlap` is measured on it."""
    if overlap >= ALIKE:
        return ()
    return (
        Finding(
            "caution", f"Seen from the front the solid is {overlap:.1%} as it was cut out.",
            "Thin or ragged parts were widened, or are finer than the grid. Clean the cut-out, make the figure wider, "
            "or give it more cells.",
            "overlap", value=overlap,
        ),
    )  # fmt: skip
