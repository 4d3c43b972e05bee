"""What the insert line offers: parts, units, drops, and what each does to the piece. No widgets.

“12 rolo” puts in twelve links, “drop teal” hangs a drop at the mark, “drops every 6 amber” makes
a row. Words may be shortened and stand in any order.
"""

import re
from collections.abc import Callable, Iterable, Iterator, Mapping
from typing import TypeVar

from msgspec.structs import replace

from maglia.core.assembly.ports import RIDES
from maglia.core.edits.edit import add_owner, insert_after, with_thing
from maglia.core.edits.rearrange import replaced_everywhere
from maglia.core.edits.spots import CENTRE, WHOLE, Edited, Spot, item_of
from maglia.core.parts.parts import (
    Bead,
    Chain,
    Charm,
    Clasp,
    Connector,
    EarFinding,
    Part,
    Pin,
    Ring,
)
from maglia.core.parts.units import (
    BeadLink,
    Cluster,
    Dangle,
    Tassel,
    Thing,
    Things,
    Unit,
    unit_span_mm,
)
from maglia.core.piece.items import (
    ChainItem,
    ConnectorItem,
    Item,
    PartItem,
    RepeatItem,
    RingItem,
    UnitItem,
)
from maglia.core.piece.needed import made_of
from maglia.core.piece.piece import Closure, DropRow, Form, Items, Piece, Run, Wearer, catalogue
from maglia.core.values.record import DomainError, Value
from maglia.core.workshop.lying import Deed
from maglia.core.workshop.tray import Tray
from maglia.phrases.hanging_places import place_at, place_said, sliding_ring, wide_at

LEARNT = 0.4
"""How far use can lift an offer: never over a better match."""
UNITS = (BeadLink, Dangle, Tassel, Cluster)
USUAL_LOOP_MM = 2.0
"""Inside of a loop whose size is not known."""


class Offer(Value, frozen=True):
    """One line of the list: what it is called, its size, the part it draws, what it does."""

    words: str
    size_mm: float | None
    thing: Thing | None
    do: Callable[[], Edited]
    hint: str = ""
    """What stands in the place of a size."""
    keeps: tuple[Part | Unit | Wearer, ...] = ()
    """What it adds to the workshop besides."""
    lies: tuple[tuple[Part, Deed], ...] = ()
    """What it says lies on the bench."""


class Wish(Value, frozen=True):
    """What was written: the words to find, a count, and a rule for drops."""

    words: tuple[str, ...]
    count: int | None = None
    drop: bool = False
    every: int | None = None
    chain: str = ""
    """Words for the chain a drop hangs on."""
    links: int | None = None
    port: str | None = None
    """The hole a drop hangs from."""
    at: int | None = None
    """The link, bead or gap, counted from the fold, that was named."""
    ring: str = ""
    """Words for the ring it hangs by."""


def read_wish(text: str) -> Wish:
    """Take counts and the words `drop`, `drops every n` out of what was written."""
    lowered = text.lower().strip()
    every = re.search(r"\bevery\s+(\d+)", lowered)
    if every:
        lowered = lowered.replace(every[0], " ")
    lowered, at = place_said(lowered)
    by = re.search(r"\bwith\s+(.+)$", lowered)
    if by:
        lowered = lowered[: by.start()].rstrip()
    on = re.search(r"\bon\s+(?:(\d+)\s+)?(\D.*)$", lowered)
    if on:
        lowered = lowered[: on.start()]
    tokens = lowered.split()
    slides = tokens[:1] == ["slide"]
    drop = slides or any(t in ("drop", "drops") for t in tokens)
    if len(tokens) > 1 and tokens[0].isdigit() and tokens[1] in ("link", "links"):
        del tokens[1]  # “12 links rolo”
    tokens = [t for t in tokens if t not in ("drop", "drops", "slide", "of", "x", "×")]
    count = None
    if tokens and (first := re.fullmatch(r"(\d+)[x×]?", tokens[0])):  # “ring 4” is a size
        count = int(first[1])
        tokens = tokens[1:]
    chain, links = (on[2].strip(), int(on[1]) if on[1] else None) if on else ("", None)
    return Wish(
        words=tuple(tokens),
        count=count,
        drop=drop,
        every=int(every[1]) if every else None,
        chain=chain,
        links=links,
        port=RIDES if slides else at.port,
        at=at.number,
        ring=by[1] if by else "",
    )


