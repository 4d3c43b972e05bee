"""Maglia: a bench companion for the assembler of findings-and-chain jewellery."""

__version__ = "0.2.0"
