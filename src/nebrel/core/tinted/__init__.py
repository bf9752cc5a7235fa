"""Colour in light: thin layers of tinted material behind a wall, mixed as filters are."""
