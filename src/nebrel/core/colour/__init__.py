"""Few colours for a mesh: which, where, and what printing them costs."""
