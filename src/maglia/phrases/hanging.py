"""What hangs: drops and rows of drops, swags, ties, extenders, and what slides between two stops.

“drop teal on 9 rolo with ring 4 at link 6”, “3 drops 5 / 9 / 12 cable, rose / teal / leaf at lower
loop of cone link”, “drops every 4 links: amber”, “swag 24 rolo from 1st ring to 2nd ring”.
"""

from functools import partial

from msgspec.structs import replace

from maglia.core.edits.edit import add_owner, with_thing
from maglia.core.edits.rearrange import turned
from maglia.core.edits.spots import Edited
from maglia.core.parts.parts import Chain, Connector, Hole, Ring
from maglia.core.parts.units import BeadLink, Things
from maglia.core.piece.items import ConnectorItem, Item, RingItem
from maglia.core.piece.piece import MOST_RUNS, Piece, Place, Run
from maglia.core.values.record import DomainError
from maglia.phrases.drop_rows import evenly, every_said, row_at, row_every
from maglia.phrases.here import Here, Offer, staying
from maglia.phrases.hung_by import nothing_opens, ring_for
from maglia.phrases.items import (
    Said,
    SaidItem,
    hanging_items,
    holes_named,
    hung_from,
    items_of,
    said_words,
    sequence,
    sequences_by_turns,
    shown,
    with_said,
)
from maglia.phrases.places import At, as_pair, at_cursor, on_one_chain, places, places_of_each
from maglia.phrases.words import (
    Segment,
    Words,
    at_signs,
    is_sign,
    joined,
    once,
    text_of,
    unknown,
)

JOINS = ("on", "with", "by", "at", "every", "spread")
LEFT, RIGHT = "left", "right"


class _Held:
    """What hangs by two of its holes, and the holes."""

    def __init__(self, item: ConnectorItem, holes: tuple[Hole, ...]) -> None:
        self.item, self.holes = item, holes


def drop_offer(words: Words, here: Here, called: str) -> Offer:
    """“drop …”, “3 drops …”, “drops …”: one run each, or a row."""
    count = words[0].whole if words[0].sort == "number" else None
    row = words[1 if count else 0].low == "drops"
    words = words[2:] if count else words[1:]
    row = row and any(word.low in ("links", "rings") for word in words)
    words, sides = _on_both_sides(words)
    words, each = _on_each(words)
    straight = bool(words) and words[0].low == "straight"
    words = words[1:] if straight else words
    head, joins = joined(words, JOINS)
    said = once(joins)
    every = None
    if "every" in said:
        every, more = every_said(said["every"])
        head = (*head, *more) if not head or not more else _refuse(more)
    if "spread" in said:
        every, more = evenly(said["spread"])
        head = (*head, *more) if not head or not more else _refuse(more)
    turns = sequences_by_turns(head, here)
    before = _before(said, here)
    turns = [(*before, *one) for one in turns]
    held = [_held(one, said.get("by"), here) for one in turns]
    what = " / ".join(said_words(one, here) for one in turns)
    if every is not None:
        do = partial(row_every, turns, every, count, sides, here, called)
        rule = f"every {every} links" if every else "spread evenly"
        return Offer(f"Drops {rule}: {what}", do, shown(turns[0], here))
    if each and "at" in said:
        raise unknown([said["at"].join], "is said beside “on each”: say one of them")
    if each:
        spots, where = places_of_each(each, here), f"each {text_of(each)}"
    elif "at" in said:
        spots, where = places(said["at"].words, here), text_of(said["at"].words)
    else:
        spots, where = (at_cursor(here),), "the cursor"
    if held[0] is not None and sides:
        raise unknown(words, "hangs by two holes, and not on both sides")
    name = called or ("Drops" if row and len(spots) > 1 else "Drop")
    label = f"{name} at {where}: {what}" + (" on both sides" if sides else "")
    if held[0] is not None:
        holes = " and ".join(hole.name for hole in held[0].holes)
        label += f" by {holes}"
    do = partial(_hang, turns, held, spots, count, sides, row, here, called, straight)
    return Offer(label, do, shown(turns[0], here))


def _refuse(words: Words) -> Words:
    raise unknown(words)


def _on_both_sides(words: Words) -> tuple[Words, bool]:
    for k in range(len(words) - 2):
        if [word.low for word in words[k : k + 3]] in (["on", "both", "sides"],
                                                       ["on", "each", "side"]):  # fmt: skip
            return words[:k] + words[k + 3 :], words[k + 1].low == "both"
    return words, False


def _before(said: dict[str, Segment], here: Here) -> Said:
    """What stands above what hangs: a ring it hangs by, then what it hangs on."""
    found: list[SaidItem] = []
    if "with" in said:
        found += sequence(said["with"].words, here, (Ring,))
    if "on" in said:
        found += sequence(said["on"].words, here, (Chain, Ring, BeadLink, Connector))
    return tuple(found)


def _on_each(words: Words) -> tuple[Words, Words]:
    """Words without “on each rose link”, and what stands on which it is said to hang."""
    for k in range(len(words) - 2):
        if [word.low for word in words[k : k + 2]] == ["on", "each"]:
            rest = words[k + 2 :]
            stops = (n for n, word in enumerate(rest) if word.low in JOINS or is_sign(word, ","))
            end = k + 2 + next(stops, len(rest))
            return words[:k] + words[end:], words[k + 2 : end]
    return words, ()


