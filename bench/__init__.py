"""Benchmarks: each prints a ratio with what it was measured against. Nothing here is a test."""
