"""Rearranging what is written: copy and paste, duplicate, repeat, reverse, move, split, replace a
part everywhere, free a side or mirror it. Each takes a piece and returns an `Edited`.

A stretch is `count` items from a spot on, within one run or one repeat.
"""

import re
from itertools import takewhile
from typing import TypeVar

from msgspec.structs import replace

from maglia.core.assembly.kinds import count_of, with_count
from maglia.core.assembly.places import CLOSURE
from maglia.core.assembly.rows import made_runs
from maglia.core.edits.edit import add_owner, free_name, insert_after, listed, put, with_thing
from maglia.core.edits.renumber import rearranged
from maglia.core.edits.spots import (
    CENTRE,
    WHOLE,
    Edited,
    Spot,
    first_number,
    item_of,
    items_at,
    owner_of,
)
from maglia.core.parts.parts import Chain
from maglia.core.parts.units import Thing
from maglia.core.piece.items import ChainItem, ConnectorItem, Item, RepeatItem, RingItem
from maglia.core.piece.needed import made_of
from maglia.core.piece.piece import Items, Owner, Piece, Place, Run, Side, Way, catalogue
from maglia.core.piece.wishes import Fit
from maglia.core.values.record import DomainError, Value
from maglia.core.values.references import exchanged, named, references, things_named, with_records


class Clip(Value, frozen=True):
    """What was copied: items of a run, or a whole run or row, with the parts it is made of."""

    items: Items = ()
    owner: Owner | None = None
    things: tuple[Thing, ...] = ()


def copied(piece: Piece, spot: Spot, count: int = 1) -> Clip:
    """The stretch at a spot; on a set of tied rows, the whole set."""
    if spot.path == WHOLE:
        return run_copied(piece, spot.owner)
    items = _stretch(piece, spot, count)
    return Clip(items=items, things=_things_of(piece, items))


def run_copied(piece: Piece, owner_name: str) -> Clip:
    """A whole run or row."""
    owner = owner_of(piece, owner_name)
    return Clip(owner=owner, things=_things_of(piece, (owner,)))


def _things_of(piece: Piece, value: tuple[Owner | Item, ...]) -> tuple[Thing, ...]:
    """Copies of every part and unit that something is made of, parts before what needs them."""
    return made_of(sorted(things_named(value)), catalogue(piece))


def pasted(piece: Piece, spot: Spot | None, clip: Clip) -> Edited:
    """The clip put in after a spot; a run beside the one it was copied from."""
    for thing in clip.things:
        piece = with_thing(piece, thing)
    if clip.owner is not None:
        return _run_pasted(piece, spot, clip.owner)
    if not clip.items:
        raise DomainError("nothing was copied yet: Ctrl+C copies what the cursor is on")
    if spot is None:
        first, *rest = clip.items
        return add_owner(piece, Run(name="Strand", centre=first, items=tuple(rest)))
    return insert_after(piece, spot, *clip.items)


def _run_pasted(piece: Piece, spot: Spot | None, owner: Owner) -> Edited:
    """A run keeps its places; one whose host is not in the piece hangs from the cursor's run."""
    if isinstance(owner, Run):
        own = {run.name for run in piece.owners}
        known = own | made_runs(piece, own) | {CLOSURE}
        host = spot.owner if spot else next((run.name for run in piece.runs), "")

        def place(at: Place) -> Place:
            return at if at.run in known else Place(run=host, item=0, at=0)

        owner = with_records(owner, Place, place)
    return add_owner(piece, owner)


def _stretch(piece: Piece, spot: Spot, count: int) -> Items:
    if spot.path == (CENTRE,):
        return (item_of(piece, spot), *owner_of(piece, spot.owner).own_items[: count - 1])
    inner = items_at(owner_of(piece, spot.owner).own_items, spot.path[:-1])
    return inner[spot.path[-1] : spot.path[-1] + count]


