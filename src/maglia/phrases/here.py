"""Where a phrase is said, and what it comes to: the piece, the tray, the cursor; an offer.

A script says everything: what the insert line would add for itself is refused there.
"""

from collections.abc import Callable, Iterable
from copy import copy
from hashlib import blake2b

import msgspec
from msgspec.structs import replace

from maglia.core.edits.edit import with_thing
from maglia.core.edits.spots import Edited, Spot
from maglia.core.parts.parts import Part
from maglia.core.parts.units import Thing, Unit
from maglia.core.piece.needed import made_of
from maglia.core.piece.piece import Piece, Wearer
from maglia.core.values.measures import LengthUnit
from maglia.core.values.record import DomainError, Value
from maglia.core.values.references import things_named
from maglia.core.workshop.lying import Deed
from maglia.core.workshop.tray import Tray
from maglia.phrases.names import Looked, Names
from maglia.phrases.words import Misread, Words, unknown


class Offer(Value, frozen=True):
    """What a phrase comes to: what is understood, the thing it draws, what it does."""

    words: str
    do: Callable[[], Edited]
    thing: Thing | None = None
    size_mm: float | None = None
    hint: str = ""
    """What stands in the place of a size."""
    added: str = ""
    """What was not said and is added, with the reason."""
    keeps: tuple[Part | Unit | Wearer, ...] = ()
    """What it adds to the workshop besides."""
    lies: tuple[tuple[Part, Deed], ...] = ()
    """What it says lies on the bench."""
    begins: bool = False
    """It begins another piece."""
    wearers: tuple[Wearer, ...] = ()
    """It shows the piece for each of them, and changes nothing."""
    fill: str = ""
    """A form to be filled in: it goes to the line, and nothing is done."""
    fault: tuple[int, int] | None = None
    """Where in the text stands what was not understood; nothing is done."""
    choice: bool = False
    """One of several readings that fit alike."""
    looked: tuple[Looked, ...] = ()
    """The names in it, with everything that fits each."""


class Here:
    """The piece, the tray, and the cursor that a phrase is said at. `spot` is None on an empty
    bench; `mark` the link, bead or ring there, counted from the fold."""

    def __init__(
        self,
        piece: Piece,
        tray: Tray,
        spot: Spot | None = None,
        mark: int = 0,
        unit: LengthUnit = "mm",
        *,
        script: bool = False,
    ) -> None:
        self.piece, self.tray, self.spot, self.mark, self.unit = piece, tray, spot, mark, unit
        self.script = script
        self.names = Names(piece, tray)
        self.added: list[str] = []
        self.odd_next = False
        """Whether the next thing lies on the fold: chain by the length an odd number of links."""
        self.usual_links = False
        """Whether a number of links was added that nobody said."""

    @property
    def things(self) -> dict[str, Thing]:
        return self.names.things

    def choosing(self, chosen: dict[int, str]) -> "Here":
        """The same place, with what some words mean."""
        other = copy(self)
        other.names, other.added = self.names.choosing(chosen), []
        other.usual_links = other.odd_next = False
        return other

    def add(self, what: str, why: str, *, words: Words = ()) -> None:
        """Something that was not said: the line shows it, a script refuses it."""
        if self.script:
            fault = f"{what} is not said: {why}"
            raise unknown(words, f"is not whole; {fault}") if words else Misread(fault)
        self.added.append(f"{what}, {why}")

    def with_all(self, piece: Piece, named: object, *more: Thing) -> Piece:
        """A piece with a copy of everything that some records name."""
        things = {**self.things, **{thing.id: thing for thing in more}}
        refs = sorted(things_named(named))
        for needed in made_of([*refs, *(thing.id for thing in more)], things):
            piece = with_thing(piece, needed)
        return piece


def free_id(wanted: str, taken: Iterable[str]) -> str:
    """`wanted`, or `wanted-2`, `wanted-3` … if it is taken."""
    held, name, k = set(taken), wanted, 1
    while name in held:
        k += 1
        name = f"{wanted}-{k}"
    return name


def own_id(thing: Part | Unit) -> str:
    """What a part or unit is known by: unlike that of any other that is not the same in all, though
    it may be called the same."""
    made = msgspec.json.encode(replace(thing, id=""))
    slug = "-".join(thing.name.lower().split())[:100]
    return f"{slug}-{blake2b(made, digest_size=3).hexdigest()}"


def staying(edited: Edited, spot: Spot | None) -> Edited:
    """An edit after which the cursor stays where it was."""
    return edited if spot is None else replace(edited, spot=spot, about=edited.spot)


def refused(fault: DomainError | str, hint: str = "") -> Offer:
    """A line that says why nothing is done."""
    words = str(fault)
    at = (fault.start, fault.end) if isinstance(fault, Misread) else (0, 0)

    def refuse() -> Edited:
        raise DomainError(words)

    return Offer(words, refuse, hint=hint, fault=at)
