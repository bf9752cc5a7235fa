"""Models as messages: what their steps changed, what parts they have."""

from nebrel.api.messages.models import PartView, StepOutcome
from nebrel.api.views.look import Look
from nebrel.core.errors import NotFoundError
from nebrel.core.mesh.shells import shells_of
from nebrel.piece.evaluation.abilities import HasSkin

MOST_PARTS = 50


def outcomes_of(look: Look) -> list[StepOutcome]:
    """What every step of a model changed, the reading first."""
    return [
        StepOutcome(id=each.step_id, description=each.worked.description, triangles=len(each.worked.mesh.faces))
        for each in look.piece.having(HasSkin).step_results(look.progress)
    ]


def parts_of(look: Look, step_id: str) -> list[PartView]:
    """The largest parts of a model as they come into one of its steps."""
    piece = look.piece
    mesh = piece.having(HasSkin).before_step(step_id, look.progress) if piece.can(HasSkin) else None
    if mesh is None:
        raise NotFoundError("The piece has no such step any more.")
    parts = []
    for number, shell in enumerate(shells_of(mesh)[:MOST_PARTS], start=1):
        x, y, z = (shell.high - shell.low).tolist()
        parts.append(
            PartView(
                number=number,
                size_mm=(x, y, z),
                volume_mm3=abs(shell.volume_mm3),
                triangles=len(shell.faces),
                closed=shell.closed,
            )
        )
    return parts
