"""Copies of a decoration over a surface."""
