"""`nebrel prepare` and `nebrel audit`: pictures without a piece."""

from __future__ import annotations

import json as jsons
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from nebrel.cli.files import check_target
from nebrel.cli.progress import progress_bar
from nebrel.cli.shorthands import ops_in_order
from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length
from nebrel.interface.reading import read_file

if TYPE_CHECKING:
    from nebrel.piece.kinds.panel.document import PanelDocument
    from nebrel.piece.kinds.panel.evaluator import PanelEvaluator
    from nebrel.settings import Settings


MEMORY_BYTES = 64 * 2**20


def prepare(
    context: typer.Context,
    picture: Annotated[Path, typer.Argument(help="PNG, JPEG, TIFF, WebP, BMP, GIF, AVIF, HEIC, JPEG XL or EXR.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The 16-bit PNG or TIFF to write.")],
    ops: Annotated[Path | None, typer.Option(help="A JSON list of ops, applied before the shorthands.")] = None,
    width: Annotated[str, typer.Option(help="Width of the piece, for lengths in mm and the file's dpi.")] = "80",
) -> int:
    """Prepare a picture by ops.

    Shorthands, in the order given: --auto-level, --invert, --snap 0.03, --threshold auto|0.4, --tones 3,
    --border 4mm:black, --cut-out auto, --denoise 0.2mm, --resize 600x.
    """
    check_target(output, (".png", ".tif", ".tiff"))
    steps = _list_tools(ops) + ops_in_order(context.args)
    data = read_file(picture, "picture_bytes")

    from nebrel.core.picture.write import PictureFormat, write_picture
    from nebrel.piece.evaluation.prepare import FULL
    from nebrel.settings import Settings
    from nebrel.store.blobs import write_atomically

    settings = Settings()
    document = _document(data, picture, settings, parse_length(width), steps)
    with progress_bar() as progress:
        prepared = _evaluator(document, data, settings).picture(FULL, progress)
        rows, columns = prepared.shape
        mm_per_px = document.width_mm / (columns - 1)
        form: PictureFormat = "png" if output.suffix.lower() == ".png" else "tiff"
        try:
            write_atomically(output, lambda file: write_picture(prepared, file, form, mm_per_px))
        except OSError as cause:
            raise BadValueError(f"{output} cannot be written: {cause.strerror}.") from cause
    print(f"{output}: {columns:,} × {rows:,} pixels, 16 bit, {25.4 / mm_per_px:.1f} dpi")
    return 0


def audit(
    picture: Annotated[Path, typer.Argument(help="PNG, JPEG, TIFF, WebP, BMP, GIF, AVIF, HEIC, JPEG XL or EXR.")],
    width: Annotated[str, typer.Option(help="Width of the piece.")] = "80",
    relief: Annotated[str, typer.Option(help="From black to white.")] = "3",
    line: Annotated[str, typer.Option(help="Width of the thinnest line that the maker draws.")] = "0.42",
    layer: Annotated[str, typer.Option(help="Height of a layer.")] = "0.16",
    raise_: Annotated[str, typer.Option("--raise", help="Which tones stand tall: bright or dark.")] = "bright",
    json: Annotated[bool, typer.Option("--json", help="Print the findings as JSON.")] = False,
) -> int:
    """Tell what of a picture would go wrong as relief."""
    data = read_file(picture, "picture_bytes")
    from nebrel.settings import Settings

    settings = Settings()
    if raise_ not in ("bright", "dark"):
        raise BadValueError(f"--raise is “{raise_}”; bright or dark would be accepted.")
    parts = {
        "height": {"rule": {"relief_mm": parse_length(relief), "tall": raise_}},
        "maker": {"line_width_mm": parse_length(line), "layer_mm": parse_length(layer)},
    }
    document = _document(data, picture, settings, parse_length(width), [], **parts)
    with progress_bar() as progress:
        findings = _evaluator(document, data, settings).audit(progress)
    if json:
        told = [
            {
                "code": finding.measure,
                "severity": finding.severity,
                "value": finding.value,
                "unit": finding.unit,
                "message": f"{finding.what} {finding.why}",
                "fix": {"kind": finding.fix.kind, **finding.fix.parameters} if finding.fix else None,
            }
            for finding in findings
        ]
        print(jsons.dumps({"findings": told}, indent=2, ensure_ascii=False))
        return 0
    for finding in findings:
        print(f"{finding.severity}: {finding.what} {finding.why} [{finding.measure}]")
    if not findings:
        print("Nothing stands out.")
    return 0


def _document(
    data: bytes, picture: Path, settings: Settings, width_mm: float, ops: list[dict[str, object]], **parts: object
) -> PanelDocument:

    from nebrel.core.picture import read_picture
    from nebrel.piece.kinds.panel.document import PanelDocument
    from nebrel.piece.parts.pictured import picture_source
    from nebrel.piece.parts.refusals import parse_part
    from nebrel.store.blobs import blob_name

    source = picture_source(blob_name(data), picture.name, read_picture(data, picture.name, settings.read_limits).facts)
    body = {"width_mm": width_mm}
    named = [{**op, "id": str(at)} for at, op in enumerate(ops)]
    title = picture.stem[:120] or "Picture"
    told = {"title": title, "picture": source.model_dump(), "body": body, "ops": named, **parts}
    return parse_part(PanelDocument, told)


def _evaluator(document: PanelDocument, data: bytes, settings: Settings) -> PanelEvaluator:

    from nebrel.piece.evaluation.cache import ResultCache
    from nebrel.piece.evaluation.sources import Sources
    from nebrel.piece.kinds.panel.evaluator import PanelEvaluator

    return PanelEvaluator(
        document, Sources(_OwnPicture(data, document.picture.blob), ResultCache(MEMORY_BYTES), settings.read_limits)
    )


class _OwnPicture:
    """The picture itself by its blob; anything else that an op names is a file beside it."""

    def __init__(self, data: bytes, blob: str) -> None:
        self._data, self._own = data, blob

    def __call__(self, blob: str) -> bytes:
        if blob == self._own:
            return self._data
        raise BadValueError(
            "An op names a second picture by its blob, which only the shelf keeps; "
            "ops without a second picture are accepted here."
        )


def _list_tools(path: Path | None) -> list[dict[str, object]]:
    if path is None:
        return []
    data = read_file(path, 16 * 2**20)
    try:
        listed = jsons.loads(data)
    except ValueError as cause:
        raise BadValueError(f"{path} is not JSON; a list of ops is needed.") from cause
    if not isinstance(listed, list) or not all(isinstance(op, dict) for op in listed):
        raise BadValueError(f'{path} holds no list of ops; something like [{{"kind": "invert"}}] is needed.')
    return listed
