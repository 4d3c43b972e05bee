"""Bought parts and the units made from them, with the geometry that matters."""
