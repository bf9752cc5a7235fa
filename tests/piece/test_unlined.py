"""A relief that is better without the lines of its heights says so, also once it is kept."""

import numpy as np

from nebrel.core.height import HeightField, with_lines
from nebrel.core.heightfield.slab import build_slab
from nebrel.piece.evaluation.codec import decode_slab, encode_slab
from nebrel.piece.relief_reports import edges_report


def test_what_is_kept_knows_whether_its_lines_were_left_out():
    heights = np.zeros((40, 40), dtype=np.float32)
    heights[10:30, 10:30] = 2.0
    field = with_lines(HeightField(heights, np.ones_like(heights), 0.5), 0.02)
    lined = build_slab(field, 1.0, 0.02)
    found = edges_report(decode_slab(encode_slab(lined)), field)
    assert found is not None
    assert abs(found.walls_mm - 40) < 0.1
    assert found.max_error_mm < 0.3
    left_out = type(lined)(lined.mesh, lined.deviation, lined.tolerance, unlined=True)
    kept = decode_slab(encode_slab(left_out))
    assert kept.unlined
    assert edges_report(kept, field) is None
