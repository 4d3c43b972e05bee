"""How a tray is laid out: compartments in the order of the work, and finding by a few letters."""

from collections.abc import Iterable, Sequence
from functools import cached_property

from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
    Connector,
    EarFinding,
    End,
    Part,
    Pin,
    Ring,
    Wire,
)
from maglia.core.parts.sizes import size_words, sort_key
from maglia.core.parts.units import Unit
from maglia.core.piece.piece import Wearer
from maglia.core.values.record import Value

Kept = Part | Unit | Wearer
ORDER = (
    "RINGS", "CHAIN", "BEADS", "CAPS, SPACERS, BARS", "CONNECTORS", "CLASPS", "PINS",
    "WIRE, THREAD, CORD", "ENDS", "EAR FINDINGS", "CHARMS", "UNITS", "WEARERS",
)  # fmt: skip
_BY_KIND: dict[type, str] = {
    Ring: "RINGS", Chain: "CHAIN", Connector: "CONNECTORS", Clasp: "CLASPS", Pin: "PINS",
    Wire: "WIRE, THREAD, CORD", End: "ENDS", EarFinding: "EAR FINDINGS", Charm: "CHARMS",
    Wearer: "WEARERS",
}  # fmt: skip


class Lain(Value, frozen=True, dict=True):
    """A thing in its compartment."""

    thing: Kept
    compartment: str

    @cached_property
    def text(self) -> str:
        """The words it is found by."""
        return _text(self.thing)


def name_of(thing: Kept) -> str:
    return thing.role if isinstance(thing, Wearer) else thing.name


def id_of(thing: Kept) -> str:
    return thing.role if isinstance(thing, Wearer) else thing.id


def compartment(thing: Kept) -> str:
    """Where a thing lies."""
    if isinstance(thing, Bead):
        return "BEADS" if thing.role == "bead" else "CAPS, SPACERS, BARS"
    found = (words for kind, words in _BY_KIND.items() if isinstance(thing, kind))
    return next(found, "UNITS")


def kind_words(thing: Kept) -> str:
    """What sort of thing it is: “closed ring”, “head pin”, “lobster”, “hook link”."""
    if isinstance(thing, Wearer):
        return "wearer"
    if isinstance(thing, Ring):
        return "ring" if thing.closure == "open" else f"{thing.closure} ring"
    if isinstance(thing, Bead):
        return thing.role
    if isinstance(thing, Pin):
        return f"{thing.head} pin"
    if isinstance(thing, Wire | End):
        return thing.sort
    if isinstance(thing, Clasp):
        return {"toggle": "toggle bar", "hook": "hook clasp", "magnet": "magnet clasp"}.get(
            thing.sort, f"{thing.sort} clasp" if thing.sort == "lobster" else thing.sort
        )
    if isinstance(thing, EarFinding):
        return f"ear {thing.sort}"
    if isinstance(thing, Connector):
        return f"{thing.outline} {thing.kind}"
    return thing.kind


def laid_out(things: Iterable[Kept]) -> tuple[Lain, ...]:
    """Things by compartment, smaller before larger."""
    found = [Lain(thing, compartment(thing)) for thing in things]
    return tuple(sorted(found, key=lambda own: (ORDER.index(own.compartment), *_key(own.thing))))


def _key(thing: Kept) -> tuple[object, ...]:
    if isinstance(thing, Wearer):
        return ("", thing.role)
    if isinstance(thing, Unit):
        return (thing.kind, thing.name)
    sort = getattr(thing, "sort", "") or getattr(thing, "role", "")
    return (str(sort), *sort_key(thing), thing.name)


def _text(thing: Kept) -> str:
    words = [name_of(thing), kind_words(thing), compartment(thing).replace(",", "")]
    if not isinstance(thing, Wearer | Unit):
        words += [thing.kind, thing.material, size_words(thing), thing.note]
    return " " + " ".join(words).lower().replace("×", " ").replace("-", " ")


def narrowed(lain: Sequence[Lain], written: str) -> list[Lain]:
    """What all the words begin something in; a figure must be the whole figure, or its beginning
    while a unit or fraction may still come."""
    words = [f" {word}" for word in written.lower().replace("×", " ").replace("-", " ").split()]
    words = [word for word in words if word != " x"]
    if not words:
        return list(lain)
    return [own for own in lain if all(word in own.text for word in words)]
