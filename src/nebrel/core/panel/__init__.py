"""Relief panels: what one is, its layout, its solid, and the surface that it is meant to have."""
