"""The web's thin layer: parse, call, answer."""
