"""Cutting for a day: every stretch of one chain (or wire) from the lengths that lie there."""
