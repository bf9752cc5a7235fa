"""Files of many objects near each other."""

import manifold3d
import numpy as np

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.mesh.shells import together
from nebrel.core.proof import check_soundness
from nebrel.core.proof.objects import MOST_PAIRS, check_objects


def rods(count: int):
    """Rods side by side, aslant, so that all their boxes share room and none of them does."""
    rod = manifold3d.Manifold.cube((100, 0.5, 3), True).rotate((0, 0, 45))
    made = [mesh_of(rod.translate((at, -at, 0))) for at in np.arange(count) * 0.6]
    return together(made), tuple((f"rod {at}", len(each.faces)) for at, each in enumerate(made))


def test_what_was_not_looked_at_is_told():
    for count in (20, 30):
        mesh, objects = rods(count)
        found, each = check_objects(mesh, objects, check_soundness(mesh))
        pairs = count * (count - 1) // 2
        told = [finding for finding in found.findings if finding.measure == "pairs_passed_over"]
        assert len(told) == (pairs > MOST_PAIRS)
        assert all(f"{pairs:,} pairs" in finding.what for finding in told)
        assert len(each) == count
        assert found.sound
