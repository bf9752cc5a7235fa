"""The terminal's thin layer."""
