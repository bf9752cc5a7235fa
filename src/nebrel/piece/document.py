"""The recipe of a piece: everything needed to make it again, beside its source pictures."""

from typing import Annotated, Literal, TypeVar, get_args, get_origin

from pydantic import BaseModel, Field, ValidationError

from nebrel.core.errors import BadValueError, ConflictError
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.kinds.model.document import STEP_OF, ModelDocument
from nebrel.piece.kinds.outline.document import SOLID_OF, DrawnDocument, Outlined
from nebrel.piece.kinds.outline.mending import MEND_OF
from nebrel.piece.kinds.outline.tracing import Trace
from nebrel.piece.kinds.panel.body import OPENING_OF, PanelBody
from nebrel.piece.kinds.panel.height import Height
from nebrel.piece.ops import OP_OF, PictureOp
from nebrel.piece.parts.extent import frame_of
from nebrel.piece.parts.finish import Finish
from nebrel.piece.parts.maker import Delivery, PrinterMaker
from nebrel.piece.parts.part import COLOUR_PATTERN, Part
from nebrel.piece.parts.pictured import PictureSource
from nebrel.piece.parts.simplification import Lightness


class PieceDocument(Part):
    """One immutable state of a piece."""

    version: Literal[1] = 1
    title: Annotated[str, Field(min_length=1, max_length=120, title="Title")]
    picture: PictureSource
    ops: tuple[PictureOp, ...] = Field((), max_length=100, title="Picture ops")
    height: Height = Height()
    body: PanelBody = PanelBody()
    finish: Finish = Finish()
    light: Lightness = Lightness()
    maker: PrinterMaker = PrinterMaker()
    delivery: Delivery = Delivery()

    @property
    def size_mm(self) -> tuple[float, float, float]:
        """Width, height and greatest possible thickness; a picture that does not use all tones stays below that."""
        rows, columns = frame_of(self).shape
        depth = self.width_mm * (rows - 1) / max(columns - 1, 1)
        return self.width_mm, depth, self.body.backing_mm + max(self.height.rule.tallest_mm, self.body.frame.tallest_mm)

    @property
    def width_mm(self) -> float:
        """Asked width."""
        return self.body.width_mm

    @property
    def source_px(self) -> tuple[int, int]:
        """Columns and rows of the source picture."""
        return self.picture.width_px, self.picture.height_px


class TracedDocument(Outlined):
    """One immutable state of a piece that is made of the outlines of a picture."""

    picture: PictureSource
    ops: tuple[PictureOp, ...] = Field((), max_length=100, title="Picture ops")
    trace: Trace = Trace()

    @property
    def source_px(self) -> tuple[int, int]:
        """Columns and rows of the source picture."""
        return self.picture.width_px, self.picture.height_px


Model = TypeVar("Model", bound=BaseModel)
# What lists of parts hold, by the kind that validation names.
MODEL_OF_KIND: dict[str, type[BaseModel]] = {**OP_OF, **OPENING_OF, **STEP_OF, **MEND_OF, **SOLID_OF}
AnyDocument = PieceDocument | LithophaneDocument | ModelDocument | TracedDocument | DrawnDocument
PicturedDocument = PieceDocument | LithophaneDocument | TracedDocument
OutlineDocument = TracedDocument | DrawnDocument
# Which part of plain data tells what kind of piece it is.
TELLING: dict[str, type[AnyDocument]] = {
    "model": ModelDocument,
    "drawing": DrawnDocument,
    "trace": TracedDocument,
    "glow": LithophaneDocument,
}


def merged(document: AnyDocument, change: dict[str, object]) -> AnyDocument:
    """The document after a JSON merge patch (RFC 7396).

    Raises:
        BadValueError: the result would not be a valid document; one sentence names the first fault.
    """
    return parse_document(_merge(document.model_dump(mode="json"), change))


def parse_document(data: object) -> AnyDocument:
    """A document from plain data, refused with one sentence when it is not valid; its parts tell its kind."""
    told = [kind for part, kind in TELLING.items() if isinstance(data, dict) and part in data]
    kind: type[AnyDocument] = told[0] if told else PieceDocument
    return parse_part(kind, data)


def parse_part(kind: type[Model], data: object) -> Model:
    """A document, or one part of one, from plain data, refused with one sentence when it is not valid."""
    try:
        return kind.model_validate(data)
    except ValidationError as cause:
        raise BadValueError(sentence_of(cause, kind)) from cause


def parse_panel(data: object) -> PieceDocument:
    """A document that starts from a picture, from plain data."""
    return panel_of(parse_document(data))


