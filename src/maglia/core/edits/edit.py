"""Edits: each takes a piece and returns a new one with the words for what changed."""

from msgspec.structs import replace

from maglia.core.assembly.kinds import item_words, kind_of, with_count
from maglia.core.assembly.places import CLOSURE
from maglia.core.assembly.rows import made_runs
from maglia.core.edits.renumber import changed_items, rearranged, recounted, without
from maglia.core.edits.spots import (
    CENTRE,
    WHOLE,
    Edited,
    Spot,
    count_at,
    first_spot,
    item_of,
    items_at,
    opening_spot,
    owner_of,
)
from maglia.core.parts.parts import Chain, chain_length_mm
from maglia.core.parts.units import Thing, Unit
from maglia.core.piece.items import ChainItem, Item, RepeatItem
from maglia.core.piece.piece import DropRow, Owner, Piece, Run, TiedRows, catalogue
from maglia.core.values.record import DomainError


def put(piece: Piece, spot: Spot, item: Item) -> Piece:
    """The piece with another item at a spot, or a repeat of it; what hangs further out follows."""
    owner = owner_of(piece, spot.owner)
    if spot.path == (CENTRE,):
        assert isinstance(owner, Run)
        return piece.replaced(owner, replace(owner, centre=item))
    at = spot.path[-1]
    items = changed_items(
        owner.own_items, spot.path[:-1], lambda own: (*own[:at], item, *own[at + 1 :])
    )
    return recounted(piece, owner, items)


def set_count(piece: Piece, spot: Spot, count: int) -> Edited:
    """Set links, rings, repeats or tied rows. More than one of a single unit or part makes a
    repeat of it; one row more puts a wider one on top of a triangle."""
    before, words = count_at(piece, spot)
    if count < 1:
        raise DomainError(f"“{spot.owner}”: {count} {words} is less than one; delete it instead")
    if count > 20_000:
        raise DomainError(f"“{spot.owner}”: {count:,} {words} is more than 20,000")
    owner = owner_of(piece, spot.owner)
    if spot.path == WHOLE and isinstance(owner, TiedRows):
        return _set_rows(piece, owner, count)
    item = item_of(piece, spot)
    if kind_of(item).counted:
        changed = with_count(item, count)
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
    assert isinstance(item, ChainItem)
    first = item.first_phase + 1
    best = links_near(chain, length_mm, odd=needs_link_on_fold(piece, spot), first=first)
    over = (chain_length_mm(chain, best, first) or 0.0) - length_mm
    edited = set_count(piece, spot, best)
    rest = (
        "exactly" if abs(over) < 0.05 else f"{abs(over):.1f} mm {'over' if over > 0 else 'short'}"
    )
    return replace(edited, words=f"{edited.words}, {rest}")


def links_near(chain: Chain, length_mm: float, *, odd: bool = False, first: int = 1) -> int:
    """The whole links nearest to a length, mm, from link `first` of the pattern on; of two the
    fewer. Raises DomainError for chain of
    unknown pitch, and for more than 20,000."""
    if not chain.pitches_mm:
        raise DomainError(f"the pitch of “{chain.name}” is not known; write links instead")
    if not length_mm > 0:
        raise DomainError(f"{length_mm:g} mm of “{chain.name}” are no length: say more than 0")
    guess = round(length_mm / (sum(chain.pitches_mm) / len(chain.pitches_mm)))
    if guess > 20_000:
        raise DomainError(f"{length_mm:g} mm of “{chain.name}” are more than 20,000 links")
    near = range(max(guess - len(chain.pitches_mm) - 2, 1), guess + len(chain.pitches_mm) + 3)
    allowed = [links for links in near if not odd or links % 2]
    return min(
        allowed, key=lambda n: (abs((chain_length_mm(chain, n, first) or 0.0) - length_mm), n)
    )


def _set_rows(piece: Piece, owner: TiedRows, count: int) -> Edited:
    last = owner.rows[-1]
    is_band = len(owner.rows) > 1 and owner.rows[0] == last
    rows = (last,) * count if is_band else tuple(last + count - 1 - k for k in range(count))
    changed = piece.replaced(owner, replace(owner, rows=rows))
    words = f"{owner.name}: {len(owner.rows)} → {count} rows"
    return Edited(changed, words, Spot(owner.name, WHOLE))


