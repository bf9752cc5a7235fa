"""Kinds of piece, one folder a kind: its document, its evaluator, its findings, its words."""
