"""Fernhollow: an invented hillside garden, and the pictures that its pieces are made from."""
