"""Moulds and dies: the negative of a solid, parted by a plane, so that a cast comes out."""