def offers(
    text: str,
    piece: Piece,
    tray: Tray,
    spot: Spot | None,
    mark: int,
    used: Mapping[str, int] | None = None,
) -> list[Offer]:
    """Everything that fits what was written, best first: what stands in the piece already, then
    what is `used` most."""
    wish = read_wish(text)
    own, things = catalogue(piece), known_things(piece, tray)
    found = []
    for thing in things.values():
        score = _score(wish.words, f"{thing.name} {thing.kind}".lower())
        offer = _offer(wish, thing, piece, things, spot, mark) if score else None
        if offer is not None:
            rank = score + (0.5 if thing.id in own else 0.0) - len(thing.name) / 1000
            rank -= 0.3 if wish.drop and isinstance(thing, BeadLink | Clasp) else 0.0
            rank += LEARNT * (1 - 1 / (1 + (used or {}).get(thing.id, 0)))
            found.append((-rank, thing.name, offer))
    return [offer for _, _, offer in sorted(found, key=lambda entry: entry[:2])]


def replacements(text: str, piece: Piece, tray: Tray, ref: str) -> list[Offer]:
    """Everything of the same kind as a part or unit of the piece, to stand in its place."""
    things = known_things(piece, tray)
    old, found = things[ref], []
    for thing in things.values():
        if thing.kind != old.kind or thing.id == ref:
            continue
        score = _score(tuple(text.lower().split()), f"{thing.name} {thing.kind}".lower())
        if not score:
            continue

        def do(thing: Thing = thing) -> Edited:
            return replaced_everywhere(with_needed(piece, thing, things), ref, thing)

        found.append((-score, thing.name, Offer(thing.name, _size_mm(thing, things), thing, do)))
    return [offer for _, _, offer in sorted(found, key=lambda entry: entry[:2])]


def known_things(piece: Piece, tray: Tray) -> dict[str, Thing]:
    """Parts and units of the tray, and those of the piece, which come first where both know one."""
    return {thing.id: thing for thing in (*tray.units, *tray.parts)} | catalogue(piece)


def free_id(wanted: str, taken: Things) -> str:
    """`wanted`, or `wanted-2`, `wanted-3` … if it is taken."""
    name, k = wanted, 1
    while name in taken:
        k += 1
        name = f"{wanted}-{k}"
    return name


Kind = TypeVar("Kind", bound=Thing)


def best_match(words: str, things: Iterable[Thing], kind: type[Kind]) -> Kind | None:
    """The thing of a kind whose name fits a few letters best, or None."""
    wanted = tuple(words.lower().split())
    best, most = None, 0.0
    for thing in things:
        if isinstance(thing, kind):
            score = _score(wanted, f"{thing.name} {thing.kind}".lower()) - len(thing.name) / 1000
            if score > most:
                best, most = thing, score
    return best


def _score(words: tuple[str, ...], text: str) -> float:
    """0 if a word is missing; more for words found at the start of a word."""
    total = 1.0
    for word in words:
        if word not in text:
            return 0.0
        begins = re.search(rf"\b{re.escape(word)}", text)
        other_size = word[-1:].isdigit() and not re.search(rf"\b{re.escape(word)}(?![\d.])", text)
        total += 0.3 if not begins else 0.6 if other_size else 1.0
    return total


def _offer(
    wish: Wish, thing: Thing, piece: Piece, things: Things, spot: Spot | None, mark: int
) -> Offer | None:
    if wish.drop:
        if not isinstance(thing, (*UNITS, Charm, Connector, Clasp)):
            return None
        where = f"every {wish.every} links" if wish.every else "here"
        where = "sliding" if wish.port == RIDES else where
        on = f" on {wish.links or 6} links of {wish.chain}" if wish.chain else ""
        words = f"{'Drops' if wish.every else 'Drop'} {where}: {thing.name}{on}"

        def hung() -> Edited:
            return hang(wish, thing, piece, things, spot, mark)

        return Offer(words, _size_mm(thing, things), thing, hung)
    if isinstance(thing, Clasp):
        words = f"Close with {thing.name}" + (f" and {wish.ring}" if wish.ring else "")
        return Offer(
            words, _size_mm(thing, things), thing, lambda: _close(wish, thing, piece, things)
        )
    one = as_item(thing, None)
    if one is None:
        return None
    count = wish.count or (one.links if isinstance(one, ChainItem) else None)
    words = f"{count} × {thing.name}" if count else thing.name

    def put() -> Edited:
        return put_in(thing, as_item(thing, wish.count) or one, piece, things, spot)

    return Offer(words, _size_mm(thing, things), thing, put)


