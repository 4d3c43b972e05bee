"""Edits: each takes a piece and returns a new one with the words for what changed.

A spot names what an edit is about: an item of a run, or of the pattern drop of a row. Its path
leads through repeats; -1 is the centre of a run across the fold.
"""

from collections.abc import Callable, Sequence
from typing import Any

from msgspec.structs import replace

from maglia.core.parts import Chain, Part, chain_length_mm
from maglia.core.piece import (
    ChainItem,
    DropRow,
    Item,
    Items,
    Piece,
    Place,
    RepeatItem,
    Run,
    StrungItem,
    TiedRows,
    catalogue,
)
from maglia.core.record import DomainError, Value
from maglia.core.renumber import items_at, items_of, rearranged, without
from maglia.core.rows import own_items
from maglia.core.units import Unit
from maglia.core.wishes import Quantity

CENTRE = -1
WHOLE: tuple[int, ...] = ()
"""Path of a spot that is a set of tied rows as a whole."""


class Spot(Value, frozen=True):
    """An item of the run or row called `owner`."""

    owner: str
    path: tuple[int, ...]


class Edited(Value, frozen=True):
    """The new piece, what to call the change, and where the cursor goes."""

    piece: Piece
    words: str
    spot: Spot | None = None


def owner_of(piece: Piece, name: str) -> Any:
    """The run or row of that name; raises DomainError if there is none."""
    for owner in (*piece.runs, *piece.rows):
        if owner.name == name:
            return owner
    raise DomainError(f"there is no run “{name}”")


def spot_of(piece: Piece, run: str, item: int) -> Spot | None:
    """The spot behind item `item` of an expanded run, which a row may have made."""
    owner: Any = next((o for o in piece.runs if o.name == run), None)
    if owner is None:
        rows = [r for r in piece.rows if run.startswith(f"{r.name} ")]
        owner = max(rows, key=lambda r: len(r.name), default=None)
    if owner is None:
        return None
    if isinstance(owner, TiedRows):
        side = item - own_items(owner) if run == f"{owner.name} 1" else 0
        path = _path_to(owner.sides, side) if side > 0 else None
        return Spot(owner.name, path or WHOLE)
    if item == 0:
        return Spot(owner.name, (CENTRE,)) if getattr(owner, "centre", None) else None
    path = _path_to(owner.items, item)
    return Spot(owner.name, path) if path else None


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


def _with_items(piece: Piece, owner: Any, items: Items) -> Piece:
    field = "sides" if isinstance(owner, TiedRows) else "items"
    return _with_owner(piece, owner, replace(owner, **{field: items}))


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


def first_number(piece: Piece, spot: Spot) -> int:
    """Number of the first written-out item at a spot in its run; 0 for the centre."""
    owner = owner_of(piece, spot.owner)
    if spot.path[0] == CENTRE:
        return 0
    items, number = items_of(owner), 1
    number += own_items(owner) if isinstance(owner, TiedRows) else 0
    for k in spot.path:
        number += sum(map(_written, items[:k]))
        item = items[k]
        items = item.items if isinstance(item, RepeatItem) else ()
    return number


def item_of(piece: Piece, spot: Spot) -> Item:
    """The item at a spot. Raises DomainError if it is not there."""
    owner = owner_of(piece, spot.owner)
    if spot.path == (CENTRE,):
        if getattr(owner, "centre", None) is None:
            raise DomainError(f"run “{spot.owner}” has no centre")
        centre: Item = owner.centre
        return centre
    items = items_of(owner)
    for depth, k in enumerate(spot.path):
        if not 0 <= k < len(items):
            raise DomainError(f"“{spot.owner}” has no such item")
        item = items[k]
        if depth == len(spot.path) - 1:
            return item
        items = item.items if isinstance(item, RepeatItem) else ()
    raise DomainError(f"“{spot.owner}”: name an item")


