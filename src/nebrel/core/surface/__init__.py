"""Decorations on the surface of a model: where they lie, how they are unrolled, and what they make of the mesh."""