def duplicated(piece: Piece, spot: Spot, count: int = 1) -> Edited:
    """The stretch once more, just outward of itself."""
    if spot.path in (WHOLE, (CENTRE,)):
        raise DomainError("what lies on the fold stands once; duplicate what stands beside it")
    items = _stretch(piece, spot, count)
    last = Spot(spot.owner, (*spot.path[:-1], spot.path[-1] + count - 1))
    done = insert_after(piece, last, *items)
    return replace(done, words=f"{spot.owner}: {listed(piece, items)} once more")


def repeated(piece: Piece, spot: Spot, count: int = 1) -> Edited:
    """The stretch within a repeat of two, which `+` makes longer; a repeat is written out."""
    owner = owner_of(piece, spot.owner)
    if spot.path in (WHOLE, (CENTRE,)):
        raise DomainError("what lies on the fold stands once; repeat what stands beside it")
    parent, at = spot.path[:-1], spot.path[-1]
    inner = items_at(owner.own_items, parent)
    items = inner[at : at + count]
    if count == 1 and isinstance(items[0], RepeatItem):
        out = items[0].items * items[0].times
        new = (*inner[:at], *out, *inner[at + 1 :])
        words = f"{spot.owner}: {listed(piece, items)} written out"
    else:
        new = (*inner[:at], RepeatItem(times=2, items=items), *inner[at + count :])
        words = f"{spot.owner}: 2 × ({listed(piece, items)})"
    return _exchanged(piece, owner, parent, at, count, new, words)


def _exchanged(
    piece: Piece, owner: Owner, parent: tuple[int, ...], at: int, count: int, new: Items, words: str
) -> Edited:
    """Items before and after the stretch keep what hangs from them."""
    inner = items_at(owner.own_items, parent)
    after = len(inner) - at - count
    middle = len(new) - at - after
    came: list[int | None] = [*range(at), *[None] * middle, *range(at + count, len(inner))]
    changed = rearranged(piece, owner, parent, new, came)
    lost = len(piece.owners) - len(changed.owners)
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
        return Edited(put(piece, spot, turned(item)), f"{spot.owner}: centre turned", spot)
    parent, at = spot.path[:-1], spot.path[-1]
    inner = items_at(owner.own_items, parent)
    order = [*range(at), *reversed(range(at, at + count)), *range(at + count, len(inner))]
    items = [turned(inner[k]) if at <= k < at + count else inner[k] for k in order]
    changed = rearranged(piece, owner, parent, items, order)
    return Edited(changed, f"{spot.owner}: {count} item{'s' if count > 1 else ''} reversed", spot)


def turned(item: Item) -> Item:
    """An item as it is met from its other end."""
    if isinstance(item, ConnectorItem):
        return replace(item, hole_in=item.hole_out, hole_out=item.hole_in)
    if isinstance(item, RepeatItem):
        return replace(item, items=tuple(turned(i) for i in reversed(item.items)))
    return item


def moved(piece: Piece, spot: Spot, by: int, count: int = 1) -> Edited:
    """The stretch one place outward (+1) or towards the fold (−1)."""
    owner = owner_of(piece, spot.owner)
    if spot.path in (WHOLE, (CENTRE,)):
        raise DomainError("what lies on the fold stays there; move what stands beside it")
    parent, at = spot.path[:-1], spot.path[-1]
    inner = items_at(owner.own_items, parent)
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


def _further(piece: Piece, item: ChainItem, links: int) -> ChainItem:
    """A stretch that begins so many links further along its pattern."""
    chain = catalogue(piece).get(item.part)
    pattern = len((chain.pitches_mm if isinstance(chain, Chain) else None) or (0,))
    return replace(item, first_phase=(item.first_phase + links) % pattern)


