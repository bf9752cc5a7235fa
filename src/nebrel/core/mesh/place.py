"""Where a mesh stands."""

from nebrel.core.mesh.trimesh import TriMesh


def at_origin(mesh: TriMesh) -> TriMesh:
    """The mesh moved so that the lowest corner of its box is the origin."""
    return TriMesh(
        mesh.vertices - mesh.vertices[mesh.faces].min(axis=(0, 1)), mesh.faces, mesh.colours, mesh.corner_colours
    )