def _change_items(
    items: Items, path: tuple[int, ...], change: Callable[[Items, int], Items]
) -> Items:
    if len(path) == 1:
        return change(items, path[0])
    item = items[path[0]]
    assert isinstance(item, RepeatItem)
    inner = _change_items(item.items, path[1:], change)
    rest = (replace(item, items=inner),) if inner else ()
    return (*items[: path[0]], *rest, *items[path[0] + 1 :])


def _with_owner(piece: Piece, old: Any, new: Any) -> Piece:
    if isinstance(old, Run):
        return replace(piece, runs=tuple(new if r is old else r for r in piece.runs))
    return replace(piece, rows=tuple(new if r is old else r for r in piece.rows))


def put(piece: Piece, spot: Spot, item: Item) -> Piece:
    """The piece with another item at a spot."""
    owner = owner_of(piece, spot.owner)
    if spot.path == (CENTRE,):
        return _with_owner(piece, owner, replace(owner, centre=item))
    items = _change_items(items_of(owner), spot.path, lambda i, k: (*i[:k], item, *i[k + 1 :]))
    return _with_items(piece, owner, items)


COUNTED = {
    "chain": ("links", "links"),
    "rings": ("count", "rings"),
    "strung": ("times", "repeats"),
    "repeat": ("times", "repeats"),
}


def count_at(piece: Piece, spot: Spot) -> tuple[int, str]:
    """The count at a spot and what it counts; a unit or single part counts 1."""
    if spot.path == WHOLE:
        rows = getattr(owner_of(piece, spot.owner), "rows", None)
        if rows is None:
            raise DomainError(f"“{spot.owner}”: name an item")
        return len(rows), "rows"
    item = item_of(piece, spot)
    field, words = COUNTED.get(item.kind, ("", "of it"))
    return (getattr(item, field) if field else 1), words


def set_count(piece: Piece, spot: Spot, count: int) -> Edited:
    """Set links, rings, repeats or tied rows. More than one of a single unit or part makes a
    repeat of it; one row more puts a wider one on top of a triangle."""
    before, words = count_at(piece, spot)
    if count < 1:
        raise DomainError(f"“{spot.owner}”: {count} {words} is less than one; delete it instead")
    if count > 20_000:
        raise DomainError(f"“{spot.owner}”: {count:,} {words} is more than 20,000")
    if spot.path == WHOLE:
        return _set_rows(piece, spot, count)
    item = item_of(piece, spot)
    field = COUNTED.get(item.kind, ("", ""))[0]
    if field:
        changed: Item = replace(item, **{field: count})
    elif spot.path == (CENTRE,):
        raise DomainError(f"“{spot.owner}”: one part lies on the fold; put more beside it")
    else:
        changed = RepeatItem(times=count, items=(item,)) if count > 1 else item
    return Edited(put(piece, spot, changed), f"{spot.owner}: {before} → {count} {words}", spot)


def needs_link_on_fold(piece: Piece, spot: Spot) -> bool:
    """Whether something hangs on the fold of the run's centre, so that its count must be odd."""
    if spot.path != (CENTRE,):
        return False
    places = (place for run in piece.runs for place in (run.start, run.end) if place)
    hung = any(p.run == spot.owner and p.item == 0 and p.at == 0 and not p.port for p in places)
    rows = (row for row in piece.rows if isinstance(row, DropRow) and row.item == 0)
    return hung or any(
        row.run == spot.owner and (0 in row.places if row.rule == "places" else row.count % 2)
        for row in rows
    )


