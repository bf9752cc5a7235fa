"""Moulds and dies of other pieces."""
