"""A wish taken apart: its words, the names of runs and rows in it, and its numbers.

Names stand as they are, wherever they stand; a number without a unit is in the display unit.
Raises DomainError naming what was not understood.
"""

import re
from collections.abc import Collection
from dataclasses import dataclass, field

from maglia.core.edits.spots import CENTRE, Spot, owner_of, quantity_at
from maglia.core.piece.items import Item
from maglia.core.piece.piece import Owner, Piece
from maglia.core.piece.wishes import Quantity
from maglia.core.values.measures import Amount, LengthUnit, amount_at
from maglia.core.values.record import DomainError

SILENT = frozenset({
    "of", "to", "the", "at", "and", "with", "a", "in", "is", "be", "wearer", "between", "around",
    "every", "equal", "equally", "drops", "mm", "links", "hangs", "lies", "strands", "as",
})  # fmt: skip
OWN_NUMBER = frozenset({
    "first", "gaps", "gap", "growing", "step", "within", "at", "every", "rise",
})  # fmt: skip
"""Words whose numbers are theirs; any other number is what the wish is about."""
RUNS_ON = ("gaps", "gap")
"""Words whose numbers run on over commas."""


@dataclass
class Said:
    """`numbers` are the quantities with the word before each."""

    text: str
    piece: Piece
    unit: LengthUnit
    names: list[str] = field(default_factory=list)
    words: list[str] = field(default_factory=list)
    numbers: list[tuple[str, Amount]] = field(default_factory=list)

    def after(self, *words: str) -> list[float]:
        """Lengths that follow one of some words, mm."""
        return [self.mm(amount) for word, amount in self.numbers if word in words]

    def lengths(self) -> list[float]:
        """Lengths that no word of their own precedes, mm."""
        return [self.mm(amount) for amount in self.plain()]

    def mm(self, amount: Amount) -> float:
        try:
            return amount.mm(self.unit)
        except DomainError as fault:
            raise self._within(amount, fault) from None

    def whole(self, amount: Amount) -> int:
        try:
            return amount.whole
        except DomainError as fault:
            raise self._within(amount, fault) from None

    def _within(self, amount: Amount, fault: DomainError) -> DomainError:
        """The fault of one number, with the wish it stands in."""
        quoted = f"“{amount.text}”"
        return DomainError(str(fault).replace(quoted, f"{quoted} in “{self.text}”", 1))

    def plain(self) -> list[Amount]:
        """Numbers that no word of their own precedes."""
        return [amount for word, amount in self.numbers if word not in OWN_NUMBER]

    def length(self) -> float:
        """The length it is about, mm, which must be above zero."""
        mm = self.offset()
        if mm <= 0:
            raise DomainError(f"“{self.text}”: {self.plain()[0].text} is no length above zero")
        return mm

    def offset(self) -> float:
        """The length it is about, mm, which may be zero or below."""
        lengths = self.lengths()
        if not lengths:
            raise DomainError(f"“{self.text}” does not say how much: add a length, such as 40 mm")
        return lengths[0]

    def count(self) -> int:
        numbers = self.plain()
        if not numbers:
            raise DomainError(f"“{self.text}” does not say how many: add a number, such as 7")
        return self.whole(numbers[0])

    def one(self, kind: type | tuple[type, ...], what: str) -> str:
        """The name in it, or the only one of its kind in the piece."""
        if self.names:
            return self.names[0]
        fitting = [own.name for own in self.piece.owners if isinstance(own, kind)]
        if len(fitting) == 1:
            return fitting[0]
        known = ", ".join(f"“{name}”" for name in fitting) or "none in this piece"
        raise DomainError(f"“{self.text}” does not name {what}; there is {known}")

    def item(self, kinds: tuple[type[Item], ...], what: str) -> Quantity:
        """The first item of some kinds in the named run, or in the whole piece."""
        owners: list[Owner] = [owner_of(self.piece, n) for n in self.names]
        owners = owners or list(self.piece.runs)
        for kind in kinds:
            for owner in owners:
                if isinstance(owner.on_fold, kind):
                    return quantity_at(Spot(owner.name, (CENTRE,)))
                for k, item in enumerate(owner.own_items):
                    if isinstance(item, kind):
                        return quantity_at(Spot(owner.name, (k,)))
        raise DomainError(f"“{self.text}”: there is no {what} in {', '.join(self.names) or 'it'}")


def taken_apart(
    text: str, piece: Piece, unit: LengthUnit, begins: Collection[str], known: Collection[str]
) -> Said:
    """What was said, every word of it: one that is neither a name nor `known` is refused."""
    said = Said(text.strip(), piece, unit)
    first = text.lower().split(maxsplit=1)[:1]
    own = len(first[0]) if first and first[0] in begins else 0  # “rings 200” names no run Rings
    rest = " " * own + said.text[own:]
    found: list[tuple[int, str]] = []
    for name in sorted((own.name for own in piece.owners), key=len, reverse=True):
        pattern = re.compile(rf"[“\"']?(?<!\w){re.escape(name)}(?!\w)[”\"']?", re.IGNORECASE)
        while (at := pattern.search(rest)) is not None:
            found.append((at.start(), name))
            rest = rest[: at.start()] + "\0" * (at.end() - at.start()) + rest[at.end() :]
    said.names = [name for _, name in sorted(found)]
    _read_tokens(said, said.text[:own] + rest[own:])
    strange = next((w for w in said.words if w not in known and w not in SILENT), None)
    if strange is not None:
        names = ", ".join(f"“{own.name}”" for own in piece.owners)
        raise DomainError(f"“{strange}” in “{said.text}” was not understood; runs are {names}")
    return said


_LETTERS = re.compile(r"[^\W\d]+")


def _read_tokens(said: Said, rest: str) -> None:
    at, word = 0, ""
    while at < len(rest):
        amount = amount_at(rest, at)
        letters = _LETTERS.match(rest, at)
        if amount is not None:
            said.numbers.append((word, amount[0]))
            at = amount[1]
        elif letters and not (letters[0].lower() == "x" and said.numbers):
            word = letters[0].lower()
            said.words.append(word)
            at = letters.end()
        elif rest[at] in ",;":
            word = word if word in RUNS_ON else ""
            at += 1
        elif rest[at] in " \0:.+×xX“”\"'":
            at += 1
        else:
            raise DomainError(f"“{rest[at:].strip()}” in “{said.text}” was not understood")
