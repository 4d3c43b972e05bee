"""Rearranging what is written: copy and paste, duplicate, repeat, reverse, move, split, replace a
part everywhere, free a side or mirror it. Each takes a piece and returns an `Edited`.

A stretch is `count` items from a spot on, within one run or one repeat.
"""

from collections.abc import Iterator
from typing import Any

from msgspec.structs import replace

from maglia.core.edit import (
    CENTRE,
    WHOLE,
    Edited,
    Spot,
    first_number,
    first_spot,
    free_name,
    insert_after,
    item_of,
    item_words,
    owner_of,
    with_part,
)
from maglia.core.parts import Part
from maglia.core.piece import (
    ChainItem,
    ConnectorItem,
    Item,
    Items,
    Piece,
    Place,
    RepeatItem,
    RingItem,
    Row,
    Run,
    Side,
    catalogue,
)
from maglia.core.record import DomainError, Record, Value
from maglia.core.renumber import items_at, items_of, rearranged
from maglia.core.units import Unit


class Clip(Value, frozen=True):
    """What was copied: items of a run, or a whole run or row, with the parts it is made of."""

    items: Items = ()
    owner: Run | Row | None = None
    things: tuple[Part | Unit, ...] = ()


def copied(piece: Piece, spot: Spot, count: int = 1) -> Clip:
    """The stretch at a spot; on a set of tied rows, the whole set."""
    if spot.path == WHOLE:
        return run_copied(piece, spot.owner)
    items = _stretch(piece, spot, count)
    return Clip(items=items, things=_things_of(piece, items))


def run_copied(piece: Piece, owner_name: str) -> Clip:
    """A whole run or row."""
    owner = owner_of(piece, owner_name)
    items = (*items_of(owner), *((owner.centre,) if getattr(owner, "centre", None) else ()))
    refs = [getattr(owner, f, None) for f in ("unit", "ring", "hang_ring")]
    return Clip(owner=owner, things=_things_of(piece, items, [r for r in refs if r]))


def pasted(piece: Piece, spot: Spot | None, clip: Clip) -> Edited:
    """The clip put in after a spot; a run beside the one it was copied from."""
    for thing in clip.things:
        piece = with_part(piece, thing)
    if clip.owner is not None:
        return _run_pasted(piece, spot, clip.owner)
    if not clip.items:
        raise DomainError("nothing was copied yet: Ctrl+C copies what the cursor is on")
    if spot is None:
        first, *rest = clip.items
        started = Run(name=free_name(piece, "Strand"), centre=first, items=tuple(rest))
        changed = replace(piece, runs=(*piece.runs, started))
        return Edited(changed, f"{started.name} added", first_spot(changed, started.name))
    return insert_after(piece, spot, *clip.items)


def _run_pasted(piece: Piece, spot: Spot | None, owner: Any) -> Edited:
    """A run keeps its places; one whose host is not in the piece hangs from the cursor's run."""
    name = free_name(piece, owner.name)
    made = replace(owner, name=name)
    if isinstance(made, Run):
        known = {r.name for r in piece.runs}
        for end in ("start", "end"):
            place = getattr(made, end)
            if place is not None and place.run not in known and place.run != "closure":
                host = spot.owner if spot else next(iter(known), "")
                made = replace(made, **{end: Place(run=host, item=0, at=0)})
        changed = replace(piece, runs=(*piece.runs, made))
    else:
        changed = replace(piece, rows=(*piece.rows, made))
    return Edited(changed, f"{name} added", first_spot(changed, name))


def _stretch(piece: Piece, spot: Spot, count: int) -> Items:
    if spot.path == (CENTRE,):
        return (item_of(piece, spot), *items_of(owner_of(piece, spot.owner))[: count - 1])
    inner = items_at(items_of(owner_of(piece, spot.owner)), spot.path[:-1])
    return inner[spot.path[-1] : spot.path[-1] + count]


