"""Models from elsewhere, mended and decorated."""
