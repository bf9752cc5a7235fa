"""The sculptor's mathematics: arrays and plain dataclasses in and out."""
