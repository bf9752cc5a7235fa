"""What a piece could be, and how each of that comes out."""
