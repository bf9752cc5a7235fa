"""Lithophanes."""
