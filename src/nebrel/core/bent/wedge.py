"""The step wedge that a material is measured with: fields of rising thickness side by side, in a rim."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.csg.boolean import cleanup, upright
from nebrel.core.mesh import TriMesh
from nebrel.core.region.shapes import shape_region

FIELD_MM, RIM_MM = 12.0, 3.0
SETTLING_MM = 0.0005


def make_wedge(thicknesses: NDArray[np.float64]) -> TriMesh:
    """A closed wedge lying on its back, its lowest corner at the origin.

    Fields are 12 mm square, thinnest left. The rim is as thick as the thickest field, so that no light comes past it;
    a notch in its upper edge marks every fifth field.
    """
    count = len(thicknesses)
    width, height = count * FIELD_MM + 2 * RIM_MM, FIELD_MM + 2 * RIM_MM
    solid = upright(shape_region("rectangle", width, height), 0, float(thicknesses.max()))
    for at, thick in enumerate(thicknesses.tolist()):
        left = RIM_MM + at * FIELD_MM
        if thick < float(thicknesses.max()):
            field = shape_region("rectangle", FIELD_MM, FIELD_MM)
            solid -= upright(field, thick, float(thicknesses.max()) + 1).translate((left, RIM_MM, 0))
        if (at + 1) % 5 == 0:
            notch = upright(shape_region("rectangle", 2.0, 2.0), -1, float(thicknesses.max()) + 1)
            solid -= notch.translate((left + FIELD_MM / 2 - 1, height - 1.2, 0))
    return cleanup(solid, SETTLING_MM)
