"""What hangs: drops and rows of drops, swags, ties, extenders, and what slides between two stops.

“drop teal on 9 rolo with ring 4 at link 6”, “3 drops 5 / 9 / 12 cable, rose / teal / leaf at lower
loop of cone link”, “drops every 4 links: amber”, “swag 24 rolo from 1st ring to 2nd ring”.
"""

from collections.abc import Collection, Sequence
from functools import partial
from itertools import pairwise

from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.assembly.places import CLOSURE, mirror_hole
from maglia.core.assembly.ports import RIDES
from maglia.core.checks import joinable
from maglia.core.edits.edit import add_owner, links_near, with_thing
from maglia.core.edits.rearrange import turned
from maglia.core.edits.spots import WHOLE, Edited, Spot, item_of, spot_in
from maglia.core.parts.parts import Chain, Charm, Connector, Hole, Ring, chain_length_mm
from maglia.core.parts.units import BeadLink, Dangle, Thing, Things
from maglia.core.piece.items import ChainItem, ConnectorItem, Item, RingItem, StrungItem
from maglia.core.piece.piece import DropRow, Lies, Override, Piece, Place, Run, SwagRow
from maglia.core.piece.strung import cord_mm, is_bare
from maglia.core.values.record import DomainError
from maglia.phrases.here import Here, Offer, staying
from maglia.phrases.items import (
    ALONG,
    HANGING,
    Said,
    SaidItem,
    hanging_items,
    holes_named,
    hung_from,
    items_of,
    ref_of,
    said_words,
    sequence,
    sequences_by_turns,
    shown,
)
from maglia.phrases.names import means
from maglia.phrases.places import At, at_cursor, place, places, runs_near, standing
from maglia.phrases.words import (
    Misread,
    Segment,
    Words,
    at_signs,
    is_sign,
    joined,
    text_of,
    unknown,
)

JOINS = ("on", "with", "by", "at", "every")
USUAL_LOOP_MM = 2.0
"""Inside of a loop whose size is not known."""
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
    words, sides = _on_both_sides(words)
    head, joins = joined(words, JOINS)
    said = _once(joins)
    every = None
    if "every" in said:
        every, more = _every(said["every"])
        head = (*head, *more) if not head or not more else _refuse(more)
    turns = sequences_by_turns(head, here)
    before = _before(said, here)
    turns = [(*before, *one) for one in turns]
    held = [_held(one, said.get("by"), here) for one in turns]
    what = " / ".join(said_words(one, here) for one in turns)
    if every is not None:
        do = partial(_row_every, turns, every, count, sides, here, called)
        return Offer(f"Drops every {every} links: {what}", do, shown(turns[0], here))
    spots = places(said["at"].words, here) if "at" in said else (at_cursor(here),)
    where = text_of(said["at"].words) if "at" in said else "the cursor"
    if held[0] is not None and sides:
        raise unknown(words, "hangs by two holes, and not on both sides")
    name = called or ("Drops" if row and len(spots) > 1 else "Drop")
    label = f"{name} at {where}: {what}" + (" on both sides" if sides else "")
    if held[0] is not None:
        holes = " and ".join(hole.name for hole in held[0].holes)
        label += f" by {holes}"
    do = partial(_hang, turns, held, spots, count, sides, row, here, called)
    return Offer(label, do, shown(turns[0], here))


def _refuse(words: Words) -> Words:
    raise unknown(words)


def _once(joins: Sequence[Segment]) -> dict[str, Segment]:
    found: dict[str, Segment] = {}
    for segment in joins:
        if segment.join.low in found:
            raise unknown([segment.join], "is said twice")
        if not segment.words:
            raise unknown([segment.join], "says nothing")
        found[segment.join.low] = segment
    return found


def _on_both_sides(words: Words) -> tuple[Words, bool]:
    for k in range(len(words) - 2):
        if [word.low for word in words[k : k + 3]] in (["on", "both", "sides"],
                                                       ["on", "each", "side"]):  # fmt: skip
            return words[:k] + words[k + 3 :], words[k + 1].low == "both"
    return words, False


def _every(segment: Segment) -> tuple[int, Words]:
    """“every 4 links”, “every 4th link”: how many, and the things after a colon."""
    words = segment.words
    number = words[0].whole or words[0].nth
    if not number:
        raise unknown([segment.join, *words], "does not say every how many links")
    rest = words[1:]
    if rest and rest[0].low in ("link", "links"):
        rest = rest[1:]
    return number, rest[1:] if rest and is_sign(rest[0], ":", ",") else rest


