"""Edits: each takes a piece and returns a piece with what changed."""
