"""The tray: parts at hand, units the maker keeps, and the wearers known by role."""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import MaxLen

from maglia.core.parts import Part
from maglia.core.piece import Wearer
from maglia.core.record import Name, Record
from maglia.core.units import Unit


@dataclass(frozen=True, kw_only=True)
class Tray(Record):
    """What the insert line offers beyond the piece's own parts."""

    format: Literal["maglia-tray"] = "maglia-tray"
    version: Literal[1] = 1
    name: Name = "Tray"
    parts: Annotated[tuple[Part, ...], MaxLen(5000)] = ()
    units: Annotated[tuple[Unit, ...], MaxLen(1000)] = ()
    wearers: Annotated[tuple[Wearer, ...], MaxLen(500)] = ()
