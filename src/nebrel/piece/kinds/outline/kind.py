"""Pieces made of outlines, of a picture or of a drawing, as the registry knows them."""

from nebrel.piece.evaluation.kind import BODY, DELIVER, PICTURE, PROOF, Kind, Shape, Station
from nebrel.piece.kinds.outline.document import CutterPart, DrawnDocument, OutlineDocument, StampPart, TracedDocument
from nebrel.piece.kinds.outline.evaluator import DrawnEvaluator, TracedEvaluator

SHAPES = (
    Shape("raised", "Raised outline", {"solid": {"kind": "raised"}}),
    Shape("cutter", "Clay cutter", {"solid": {"kind": "cutter"}}),
    Shape("stamp", "Stamp", {"solid": {"kind": "stamp"}}),
)
WORDS = {"raised": "Raised outline", "cutter": "Cutter", "stamp": "Stamp"}
OUTLINES = Station("outlines", "Outlines", begins=True)


def _words(document: OutlineDocument) -> str:
    return WORDS[document.solid.kind]


def _width(document: OutlineDocument) -> float:
    return document.width_mm


def _shape(document: OutlineDocument) -> str:
    return document.solid.kind


def _advice(document: OutlineDocument) -> tuple[str, ...]:
    solid = document.solid
    if isinstance(solid, CutterPart):
        return (
            f"Its walls are {solid.lines} lines of {solid.line_mm:g} mm; lay them from end to end, without infill.",
            "Take a material that may touch dough, and rinse it by hand.",
        )
    if isinstance(solid, StampPart):
        return ("Lay its face as it stands here; the finest layers show in every print.",)
    return ()


TRACED = Kind(
    name="traced",
    document=TracedDocument,
    evaluator=TracedEvaluator,
    told_by="trace",
    being="is made of outlines",
    words=_words,
    width=_width,
    begin=lambda _, width: {"width_mm": width, "trace": {}},
    stations=(PICTURE, OUTLINES, BODY, PROOF, DELIVER),
    shapes=SHAPES,
    shape=_shape,
    print_advice=_advice,
)
DRAWN = Kind(
    name="drawn",
    document=DrawnDocument,
    evaluator=DrawnEvaluator,
    told_by="drawing",
    being="starts from a drawing",
    words=_words,
    width=_width,
    begin=lambda _, width: {"width_mm": width},
    stations=(OUTLINES, BODY, PROOF, DELIVER),
    shapes=SHAPES,
    shape=_shape,
    print_advice=_advice,
)
