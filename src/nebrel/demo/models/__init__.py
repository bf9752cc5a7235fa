"""Sample models, made by code."""
