"""Raised shapes, cutters and stamps, made of outlines."""