def set_length(piece: Piece, spot: Spot, length_mm: float) -> Edited:
    """Set a chain to the whole links nearest to a length: odd where a link must lie on the fold.
    The words say what is left over. Raises DomainError for what is not chain of known pitch."""
    item = item_of(piece, spot)
    chain = catalogue(piece).get(item.part) if isinstance(item, ChainItem) else None
    if not isinstance(chain, Chain):
        raise DomainError(f"“{spot.owner}”: only chain is set by length; write a count here")
    if not chain.pitches_mm:
        raise DomainError(f"the pitch of “{chain.name}” is not known; write links instead")
    guess = round(length_mm / (sum(chain.pitches_mm) / len(chain.pitches_mm)))
    step = 2 if needs_link_on_fold(piece, spot) else 1
    near = range(max(guess - len(chain.pitches_mm) - 2, 1), guess + len(chain.pitches_mm) + 3)
    allowed = [links for links in near if step == 1 or links % 2]

    def miss(links: int) -> float:
        return (chain_length_mm(chain, links) or 0.0) - length_mm

    best = min(allowed, key=lambda links: (abs(miss(links)), links))
    edited = set_count(piece, spot, best)
    over = miss(best)
    rest = (
        "exactly" if abs(over) < 0.05 else f"{abs(over):.1f} mm {'over' if over > 0 else 'short'}"
    )
    return replace(edited, words=f"{edited.words}, {rest}")


def _set_rows(piece: Piece, spot: Spot, count: int) -> Edited:
    owner = owner_of(piece, spot.owner)
    last = owner.rows[-1]
    is_band = len(owner.rows) > 1 and owner.rows[0] == last
    rows = (last,) * count if is_band else tuple(last + count - 1 - k for k in range(count))
    changed = _with_owner(piece, owner, replace(owner, rows=rows))
    return Edited(changed, f"{spot.owner}: {len(owner.rows)} → {count} rows", spot)


def insert_after(piece: Piece, spot: Spot, *items: Item) -> Edited:
    """Put items outward of a spot."""
    owner = owner_of(piece, spot.owner)
    parent, at = spot.path[:-1], spot.path[-1] + 1 if spot.path else 0
    if spot.path in (WHOLE, (CENTRE,)):
        if spot.path == WHOLE and not isinstance(owner, TiedRows):
            raise DomainError(f"“{spot.owner}” is made by its rule; put parts into a run")
        parent, at = (), 0
    inner = items_at(items_of(owner), parent)
    at = min(at, len(inner))
    old = list(range(len(inner)))
    came: list[int | None] = [*old[:at], *[None] * len(items), *old[at:]]
    changed = rearranged(piece, owner, parent, (*inner[:at], *items, *inner[at:]), came)
    words = ", ".join(item_words(piece, item) for item in items)
    return Edited(changed, f"{spot.owner}: {words} put in", Spot(spot.owner, (*parent, at)))


def delete(piece: Piece, spot: Spot, count: int = 1) -> Edited:
    """Take out the item at a spot and those that follow it, `count` in all, with what hangs from
    them; the last item of a drop or row takes the whole run with it."""
    owner = owner_of(piece, spot.owner)
    if spot.path == WHOLE:
        return remove_run(piece, spot.owner)
    if spot.path == (CENTRE,):
        return _delete_centre(piece, owner, spot)
    parent, at = spot.path[:-1], spot.path[-1]
    inner = items_at(items_of(owner), parent)
    out = ", ".join(item_words(piece, item) for item in inner[at : at + count])
    kept = [k for k in range(len(inner)) if not at <= k < at + count]
    tied = isinstance(owner, TiedRows)
    alone = len(items_of(owner)) == (count if not parent else 1)
    if not kept and alone and getattr(owner, "centre", None) is None and not tied:
        return remove_run(piece, spot.owner)
    changed = rearranged(piece, owner, parent, [inner[k] for k in kept], kept)
    left = items_of(owner_of(changed, spot.owner))
    path = (min(spot.path[0], len(left) - 1),) if left else (WHOLE if tied else (CENTRE,))
    lost = len(piece.runs) + len(piece.rows) - len(changed.runs) - len(changed.rows)
    more = f" with {lost} that hung from it" if lost else ""
    return Edited(changed, f"{spot.owner}: {out} taken out{more}", Spot(spot.owner, path))


