"""Pieces as messages."""
