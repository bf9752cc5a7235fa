"""Figures in the round."""
