"""A kind of wish: one object that holds everything the program knows of it.

Each module of the package makes one, and `maglia.core.fit.wishes` lists them; what is saved of a
wish is its record in `maglia.core.piece.wishes`.
"""

from collections.abc import Callable
from typing import Generic, NamedTuple, TypeVar

from maglia.core.fit.found import Residual, Solution
from maglia.core.fit.look import Look, Trials
from maglia.core.fit.said import Said
from maglia.core.piece.piece import Piece
from maglia.core.piece.wishes import Quantity
from maglia.core.values.measures import LengthUnit
from maglia.core.values.record import Value
from maglia.core.values.references import references


class RowCount(Value, frozen=True, order=True):
    """Counts that a row's rule sets: places, links or rings; of one swag, by its ordinal."""

    owner: str
    what: str
    ordinal: int | None = None


Target = Quantity | RowCount
"""What a fit turns. Two live fits that turn the same are in conflict."""


def target_words(target: Target) -> str:
    """“Tier 2, centre”, “Strand, item 3”, “Fringe, links”."""
    if isinstance(target, RowCount):
        number = "" if target.ordinal is None else f" {target.ordinal}"
        return f"{target.owner}, {target.what}{number}"
    within = f", part {target.within}" if target.within else ""
    return f"{target.run}, {f'item {target.item}' if target.item else 'centre'}{within}"


def names_in(fit: object) -> frozenset[str]:
    """The runs and rows that a fit names."""
    return frozenset(name for _, name in references(fit))


Kind = TypeVar("Kind")


class Wish(NamedTuple, Generic[Kind]):
    """begins: words that ask for it · accepts: further words it understands · forms: how to write
    it, and what that does · read: from what was said to its record · written: back, as `read`
    reads it · words: for people, in the display unit · about: what makes two of them the same wish
    · measured: how far off a piece is · solved: the best piece there is · targets: the counts it
    turns · hangs: whether it is read off the hang. Each may raise DomainError."""

    record: type[Kind]
    begins: tuple[str, ...]
    forms: tuple[tuple[str, str], ...]
    read: Callable[[Said], Kind]
    written: Callable[[Kind], str]
    words: Callable[[Kind, LengthUnit], str]
    measured: Callable[[Kind, Look], tuple[Residual, ...]]
    solved: Callable[[Kind, Piece, Trials], Solution]
    targets: Callable[[Kind, Piece], frozenset[Target]]
    accepts: tuple[str, ...] = ()
    hangs: Callable[[Kind], bool] = lambda _: True
    about: Callable[[Kind], frozenset[str]] = names_in