def insert_after(piece: Piece, spot: Spot, *items: Item) -> Edited:
    """Put items outward of a spot."""
    owner = owner_of(piece, spot.owner)
    parent, at = spot.path[:-1], spot.path[-1] + 1 if spot.path else 0
    if spot.path in (WHOLE, (CENTRE,)):
        if spot.path == WHOLE and not isinstance(owner, TiedRows):
            raise DomainError(f"“{spot.owner}” is made by its rule; put parts into a run")
        parent, at = (), 0
    inner = items_at(owner.own_items, parent)
    at = min(at, len(inner))
    old = list(range(len(inner)))
    came: list[int | None] = [*old[:at], *[None] * len(items), *old[at:]]
    changed = rearranged(piece, owner, parent, (*inner[:at], *items, *inner[at:]), came)
    words = listed(piece, items)
    return Edited(changed, f"{spot.owner}: {words} put in", Spot(spot.owner, (*parent, at)))


def delete(piece: Piece, spot: Spot, count: int = 1) -> Edited:
    """Take out the item at a spot and those that follow it, `count` in all, with what hangs from
    them; the last item of a drop or row takes the whole run with it."""
    owner = owner_of(piece, spot.owner)
    if spot.path == WHOLE:
        return remove_run(piece, spot.owner)
    if spot.path == (CENTRE,):
        assert isinstance(owner, Run)
        return _delete_centre(piece, owner, spot)
    parent, at = spot.path[:-1], spot.path[-1]
    inner = items_at(owner.own_items, parent)
    out = listed(piece, inner[at : at + count])
    kept = [k for k in range(len(inner)) if not at <= k < at + count]
    tied = isinstance(owner, TiedRows)
    alone = len(owner.own_items) == (count if not parent else 1)
    if not kept and alone and owner.on_fold is None and not tied:
        return remove_run(piece, spot.owner)
    changed = rearranged(piece, owner, parent, [inner[k] for k in kept], kept)
    left = owner_of(changed, spot.owner).own_items
    path = (min(spot.path[0], len(left) - 1),) if left else (WHOLE if tied else (CENTRE,))
    lost = len(piece.owners) - len(changed.owners)
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
    hung = next((r.name for r in piece.runs if r.start and _on_centre(r, owner.name)), None)
    if hung is not None:
        raise DomainError(f"“{hung}” hangs from the centre of “{owner.name}”: take it out first")
    later = range(1, len(owner.items))
    piece = rearranged(piece, owner, (), items, list(later))
    fresh = owner_of(piece, owner.name)
    assert isinstance(fresh, Run)
    changed = piece.replaced(fresh, replace(fresh, centre=centre))
    return Edited(changed, f"{owner.name}: centre taken out", spot)


def _on_centre(run: Run, host: str) -> bool:
    return run.start is not None and run.start.run == host and run.start.item == 0


def remove_run(piece: Piece, name: str) -> Edited:
    """Take out a run or row with everything that hangs from it."""
    changed = without(piece, {name})
    return Edited(changed, f"{name} taken out", opening_spot(changed))


def add_owner(piece: Piece, owner: Owner) -> Edited:
    """The piece with a further run or row, under a name of its own."""
    name = free_name(piece, owner.name, laid=isinstance(owner, Run))
    named = replace(owner, name=name)
    return Edited(piece.with_owner(named), f"{name} added", first_spot(named))


def free_name(piece: Piece, wanted: str, *, laid: bool = True) -> str:
    """`wanted`, or `wanted 2`, `wanted 3` … if it is taken by a run or row. What is `laid` itself,
    as a row is not, is not called like a run that a row is written out into either."""
    own = {owner.name for owner in piece.owners}
    taken = own | {CLOSURE} | (made_runs(piece, own) if laid else set())
    name, k = wanted, 1
    while name in taken:
        k += 1
        name = f"{wanted} {k}"
    return name


def with_thing(piece: Piece, thing: Thing) -> Piece:
    """The piece with a copy of a part or unit among its own."""
    if any(own.id == thing.id for own in (*piece.parts, *piece.units)):
        return piece
    if isinstance(thing, Unit):
        return replace(piece, units=(*piece.units, thing))
    return replace(piece, parts=(*piece.parts, thing))


def listed(piece: Piece, items: tuple[Item, ...]) -> str:
    """Items in a few words, one after the other."""
    things = catalogue(piece)
    return ", ".join(item_words(item, things) for item in items)
