"""Items put in, taken out or moved: every place, row, way, fit and pin that named an item by its
number follows it; what hung from an item that is gone goes with it.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any

from msgspec.structs import replace

from maglia.core.piece import Item, Items, Piece, Place, RepeatItem, Run, TiedRows
from maglia.core.rows import own_items
from maglia.core.wishes import Quantity

Path = tuple[int, ...]
Leaf = tuple[Path, Path]
"""A written-out item: its path in the items as written, and which turn of each repeat."""


def items_of(owner: Any) -> Items:
    """The items written in a run or row; of tied rows, those of their sides."""
    return tuple(owner.sides if isinstance(owner, TiedRows) else owner.items)


def items_at(items: Items, parent: Path) -> Items:
    """The items within the repeat at a path; the path () is the run's own list."""
    for k in parent:
        item = items[k]
        items = item.items if isinstance(item, RepeatItem) else ()
    return items


def rearranged(
    piece: Piece, owner: Any, parent: Path, items: Sequence[Item], came_from: Sequence[int | None]
) -> Piece:
    """The piece with other items at `parent` of a run or row. `came_from` says for each where it
    stood before, or None if it is new. An emptied repeat goes too."""
    old = items_of(owner)
    new = _put_at(old, parent, tuple(items))
    moved = _follow(old, new, parent, came_from)
    field = "sides" if isinstance(owner, TiedRows) else "items"
    changed = _replace_owner(piece, owner, replace(owner, **{field: new}))
    return _renumbered(changed, owner, moved, _path_follower(parent, came_from))


def _put_at(items: Items, parent: Path, inner: Items) -> Items:
    if not parent:
        return inner
    k, item = parent[0], items[parent[0]]
    assert isinstance(item, RepeatItem)
    within = _put_at(item.items, parent[1:], inner)
    rest = (replace(item, items=within),) if within else ()
    return (*items[:k], *rest, *items[k + 1 :])


def _replace_owner(piece: Piece, old: Any, new: Any) -> Piece:
    if isinstance(old, Run):
        return replace(piece, runs=tuple(new if r is old else r for r in piece.runs))
    return replace(piece, rows=tuple(new if r is old else r for r in piece.rows))


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


def _renumbered(
    piece: Piece, owner: Any, moved: Mapping[int, int | None], follow: Follower
) -> Piece:
    """Every reference to the owner's items renumbered; what named a lost one is left out."""
    own = own_items(owner) if isinstance(owner, TiedRows) else 0
    run_name = f"{owner.name} 1" if isinstance(owner, TiedRows) else owner.name
    gone: set[str] = set()

    def place(at: Place | None, of: str) -> Place | None:
        if at is None or at.run != run_name or at.item <= own:
            return at
        new = moved.get(at.item - own, at.item - own)
        if new is None:
            gone.add(of)
            return at
        return replace(at, item=new + own)

    runs = tuple(
        replace(r, start=place(r.start, r.name), end=place(r.end, r.name)) for r in piece.runs
    )
    rows = tuple(_row(row, run_name, own, moved, gone) for row in piece.rows)
    ways = tuple(replace(w, hooked=place(w.hooked, "")) for w in piece.ways)
    piece = replace(piece, runs=runs, rows=rows, ways=ways)
    piece = _quantities(piece, owner.name, follow)
    return without(piece, gone - {""}) if gone else piece


def _row(row: Any, run: str, own: int, moved: Mapping[int, int | None], gone: set[str]) -> Any:
    at = getattr(row, "item", 0)
    end = getattr(row, "end", None)
    if end is not None and end.run == run and end.item > own:
        new = moved.get(end.item - own, end.item - own)
        row = replace(row, end=replace(end, item=(new or 1) + own))
    if getattr(row, "run", None) != run or at <= own:
        return row
    new = moved.get(at - own, at - own)
    if new is None:
        gone.add(row.name)
        return row
    return replace(row, item=new + own)


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

    fits = []
    for fit in piece.fits:
        changes = tuple(q for q in map(quantity, fit.changes) if q is not None)
        named = {f: getattr(fit, f) for f in ("section", "stretch") if hasattr(fit, f)}
        there = {name: quantity(at) for name, at in named.items()}
        if None not in there.values():
            fits.append(replace(fit, changes=changes, **there))
    pinned = tuple(q for q in map(quantity, piece.pinned) if q is not None)
    return replace(piece, fits=tuple(fits), pinned=pinned)


def without(piece: Piece, names: set[str]) -> Piece:
    """The piece without some runs and rows and everything that hangs from them; fits that are
    about them go too."""
    gone = set(names)
    while True:
        owners = (*piece.runs, *piece.rows)
        more = {o.name for o in owners if o.name not in gone and _hosts(o, gone)}
        if not more:
            break
        gone |= more
    kept = tuple(f for f in piece.fits if not _about(f) & gone)
    return replace(
        piece,
        runs=tuple(r for r in piece.runs if r.name not in gone),
        rows=tuple(r for r in piece.rows if r.name not in gone),
        fits=kept,
        pinned=tuple(q for q in piece.pinned if q.run not in gone),
    )


def _hosts(owner: Any, gone: set[str]) -> bool:
    """Whether a run or row hangs from one of those that go."""
    places = [getattr(owner, "start", None), getattr(owner, "end", None)]
    names = {place.run for place in places if isinstance(place, Place)}
    if isinstance(getattr(owner, "run", None), str):
        names.add(owner.run)
    return bool(names & gone) or any(
        name.startswith(f"{lost} ") for name in names for lost in gone if name not in gone
    )


def _about(fit: Any) -> set[str]:
    """Names of runs and rows that a fit cannot do without."""
    found = {getattr(fit, f) for f in ("run", "row", "drop", "to") if hasattr(fit, f)}
    found |= set(getattr(fit, "strands", ())) | set(getattr(fit, "swags", ()))
    found |= {getattr(fit, f).run for f in ("section", "stretch") if hasattr(fit, f)}
    return {name for name in found if name is not None}
