"""Fits: from what the maker wants to whole links and whole rings, with what is left over.

One module for each kind of wish, each with `measured` (how far off a piece is) and `solved` (the
best piece there is); `solve` takes several together. Reads assemblies and hangs, changes pieces
through `maglia.core.edit`.
"""
