"""Exact booleans: between our meshes and manifold3d's solids, cutting, halving and joining."""