def as_item(thing: Thing, count: int | None) -> Item | None:
    """The item that a part or unit makes when put into a run; None if it is not one."""
    if isinstance(thing, Chain):
        return ChainItem(part=thing.id, links=count or 21)
    if isinstance(thing, Ring):
        return RingItem(part=thing.id, count=count or 1)
    item: Item | None = None
    if isinstance(thing, UNITS):
        item = UnitItem(unit=thing.id)
    elif isinstance(thing, Connector):
        holes = sorted(thing.holes, key=lambda hole: hole.x_mm)
        item = ConnectorItem(part=thing.id, hole_in=holes[0].name, hole_out=holes[-1].name)
    elif isinstance(thing, Charm | EarFinding):
        item = PartItem(part=thing.id)
    if item is not None and count and count > 1:
        return RepeatItem(times=count, items=(item,))
    return item


def _size_mm(thing: Thing, things: Things) -> float | None:
    """The size a maker would ask for first: span of a unit or clasp, pitch of chain, and so on."""
    if isinstance(thing, BeadLink | Dangle):
        return unit_span_mm(thing, things)
    if isinstance(thing, Chain):
        return thing.pitches_mm[0] if thing.pitches_mm else None
    if isinstance(thing, Ring):
        return thing.inner_mm
    if isinstance(thing, Bead | Pin):
        return thing.length_mm
    if isinstance(thing, Charm):
        return thing.height_mm
    if isinstance(thing, Clasp):
        return thing.span_mm
    return thing.width_mm or thing.height_mm if isinstance(thing, Connector) else None


def with_needed(piece: Piece, thing: Thing, things: Things) -> Piece:
    """The piece with a copy of a thing and of everything it is made of."""
    for needed in made_of([thing.id], {**things, thing.id: thing}):
        piece = with_thing(piece, needed)
    return piece


def put_in(thing: Thing, item: Item, piece: Piece, things: Things, spot: Spot | None) -> Edited:
    piece = with_needed(piece, thing, things)
    if spot is not None:
        return insert_after(piece, spot, item)
    if isinstance(thing, EarFinding):
        started = Run(name="Earring", lies="fold", items=(item,))
        return add_owner(replace(piece, sort="earring", form=Form(kind="ear"), pair=True), started)
    if isinstance(item, RepeatItem):
        raise DomainError("the fold takes one part: put in a single one first")
    return add_owner(piece, Run(name="Strand", centre=item))


def _close(wish: Wish, clasp: Clasp, piece: Piece, things: Things) -> Edited:
    """Close the piece with a clasp and the ring that was named, else the smallest open one of the
    tray that it can bite."""
    if not piece.runs and not piece.rows:
        raise DomainError("there is nothing to close yet: begin with what lies on the fold")
    named = best_match(wish.ring, things.values(), Ring) if wish.ring else None
    catch = named or next(_catches(clasp, things), None)
    piece = with_needed(piece, clasp, things)
    if catch is not None:
        piece = with_needed(piece, catch, things)
    closure = Closure(kind="clasp", clasp=clasp.id, catch=catch.id if catch else None)
    return Edited(replace(piece, closure=closure), f"closed with {clasp.name}")


def _catches(clasp: Clasp, things: Things) -> Iterator[Ring]:
    rings = [t for t in things.values() if isinstance(t, Ring) and t.inner_mm and t.wire_mm]
    least = 2 * clasp.jaw_wire_mm + 1 if clasp.jaw_wire_mm else 0.0
    for ring in sorted(rings, key=lambda r: r.inner_mm or 0.0):
        bar = clasp.sort != "toggle" or (clasp.bar_mm or 0) >= 1.3 * (ring.inner_mm or 0)
        big = (ring.inner_mm or 0) >= (8 if clasp.sort == "toggle" else least)
        if big and bar and (clasp.gape_mm is None or (ring.wire_mm or 0) <= clasp.gape_mm):
            yield ring


