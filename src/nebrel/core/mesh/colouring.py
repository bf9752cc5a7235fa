"""Colours carried over to a mesh that was made anew."""

from dataclasses import replace

from nebrel.core.mesh.trimesh import TriMesh


def colour_like(mesh: TriMesh, original: TriMesh) -> TriMesh:
    """`mesh` with the colour that the nearest vertex of `original` has, or as it is when that has none."""
    from scipy.spatial import cKDTree

    if original.colours is None:
        return mesh
    _, nearest = cKDTree(original.vertices).query(mesh.vertices)
    return replace(mesh, colours=original.colours[nearest])
