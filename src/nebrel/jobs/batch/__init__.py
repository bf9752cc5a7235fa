"""One recipe over many pictures."""
