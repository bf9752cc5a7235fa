"""Meshes from elsewhere mended, never worse than they came."""
