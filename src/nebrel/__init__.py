"""Nebrel: pictures become true-size, closed solids for printing and carving."""