def _delete_centre(piece: Piece, owner: Run, spot: Spot) -> Edited:
    """The next item outward takes the place on the fold; an empty strand goes altogether."""
    if not owner.items:
        return remove_run(piece, owner.name)
    centre, *items = owner.items
    if isinstance(centre, RepeatItem):
        raise DomainError(
            f"“{owner.name}”: a repeat cannot lie on the fold; put a part there first"
        )
    hung = next((r.name for r in piece.runs if r.start and _on_centre(r.start, owner.name)), None)
    if hung is not None:
        raise DomainError(f"“{hung}” hangs from the centre of “{owner.name}”: take it out first")
    later = range(1, len(owner.items))
    piece = rearranged(piece, owner, (), items, list(later))
    owner = owner_of(piece, owner.name)
    changed = _with_owner(piece, owner, replace(owner, centre=centre))
    return Edited(changed, f"{owner.name}: centre taken out", spot)


def _on_centre(place: Place, run: str) -> bool:
    return place.run == run and place.item == 0


def remove_run(piece: Piece, name: str) -> Edited:
    """Take out a run or row with everything that hangs from it."""
    changed = without(piece, {name})
    return Edited(changed, f"{name} taken out", opening_spot(changed))


def opening_spot(piece: Piece) -> Spot | None:
    """Where the cursor stands when a piece is opened."""
    owners = (*piece.runs, *piece.rows)
    return first_spot(piece, owners[0].name) if owners else None


def first_spot(piece: Piece, owner_name: str) -> Spot | None:
    owner = owner_of(piece, owner_name)
    if isinstance(owner, TiedRows):
        return Spot(owner_name, WHOLE)
    if getattr(owner, "centre", None) is not None:
        return Spot(owner_name, (CENTRE,))
    return Spot(owner_name, (0,)) if getattr(owner, "items", ()) else None


def add_run(piece: Piece, run: Run) -> Edited:
    name = free_name(piece, run.name)
    changed = replace(piece, runs=(*piece.runs, replace(run, name=name)))
    return Edited(changed, f"{name} added", first_spot(changed, name))


def add_row(piece: Piece, row: Any) -> Edited:
    name = free_name(piece, row.name)
    changed = replace(piece, rows=(*piece.rows, replace(row, name=name)))
    return Edited(changed, f"{name} added", first_spot(changed, name))


def free_name(piece: Piece, wanted: str) -> str:
    """`wanted`, or `wanted 2`, `wanted 3` … if it is taken."""
    taken = {o.name for o in (*piece.runs, *piece.rows)}
    name, k = wanted, 1
    while name in taken:
        k += 1
        name = f"{wanted} {k}"
    return name


def with_part(piece: Piece, thing: Part | Unit) -> Piece:
    """The piece with a copy of a part or unit among its own."""
    if any(own.id == thing.id for own in (*piece.parts, *piece.units)):
        return piece
    if isinstance(thing, Unit):
        return replace(piece, units=(*piece.units, thing))
    return replace(piece, parts=(*piece.parts, thing))


def words_at(piece: Piece, spot: Spot) -> str:
    """What is at a spot in a few words."""
    if spot.path == WHOLE:
        owner = owner_of(piece, spot.owner)
        return f"{spot.owner}, rows of {', '.join(map(str, owner.rows))}"
    return item_words(piece, item_of(piece, spot))


def item_words(piece: Piece, item: Item) -> str:
    """An item in a few words: “84 links Rolo 3”, “2 rings …”."""
    things = catalogue(piece)
    if isinstance(item, RepeatItem):
        inner = ", ".join(item_words(piece, i) for i in item.items)
        return f"{item.times} × ({inner})"
    ref = next(getattr(item, f) for f in ("unit", "part", "thread") if hasattr(item, f))
    name = str(things[ref].name if ref in things else ref)
    if isinstance(item, StrungItem):
        pattern = [things[bead].name if bead in things else bead for bead in item.pattern]
        name = " + ".join(pattern if len(pattern) < 3 else [*pattern[:2], "…"])
    field = COUNTED.get(item.kind, ("", ""))[0]
    if isinstance(item, ChainItem):
        return f"{item.links} links {name}"
    count = getattr(item, field) if field else 1
    return f"{count} × {name}" if count > 1 else name
