"""Drawings of the Fernhollow samples."""
