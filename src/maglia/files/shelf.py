"""The shelf of common sizes: rings, chains, beads, pins, wires, clasps, cords, of nobody's make."""

from pathlib import Path

import msgspec

from maglia.core.parts.parts import Part
from maglia.core.workshop.tray import Tray

SHELF = Path(__file__).with_name("shelf.json")


def shelf() -> tuple[Part, ...]:
    """Every part of the shelf, in its order."""
    return msgspec.json.decode(SHELF.read_bytes(), type=Tray).parts
