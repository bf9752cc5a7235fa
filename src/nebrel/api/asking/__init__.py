"""What requests have worked out elsewhere."""
