"""The tray: parts at hand, units the maker keeps, and the wearers known by role."""

from typing import Annotated, Literal

from msgspec import Meta

from maglia.core.parts import Part
from maglia.core.piece import Wearer
from maglia.core.record import Name, Record
from maglia.core.units import Unit


class Tray(Record, frozen=True, kw_only=True):
    """What the insert line offers beyond the piece's own parts."""

    format: Literal["maglia-tray"] = "maglia-tray"
    version: Literal[1] = 1
    name: Name = "Tray"
    parts: Annotated[tuple[Part, ...], Meta(max_length=5000)] = ()
    units: Annotated[tuple[Unit, ...], Meta(max_length=1000)] = ()
    wearers: Annotated[tuple[Wearer, ...], Meta(max_length=500)] = ()
