"""Records and results as messages."""

import numpy as np

from nebrel.api.messages import (
    BuildResult,
    JobView,
    MapHead,
    ModelFrameHead,
    PictureResult,
    PieceCard,
    PieceView,
    PlanHead,
    SectionLine,
    SectionView,
    StepRow,
    StepTables,
    StripHead,
)
from nebrel.api.serving.frames import pack_frame
from nebrel.core.errors import NebrelError
from nebrel.core.height import HeightField, found_steps, step_shares
from nebrel.core.mesh.shading import ShadedMesh
from nebrel.core.picture import shrink_to
from nebrel.core.picture.audit import StrokeWidths, measure_strokes, thin_map
from nebrel.core.proof.maps import MapKind
from nebrel.jobs.workshop import Workshop
from nebrel.piece.document import AnyDocument, PicturedDocument, PieceDocument
from nebrel.piece.evaluation.evaluator import PREVIEW_PX, Progress
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.kinds.model.document import ModelDocument
from nebrel.piece.kinds.model.evaluator import ModelEvaluator
from nebrel.piece.kinds.panel.evaluator import TRACED_RELIEF_MM, Evaluator, ground_of
from nebrel.piece.parts.extent import frame_of
from nebrel.piece.parts.pictured import Pictured
from nebrel.piece.registry import Looking
from nebrel.store.jobs import JobRecord
from nebrel.store.pieces import PieceState

STRIP_PX = 96
BODY_WORDS = {"raised": "Raised outline", "cutter": "Cutter", "stamp": "Stamp"}


def card_of(workshop: Workshop, state: PieceState) -> PieceCard:
    """A piece for the shelf."""
    document = workshop.document(state)
    return PieceCard(
        id=state.id,
        revision=state.revision,
        title=document.title,
        body=_body_words(document),
        maker=document.maker.name,
        size_mm=workshop.looking_at(document).size_mm,
        changed=state.changed,
    )


def _body_words(document: AnyDocument) -> str:
    if isinstance(document, ModelDocument):
        return "Decorated model" if any(each.on for each in document.decorations) else "Model"
    if isinstance(document, LithophaneDocument):
        return f"Lithophane, {document.form.words.lower()}"
    return "Relief panel" if isinstance(document, PieceDocument) else BODY_WORDS[document.solid.kind]


def piece_of(workshop: Workshop, state: PieceState) -> PieceView:
    """A piece for the bench."""
    return PieceView(
        id=state.id,
        revision=state.revision,
        document=workshop.document(state),
        changed=state.changed,
        undoes=state.undoes,
        redoes=state.redoes,
        removed=state.removed,
    )


def job_of(record: JobRecord) -> JobView:
    """A job."""
    return JobView(
        id=record.id,
        kind=record.kind,
        piece_id=record.piece_id,
        revision=record.revision,
        state=record.state,
        stage=record.stage,
        fraction=record.fraction,
        message=record.message,
        created=record.created,
        result=BuildResult.model_validate(record.result) if record.result and record.kind == "build" else None,
        picture=PictureResult.model_validate(record.result)
        if record.result and record.kind in ("picture", "heights")
        else None,
    )


def plan_frame(
    evaluator: Evaluator,
    document: PicturedDocument,
    longest_px: int,
    upto: str | None = None,
    progress: Progress = lambda _stage, _fraction: None,
) -> bytes:
    """Tones and heights of a draft, with the facts that the page shows beside them.

    Where the picture is looked at before its last op, its heights are those that its tones would get.
    """
    view = evaluator.view(document, longest_px, upto, progress)
    picture = view.picture
    relief, thick, dark = TRACED_RELIEF_MM, TRACED_RELIEF_MM, False
    if isinstance(document, PieceDocument):
        rule, thick = document.height.rule, document.size_mm[2]
        relief, dark = rule.tallest_mm, rule.tall == "dark"
    rows, columns = picture.shape
    if upto is None and isinstance(document, PieceDocument):
        field = evaluator.asked(document, longest_px)
        heights, material, pitch, size = field.heights, field.material, field.pitch, document.size_mm
        full_rows, full_columns = frame_of(document).shape
    else:
        tones = 1 - picture.tones if dark else picture.tones
        heights, material, pitch = tones * np.float32(relief), picture.coverage >= 0.5, view.mm_per_px
        size = ((columns - 1) * pitch, (rows - 1) * pitch, thick)
        full_rows, full_columns = (round((side - 1) / view.density) + 1 for side in (rows, columns))
    to_shares = np.array([[1 / (columns - 1), 0, 0], [0, -1 / (rows - 1), 1], [0, 0, 1]])
    head = PlanHead(
        size_mm=size,
        pitch_mm=pitch,
        backing_mm=document.body.backing_mm if isinstance(document, PieceDocument) else 0.0,
        relief_mm=relief,
        full_px=(full_columns, full_rows),
        from_source=(to_shares @ view.from_source).tolist(),
    )
    arrays = {
        "tones": np.round(picture.tones * 65_535).astype(np.uint16),
        "heights": np.where(material, heights, np.float32(np.nan)),
    }
    return pack_frame(head.model_dump(mode="json"), arrays)


def model_plan_frame(models: ModelEvaluator, document: ModelDocument, longest_px: int) -> bytes:
    """A model from above, as the plan of a piece."""
    width, depth, _ = models.size(document)
    return above_frame(models.from_above(document, longest_px), width, depth)