def _before(said: dict[str, Segment], here: Here) -> Said:
    """What stands above what hangs: a ring it hangs by, then what it hangs on."""
    found: list[SaidItem] = []
    if "with" in said:
        found += sequence(said["with"].words, here, (Ring,))
    if "on" in said:
        found += sequence(said["on"].words, here, (Chain, Ring, BeadLink, Connector))
    return tuple(found)


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
) -> Edited:
    """One run at each place, or all of them at one; on links of one chain a row."""
    piece = _with_said(here.piece, turns, here)
    if row and len(spots) > 1 and held[0] is None and _one_chain(spots):
        if count is not None and count != len(spots):
            raise DomainError(f"{count} drops, and {len(spots)} places: say as many of each")
        return _row_at(piece, turns, spots, sides, here, called)
    many = max(count or 0, len(spots), len(turns) if len(spots) == 1 else 0)
    if (count is not None and count != many) or len(spots) not in (1, many):
        raise DomainError(f"{count or many} drops, and {len(spots)} places: say as many of each")
    pairs = [(k % len(turns), spots[k % len(spots)]) for k in range(many)] * (2 if sides else 1)
    names: list[str] = []
    for k, at in _mirrored(pairs, turns, here.things):
        name = called if called and not names else (called or "Drop")
        run = _run_at(turns[k], held[k], at, name)
        edited = add_owner(piece, run)
        own = edited.piece.runs[-1]
        piece = _with_carried(edited.piece, turns[k], own, here)
        piece, added = _joined_by_ring(piece, own, turns[k], here)
        names.append(own.name + (f" with {added}, since nothing opens there" if added else ""))
    return staying(Edited(piece, f"{', '.join(names)} added", here.spot), here.spot)


def _with_said(piece: Piece, turns: list[Said], here: Here) -> Piece:
    for said in turns:
        piece = here.with_all(piece, items_of(said))
        for _, carried in hung_from(said):
            piece = here.with_all(piece, items_of(carried))
    return piece


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
        twin = next((n for n, (j, other) in enumerate(found)
                     if turns[j] == turns[k] and _are_pair(other, at, things)), None)  # fmt: skip
        if twin is None:
            found.append((k, at))
        else:
            found[twin] = (k, At(found[twin][1].place, "paired", at.item))
    return found


def _are_pair(one: At, other: At, things: Things) -> bool:
    connector = things.get(at.part) if isinstance(at := one.item, ConnectorItem) else None
    if not isinstance(connector, Connector) or one.place.port is None:
        return False
    same = replace(one.place, port=None) == replace(other.place, port=None)
    beside = mirror_hole(connector, one.place.port)
    free = one.lies == other.lies == "free"
    return same and free and beside == other.place.port != one.place.port


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
    if isinstance(said[0].item, RingItem) or not _nothing_opens(piece, {run.name}):
        return piece, ""
    ring = _ring_for(said[0].item, piece, run, here)
    before = (RingItem(part=ring.id),) if run.start is not None else ()
    after = (RingItem(part=ring.id),) if run.end is not None else ()
    changed = replace(run, items=(*before, *run.items, *after))
    return with_thing(piece.replaced(run, changed), ring), ring.name


def _nothing_opens(piece: Piece, runs: Collection[str]) -> bool:
    """Whether some runs cannot be joined to what they hang from."""
    assembly = expand(piece)
    ends = ((assembly.members[j.a].run in runs, assembly.members[j.b].run in runs, j)
            for j in assembly.joints)  # fmt: skip
    return any(one != other and any(joinable.unjoined(assembly, j)) for one, other, j in ends)


def _ring_for(first: Item, piece: Piece, owner: Run | DropRow, here: Here) -> Ring:
    """The ring that is added above what hangs; a script says it."""
    if here.script:
        words = said_words((SaidItem(first),), here)
        raise Misread(f"nothing opens where {words} hangs: say with which ring: with ring 4")
    thing = here.things.get(ref_of(first))
    return hanging_ring(thing, here.things, _room_at(piece, owner, here.things))


