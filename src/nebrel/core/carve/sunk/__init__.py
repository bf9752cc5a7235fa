"""Outlines sunk into a stock: V-carved, as pockets, or drilled."""