def split(piece: Piece, spot: Spot, link: int) -> Edited:
    """A chain or row of rings cut after a link, counted from its inner end (from the fold on the
    centre). Something that opens can then be put between."""
    item = item_of(piece, spot)
    if not isinstance(item, ChainItem | RingItem):
        raise DomainError(f"“{spot.owner}”: only chain and rings can be split")
    size = count_of(item)
    central = spot.path == (CENTRE,)
    inner = 2 * link + size % 2 if central else link
    outer = (size - inner) // 2 if central else size - inner
    if inner < 1 or outer < 1:
        raise DomainError(f"“{spot.owner}”: set the mark on a link inside it (Ctrl+→), then split")
    one, other = with_count(item, inner), with_count(item, outer)
    if isinstance(one, ChainItem) and isinstance(other, ChainItem):
        before = outer if central else 0
        one = _further(piece, one, before)
        other = _further(piece, other, before + inner)
    owner = owner_of(piece, spot.owner)
    if central:
        items = owner.own_items
        changed = rearranged(piece, owner, (), (other, *items), [None, *range(len(items))])
        changed = put(changed, spot, one)
        changed = _places_split(changed, spot.owner, 0, link, 1)
    else:
        parent, at = spot.path[:-1], spot.path[-1]
        inner_items = items_at(owner.own_items, parent)
        new = (*inner_items[:at], one, other, *inner_items[at + 1 :])
        came: list[int | None] = [*range(at + 1), None, *range(at + 1, len(inner_items))]
        changed = rearranged(piece, owner, parent, new, came)
        if not parent:
            from_item = first_number(changed, spot)
            changed = _places_split(changed, spot.owner, from_item, link, from_item + 1)
    return Edited(changed, f"{spot.owner}: split into {inner} and {outer}", spot)


def _places_split(piece: Piece, run: str, item: int, link: int, to_item: int) -> Piece:
    """What hung beyond the cut hangs from the outer part."""

    def place(at: Place) -> Place:
        if at.run != run or at.item != item or at.at <= link or at.port:
            return at
        return replace(at, item=to_item, at=at.at - link)

    return with_records(piece, Place, place)


def replaced_everywhere(piece: Piece, ref: str, thing: Thing) -> Edited:
    """One part or unit by another of the same kind, wherever it is used, in units too."""
    old = catalogue(piece).get(ref)
    if old is None:
        raise DomainError(f"“{ref}” is not among the parts of the piece")
    if old.kind != thing.kind:
        raise DomainError(f"“{old.name}” is a {old.kind} and “{thing.name}” a {thing.kind}")
    if thing.id == ref:
        raise DomainError(f"it is “{thing.name}” already")
    changed = exchanged(with_thing(piece, thing), "thing", {ref: thing.id})
    changed = replace(
        changed,
        parts=tuple(p for p in changed.parts if p.id != ref),
        units=tuple(u for u in changed.units if u.id != ref),
    )
    changed = _units_of_their_own(piece, changed, old, thing)
    return Edited(changed, f"{old.name} replaced by {thing.name} everywhere")


def _units_of_their_own(before: Piece, piece: Piece, old: Thing, new: Thing) -> Piece:
    """Units that a part was exchanged in are others now, so that nobody takes them for those they
    were made from; they bear the new part's name where they bore the old one's."""
    were = {unit.id: unit for unit in before.units}
    others: dict[str, str] = {}
    for unit in piece.units:
        was = were.get(unit.id)
        if was is not None and named(unit, "thing") != named(was, "thing"):
            others[unit.id] = f"{unit.id}-{new.id}"[:100]
    while more := [unit for unit in piece.units if unit.id not in others
                   and named(unit, "thing") & set(others)]:  # fmt: skip
        others |= {unit.id: f"{unit.id}-{new.id}"[:100] for unit in more}
    units = tuple(
        replace(unit, id=others[unit.id], name=_called_after(unit.name, old.name, new.name))
        if unit.id in others else unit for unit in piece.units
    )  # fmt: skip
    return exchanged(replace(piece, units=units), "thing", others)