def _things_of(
    piece: Piece, items: Items, refs: list[str] | None = None
) -> tuple[Part | Unit, ...]:
    """Copies of every part and unit that items are made of, parts before what needs them."""
    things = catalogue(piece)
    found: dict[str, Any] = {}

    def add(ref: str | None) -> None:
        thing = things.get(ref or "")
        if thing is None or thing.id in found:
            return
        for inner in (*getattr(thing, "stack", ()), *getattr(thing, "hangs", ())):
            add(inner)
        for field in ("wire", "thread", "mid", "carrier", "ring"):
            value = getattr(thing, field, None)
            if isinstance(value, str):
                add(value)
        found[thing.id] = thing

    for ref in (*_refs(items), *(refs or ())):
        add(ref)
    return tuple(found.values())


def _refs(items: Items) -> Iterator[str]:
    for item in items:
        if isinstance(item, RepeatItem):
            yield from _refs(item.items)
            continue
        for field in ("part", "unit", "thread", "end"):
            value = getattr(item, field, None)
            if isinstance(value, str):
                yield value
        for field in ("lead", "pattern", "tail"):
            yield from getattr(item, field, ())


def duplicated(piece: Piece, spot: Spot, count: int = 1) -> Edited:
    """The stretch once more, just outward of itself."""
    if spot.path in (WHOLE, (CENTRE,)):
        raise DomainError("what lies on the fold stands once; duplicate what stands beside it")
    items = _stretch(piece, spot, count)
    last = Spot(spot.owner, (*spot.path[:-1], spot.path[-1] + count - 1))
    done = insert_after(piece, last, *items)
    words = ", ".join(item_words(piece, i) for i in items)
    return replace(done, words=f"{spot.owner}: {words} once more")


def repeated(piece: Piece, spot: Spot, count: int = 1) -> Edited:
    """The stretch within a repeat of two, which `+` makes longer; a repeat is written out."""
    owner = owner_of(piece, spot.owner)
    if spot.path in (WHOLE, (CENTRE,)):
        raise DomainError("what lies on the fold stands once; repeat what stands beside it")
    parent, at = spot.path[:-1], spot.path[-1]
    inner = items_at(items_of(owner), parent)
    items = inner[at : at + count]
    if count == 1 and isinstance(items[0], RepeatItem):
        out = items[0].items * items[0].times
        new = (*inner[:at], *out, *inner[at + 1 :])
        words = f"{spot.owner}: {item_words(piece, items[0])} written out"
    else:
        new = (*inner[:at], RepeatItem(times=2, items=items), *inner[at + count :])
        words = f"{spot.owner}: 2 × ({', '.join(item_words(piece, i) for i in items)})"
    return _exchanged(piece, owner, parent, at, count, new, words)


def _exchanged(
    piece: Piece, owner: Any, parent: tuple[int, ...], at: int, count: int, new: Items, words: str
) -> Edited:
    """Items before and after the stretch keep what hangs from them."""
    inner = items_at(items_of(owner), parent)
    after = len(inner) - at - count
    middle = len(new) - at - after
    came: list[int | None] = [*range(at), *[None] * middle, *range(at + count, len(inner))]
    changed = rearranged(piece, owner, parent, new, came)
    lost = len(piece.runs) + len(piece.rows) - len(changed.runs) - len(changed.rows)
    if lost:
        raise DomainError(
            f"“{owner.name}”: {lost} runs hang from what would be exchanged; take them out first"
        )
    return Edited(changed, words, Spot(owner.name, (*parent, at)))


def reversed_(piece: Piece, spot: Spot, count: int = 1) -> Edited:
    """The stretch in reverse order; a single connector is turned round."""
    owner = owner_of(piece, spot.owner)
    if spot.path == WHOLE:
        raise DomainError("tied rows are made by their rule and have no order to reverse")
    if spot.path == (CENTRE,):
        item = item_of(piece, spot)
        if not isinstance(item, ConnectorItem):
            raise DomainError("only one part lies on the fold: there is nothing to reverse")
        changed = replace(owner, centre=_turned(item))
        runs = tuple(changed if r is owner else r for r in piece.runs)
        return Edited(replace(piece, runs=runs), f"{spot.owner}: centre turned", spot)
    parent, at = spot.path[:-1], spot.path[-1]
    inner = items_at(items_of(owner), parent)
    order = [*range(at), *reversed(range(at, at + count)), *range(at + count, len(inner))]
    items = [_turned(inner[k]) if at <= k < at + count else inner[k] for k in order]
    changed = rearranged(piece, owner, parent, items, order)
    return Edited(changed, f"{spot.owner}: {count} item{'s' if count > 1 else ''} reversed", spot)


