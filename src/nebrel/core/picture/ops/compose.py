"""Laying something over a picture: a simple shape, lettering, another picture."""

from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from nebrel.core.errors import BadValueError
from nebrel.core.picture.picture import Picture, Tones

Blend = Literal["replace", "add", "subtract", "highest", "lowest", "multiply"]
Shape = Literal["rectangle", "rounded", "ellipse", "star", "heart"]
OVERSAMPLED = 4
CURVE_STEPS = 24
SUBPIXEL_BITS = 4
MOST_AWAY = 2**20
MOST_DRAWN_PX = 64_000_000
_STAR_INNER = 0.382
_LETTER_PX = 200


@dataclass(frozen=True)
class Overlay:
    """What is laid over a picture, in its own pixels: float32 (h, w) tones and how far they cover, 0..1."""

    tones: Tones
    cover: Tones


@dataclass(frozen=True)
class Place:
    """Where a layer lies: its centre and size in pixels of the picture, turned counter-clockwise."""

    column: float
    row: float
    width_px: float
    height_px: float
    angle_deg: float = 0.0


def lay(picture: Picture, layer: Overlay, place: Place, blend: Blend) -> Picture:
    """The layer over the picture; `replace` and `highest` also make material of what was blank there."""
    size = (picture.shape[1], picture.shape[0])
    moved = _to_layer(layer.cover.shape, place)
    smooth = cv2.INTER_AREA if place.width_px < layer.cover.shape[1] else cv2.INTER_LINEAR
    source, moved = _shrink(layer, moved, place) if smooth == cv2.INTER_AREA else (layer, moved)
    cover = np.clip(cv2.warpAffine(source.cover, moved[:2], size, flags=cv2.INTER_LINEAR), 0, 1)
    tones = cv2.warpAffine(source.tones, moved[:2], size, flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return blend_over(picture, Overlay(np.asarray(tones, np.float32), np.asarray(cover, np.float32)), blend)


def blend_over(picture: Picture, layer: Overlay, blend: Blend) -> Picture:
    """A layer of the picture's own pixels over it; as in `lay`."""
    tones, cover, below = layer.tones, layer.cover, picture.tones
    blended = {
        "replace": lambda: tones,
        "add": lambda: below + tones,
        "subtract": lambda: below - tones,
        "highest": lambda: np.maximum(below, tones),
        "lowest": lambda: np.minimum(below, tones),
        "multiply": lambda: below * tones,
    }[blend]()
    if blend in ("replace", "highest", "add"):
        blended = np.where(picture.coverage < 0.5, tones, blended)
    coverage = np.maximum(picture.coverage, cover) if blend in ("replace", "highest", "add") else picture.coverage
    return replace(picture, tones=below + cover * (np.clip(blended, 0, 1) - below), coverage=coverage)


def curve_through(points: NDArray[np.float64], smooth: bool, closed: bool) -> NDArray[np.float64]:
    """Corners of a run of straight lines through points, or of a smooth curve through them.

    The curve is a cubic spline over the square root of the chords (centripetal, Lee 1989), so it does not loop where
    points lie unevenly.

    Args:
        points: float64 (N, 2), N at least 2.
        smooth: whether it is a curve.
        closed: whether its end runs on into its beginning.

    Returns:
        float64 (M, 2); the first is not repeated at the end.
    """
    kept = points[np.append(True, np.hypot(*np.diff(points, axis=0).T) > 0)]
    if not smooth or len(kept) < 3:
        return kept
    from scipy.interpolate import CubicSpline

    if closed and (kept[0] == kept[-1]).all():
        kept = kept[:-1]
    through = np.vstack([kept, kept[:1]]) if closed else kept
    at = np.append(0.0, np.cumsum(np.sqrt(np.hypot(*np.diff(through, axis=0).T))))
    spline = CubicSpline(at, through, bc_type="periodic" if closed else "natural")
    count = (len(through) - 1) * CURVE_STEPS
    run: NDArray[np.float64] = spline(np.linspace(0, at[-1], count + 1))
    return run[:-1] if closed else run


def run_layer(
    shape: tuple[int, int], run: NDArray[np.float64], line_px: float | None, closed: bool, tone: float
) -> Overlay:
    """A drawn run as a layer of the picture's own pixels.

    Args:
        shape: rows and columns of the picture.
        run: float64 (N, 2) column and row.
        line_px: width of a line along it; None fills it.
        closed: whether a line runs on to its beginning.
        tone: of it.
    """
    rows, columns = shape
    fine = OVERSAMPLED if rows * columns * OVERSAMPLED**2 <= MOST_DRAWN_PX else 1
    unit = 1 << SUBPIXEL_BITS
    corners = np.round(np.clip((run + 0.5) * fine - 0.5, -MOST_AWAY, MOST_AWAY) * unit).astype(np.int32)
    canvas = np.zeros((rows * fine, columns * fine), dtype=np.uint8)
    if line_px is None:
        cv2.fillPoly(canvas, [corners], 255, cv2.LINE_AA, SUBPIXEL_BITS)
    else:
        thick = max(1, round(line_px * fine))
        cv2.polylines(canvas, [corners], closed, 255, thick, cv2.LINE_AA, SUBPIXEL_BITS)
    small = canvas if fine == 1 else cv2.resize(canvas, (columns, rows), interpolation=cv2.INTER_AREA)
    cover = np.asarray(small, dtype=np.float32) / np.float32(255)
    return Overlay(tones=np.full_like(cover, tone), cover=cover)


def _to_layer(shape: tuple[int, ...], place: Place) -> NDArray[np.float64]:
    rows, columns = shape
    angle = np.deg2rad(place.angle_deg)
    across, down = place.width_px / columns, place.height_px / rows
    cosine, sine = np.cos(angle), np.sin(angle)
    to_centre = np.array([[1, 0, -(columns - 1) / 2], [0, 1, -(rows - 1) / 2], [0, 0, 1.0]])
    turned = np.array(
        [[cosine * across, sine * down, place.column], [-sine * across, cosine * down, place.row], [0, 0, 1]]
    )
    matrix: NDArray[np.float64] = turned @ to_centre
    return matrix


def _shrink(layer: Overlay, _moved: NDArray[np.float64], place: Place) -> tuple[Overlay, NDArray[np.float64]]:
    size = (max(1, round(place.width_px)), max(1, round(place.height_px)))
    small = Overlay(
        tones=np.asarray(cv2.resize(layer.tones, size, interpolation=cv2.INTER_AREA)),
        cover=np.asarray(cv2.resize(layer.cover, size, interpolation=cv2.INTER_AREA)),
    )
    return small, _to_layer(small.cover.shape, place)


def shape_layer(shape: Shape, width_px: float, height_px: float, tone: float, corner_share: float = 0.2) -> Overlay:
    """A simple shape with an antialiased edge, at the size at which it will be laid.

    Args:
        shape: its name.
        width_px, height_px: its size.
        tone: inside it.
        corner_share: radius of rounded corners against the shorter side.
    """
    size = (max(2, round(width_px)), max(2, round(height_px)))
    canvas = Image.new("L", (size[0] * OVERSAMPLED, size[1] * OVERSAMPLED))
    draw = ImageDraw.Draw(canvas)
    right, bottom = canvas.width - 1, canvas.height - 1
    if shape == "rectangle":
        draw.rectangle((0, 0, right, bottom), fill=255)
    elif shape == "rounded":
        draw.rounded_rectangle((0, 0, right, bottom), corner_share * min(canvas.size), fill=255)
    elif shape == "ellipse":
        draw.ellipse((0, 0, right, bottom), fill=255)
    else:
        outline = _star() if shape == "star" else _heart()
        draw.polygon([(float(x * right), float(y * bottom)) for x, y in outline], fill=255)
    return _flat(canvas.resize(size, Image.Resampling.BOX), tone)


def _star() -> NDArray[np.float64]:
    angles = np.pi / 2 + np.arange(10) * np.pi / 5
    reach = np.where(np.arange(10) % 2 == 0, 1.0, _STAR_INNER)
    return _filling_unit(np.column_stack([reach * np.cos(angles), -reach * np.sin(angles)]))


def _heart() -> NDArray[np.float64]:
    t = np.linspace(0, 2 * np.pi, 180, endpoint=False)
    x = 16 * np.sin(t) ** 3
    y = -(13 * np.cos(t) - 5 * np.cos(2 * t) - 2 * np.cos(3 * t) - np.cos(4 * t))
    return _filling_unit(np.column_stack([x, y]))


def _filling_unit(places: NDArray[np.float64]) -> NDArray[np.float64]:
    low = places.min(axis=0)
    filled: NDArray[np.float64] = (places - low) / (places.max(axis=0) - low)
    return filled


def lettering_layer(
    text: str, font: Path, tone: float, align: Literal["left", "centre", "right"] = "centre"
) -> Overlay:
    """Lines of text as a layer, trimmed to its ink.

    Raises:
        BadValueError: nothing would be drawn.
    """
    face = ImageFont.truetype(str(font), _LETTER_PX)
    words = {"left": "left", "centre": "center", "right": "right"}[align]
    left, top, right, bottom = ImageDraw.Draw(Image.new("L", (1, 1))).multiline_textbbox(
        (0, 0), text, face, align=words
    )
    if not text.strip() or right - left < 1 or bottom - top < 1:
        raise BadValueError("The lettering is empty; at least one letter is needed.")
    canvas = Image.new("L", (int(np.ceil(right - left)), int(np.ceil(bottom - top))))
    ImageDraw.Draw(canvas).multiline_text((-left, -top), text, fill=255, font=face, align=words)
    return _flat(canvas.crop(canvas.getbbox()), tone)


def _flat(canvas: Image.Image, tone: float) -> Overlay:
    cover = np.asarray(canvas, dtype=np.float32) / np.float32(255)
    return Overlay(tones=np.full_like(cover, tone), cover=cover)


def picture_layer(picture: Picture) -> Overlay:
    """Another picture as a layer."""
    return Overlay(tones=picture.tones, cover=picture.coverage)
