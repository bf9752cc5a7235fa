"""Builds the handbook: pages written by hand, and pages told by the program itself."""