def _held(said: Said, by: Segment | None, here: Here) -> _Held | None:
    """The connector that hangs by two holes; one that hangs by one is taken so."""
    if by is None:
        return None
    last = said[-1].item
    thing = here.things.get(last.part) if isinstance(last, ConnectorItem) else None
    if not isinstance(thing, Connector):
        raise unknown([by.join, *by.words], "is said of a connector with holes")
    holes: list[Hole] = []
    for part in at_signs(by.words, "and", ","):
        found = holes_named(thing, part)
        if not found:
            names = ", ".join(hole.name for hole in thing.holes)
            raise unknown(part, f"is no hole of “{thing.name}”: it has {names}")
        holes += [hole for hole in found if hole not in holes]
    if len(holes) > 2:
        raise unknown(by.words, "is more than two holes")
    left, right = min(holes, key=lambda h: h.x_mm), max(holes, key=lambda h: h.x_mm)
    if len(holes) == 1:
        foot = last.hole_out if isinstance(last, ConnectorItem) else left.name
        return _Held(ConnectorItem(part=thing.id, hole_in=left.name, hole_out=foot), (left,))
    return _Held(ConnectorItem(part=thing.id, hole_in=left.name, hole_out=right.name),
                 (left, right))  # fmt: skip


def _hang(
    turns: list[Said],
    held: list[_Held | None],
    spots: tuple[At, ...],
    count: int | None,
    sides: bool,
    row: bool,
    here: Here,
    called: str,
    straight: bool,
) -> Edited:
    """One run at each place, or all of them at one; on links of one chain a row. What hangs
    `straight` is left so where nothing opens: a check says it."""
    piece = with_said(here.piece, turns, here)
    if row and held[0] is None and on_one_chain(spots):
        if count is not None and count != len(spots):
            raise DomainError(f"{count} drops, and {len(spots)} places: say as many of each")
        return row_at(piece, turns, spots, sides, here, called)
    many = max(count or 0, len(spots), len(turns) if len(spots) == 1 else 0)
    if (count is not None and count != many) or len(spots) not in (1, many):
        raise DomainError(f"{count or many} drops, and {len(spots)} places: say as many of each")
    if many > MOST_RUNS:
        raise DomainError(f"{many:,} drops are more than the {MOST_RUNS} that a piece can have")
    pairs = [(k % len(turns), spots[k % len(spots)]) for k in range(many)] * (2 if sides else 1)
    names: list[str] = []
    for k, at in _mirrored(pairs, turns, here.things):
        name = called if called and not names else (called or "Drop")
        run = _run_at(turns[k], held[k], at, name)
        edited = add_owner(piece, run)
        own = edited.piece.runs[-1]
        piece = _with_carried(edited.piece, turns[k], own, here)
        added = ""
        if not straight:
            piece, added = _joined_by_ring(piece, own, turns[k], here)
        names.append(own.name + (f" with {added}, since nothing opens there" if added else ""))
    return staying(Edited(piece, f"{', '.join(names)} added", here.spot), here.spot)


def _with_carried(piece: Piece, said: Said, run: Run, here: Here) -> Piece:
    """What a drop's own things carry hangs from them."""
    for number, carried in hung_from(said):
        start = Place(run=run.name, item=number, at=1)
        lies = run.lies if run.lies != "across" else "fold"
        hung = Run(name="Drop", kind="drop", lies=lies, start=start,
                   items=items_of(hanging_items(carried, here)))  # fmt: skip
        piece = add_owner(piece, hung).piece
    return piece


def _mirrored(
    pairs: list[tuple[int, At]], turns: list[Said], things: Things
) -> list[tuple[int, At]]:
    """Two mirrored holes of one connector on the fold that carry the same are one pair."""
    found: list[tuple[int, At]] = []
    for k, at in pairs:
        for n, (j, other) in enumerate(found):
            if turns[j] == turns[k] and (both := as_pair(other, at, things)):
                found[n] = (k, both)
                break
        else:
            found.append((k, at))
    return found


def _run_at(said: Said, held: _Held | None, at: At, name: str) -> Run:
    if held is not None and len(held.holes) == 2:
        return _two_legs(items_of(said[:-1]), held.item, at, name)
    items = items_of(said)
    if held is not None:
        items = (*items[:-1], held.item)
    return Run(name=name, kind="drop", lies=at.lies, items=items, start=at.place)


def _two_legs(leg: tuple[Item, ...], last: ConnectorItem, at: At, name: str) -> Run:
    """From one place down both legs, left and right, to a connector's two holes."""
    up = tuple(turned(item) for item in reversed(leg))
    of_a_pair = at.lies == "paired" and at.place.item == 0 and at.place.port is not None
    if at.lies == "fold" or of_a_pair:
        return Run(name=name, kind="swag", lies="across", centre=last, items=up, end=at.place)
    return Run(name=name, kind="swag", lies=at.lies, items=(*leg, last, *up), start=at.place,
               end=at.place)  # fmt: skip


def _joined_by_ring(piece: Piece, run: Run, said: Said, here: Here) -> tuple[Piece, str]:
    """A ring above what hangs where nothing opens there: the best offered; a script says it."""
    if isinstance(said[0].item, RingItem) or not nothing_opens(piece, {run.name}):
        return piece, ""
    ring = ring_for(said[0].item, piece, run, here)
    before = (RingItem(part=ring.id),) if run.start is not None else ()
    after = (RingItem(part=ring.id),) if run.end is not None else ()
    changed = replace(run, items=(*before, *run.items, *after))
    return with_thing(piece.replaced(run, changed), ring), ring.name
