"""Items put in, taken out or moved: every place, row, way, fit and pin that named an item by its
number follows it; what hung from an item that is gone goes with it.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from itertools import islice

from msgspec.structs import replace

from maglia.core.assembly.rows import made_runs
from maglia.core.piece.items import Item, RepeatItem
from maglia.core.piece.piece import MOST_ITEMS, Items, Owner, Piece, Way
from maglia.core.piece.wishes import Fit, Quantity
from maglia.core.values.record import DomainError
from maglia.core.values.references import Gone, named, renumbered, with_records

Path = tuple[int, ...]
Leaf = tuple[Path, Path]
"""A written-out item: its path in the items as written, and which turn of each repeat."""


def rearranged(
    piece: Piece, owner: Owner, parent: Path, items: Sequence[Item], came_from: Sequence[int | None]
) -> Piece:
    """The piece with other items at `parent` of a run or row. `came_from` says for each where it
    stood before, or None if it is new. An emptied repeat goes too."""
    old = owner.own_items
    new = changed_items(old, parent, lambda _: tuple(items))
    moved = _follow(old, new, parent, came_from)
    changed = piece.replaced(owner, owner.with_items(new))
    return _renumbered(changed, owner, moved, _path_follower(parent, came_from))


def recounted(piece: Piece, owner: Owner, items: Items) -> Piece:
    """The piece with other counts in a run or row: items as before, or one and a repeat of it."""
    moved: dict[int, int | None] = {}
    before = after = 0
    for was, now in _side_by_side(owner.own_items, items):
        before, after = before + was, after + now
        if was:
            moved[before] = after if now else None
    changed = piece.replaced(owner, owner.with_items(items))
    if all(now == was for was, now in moved.items()):
        return changed  # as at every key that changes links or rings
    return _renumbered(changed, owner, moved, lambda path: path)


def _side_by_side(old: Items, new: Items) -> Iterator[tuple[bool, bool]]:
    """Written-out items in order: whether each stood there, and whether it stands there now."""
    for was, now in zip(old, new, strict=True):
        if was is now:
            yield from [(True, True)] * sum(1 for _ in leaves((was,)))
        elif isinstance(was, RepeatItem) and isinstance(now, RepeatItem) and was.times == now.times:
            for _ in range(was.times):
                yield from _side_by_side(was.items, now.items)
        else:
            counts = [sum(1 for _ in leaves((one,))) for one in (was, now)]
            for k in range(max(counts)):
                yield k < counts[0], k < counts[1]


def changed_items(items: Items, parent: Path, change: Callable[[Items], Items]) -> Items:
    """Items with those within the repeat at a path changed. An emptied repeat goes too."""
    if not parent:
        return change(items)
    k, item = parent[0], items[parent[0]]
    assert isinstance(item, RepeatItem)
    within = changed_items(item.items, parent[1:], change)
    rest = (replace(item, items=within),) if within else ()
    return (*items[:k], *rest, *items[k + 1 :])


def leaves(items: Items, path: Path = (), turns: Path = ()) -> Iterator[Leaf]:
    """Written-out items in order, each with where it is written."""
    for k, item in enumerate(items):
        if isinstance(item, RepeatItem):
            for turn in range(item.times):
                yield from leaves(item.items, (*path, k), (*turns, turn))
        else:
            yield (*path, k), turns


Follower = Callable[[Path], "Path | None"]


def _path_follower(parent: Path, came_from: Sequence[int | None]) -> Follower:
    """Where a path leads afterwards; None if what it named is gone."""
    to: dict[int, int] = {}
    for new, old in enumerate(came_from):
        if old is not None:
            to.setdefault(old, new)
    depth, emptied = len(parent), not came_from and bool(parent)

    def follow(path: Path) -> Path | None:
        if emptied and path[: depth - 1] == parent[:-1] and len(path) >= depth:
            if path[depth - 1] == parent[-1]:
                return None
            shift = 1 if path[depth - 1] > parent[-1] else 0
            return (*path[: depth - 1], path[depth - 1] - shift, *path[depth:])
        if path[:depth] != parent or len(path) <= depth:
            return path
        new = to.get(path[depth])
        return None if new is None else (*path[:depth], new, *path[depth + 1 :])

    return follow


def _follow(
    old: Items, new: Items, parent: Path, came_from: Sequence[int | None]
) -> dict[int, int | None]:
    """New number of each written-out item, both from 1."""
    follow = _path_follower(parent, came_from)
    number = {leaf: k for k, leaf in enumerate(leaves(new), 1)}
    found: dict[int, int | None] = {}
    for k, (path, turns) in enumerate(leaves(old), 1):
        there = follow(path)
        found[k] = None if there is None else number.get((there, turns))
    return found


def stood_alone(piece: Piece, owner: Owner, number: int) -> tuple[Piece, Path]:
    """The written-out item `number` (from 1) of a run or row taken out of its repeats, so that it
    can differ from the rest; where it is written then. All keep their numbers. Raises DomainError
    if there is no room for it."""
    path, turns = next(islice(leaves(owner.own_items), number - 1, None))
    items, own = _out_of_repeats(owner.own_items, path, turns)
    if len(items) > MOST_ITEMS:
        raise DomainError(f"“{owner.name}” would be written with {len(items)} items, and "
                          f"{MOST_ITEMS} is the most: change the whole row")  # fmt: skip
    first, more = path[0], len(items) - len(owner.own_items)

    def follow(at: Path) -> Path:
        """What a pin says of a repeat it says of what is left of it in front, else behind."""
        if at[0] < first or (at[0] == first and turns and turns[0]):
            return at
        if at[0] > first:
            return (at[0] + more, *at[1:])
        return (at[0] + more, *at[1:]) if isinstance(items[at[0] + more], RepeatItem) else own

    changed = piece.replaced(owner, owner.with_items(items))
    return _quantities(changed, owner.name, follow), own


def _out_of_repeats(items: Items, path: Path, turns: Path) -> tuple[Items, Path]:
    first, item = path[0], items[path[0]]
    if not isinstance(item, RepeatItem):
        return items, path
    inner, own = _out_of_repeats(item.items, path[1:], turns[1:])
    turn, rest = turns[0], item.times - turns[0] - 1
    before = (replace(item, times=turn),) if turn else ()
    after = (replace(item, times=rest),) if rest else ()
    whole = (*items[:first], *before, *inner, *after, *items[first + 1 :])
    return whole, (first + len(before) + own[0], *own[1:])


def _renumbered(
    piece: Piece, owner: Owner, moved: Mapping[int, int | None], follow: Follower
) -> Piece:
    """Every reference to the owner's items renumbered; what named a lost one is left out."""
    before, run = owner.made_before, owner.written_as
    gone: set[str] = set()

    def number(old: int) -> int | None:
        if old <= before:
            return old
        new = moved.get(old - before, old - before)
        return None if new is None else new + before

    for own in piece.owners:
        try:
            piece = piece.replaced(own, renumbered(own, run, number))
        except Gone:
            gone.add(own.name)
    ways = tuple(_way(way, run, number) for way in piece.ways)
    piece = _quantities(replace(piece, ways=ways), owner.name, follow)
    return without(piece, gone) if gone else piece


