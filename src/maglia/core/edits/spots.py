"""Spots: what an edit is about. An item of a run, or of the pattern of a row; its path leads
through repeats; -1 is the centre of a run across the fold.
"""

from collections.abc import Sequence

from maglia.core.assembly.assembly import Assembly
from maglia.core.assembly.kinds import count_of, item_words, kind_of
from maglia.core.piece.items import Item, RepeatItem
from maglia.core.piece.piece import Items, Owner, Piece, TiedRows, catalogue
from maglia.core.piece.wishes import Quantity
from maglia.core.values.record import DomainError, Value

CENTRE = -1
WHOLE: tuple[int, ...] = ()
"""Path of a spot that is a set of tied rows as a whole."""


class Spot(Value, frozen=True):
    """An item of the run or row called `owner`."""

    owner: str
    path: tuple[int, ...]

    def within(self, other: "Spot") -> bool:
        """Whether it is the other one, or within the repeat that stands there."""
        return self.owner == other.owner and self.path[: len(other.path)] == other.path


class Edited(Value, frozen=True):
    """The new piece, what to call the change, where the cursor goes; and what was changed, if that
    is elsewhere."""

    piece: Piece
    words: str
    spot: Spot | None = None
    about: Spot | None = None


def owner_of(piece: Piece, name: str) -> Owner:
    """The run or row of that name; raises DomainError if there is none."""
    owner = piece.owner(name)
    if owner is None:
        raise DomainError(f"there is no run “{name}”")
    return owner


def spot_of(assembly: Assembly, run: str, item: int) -> Spot | None:
    """The spot behind item `item` of a written-out run, which a row may have made."""
    origin = assembly.origins.get(run)
    owner = assembly.piece.owner(origin.owner) if origin else None
    if owner is None:
        return None
    if isinstance(owner, TiedRows) and run != owner.written_as:
        return Spot(owner.name, WHOLE)
    return spot_in(owner, item)


def spot_in(owner: Owner, item: int) -> Spot | None:
    """The spot of written-out item `item` of a run or row."""
    if isinstance(owner, TiedRows):
        side = item - owner.made_before
        path = _path_to(owner.sides, side) if side > 0 else None
        return Spot(owner.name, path or WHOLE)
    if item == 0:
        return Spot(owner.name, (CENTRE,)) if owner.on_fold is not None else None
    path = _path_to(owner.own_items, item)
    return Spot(owner.name, path) if path else None


def _path_to(items: Sequence[Item], number: int) -> tuple[int, ...] | None:
    """Path of the written-out item `number` (from 1)."""
    passed = 0
    for k, item in enumerate(items):
        inner = _written(item)
        if number <= passed + inner:
            if isinstance(item, RepeatItem):
                within = (number - passed - 1) % (inner // item.times) + 1
                rest = _path_to(item.items, within)
                return (k, *rest) if rest else None
            return (k,)
        passed += inner
    return None


def _written(item: Item) -> int:
    return item.times * sum(map(_written, item.items)) if isinstance(item, RepeatItem) else 1


def spot_at(piece: Piece, quantity: Quantity) -> Spot:
    """The spot of a quantity. Raises DomainError if the piece has none there."""
    path = (quantity.item - 1, quantity.within - 1) if quantity.within else (quantity.item - 1,)
    spot = Spot(quantity.run, path)
    item_of(piece, spot)
    return spot


def quantity_at(spot: Spot) -> Quantity:
    """The quantity at a spot. What stands in a repeat within a repeat shares its one."""
    within = spot.path[1] + 1 if len(spot.path) > 1 else 0
    return Quantity(run=spot.owner, item=spot.path[0] + 1, within=within)


def first_number(piece: Piece, spot: Spot) -> int:
    """Number of the first written-out item at a spot in its run; 0 for the centre."""
    owner = owner_of(piece, spot.owner)
    if spot.path[0] == CENTRE:
        return 0
    items, number = owner.own_items, 1 + owner.made_before
    for k in spot.path:
        number += sum(map(_written, items[:k]))
        items = inner_items(items[k])
    return number


def inner_items(item: Item) -> Items:
    return item.items if isinstance(item, RepeatItem) else ()


def items_at(items: Items, parent: tuple[int, ...]) -> Items:
    """The items within the repeat at a path; the path () is the run's own list."""
    for k in parent:
        items = inner_items(items[k])
    return items


def item_of(piece: Piece, spot: Spot) -> Item:
    """The item at a spot. Raises DomainError if it is not there."""
    owner = owner_of(piece, spot.owner)
    if spot.path == (CENTRE,):
        if owner.on_fold is None:
            raise DomainError(f"run “{spot.owner}” has no centre")
        return owner.on_fold
    items = owner.own_items
    for depth, k in enumerate(spot.path):
        if not 0 <= k < len(items):
            raise DomainError(f"“{spot.owner}” has no such item")
        if depth == len(spot.path) - 1:
            return items[k]
        items = inner_items(items[k])
    raise DomainError(f"“{spot.owner}”: name an item")


def count_at(piece: Piece, spot: Spot) -> tuple[int, str]:
    """The count at a spot and what it counts; a unit or single part counts 1."""
    if spot.path == WHOLE:
        owner = owner_of(piece, spot.owner)
        if not isinstance(owner, TiedRows):
            raise DomainError(f"“{spot.owner}”: name an item")
        return len(owner.rows), "rows"
    item = item_of(piece, spot)
    counted = kind_of(item).counted
    return count_of(item), counted.words if counted else "of it"


def words_at(piece: Piece, spot: Spot) -> str:
    """What is at a spot in a few words."""
    owner = owner_of(piece, spot.owner)
    if spot.path == WHOLE and isinstance(owner, TiedRows):
        return f"{spot.owner}, rows of {', '.join(map(str, owner.rows))}"
    return item_words(item_of(piece, spot), catalogue(piece))


def opening_spot(piece: Piece) -> Spot | None:
    """Where the cursor stands when a piece is opened."""
    return first_spot(piece.owners[0]) if piece.owners else None


def first_spot(owner: Owner) -> Spot | None:
    """The innermost spot of a run or row."""
    if isinstance(owner, TiedRows):
        return Spot(owner.name, WHOLE)
    if owner.on_fold is not None:
        return Spot(owner.name, (CENTRE,))
    return Spot(owner.name, (0,)) if owner.own_items else None
