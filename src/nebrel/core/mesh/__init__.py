"""The triangle mesh, its measures and its file formats."""

from nebrel.core.mesh.trimesh import TriMesh

__all__ = ["TriMesh"]
