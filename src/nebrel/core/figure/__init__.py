"""A solid in the round from one picture: silhouette, thickness, front and back, surface."""
