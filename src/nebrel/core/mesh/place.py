"""Where a mesh stands."""

from nebrel.core.mesh.trimesh import TriMesh


def at_origin(mesh: TriMesh) -> TriMesh:
    """The mesh moved so that the lowest corner of its box is the origin."""
    return TriMesh(
        mesh.vertices - mesh.vertices[mesh.faces].min(axis=(0, 1)), mesh.faces, mesh.colours, mesh.corner_colours
    )


def stood(mesh: TriMesh) -> TriMesh:
    """A mesh whose Y points up with Z up instead, its front towards the one who looks along Y."""
    turned = mesh.vertices[:, [0, 2, 1]] * [1.0, -1.0, 1.0]
    return TriMesh(turned, mesh.faces, mesh.colours, mesh.corner_colours)
