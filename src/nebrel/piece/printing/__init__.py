"""A piece as work for a printer: how it stands, its layers, what would help, colours by layers, and its card."""
