"""SVG: read as what a person sees of it, and written at true size."""
