"""Instruments that are not there: they behave like ones, and speak over a pseudo-terminal."""
