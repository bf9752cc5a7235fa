"""Pieces put together of other pieces and of ready parts."""
