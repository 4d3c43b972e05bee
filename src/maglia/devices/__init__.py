"""Instruments at the bench: anything that sends plain lines with a number and a unit over a serial
line, and stand-ins that speak through the same code. No widgets.
"""
