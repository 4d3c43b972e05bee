"""Weaves: strips of rings joined by rule; which ring goes through which, and how long that is."""