def _way(way: Way, run: str, number: Callable[[int], int | None]) -> Way:
    """A way whose hooking place is gone is hooked at the catch again."""
    try:
        return renumbered(way, run, number)
    except Gone:
        return replace(way, hooked=None)


def _quantities(piece: Piece, owner: str, follow: Follower) -> Piece:
    """Pins and fits that name a count of the owner."""

    def quantity(at: Quantity) -> Quantity | None:
        if at.run != owner or at.item == 0:
            return at
        path = (at.item - 1, at.within - 1) if at.within else (at.item - 1,)
        there = follow(path)
        if there is None:
            return None
        return replace(at, item=there[0] + 1, within=there[1] + 1 if len(there) > 1 else 0)

    fits: list[Fit] = []
    for fit in piece.fits:
        try:
            fits.append(with_records(fit, Quantity, quantity))
        except Gone:
            continue
    return replace(piece, fits=tuple(fits), pinned=with_records(piece.pinned, Quantity, quantity))


def without(piece: Piece, names: set[str]) -> Piece:
    """The piece without some runs and rows and everything that hangs from them. Fits about them,
    their pins and what was accepted of them go too; ways no longer speak of them."""
    gone = set(names)
    while True:
        lost = made_runs(piece, gone)
        more = {o.name for o in piece.owners if o.name not in gone and named(o, "run") & lost}
        if not more:
            break
        gone |= more

    def kept(at: Quantity) -> Quantity | None:
        return None if at.run in gone else at

    fits: list[Fit] = []
    for fit in piece.fits:
        own = replace(fit, changes=with_records(fit.changes, Quantity, kept))
        if not named(own, "run") & lost and not named(own, "owner") & gone:
            fits.append(own)
    names = gone | (lost - {owner.name for owner in piece.owners})
    return replace(
        piece,
        runs=tuple(r for r in piece.runs if r.name not in gone),
        rows=tuple(r for r in piece.rows if r.name not in gone),
        fits=tuple(fits),
        pinned=with_records(piece.pinned, Quantity, kept),
        accepted=tuple(a for a in piece.accepted if a.run not in lost),
        ways=tuple(_way_without(way, names, lost) for way in piece.ways),
    )


def _way_without(way: Way, names: set[str], lost: set[str]) -> Way:
    hooked = None if way.hooked is not None and way.hooked.run in lost else way.hooked
    off = tuple(n for n in way.without if n not in names)
    taken = tuple(n for n in way.taken_out if n not in lost)
    return replace(way, without=off, taken_out=taken, hooked=hooked)