def _turned(item: Item) -> Item:
    if isinstance(item, ConnectorItem):
        return replace(item, hole_in=item.hole_out, hole_out=item.hole_in)
    if isinstance(item, RepeatItem):
        return replace(item, items=tuple(_turned(i) for i in reversed(item.items)))
    return item


def moved(piece: Piece, spot: Spot, by: int, count: int = 1) -> Edited:
    """The stretch one place outward (+1) or towards the fold (−1)."""
    owner = owner_of(piece, spot.owner)
    if spot.path in (WHOLE, (CENTRE,)):
        raise DomainError("what lies on the fold stays there; move what stands beside it")
    parent, at = spot.path[:-1], spot.path[-1]
    inner = items_at(items_of(owner), parent)
    to = at + by
    if not 0 <= to <= len(inner) - count:
        raise DomainError(f"“{spot.owner}” ends there: it cannot go further")
    order = list(range(len(inner)))
    block = order[at : at + count]
    rest = [k for k in order if k not in block]
    order = [*rest[:to], *block, *rest[to:]]
    changed = rearranged(piece, owner, parent, [inner[k] for k in order], order)
    return Edited(changed, f"{spot.owner}: moved {'outward' if by > 0 else 'inward'}",
                  Spot(spot.owner, (*parent, to)))  # fmt: skip


def split(piece: Piece, spot: Spot, link: int) -> Edited:
    """A chain or row of rings cut after a link, counted from its inner end (from the fold on the
    centre). Something that opens can then be put between."""
    item = item_of(piece, spot)
    if not isinstance(item, ChainItem | RingItem):
        raise DomainError(f"“{spot.owner}”: only chain and rings can be split")
    field = "links" if isinstance(item, ChainItem) else "count"
    size = item.links if isinstance(item, ChainItem) else item.count
    central = spot.path == (CENTRE,)
    inner = 2 * link + size % 2 if central else link
    outer = (size - inner) // 2 if central else size - inner
    if inner < 1 or outer < 1:
        raise DomainError(f"“{spot.owner}”: set the mark on a link inside it (Ctrl+→), then split")
    one: Item = replace(item, **{field: inner})
    other: Item = replace(item, **{field: outer})
    owner = owner_of(piece, spot.owner)
    if central:
        items = items_of(owner)
        changed = rearranged(piece, owner, (), (other, *items), [None, *range(len(items))])
        fresh = owner_of(changed, spot.owner)
        runs = tuple(replace(r, centre=one) if r is fresh else r for r in changed.runs)
        changed = replace(changed, runs=runs)
        changed = _places_split(changed, spot.owner, 0, link, 1)
    else:
        parent, at = spot.path[:-1], spot.path[-1]
        inner_items = items_at(items_of(owner), parent)
        new = (*inner_items[:at], one, other, *inner_items[at + 1 :])
        came: list[int | None] = [*range(at + 1), None, *range(at + 1, len(inner_items))]
        changed = rearranged(piece, owner, parent, new, came)
        if not parent:
            from_item = first_number(changed, spot)
            changed = _places_split(changed, spot.owner, from_item, link, from_item + 1)
    return Edited(changed, f"{spot.owner}: split into {inner} and {outer}", spot)


def _places_split(piece: Piece, run: str, item: int, link: int, to_item: int) -> Piece:
    """What hung beyond the cut hangs from the outer part."""

    def place(at: Place | None) -> Place | None:
        if at is None or at.run != run or at.item != item or at.at <= link or at.port:
            return at
        return replace(at, item=to_item, at=at.at - link)

    runs = tuple(replace(r, start=place(r.start), end=place(r.end)) for r in piece.runs)
    return replace(piece, runs=runs)