def _called_after(name: str, old: str, new: str) -> str:
    """A unit's name with the words of one part, before its sizes, in the place of another's."""
    was, now = (re.split(r"\s+(?=\d)", part)[0] for part in (old, new))
    return re.sub(rf"(?<!\w){re.escape(was)}(?!\w)", lambda _: now, name, flags=re.IGNORECASE)[:120]


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
    """Left and right on their own. A fit or pin of the pair becomes one of each side."""
    hung = next((o.name for o in piece.owners if run.name in named(o, "run")), None)
    if hung is not None:
        raise DomainError(f"“{hung}” hangs from “{run.name}”: free it first")
    left, right = (_one_side(piece, run, side) for side in _SIDES)
    fits: list[Fit] = []
    for fit in piece.fits:
        fits.append(_called(fit, run.name, right.name))
        if fits[-1] != fit:
            other = _called(fit, run.name, left.name)
            fits.append(replace(other, name=f"{fit.name}, left"[:120]))
    own = tuple(q for q in piece.pinned if q.run == run.name)
    at = piece.runs.index(run)
    changed = replace(
        piece,
        runs=(*piece.runs[:at], left, right, *piece.runs[at + 1 :]),
        fits=tuple(fits),
        ways=tuple(_way_freed(way, run.name, left.name, right.name) for way in piece.ways),
        accepted=_called(piece.accepted, run.name, right.name),
        pinned=(
            *_called(piece.pinned, run.name, right.name), *_called(own, run.name, left.name),
        ),
    )  # fmt: skip
    words = f"{run.name} freed: left and right on their own"
    return Edited(changed, words, Spot(right.name, (0,)))


Some = TypeVar("Some")


def _called(value: Some, old: str, new: str) -> Some:
    """The same with a maker's own run under another name."""
    names = {old: new}
    return exchanged(exchanged(exchanged(value, "run", names), "owner", names), "name", names)


def _way_freed(way: Way, old: str, left: str, right: str) -> Way:
    both = tuple(n for name in way.without for n in ((left, right) if name == old else (name,)))
    return replace(_called(way, old, right), without=both)


_SIDES: tuple[Side, Side] = ("left", "right")


def _one_side(piece: Piece, run: Run, side: Side) -> Run:
    name = free_name(piece, f"{run.name} {side}")
    own = with_records(run, Place, lambda at: replace(at, side=side))
    return replace(own, name=name, lies="free")


def _mirrored(piece: Piece, run: Run) -> Edited:
    """A free side and its twin made one pair; what was said of the twin alone goes."""
    assert run.start is not None
    other: Side = "left" if run.start.side == "right" else "right"
    twin = next(
        (r for r in piece.runs if r is not run and r.start == replace(run.start, side=other)), None
    )
    base = _same_words(run.name, twin.name) if twin else ""
    rest = tuple(r for r in piece.runs if r is not twin and r is not run)
    taken = {owner.name for owner in (*rest, *piece.rows)}
    name = base if base and base not in taken else run.name
    pair = with_records(run, Place, lambda at: replace(at, side=None))
    pair = replace(pair, name=name, lies="paired")
    runs = tuple(pair if r is run else r for r in piece.runs if r is not twin)
    lost = {twin.name} if twin else set()
    changed = replace(
        piece,
        runs=runs,
        fits=tuple(f for f in piece.fits if not {name for _, name in references(f)} & lost),
        pinned=tuple(q for q in piece.pinned if q.run not in lost),
        ways=tuple(
            replace(
                w,
                without=tuple(n for n in w.without if n not in lost),
                taken_out=tuple(n for n in w.taken_out if n not in lost),
            )
            for w in piece.ways
        ),
    )
    changed = _called(changed, run.name, name)
    return Edited(changed, f"{name} mirrored: left as right", Spot(name, (0,)))


def _same_words(one: str, other: str) -> str:
    """The words two names begin with alike: what to call both together."""
    pairs = zip(one.split(), other.split(), strict=False)
    return " ".join(word for word, _ in takewhile(lambda pair: pair[0] == pair[1], pairs))