def hanging_ring(thing: Thing | None, things: Things, room: float | None = None) -> Ring:
    """The open ring nearest 3 mm that passes the loop of what is hung, and the link (inner width
    `room`, mm) that it hangs from."""
    loop = USUAL_LOOP_MM
    if isinstance(thing, BeadLink | Dangle):
        loop = thing.loop.inner_mm
    elif isinstance(thing, Charm):
        loop = thing.loop_mm or USUAL_LOOP_MM
    elif isinstance(thing, Chain):
        loop = thing.inner_width_mm or USUAL_LOOP_MM
    loop = min(loop, room) if room is not None else loop
    rings = [t for t in things.values()
             if isinstance(t, Ring) and t.closure == "open" and t.inner_mm and t.wire_mm
             and t.wire_mm <= loop - 0.05]  # fmt: skip
    if not rings:
        raise DomainError("no open ring in the tray passes its loop; add a ring to the tray")
    return min(rings, key=lambda ring: abs((ring.inner_mm or 0) - 3.0))


def _room_at(piece: Piece, owner: Run | DropRow, things: Things) -> float | None:
    """The narrowest link a drop's ring must pass, mm."""
    start = owner if isinstance(owner, DropRow) else owner.start or owner.end
    host = piece.run(start.run) if start else None
    item = dict(standing(host)).get(start.item) if host and start else None
    chain = things.get(item.part) if isinstance(item, ChainItem) else None
    return chain.inner_width_mm if isinstance(chain, Chain) else None


# --- rows of drops ----------------------------------------------------------------------------


def _one_chain(spots: tuple[At, ...]) -> bool:
    hosts = {(at.place.run, at.place.item, at.place.side, at.place.port) for at in spots}
    return len(hosts) == 1 and isinstance(spots[0].item, ChainItem | RingItem)


def _row_at(
    piece: Piece, turns: list[Said], spots: tuple[At, ...], sides: bool, here: Here, called: str
) -> Edited:
    host = spots[0].place
    if host.side is not None or piece.run(host.run) is None:
        raise DomainError("a row of drops hangs from a run, on both its sides: say drop … at each")
    numbers = tuple(at.place.at for at in spots)
    row = DropRow(
        name=called or "Drops", run=host.run, item=host.item, rule="places",
        places=numbers, items=items_of(turns[0]), overrides=_overrides(turns, len(numbers)),
        count=sum(1 if n == 0 else 2 for n in numbers) if host.item == 0 else len(numbers),
    )  # fmt: skip
    return _rows_added(piece, row, sides, here)


def _rows_added(piece: Piece, row: DropRow, sides: bool, here: Here) -> Edited:
    added = ""
    trial = add_owner(piece, row).piece
    name = trial.rows[-1].name
    made = {run for run, origin in expand(trial).origins.items() if origin.owner == name}
    if not isinstance(row.items[0], RingItem) and _nothing_opens(trial, made):
        ring = _ring_for(row.items[0], piece, row, here)
        held = RingItem(part=ring.id)
        others = tuple(replace(o, items=(held, *o.items) if o.items else ()) for o in row.overrides)
        row = replace(row, items=(held, *row.items), overrides=others)
        piece, added = with_thing(piece, ring), f" with {ring.name}, since nothing opens there"
    edited = add_owner(piece, row)
    if sides:
        edited = add_owner(edited.piece, row)
    names = " and ".join(one.name for one in edited.piece.rows[-2 if sides else -1 :])
    return Edited(edited.piece, f"{names} added{added}", here.spot)


def _overrides(turns: list[Said], count: int, first: int = 0) -> tuple[Override, ...]:
    """By turns outward: every drop that is not like the first."""
    if len(turns) < 2:
        return ()
    return tuple(Override(number=k + first, items=items_of(turns[k % len(turns)]))
                 for k in range(count) if k % len(turns))  # fmt: skip


