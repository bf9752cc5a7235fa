"""What the documents of all kinds have in common."""
