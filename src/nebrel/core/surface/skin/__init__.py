"""The surface of a model with what decorations need to know of it, and patches of it."""