def _row_every(
    turns: list[Said], every: int, count: int | None, sides: bool, here: Here, called: str
) -> Edited:
    """A drop on each k-th link of the chain at the cursor, or of the only one of its run."""
    piece = _with_said(here.piece, turns, here)
    run, number, item = _chain_near(here)
    central = number == 0
    room = item.links // 2 if central else item.links
    most = 2 * (room // every) + 1 if central else room // every
    if most < 1:
        raise DomainError(f"“{run.name}” has {item.links} links: no drop stands every {every}")
    if count is not None and count > most:
        raise DomainError(f"{count} drops every {every} links: “{run.name}” has room for {most}")
    wanted = count or most
    if central:
        row = DropRow(name=called or "Drops", run=run.name, item=0, rule="every", every=every,
                      count=wanted, items=items_of(turns[0]),
                      overrides=_overrides(turns, (wanted + 1) // 2, 1 - wanted % 2))  # fmt: skip
    else:
        row = DropRow(name=called or "Drops", run=run.name, item=number, rule="places",
                      every=every, count=wanted, items=items_of(turns[0]),
                      places=tuple(every * (k + 1) for k in range(wanted)),
                      overrides=_overrides(turns, wanted))  # fmt: skip
    return _rows_added(piece, row, sides, here)


def _chain_near(here: Here) -> tuple[Run, int, ChainItem]:
    spot = here.spot
    if spot is not None and spot.path and spot.path != WHOLE:
        at = at_cursor(here)
        if isinstance(at.item, ChainItem):
            run = next(run for run in runs_near(here) if run.name == at.place.run)
            return run, at.place.item, at.item
    for run in runs_near(here)[:1]:
        chains = [(k, item) for k, item in standing(run) if isinstance(item, ChainItem)]
        if len(chains) == 1:
            return run, *chains[0]
        if chains:
            raise DomainError(f"“{run.name}” has {len(chains)} chains: put the cursor on the one, "
                              "or say at links 4 8 12")  # fmt: skip
    raise DomainError("a row of drops hangs from chain: put the cursor on a chain")


# --- from place to place ----------------------------------------------------------------------


def swag_offer(words: Words, here: Here, called: str) -> Offer:
    """“swag 24 rolo from 1st ring to 2nd ring”, “swags … between links 4 10 16”, “swags … from 1st
    ring to 4th ring”, “tie 9 rolo from link 6 to mid of rose link”."""
    verb = words[0].low
    head, joins = joined(words[1:], ("from", "to", "between"))
    said = _once(joins)
    items = sequence(head, here)
    what = said_words(items, here)
    thing = shown(items, here)
    if "between" in said:
        at = places(said["between"].words, here)
        items = _long_enough(items, at, here)
        what = said_words(items, here)
        if len(at) < 2 or not _one_chain(at) or verb == "tie":
            raise unknown(
                said["between"].words, "are no two links of one chain: between links 4 10"
            )
        return Offer(f"Swags between {text_of(said['between'].words)}: {what}",
                     partial(_swags_between, items, at, here, called), thing)  # fmt: skip
    if "from" not in said or "to" not in said:
        raise Misread(f"say from where to where: {verb} 24 rolo from 1st ring to 2nd ring")
    ends = place(said["from"].words, here), place(said["to"].words, here)
    where = f"from {text_of(said['from'].words)} to {text_of(said['to'].words)}"
    label = {"tie": "Tie"}.get(verb, "Swag")
    if verb == "swags":
        stops = _each_between(*ends, here)
        return Offer(f"{len(stops) - 1} swags {where}: {what}",
                     partial(_swags, items, stops, here, called), thing)  # fmt: skip
    do = partial(_between, items, ends, "tie" if verb == "tie" else "swag", here, called)
    return Offer(f"{label} {where}: {what}", do, thing)


def _long_enough(said: Said, at: tuple[At, ...], here: Here) -> Said:
    """Of chain that says no number as many links as hang a quarter deeper than what they run
    beside."""
    item = said[0].item
    host = at[0].item
    if not here.usual_links or len(said) > 1 or not isinstance(item, ChainItem):
        return said
    chain, beside = here.things.get(item.part), here.things.get(getattr(host, "part", ""))
    if not isinstance(chain, Chain) or not isinstance(beside, Chain) or len(at) < 2:
        return said
    span = chain_length_mm(beside, at[1].place.at - at[0].place.at) or 0.0
    links = links_near(chain, 1.25 * span)
    here.added[-1] = f"{links} links, a quarter longer than what it runs beside"
    return (SaidItem(replace(item, links=links)),)


def _swags_between(said: Said, at: tuple[At, ...], here: Here, called: str) -> Edited:
    piece = here.with_all(here.piece, items_of(said))
    host = at[0].place
    row = SwagRow(name=called or "Swags", run=host.run, item=host.item,
                  places=tuple(one.place.at for one in at), items=items_of(said))  # fmt: skip
    return staying(add_owner(piece, row), here.spot)


def _each_between(start: At, end: At, here: Here) -> list[At]:
    """Rings of one run from one to another, each a stop."""
    if start.place.run != end.place.run or not isinstance(start.item, RingItem):
        raise Misread("several swags go from ring to ring of one run: from 1st ring to 4th ring; "
                      "on chain say between links 4 10 16")  # fmt: skip
    run = next(run for run in runs_near(here) if run.name == start.place.run)
    ends = sorted((start.place.item, end.place.item))
    stops = [
        At(Place(run=run.name, item=number, at=0 if number == 0 else 1),
           "fold" if number == 0 else start.lies if start.lies != "fold" else end.lies, item)
        for number, item in standing(run)
        if isinstance(item, RingItem) and ends[0] <= number <= ends[1]
    ]  # fmt: skip
    if len(stops) < 2:
        raise Misread("between one ring and itself hangs no swag")
    return stops


def _swags(said: Said, stops: list[At], here: Here, called: str) -> Edited:
    piece = here.with_all(here.piece, items_of(said))
    for one, other in pairwise(stops):
        run = _from_to(said, (one, other), "swag", called or "Swag")
        piece = add_owner(piece, run).piece
    return staying(Edited(piece, f"{len(stops) - 1} swags added", here.spot), here.spot)


def _between(said: Said, ends: tuple[At, At], kind: str, here: Here, called: str) -> Edited:
    piece = here.with_all(here.piece, items_of(said))
    run = _from_to(said, ends, kind, called or kind.capitalize())
    return staying(add_owner(piece, run), here.spot)


def _from_to(said: Said, ends: tuple[At, At], kind: str, name: str) -> Run:
    """A run between two places: paired off the fold; from a side to the other across it, mirrored
    if it is the same from either end."""
    start, end = ends[0].place, ends[1].place
    items = items_of(said)
    across = {start.side, end.side} == {LEFT, RIGHT}
    if across and start.side == RIGHT:
        start, end, items = end, start, tuple(turned(item) for item in reversed(items))
    if across and replace(start, side=None) == replace(end, side=None):
        if start.item == 0 and start.at == 0:
            raise DomainError("both ends lie on the fold: say one on the left and one on the right")
        half, odd = divmod(len(items), 2)
        outward = items[half + odd :]
        if odd and tuple(turned(item) for item in reversed(outward)) == items[:half]:
            return Run(name=name, kind=kind, centre=items[half], items=outward,  # type: ignore[arg-type]
                       end=replace(end, side=None))  # fmt: skip
    if across or "free" in (ends[0].lies, ends[1].lies):
        return Run(name=name, kind=kind, lies="free", items=items, start=start, end=end)  # type: ignore[arg-type]
    lies = "paired" if "paired" in (ends[0].lies, ends[1].lies) else ends[0].lies
    return Run(name=name, kind=kind, lies=lies, items=items, start=start, end=end)  # type: ignore[arg-type]


def extender_offer(words: Words, here: Here, called: str) -> Offer:
    """“extender ring 4, 12 rolo, teal dangle”: from the catch."""
    if len(words) < 2:
        raise Misread("say of what, such as: extender ring 4, 12 rolo, teal dangle")
    said = hanging_items(sequence(words[1:], here, ALONG, HANGING), here)

    def do() -> Edited:
        piece = here.with_all(here.piece, items_of(said))
        run = Run(name=called or "Extender", kind="extender", lies="free", items=items_of(said),
                  start=Place(run=CLOSURE))  # fmt: skip
        return staying(add_owner(piece, run), here.spot)

    return Offer(f"Extender from the catch: {said_words(said, here)}", do, shown(said, here))


# --- what slides ------------------------------------------------------------------------------


def slide_offer(words: Words, here: Here, called: str) -> Offer:
    """“slide ring 6, leaf from bead 9 to bead 12”, “slide key on ribbon”: rides between stops."""
    head, joins = joined(words[1:], ("from", "to", "on"))
    said = _once(joins)
    items = hanging_items(sequence(head, here, ALONG, HANGING), here)
    what = said_words(items, here)
    if ("from" in said) != ("to" in said):
        raise Misread("say between which stops: slide ring 6, leaf from bead 9 to bead 12")
    if "from" in said:
        ends = place(said["from"].words, here), place(said["to"].words, here)
        if (ends[0].place.run, ends[0].place.item) != (ends[1].place.run, ends[1].place.item):
            raise unknown(said["to"].words, "is a stop on something else: it slides on one thing")
        at = At(replace(ends[0].place, until=ends[1].place.at, port=RIDES, side=None),
                _slid_lies(ends), ends[0].item)  # fmt: skip
        where = f"from {text_of(said['from'].words)} to {text_of(said['to'].words)}"
    else:
        at, where = _rides_on(said.get("on"), here)
    return Offer(f"Slide {where}: {what}", partial(_slid, items, at, here, called),
                 shown(items, here))  # fmt: skip


def _slid_lies(ends: tuple[At, At]) -> Lies:
    """On the fold from one on the left to one on the right; named on one side, there alone."""
    start, end = ends[0].place, ends[1].place
    if {start.side, end.side} == {LEFT, RIGHT}:
        return "fold"
    if start.side is not None and start.side == end.side:
        raise DomainError("what slides on one side alone cannot be held: let it slide on both")
    return "fold" if start.item == 0 else ends[0].lies


def _rides_on(on: Segment | None, here: Here) -> tuple[At, str]:
    if on is None:
        at = at_cursor(here)
        central = at.place.item == 0
        held = Place(run=at.place.run, item=at.place.item, at=0 if central else 1, port=RIDES)
        return At(held, "fold" if central else at.lies, at.item), "at the cursor"
    for run in runs_near(here):
        for number, item in standing(run):
            if not isinstance(item, StrungItem | ChainItem):
                continue
            thing = here.things.get(item.thread if isinstance(item, StrungItem) else item.part)
            if thing is not None and means(on.words, thing):
                held = Place(run=run.name, item=number, at=0 if number == 0 else 1, port=RIDES)
                return At(held, "fold" if number == 0 else run.lies, item), f"on {thing.name}"
    raise unknown(on.words, "is no chain or thread of this piece")


def _slid(said: Said, at: At, here: Here, called: str) -> Edited:
    piece, items = here.piece, items_of(said)
    owner = piece.owner(at.place.run)
    spot = spot_in(owner, at.place.item) if owner else None
    if spot is None:
        raise DomainError(f"“{at.place.run}” is made by its rule: nothing slides there")
    added = ""
    if not isinstance(items[0], RingItem):
        ring = sliding_ring(here.things, wide_at(piece, spot, here.things))
        if here.script:
            raise Misread("say on which ring it slides, such as: slide ring 6, leaf")
        piece, items = with_thing(piece, ring), (RingItem(part=ring.id), *items)
        added = f" with {ring.name}, the smallest that slides there"
    piece = here.with_all(piece, items)
    lies = "paired" if at.lies == "across" else at.lies
    run = Run(name=called or "Slide", kind="drop", lies=lies, items=items, start=at.place)
    edited = add_owner(piece, run)
    return staying(Edited(edited.piece, edited.words + added, here.spot), here.spot)


def wide_at(piece: Piece, spot: Spot, things: Things) -> float:
    """How wide what lies at a spot is across its line, mm. Raises DomainError for what nothing can
    slide on."""
    host = item_of(piece, spot) if spot.path else None
    if isinstance(host, ChainItem):
        chain = things.get(host.part)
        if isinstance(chain, Chain) and chain.inner_width_mm and chain.wire_mm:
            return chain.inner_width_mm + 2 * chain.wire_mm
        raise DomainError("how wide the chain is is not known: say its inside and its wire")
    if isinstance(host, StrungItem):
        widths = [getattr(things.get(ref), "width_mm", None) or 0.0 for ref in host.refs]
        cord = cord_mm(host, things)[1] if is_bare(host) else 0.0
        return max([cord, *widths])
    raise DomainError("it slides on a chain or a strung section: put the cursor on one")


def sliding_ring(things: Things, wide: float) -> Ring:
    """The smallest ring that slides over what is so wide, mm."""
    rings = [
        ring
        for ring in things.values()
        if isinstance(ring, Ring) and ring.wire_mm and (ring.inner_mm or 0.0) > wide + 0.3
        and ring.closure in ("open", "split", "closed")
    ]  # fmt: skip
    if not rings:
        raise DomainError(f"no ring in the tray slides over {wide:.1f} mm: add a larger one")
    return min(rings, key=lambda ring: (ring.inner_mm or 0.0, ring.closure == "closed"))
