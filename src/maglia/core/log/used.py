"""What a piece takes, for the log: the same counts and lengths as Count has, and as the stock gives
when every cut is made.
"""

from typing import NamedTuple

from maglia.core.assembly.assembly import Assembly
from maglia.core.cutting.day import Making, amount_of, stretches_of
from maglia.core.parts.parts import Chain, Wire
from maglia.core.sheets.count import counts
from maglia.core.workshop.lying import amount_words


class Used(NamedTuple):
    """A part or unit and how much of it: pieces, links of chain, µm of wire and thread."""

    id: str
    name: str
    amount: int
    words: str
    is_length: bool = False
    """Wire or thread."""
    counted: str = ""
    """“links ” of chain."""

    @property
    def length_mm(self) -> float:
        return self.amount / 1000


def used_in(assembly: Assembly) -> tuple[Used, ...]:
    """Everything that a piece takes, in its order; of a pair both."""
    cut = stretches_of(Making(assembly))
    found = []
    for one in counts(assembly):
        thing, amount = assembly.things[one.id], one.count
        words = f"{amount} ×"
        if isinstance(thing, Chain | Wire):
            amount = sum(amount_of(thing, stretch) * n
                         for stretch, n in cut.get(one.id, {}).items())  # fmt: skip
            words = f"{amount_words(thing, amount)} of"
        if amount:
            counted = "links " if isinstance(thing, Chain) else ""
            found.append(Used(one.id, one.name, amount, words, isinstance(thing, Wire), counted))
    return tuple(found)
