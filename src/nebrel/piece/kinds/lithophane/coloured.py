"""The colours of a lithophane: which filters lie where behind it, its bodies, and how it looks in light."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.bent.forms import Form
from nebrel.core.height.spread import spread_light
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume
from nebrel.core.picture.srgb import WEIGHTS, decode_srgb
from nebrel.core.proof import check_soundness
from nebrel.core.proof.colour_match import colour_match
from nebrel.core.tinted.layers import FilterLayers, lay_filters
from nebrel.piece.evaluation.abilities import LitView
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.report import BodyReport, LitColoursReport

Floats = NDArray[np.float32]
DARKEST = 1e-5
# Formats that keep bodies apart.
OF_BODIES = ("3mf", "glb", "obj")


@dataclass(frozen=True)
class LaidColours:
    """Filters behind a picture.

    Attributes:
        layers: where they lie.
        wanted: float32 (H, W, 3), the colours that are wanted at the samples of the picture, linear, white 1.
        filters: float32 (H, W, K) mm of each there.
    """

    layers: FilterLayers
    wanted: Floats
    filters: Floats

    @property
    def passed(self) -> Floats:
        """Share of the light that passes the filters, against the bare bands, float32 (H, W)."""
        return (self.layers.bands.light(self.filters) @ WEIGHTS).astype(np.float32)


def lay_colours(document: LithophaneDocument, tones: Floats, rgb: Floats | None, pitch: float) -> LaidColours | None:
    """The filters that a document lays behind a picture; None where it lays none.

    Args:
        document: the piece.
        tones: float32 (H, W) that its brightness comes from.
        rgb: float32 (H, W, 3) sRGB that its colours come from; None for a gray picture.
        pitch: mm between samples.
    """
    bands = document.bands
    if bands is None:
        return None
    rule = document.glow.to_core()
    bright = rule.wanted(tones)
    wanted = np.repeat(bright[..., np.newaxis], 3, axis=2)
    if rgb is not None:
        light = decode_srgb(rgb)
        own = light @ WEIGHTS
        wanted = np.where(
            (own > DARKEST)[..., np.newaxis], light * (bright / np.maximum(own, DARKEST))[..., None], wanted
        )
    wanted = wanted.astype(np.float32)
    layers = lay_filters(wanted, pitch, bands, rule.contrast, document.maker.line_width_mm, document.colours.dot_mm)
    rows, columns = tones.shape
    return LaidColours(layers, wanted, layers.thickness((rows, columns), pitch).astype(np.float32))


def lit_view(
    document: LithophaneDocument,
    through: Floats,
    tones: Floats,
    form: Form,
    filters: Floats | None = None,
    wanted: Floats | None = None,
) -> LitView:
    """A sheet in light that spreads in the wall as far as the document says.

    Args:
        document: the piece.
        through: float32 (h, w) mm of material on the way of the light, filters too.
        tones: float32 (h, w) that are wanted there.
        form: that the sheet is bent over.
        filters: float32 (h, w, K) mm of every filter in that; None where the piece has none.
        wanted: float32 (h, w, 3), colours that are wanted there.
    """
    bands = document.bands
    attenuation, there = np.float32(document.glow.material.attenuation_per_mm), np.isfinite(through) & (through > 0)
    seen, colour = through, None
    if filters is not None and bands is not None:
        passed = bands.light(filters).astype(np.float32)
        bare = through - np.float32(bands.height)
    else:
        passed, bare = np.ones((*through.shape, 1), dtype=np.float32), through
    if document.glow.spread_mm > 0 or filters is not None:
        light = np.exp(-attenuation * np.where(there, bare, 0))[..., np.newaxis].astype(np.float32) * passed
        light = _spread(document, light, there, form)
        if light.shape[2] == 3:
            colour = light / np.maximum(light.max(axis=2, keepdims=True), 1e-30)
            bright = light @ WEIGHTS
        else:
            bright = light[..., 0]
        seen = np.where(there, -np.log(np.maximum(bright, 1e-30)) / attenuation, bare).astype(np.float32)
    return LitView(through, seen, tones, (form.width, form.height), colour, wanted)


def _spread(document: LithophaneDocument, light: Floats, there: NDArray[np.bool_], form: Form) -> Floats:
    radius, (rows, columns) = document.glow.spread_mm, there.shape
    if radius <= 0:
        return light
    radius_px = (radius * columns / form.width, radius * rows / form.height)
    parts = [
        spread_light(np.ascontiguousarray(light[..., at]), radius_px, there, form.around)
        for at in range(light.shape[2])
    ]
    return np.stack(parts, axis=-1)


def filters_through(bodies: list[tuple[int, TriMesh]], count: int, through: Callable[[TriMesh], Floats]) -> Floats:
    """Of every filter what light passes, float32 (h, w, K) mm, measured through its own body.

    Args:
        bodies: as `split_bodies` gives them.
        count: of filters.
        through: measures material along the normals of the sheet.
    """
    found = [np.zeros(1, dtype=np.float32)] * count
    for number, body in bodies:
        if number >= 0:
            found[number] = through(body)
    shape = max((each.shape for each in found), key=len)
    return np.stack([np.broadcast_to(each, shape) for each in found], axis=-1)


def coloured_report(
    document: LithophaneDocument, view: LitView, bodies: list[tuple[int, TriMesh]], whole: TriMesh
) -> LitColoursReport:
    """What the finished bodies show of the colours that are wanted, and what each of them is.

    Raises:
        ValueError: the piece has no filters.
    """
    from scipy import ndimage

    bands = document.bands
    if bands is None or view.colour is None or view.wanted is None:
        raise ValueError("this lithophane has no colour layers")
    rule = document.glow.to_core()
    bright = np.exp(-rule.material.attenuation * (view.seen - rule.thinnest))
    shown = view.colour * (bright / np.maximum(view.colour @ WEIGHTS, 1e-6))[..., np.newaxis]
    inside = np.isfinite(view.tones) & (view.through > 0)
    # Dots are seen from where they run together.
    blur_px = document.colours.dot_mm / 2 * shown.shape[1] / view.size_mm[0]
    shown, wanted = (ndimage.gaussian_filter(each, (blur_px, blur_px, 0)) for each in (shown, view.wanted))
    match = colour_match(shown[inside], wanted[inside])
    told = [
        BodyReport(
            name=document.glow.material.name if number < 0 else bands.filters[number].name,
            volume_mm3=round(volume(body), 3),
            triangles=len(body.faces),
            sound=check_soundness(body).sound,
        )
        for number, body in bodies
    ]
    return LitColoursReport(
        mean_difference=round(match.mean, 3),
        largest_tenth=round(match.tenth, 3),
        far_off=round(match.far, 5),
        uncovered_mm3=round(volume(whole) - sum(volume(body) for _, body in bodies), 4),
        bodies=told,
    )


def names_of_colours(document: LithophaneDocument) -> dict[str, str]:
    """What the colours of its bodies are called, `#rrggbb` to a name."""
    bands, material = document.bands, document.glow.material
    return {} if bands is None else {material.cast: material.name, **{each.shown: each.name for each in bands.filters}}


def painted_bodies(document: LithophaneDocument, bodies: list[tuple[int, TriMesh]]) -> list[tuple[str, TriMesh]]:
    """The bodies with their names, each in its colour."""
    bands, material, made = document.bands, document.glow.material, []
    for number, body in bodies:
        own = None if bands is None or number < 0 else bands.filters[number]
        name, shown = (material.name, material.cast) if own is None else (own.name, own.shown)
        rgba = np.array([*bytes.fromhex(shown[1:]), 255], dtype=np.uint8)
        made.append((name, TriMesh(body.vertices, body.faces, corner_colours=np.tile(rgba, (len(body.faces), 3, 1)))))
    return made
