"""The relief panel as the registry knows it."""

from functools import partial

from nebrel.piece.evaluation.kind import BODY, DELIVER, PICTURE, PROOF, Kind, Shape, Station
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.kinds.panel.evaluator import PanelEvaluator
from nebrel.piece.kinds.panel.laying import Opens


def panel_kind(opens: Opens) -> Kind[PanelDocument]:
    """The kind; `opens` gives the evaluator of the document of a piece that is laid on a panel."""
    return Kind(
        name="panel",
        document=PanelDocument,
        evaluator=partial(PanelEvaluator, opens=opens),
        told_by="",
        being="is a relief panel",
        words=lambda _: "Relief panel",
        width=lambda document: document.body.width_mm,
        begin=lambda _, width: {"body": {"width_mm": max(1.0, width)}},
        stations=(PICTURE, Station("height", "Height"), BODY, PROOF, DELIVER),
        shapes=(Shape("panel", "Relief panel", {}),),
        shape=lambda _: "panel",
    )
