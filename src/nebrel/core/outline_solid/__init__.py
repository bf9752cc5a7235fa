"""Solids over outlines: raised shapes, cutters, stamps, and the offset extrusions that they share."""