def replaced_everywhere(piece: Piece, ref: str, thing: Part | Unit) -> Edited:
    """One part or unit by another of the same kind, wherever it is used, in units too."""
    known = catalogue(piece)
    old = known.get(ref)
    if old is None:
        raise DomainError(f"“{ref}” is not among the parts of the piece")
    if old.kind != thing.kind:
        raise DomainError(f"“{old.name}” is a {old.kind} and “{thing.name}” a {thing.kind}")
    if thing.id == ref:
        raise DomainError(f"it is “{thing.name}” already")
    piece = with_part(piece, thing)
    changed = _exchange(piece, {ref: thing.id})
    changed = replace(
        changed,
        parts=tuple(p for p in changed.parts if p.id != ref),
        units=tuple(u for u in changed.units if u.id != ref),
    )
    return Edited(changed, f"{old.name} replaced by {thing.name} everywhere")


def _exchange(value: Any, names: dict[str, str]) -> Any:
    """The same value with references exchanged, whatever it is made of."""
    if isinstance(value, tuple):
        return tuple(names.get(v, v) if isinstance(v, str) else _exchange(v, names) for v in value)
    if not isinstance(value, Record):
        return value
    new: dict[str, Any] = {}
    for field in value.__struct_fields__:
        now = getattr(value, field)
        if field in REFERENCES and isinstance(now, str):
            new[field] = names.get(now, now)
        elif isinstance(now, tuple | Record):
            new[field] = _exchange(now, names) if field not in NOT_REFERENCES else now
    return replace(value, **new)


REFERENCES = {
    "part", "unit", "thread", "end", "wire", "mid", "carrier", "ring", "hang_ring", "clasp",
    "catch",
}  # fmt: skip
NOT_REFERENCES = {"without", "strands", "swags", "accepted", "fits", "pinned", "ways"}


def freed_or_mirrored(piece: Piece, name: str) -> Edited:
    """A paired run written for each side, so that the two can differ; two such sides made one
    mirrored pair again. A strand across the fold becomes a free one, and back if it mirrors."""
    run = owner_of(piece, name)
    if not isinstance(run, Run):
        raise DomainError(f"“{name}” is made by a rule; overrule single drops instead")
    if run.lies == "paired":
        return _freed(piece, run)
    if run.lies == "free" and run.start is not None and run.start.side is not None:
        return _mirrored(piece, run)
    raise DomainError(f"“{name}” stands once: only what stands left and right can be freed")


def _freed(piece: Piece, run: Run) -> Edited:
    sides = []
    both: tuple[Side, Side] = ("left", "right")
    for side in both:
        start = replace(run.start, side=side) if run.start else None
        end = replace(run.end, side=side) if run.end else None
        name = f"{run.name} {side}"
        sides.append(replace(run, name=name, lies="free", start=start, end=end))
    at = piece.runs.index(run)
    runs = (*piece.runs[:at], *sides, *piece.runs[at + 1 :])
    hung = [r.name for r in piece.runs if r.start and r.start.run == run.name]
    if hung:
        raise DomainError(f"“{hung[0]}” hangs from “{run.name}”: free it first")
    changed = replace(piece, runs=runs)
    return Edited(changed, f"{run.name} freed: left and right on their own",
                  Spot(sides[1].name, (0,)))  # fmt: skip


def _mirrored(piece: Piece, run: Run) -> Edited:
    assert run.start is not None
    base = run.name.removesuffix(" left").removesuffix(" right")
    other: Side = "left" if run.start.side == "right" else "right"
    start = replace(run.start, side=None)
    end = replace(run.end, side=None) if run.end else None
    twin = next(
        (r for r in piece.runs if r is not run and r.start == replace(run.start, side=other)), None
    )
    runs = tuple(r for r in piece.runs if r is not twin)
    name = base if all(r.name != base for r in runs if r is not run) else run.name
    pair = replace(run, name=name, lies="paired", start=start, end=end)
    changed = replace(piece, runs=tuple(pair if r is run else r for r in runs))
    return Edited(changed, f"{name} mirrored: left as right", Spot(name, (0,)))