def above_frame(field: HeightField, width: float, depth: float) -> bytes:
    """A solid from above as a plan: heights over its lowest point, and tones in proportion to them."""
    tallest = max(float(field.heights.max()), 1e-6)
    rows, columns = field.heights.shape
    head = PlanHead(
        size_mm=(width, depth, tallest),
        pitch_mm=field.pitch,
        backing_mm=0.0,
        relief_mm=tallest,
        full_px=(columns, rows),
        from_source=np.eye(3).tolist(),
    )
    arrays = {
        "tones": np.round(field.heights / tallest * 65_535).astype(np.uint16),
        "heights": np.where(field.material, field.heights, np.float32(np.nan)),
    }
    return pack_frame(head.model_dump(mode="json"), arrays)


def strip_frame(evaluator: Evaluator, document: Pictured) -> bytes:
    """Gray and coverage, uint8, of the source and of every op's result, `STRIP_PX` on the longer side of the piece.

    They are shrunk from what the plan shows at rest, which is computed anyway.
    """
    arrays: dict[str, np.ndarray] = {}
    failed: dict[str, str] = {}
    ids = ["", *(op.id for op in document.ops)]
    for at, op_id in enumerate(ids):
        try:
            picture = shrink_to(evaluator.view(document, PREVIEW_PX, op_id).picture, STRIP_PX)
        except NebrelError as refusal:
            failed[op_id] = str(refusal)
            continue
        arrays[f"gray{at}"] = np.round(picture.tones * 255).astype(np.uint8)
        arrays[f"cover{at}"] = np.round(picture.coverage * 255).astype(np.uint8)
    return pack_frame(StripHead(ids=ids, failed=failed).model_dump(mode="json"), arrays)


def step_tables(evaluator: Evaluator, document: PieceDocument) -> StepTables:
    """The table of steps with the shares of its rows, and one made from the tones present."""
    picture, rule = evaluator.picture(document, PREVIEW_PX), document.height.rule
    given = step_shares(picture, [(step.tone, step.mm) for step in rule.steps])
    found = found_steps(picture, rule.relief_mm)
    return StepTables(
        table=[StepRow(tone=tone, mm=mm, share=share) for tone, mm, share in given],
        found=[StepRow(tone=tone, mm=mm, share=share) for tone, mm, share in found],
    )


def thin_map_frame(evaluator: Evaluator, document: Pictured, longest_px: int) -> bytes:
    """`strokes` and `gaps`, uint8, as `core.picture.audit.thin_map` gives them, measured at full resolution."""
    picture, ground = evaluator.picture(document, FULL), ground_of(document)
    share = min(1.0, longest_px / max(picture.shape))
    shape = (max(1, round(picture.shape[0] * share)), max(1, round(picture.shape[1] * share)))
    arrays: dict[str, np.ndarray] = {}
    for name, widths in zip(("strokes", "gaps"), measure_strokes(picture), strict=True):
        scaled = StrokeWidths((widths.places * share).astype(np.int32), widths.widths_px * np.float32(share))
        arrays[name] = thin_map(shape, scaled, ground.line / ground.mm_per_px * share)
    return pack_frame({}, arrays)


def map_frame(looking: Looking, kind: MapKind, longest_px: int) -> bytes:
    """A shaded solid with a measure for every vertex."""
    shaded, found, document = looking.shaded(longest_px), looking.surface_map(kind, longest_px), looking.document
    allowed = document.light.tolerance_mm if isinstance(document, ModelDocument) else document.finish.tolerance_mm
    limits = {"thickness": document.maker.line_width_mm, "deviation": allowed}
    head = MapHead(
        triangles=len(shaded.faces),
        kind=kind,
        unit=found.unit,
        least=found.least,
        most=found.most,
        spot=found.spot,
        limit=limits.get(kind),
        standing=looking.standing,
    )
    return pack_frame(head.model_dump(mode="json"), {**shaded_arrays(shaded), "values": found.values})


def model_frame(shaded: ShadedMesh, standing: bool = False, low: tuple[float, ...] = (0.0, 0.0, 0.0)) -> bytes:
    """A shaded solid."""
    head = ModelFrameHead(triangles=len(shaded.faces), standing=standing, low_mm=low)
    return pack_frame(head.model_dump(mode="json"), shaded_arrays(shaded))


def shaded_arrays(shaded: ShadedMesh) -> dict[str, np.ndarray]:
    """A shaded solid as arrays of a frame."""
    normals = np.round(shaded.normals * 127).astype(np.int8)
    arrays: dict[str, np.ndarray] = {"positions": shaded.positions, "normals": normals, "faces": shaded.faces}
    return arrays if shaded.colours is None else {**arrays, "colours": shaded.colours}


def section_of(looking: Looking, line: SectionLine, longest_px: int) -> SectionView:
    """A section for drawing."""
    width, depth, _ = size = looking.plan_mm
    start, end = ((x * width, y * depth) for x, y in (line.start, line.end))
    cut = looking.section(start, end, longest_px, line.tilt_deg, line.lift_mm)
    asked: list[tuple[float, float | None]] = []
    if cut.asked is not None:
        for along, up in zip(cut.asked.along.tolist(), cut.asked.up.tolist(), strict=True):
            asked.append((along, up if np.isfinite(up) else None))
    return SectionView(length_mm=cut.length, size_mm=size, asked=asked, made=cut.made)