def panel_of(document: AnyDocument) -> PieceDocument:
    """The document of a piece that starts from a picture.

    Raises:
        ConflictError: it starts from a model.
    """
    if isinstance(document, ModelDocument):
        raise ConflictError("This piece starts from a model, so it has no picture and no heights.")
    if isinstance(document, LithophaneDocument):
        raise ConflictError("This piece is a lithophane, so it has thicknesses and no heights.")
    if not isinstance(document, PieceDocument):
        raise ConflictError("This piece is made of outlines, so it has no heights.")
    return document


def lithophane_of(document: AnyDocument) -> LithophaneDocument:
    """The document of a lithophane.

    Raises:
        ConflictError: it is something else.
    """
    if not isinstance(document, LithophaneDocument):
        raise ConflictError("This piece is not a lithophane; choose that at Body first.")
    return document


def pictured_of(document: AnyDocument) -> PicturedDocument:
    """The document of a piece that has a picture.

    Raises:
        ConflictError: it starts from a model or a drawing.
    """
    if not isinstance(document, PicturedDocument):
        raise ConflictError("This piece starts from a model or a drawing, so it has no picture.")
    return document


def _merge(target: object, change: object) -> object:
    if not isinstance(change, dict):
        return change
    result = dict(target) if isinstance(target, dict) else {}
    for key, value in change.items():
        if value is None:
            result.pop(key, None)
        else:
            result[key] = _merge(result.get(key), value)
    return result


def sentence_of(error: ValidationError, kind: type[BaseModel] = PieceDocument) -> str:
    """The first fault of a validation, in one sentence for the person who typed it."""
    fault = error.errors(include_url=False)[0]
    place = [part for part in fault["loc"] if isinstance(part, str)]
    what = _title_of(place, kind)
    given = fault.get("input")
    unit = " mm" if place and place[-1].endswith("_mm") else ""
    limits = fault.get("ctx", {})
    if fault["type"] in ("greater_than_equal", "less_than_equal"):
        low, high = _bounds_of(place, kind)
        return f"{what} is {_plain(given)}{unit}; {_plain(low)} to {_plain(high)}{unit} would be accepted."
    if fault["type"] in ("finite_number", "float_parsing", "float_type"):
        return f"{what} is {_plain(given)}; a number{' in millimetres' if unit else ''} would be accepted."
    if fault["type"] == "literal_error":
        return f"{what} is {_plain(given)}; {limits['expected']} would be accepted."
    if fault["type"] == "string_pattern_mismatch" and limits["pattern"] == COLOUR_PATTERN:
        return f"{what} is {_plain(given)}; a colour like #ffe0b3 would be accepted."
    if fault["type"] == "string_too_short":
        return f"{what} is empty; at least one letter is needed."
    if fault["type"] == "string_too_long":
        return f"{what} is too long; up to {limits['max_length']} letters are accepted."
    if fault["type"] == "missing":
        return f"{what} is missing; it must be given."
    if fault["type"] == "extra_forbidden":
        return f"{'.'.join(place)} is not part of a piece; please check its spelling."
    return f"{what}: {fault['msg']}."


def _plain(value: object) -> str:
    if isinstance(value, int | float):
        return f"{value:,.12g}".replace("inf", "infinite").replace("nan", "not a number")
    return f"“{value}”"


def _field_of(place: list[str], kind: type[BaseModel]) -> tuple[str, list[object]]:
    model: type[BaseModel] | None = kind
    title, rules = place[-1] if place else "The piece", []
    for part in place:
        if model is None and part in MODEL_OF_KIND:
            model = MODEL_OF_KIND[part]
            continue
        if model is None or part not in model.model_fields:
            break
        field = model.model_fields[part]
        title, rules = field.title or part.replace("_", " ").capitalize(), list(field.metadata)
        model = _model_in(field.annotation)
    return title, rules


def _model_in(annotation: object) -> type[BaseModel] | None:
    """The model that a field holds, one or a list of them."""
    listed = get_args(annotation)[:1] if get_origin(annotation) is tuple else ()
    for kind in (annotation, *listed):
        if isinstance(kind, type) and issubclass(kind, BaseModel):
            return kind
    return None


def _title_of(place: list[str], kind: type[BaseModel]) -> str:
    return _field_of(place, kind)[0]


def _bounds_of(place: list[str], kind: type[BaseModel]) -> tuple[float, float]:
    low, high = 0.0, float("inf")
    for rule in _field_of(place, kind)[1]:
        low = getattr(rule, "ge", low)
        high = getattr(rule, "le", high)
    return low, high
