"""Pictures drawn by code, seeded, so that they are the same on every machine."""
