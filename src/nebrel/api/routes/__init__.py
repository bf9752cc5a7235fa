"""The routes, one file a subject."""
