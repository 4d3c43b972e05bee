"""Fits: from what the maker wants to whole links and whole rings, with what is left over.

One module for each kind of wish, which makes one `wish.Wish`; `wishes` lists them, `solve` takes
several together. Reads assemblies and hangs, changes pieces through `maglia.core.edits`.
"""
