"""Booleans of meshes that are sound, cleaned only about their cuts, against what cleaning all of them gives."""

import manifold3d
import numpy as np
import pytest
import trimesh

from nebrel.core.csg.boolean import cleanup, solid_of
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.slivers import faces_without_slivers, without_slivers
from nebrel.core.proof import check_soundness


def ball(at, radius: float = 8.0, fine: int = 4) -> TriMesh:
    made = trimesh.creation.icosphere(subdivisions=fine, radius=radius)
    # Rounded as files are, so that a boolean leaves untouched points as they were.
    points = (np.asarray(made.vertices) + np.array(at)).astype(np.float32).astype(np.float64)
    return TriMesh(points, np.asarray(made.faces, np.uint32))


def volume(mesh: TriMesh) -> float:
    return float(trimesh.Trimesh(mesh.vertices, mesh.faces, process=False).volume)


@pytest.mark.parametrize("seed", range(5))
@pytest.mark.parametrize("way", [manifold3d.OpType.Add, manifold3d.OpType.Subtract])
def test_both_ways_of_cleaning_give_the_same_solid(seed, way):
    rng = np.random.default_rng(seed)
    parts = [ball((0, 0, 0)), *(ball(rng.normal(0, 6, 3), rng.uniform(3, 7), 3) for _ in range(3))]
    solid = manifold3d.Manifold.batch_boolean([solid_of(part) for part in parts], way)
    everywhere, about_cuts = cleanup(solid, 1e-5), cleanup(solid, 1e-5, parts)
    assert check_soundness(about_cuts).sound
    assert volume(about_cuts) == pytest.approx(volume(everywhere), rel=1e-6)
    assert abs(len(about_cuts.faces) - len(everywhere.faces)) <= 0.01 * len(everywhere.faces)


def test_points_away_from_the_cut_stay_to_the_last_bit():
    parts = [ball((0, 0, 0)), ball((11, 0.3, 0.2))]
    made = cleanup(solid_of(parts[0]) + solid_of(parts[1]), 1e-5, parts)
    far = parts[0].vertices[parts[0].vertices[:, 0] < -1]
    known = {tuple(point) for point in made.vertices.tolist()}
    assert all(tuple(point) in known for point in far.tolist())


def test_parts_that_do_not_meet_come_out_as_they_went_in():
    parts = [ball((0, 0, 0)), ball((40, 0, 0))]
    made = cleanup(solid_of(parts[0]) + solid_of(parts[1]), 1e-5, parts)
    assert len(made.faces) == sum(len(part.faces) for part in parts)
    assert volume(made) == pytest.approx(sum(volume(part) for part in parts), rel=1e-9)


def test_edges_of_a_patch_stay_where_the_rest_of_the_mesh_has_them():
    mesh = ball((0, 0, 0), fine=2)
    points = mesh.vertices.copy()
    # A needle: two neighbours nearly on each other.
    one, other, _ = mesh.faces[0]
    points[other] = points[one] + (points[other] - points[one]) * 1e-7
    faces = mesh.faces.astype(np.int64)
    assert len(without_slivers(TriMesh(points, mesh.faces), 1e-4).faces) == len(faces) - 2
    fixed = np.zeros(len(points), dtype=bool)
    fixed[[one, other]] = True
    kept = faces_without_slivers(points, faces, 1e-4, fixed)
    assert {one, other} <= set(np.unique(kept).tolist())
