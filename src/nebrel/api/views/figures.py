"""Figures as messages: few colours before and after."""

import base64

import numpy as np
from numpy.typing import NDArray

from nebrel.api.messages.figures import ComparedDepthFacts, FewColoursFacts, UnsureFacts
from nebrel.api.views.look import Look
from nebrel.core.mesh import TriMesh
from nebrel.core.proof.turntable import from_front
from nebrel.piece.evaluation.abilities import ComparedDepth, HasDepthSources, HasFewColours
from nebrel.piece.evaluation.shown import png_of

SHOWN_PX = (300, 360)
NEARER, FARTHER = np.array((196, 92, 40)), np.array((44, 98, 150))
LEVEL, STAGE = np.array((236, 228, 212)), np.array((56, 61, 64))
UNSURE = (178, 60, 40)


def few_colours_facts(look: Look) -> FewColoursFacts | None:
    """What a page shows of a figure in few colours; None where it has all of them, or none."""
    found = look.piece.having(HasFewColours).few_colours()
    if found is None:
        return None
    return FewColoursFacts(report=found.report, before=_picture(found.before), after=_picture(found.after))


def compared_facts(look: Look) -> list[ComparedDepthFacts]:
    """What a page shows of every source of depth, the figure's own first."""
    return [_compared(each) for each in look.piece.having(HasDepthSources).compared_depths()]


def unsure_facts(look: Look) -> UnsureFacts | None:
    """What a page lays over the Plan, the stronger the less sure; None where the source of depth cannot tell."""
    unsure = look.piece.having(HasDepthSources).unsure()
    return None if unsure is None else _unsure(unsure)


def _compared(found: ComparedDepth) -> ComparedDepthFacts:
    nearer = found.nearer
    most = max(float(np.nanmax(np.abs(nearer))), 1e-6)
    share = np.nan_to_num(nearer / most)
    tints = np.where(share[..., np.newaxis] > 0, NEARER, FARTHER)
    ground = np.where(np.isfinite(nearer)[..., np.newaxis], LEVEL, STAGE)
    strong = np.abs(share)[..., np.newaxis]
    return ComparedDepthFacts(
        source=found.source,
        picture=_picture(found.mesh),
        difference=_url(np.round(ground * (1 - strong) + tints * strong).astype(np.uint8)),
        nearer_mm=round(max(float(np.nanmax(nearer)), 0.0), 3),
        farther_mm=round(max(-float(np.nanmin(nearer)), 0.0), 3),
        mean_mm=round(float(np.nanmean(np.abs(nearer))), 3),
        most_mm=round(most, 3),
        unsure_mm=None if found.unsure is None else round(float(np.nanmean(found.unsure)), 3),
    )


def _unsure(unsure: NDArray[np.float64]) -> UnsureFacts:
    most = max(float(np.nanmax(unsure)), 1e-6)
    picture = np.zeros((*unsure.shape, 4), dtype=np.uint8)
    picture[..., :3] = UNSURE
    low = float(np.nanquantile(unsure, 0.5))
    share = np.clip(np.nan_to_num((unsure - low) / max(most - low, 1e-6)), 0, 1)
    picture[..., 3] = np.round(210 * share)
    return UnsureFacts(picture=_url(picture), mean_mm=round(float(np.nanmean(unsure)), 3), most_mm=round(most, 3))


def _url(picture: NDArray[np.uint8]) -> str:
    return "data:image/png;base64," + base64.b64encode(png_of(picture)).decode()


def _picture(mesh: TriMesh) -> str:
    return _url(from_front(mesh, SHOWN_PX))
