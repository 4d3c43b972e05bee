"""The tray: parts at hand, units the maker keeps, and the wearers known by role."""

from typing import Annotated, Literal

from msgspec import Meta, field

from maglia.core.parts.parts import Part
from maglia.core.parts.units import Unit
from maglia.core.piece.piece import Wearer
from maglia.core.values.record import CountOrZero, Mm, Name, Record
from maglia.core.values.references import PartRef


class Tray(Record, frozen=True, kw_only=True):
    """What the insert line offers beyond the piece's own parts."""

    format: Literal["maglia-tray"] = "maglia-tray"
    version: Literal[2] = 2
    name: Name = "Tray"
    parts: Annotated[tuple[Part, ...], Meta(max_length=5000)] = ()
    units: Annotated[tuple[Unit, ...], Meta(max_length=1000)] = ()
    wearers: Annotated[tuple[Wearer, ...], Meta(max_length=500)] = ()
    lots_mm: dict[PartRef, tuple[Mm, ...]] = field(default_factory=dict)
    """Lengths of chain and wire on the bench, mm, by part."""
    bags: dict[PartRef, CountOrZero] = field(default_factory=dict)
    """How many of each other part there are."""
