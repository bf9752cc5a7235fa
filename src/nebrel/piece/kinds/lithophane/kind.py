"""The lithophane as the registry knows it."""

from nebrel.piece.evaluation.abilities import HasSheet, having
from nebrel.piece.evaluation.evaluator import PieceEvaluator
from nebrel.piece.evaluation.kind import BODY, DELIVER, PICTURE, PROOF, Extra, Kind, Shape, Station
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.kinds.lithophane.evaluator import LithophaneEvaluator

BEING = "is a lithophane"


def _recipe(evaluator: PieceEvaluator[LithophaneDocument]) -> str:
    return having(evaluator, HasSheet, BEING).recipe()


def _advice(document: LithophaneDocument) -> tuple[str, ...]:
    return (
        "Fill it wholly: what is hollow inside shows in light.",
        f"Take {document.glow.material.name}; another material needs other thicknesses.",
        "Standing, layers follow the picture's rows and show less than lying.",
    )


LITHOPHANE = Kind(
    name="lithophane",
    document=LithophaneDocument,
    evaluator=LithophaneEvaluator,
    told_by="glow",
    being=BEING,
    words=lambda document: f"Lithophane, {document.form.words.lower()}",
    width=lambda document: document.form.width_mm,
    begin=lambda _, width: {"glow": {}, "form": {"width_mm": max(5.0, width)}},
    stations=(PICTURE, Station("light", "Light"), BODY, PROOF, DELIVER),
    shapes=(Shape("lithophane", "Lithophane", {}),),
    shape=lambda _: "lithophane",
    print_advice=_advice,
    extras=(Extra("recipe", "-recipe.txt", _recipe),),
)