def hang(
    wish: Wish, thing: Thing, piece: Piece, things: Things, spot: Spot | None, mark: int
) -> Edited:
    """A drop at the mark, or a row of drops along the chain under the cursor."""
    if spot is None:
        raise DomainError("there is nothing to hang from yet: begin with what lies on the fold")
    piece = with_needed(piece, thing, things)
    own_chain = best_match(wish.chain, things.values(), Chain) if wish.chain else None
    room = _room_at(piece, spot, things, own_chain)
    ring = best_match(wish.ring, things.values(), Ring) if wish.ring else None
    if ring is None and wish.port == RIDES:
        ring = sliding_ring(things, wide_at(piece, spot, things))
    if ring is None:
        ring = hanging_ring(thing, things, room)
    piece = with_needed(piece, ring, things)
    last = _last(thing)
    items: Items = (RingItem(part=ring.id), last)
    if wish.chain:
        if own_chain is None:
            raise DomainError(f"no chain is called “{wish.chain}”")
        piece = with_needed(piece, own_chain, things)
        stretch = ChainItem(part=own_chain.id, links=wish.links or 6)
        items = (RingItem(part=ring.id), stretch, last)
    if spot.path == WHOLE:
        raise DomainError(f"“{spot.owner}” is made by its rule; hang the drop from a run")
    host = item_of(piece, spot)
    if isinstance(host, RingItem) and not wish.chain and not wish.every:
        items = (last,)  # the ring itself joins it
    if wish.every:
        return _row(wish, piece, spot, host, items)
    where = mark if wish.at is None else wish.at
    place, lies = place_at(piece, spot, host, where, wish.port)
    hung = add_owner(piece, Run(name="Drop", kind="drop", lies=lies, items=items, start=place))
    # the next one hangs beside it, or from it where it has holes of its own
    return hung if isinstance(thing, Connector) else replace(hung, spot=spot)


def _last(thing: Thing) -> Item:
    """What hangs at the end of a drop; a connector hangs from its top hole, in its middle."""
    if isinstance(thing, UNITS):
        return UnitItem(unit=thing.id)
    if not isinstance(thing, Connector):
        return PartItem(part=thing.id)
    top = max(thing.holes, key=lambda h: (h.y_mm, -abs(h.x_mm)))
    below = [h for h in thing.holes if h is not top] or [top]
    foot = min(below, key=lambda h: (abs(h.x_mm), h.y_mm))
    return ConnectorItem(part=thing.id, hole_in=top.name, hole_out=foot.name)


def _room_at(piece: Piece, spot: Spot, things: Things, own: Chain | None) -> float | None:
    """The narrowest link a drop's ring must pass: the host chain's, its own chain's; mm."""
    host = item_of(piece, spot) if spot.path else None
    chain = things.get(host.part) if isinstance(host, ChainItem) else None
    widths = [c.inner_width_mm for c in (chain, own) if isinstance(c, Chain)]
    return min((w for w in widths if w is not None), default=None)


def _row(wish: Wish, piece: Piece, spot: Spot, host: Item, items: Items) -> Edited:
    if not isinstance(host, ChainItem):
        raise DomainError("a row of drops hangs from chain: put the cursor on a chain")
    central, every = spot.path == (CENTRE,), wish.every or 1
    room = host.links // 2 if central else host.links
    most = 2 * (room // every) + 1 if central else room // every
    row = DropRow(
        name="Drops",
        run=spot.owner,
        item=0 if central else spot.path[0] + 1,
        rule="every" if central else "places",
        every=every,
        count=min(wish.count or most, most),
        places=() if central else tuple(every * (k + 1) for k in range(most)),
        items=items,
    )
    return add_owner(piece, row)


def hanging_ring(thing: Thing, things: Things, room: float | None = None) -> Ring:
    """The open ring nearest 3 mm that passes the loop of what is hung, and the link (inner width
    `room`, mm) that it hangs from."""
    loop = USUAL_LOOP_MM
    if isinstance(thing, BeadLink | Dangle):
        loop = thing.loop.inner_mm
    elif isinstance(thing, Charm):
        loop = thing.loop_mm or USUAL_LOOP_MM
    rings = [
        t
        for t in things.values()
        if isinstance(t, Ring) and t.closure == "open" and t.inner_mm and t.wire_mm
    ]
    if room is not None:
        loop = min(loop, room)
    fitting = [r for r in rings if (r.wire_mm or 0) <= loop - 0.05]
    if not fitting:
        raise DomainError("no open ring in the tray passes its loop; add a ring to the tray")
    return min(fitting, key=lambda r: abs((r.inner_mm or 0) - 3.0))
