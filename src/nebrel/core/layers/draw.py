"""Layers as pictures to scale: one drawing of all, or one picture of each."""

from collections.abc import Iterator

import cv2
import manifold3d
import numpy as np
from numpy.typing import NDArray

from nebrel.core.layers.study import LayerStudy

MARGIN_MM = 2.0
PX_PER_MM, MOST_PX = 20.0, 2400
SHIFT = 4
GROUND, MATERIAL, HANGS = (247, 249, 250), (120, 108, 96), (48, 84, 200)


def layers_svg(study: LayerStudy) -> bytes:
    """All layers over each other at true size, each a group of its own; what hangs is drawn on top of its layer."""
    wide, deep, _ = study.slices.size
    width, height = wide + 2 * MARGIN_MM, deep + 2 * MARGIN_MM
    rows = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.3f}mm" height="{height:.3f}mm" '
        f'viewBox="{-MARGIN_MM:.3f} {-deep - MARGIN_MM:.3f} {width:.3f} {height:.3f}">'
    ]
    bounds = study.slices.bounds
    for number, (section, hangs) in enumerate(zip(study.slices.sections, study.hanging.regions, strict=True)):
        rows.append(f'<g id="layer-{number + 1}" data-from-mm="{bounds[number]:.3f}" fill-rule="evenodd">')
        rows.append(f'<path fill="#606c78" d="{_path(section)}"/>')
        if not hangs.is_empty():
            rows.append(f'<path fill="#c85430" d="{_path(hangs)}"/>')
        rows.append("</g>")
    return "\n".join([*rows, "</svg>", ""]).encode()


def layer_pictures(study: LayerStudy) -> Iterator[NDArray[np.uint8]]:
    """A picture of each layer from above, uint8 (H, W, 3) in the order blue, green, red; all of one size."""
    wide, deep, _ = study.slices.size
    scale = min(PX_PER_MM, MOST_PX / (max(wide, deep) + 2 * MARGIN_MM))
    shape = (int(np.ceil((deep + 2 * MARGIN_MM) * scale)), int(np.ceil((wide + 2 * MARGIN_MM) * scale)), 3)
    for section, hangs in zip(study.slices.sections, study.hanging.regions, strict=True):
        picture = np.full(shape, GROUND, dtype=np.uint8)
        for region, tone in ((section, MATERIAL), (hangs, HANGS)):
            rings = [_pixels(np.asarray(ring), deep, scale) for ring in region.to_polygons()]
            if rings:
                cv2.fillPoly(picture, rings, tone, cv2.LINE_AA, SHIFT)
        yield picture


def _pixels(ring: NDArray[np.float64], deep: float, scale: float) -> NDArray[np.int32]:
    """Places on a picture whose first row is on top, in sixteenths of a pixel."""
    x, y = (ring[:, 0] + MARGIN_MM) * scale, (deep + MARGIN_MM - ring[:, 1]) * scale
    return np.round(np.column_stack([x, y]) * 2**SHIFT).astype(np.int32)


def _path(section: manifold3d.CrossSection) -> str:
    rings = []
    for ring in section.to_polygons():
        rings.append("M" + " ".join(f"{x:.3f} {-y:.3f}" for x, y in np.asarray(ring).tolist()) + "Z")
    return "".join(rings)
