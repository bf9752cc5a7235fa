"""Subdivided surface moved by depths, within its limits, joined where moving alone would not do."""
