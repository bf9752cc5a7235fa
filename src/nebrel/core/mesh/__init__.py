"""The triangle mesh, its measures and its file formats."""

from nebrel.core.mesh.model import TriMesh

__all__ = ["TriMesh"]
