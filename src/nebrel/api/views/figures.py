"""Figures as messages: few colours before and after."""

import base64

from nebrel.api.messages.figures import FewColoursFacts
from nebrel.core.mesh import TriMesh
from nebrel.core.proof.turntable import from_front
from nebrel.piece.evaluation.abilities import FewColoursView
from nebrel.piece.evaluation.shown import png_of

SHOWN_PX = (300, 360)


def few_colours_facts(found: FewColoursView) -> FewColoursFacts:
    """What a page shows of a figure in few colours."""
    return FewColoursFacts(report=found.report, before=_picture(found.before), after=_picture(found.after))


def _picture(mesh: TriMesh) -> str:
    return "data:image/png;base64," + base64.b64encode(png_of(from_front(mesh, SHOWN_PX))).decode()
