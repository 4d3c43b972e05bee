"""Phrases that fit the place one stands on, in the names of what is at hand: what can be done here,
said. Each can be taken as it is, or changed.
"""

from collections.abc import Iterator
from typing import NamedTuple

from maglia.core.edits.spots import WHOLE, item_of
from maglia.core.parts.parts import Bead, Chain, Charm, Clasp, Connector, End, Ring
from maglia.core.parts.units import BeadLink, Dangle, Thing, Unit
from maglia.core.piece.items import ChainItem, ConnectorItem, RingItem, StrungItem, UnitItem
from maglia.core.piece.piece import DropRow, Piece, Run, catalogue
from maglia.core.workshop.tray import Tray
from maglia.phrases.here import Here
from maglia.phrases.names import is_of, said
from maglia.phrases.phrase import phrase_offers
from maglia.phrases.strung import THREADS
from maglia.phrases.told_parts import unit_told


class Example(NamedTuple):
    """A phrase and what it does."""

    phrase: str
    does: str


class _AtHand:
    """Names of what the piece holds, else of what lies in the tray."""

    def __init__(self, piece: Piece, tray: Tray) -> None:
        self.things: list[Thing] = [*catalogue(piece).values(), *tray.units, *tray.parts]

    def name(self, *kinds: object, usual: str = "") -> str:
        for kind in kinds:
            for thing in self.things:
                if is_of(thing, kind):  # type: ignore[arg-type]
                    return said(thing.name)
        return usual


def examples(here: Here) -> list[Example]:
    """What can be said here, the likeliest first; nothing that would not be understood."""
    hand = _AtHand(here.piece, here.tray)
    if not here.piece.owners:
        found = list(_on_an_empty_bench(here, hand))
    else:
        found = [*_at_the_cursor(here, hand), *_of_the_piece(here, hand)]
    return [one for one in found if phrase_offers(one.phrase, here.choosing({}))[0].fault is None]


def _on_an_empty_bench(here: Here, hand: _AtHand) -> Iterator[Example]:
    who = here.piece.wearer.role
    chain, bead = hand.name(Chain, usual="rolo"), hand.name(Bead, usual="amber")
    thread, end = hand.name(*THREADS, usual="cable"), hand.name(End, usual="crimp")
    link = hand.name(BeadLink)
    yield Example(f"41 {chain}", "an odd number: a link lies on the fold")
    yield Example(f"45 cm {chain}", "the nearest whole links")
    if link:
        yield Example(link, "lies on the fold; what follows goes outward")
    yield Example(f"string 31 {bead} on {thread}, ends {end}", "beads on a thread")
    yield Example(f"begin bracelet free for {who}", "another sort of piece, begun anew")
    yield Example("new ring 4.2 x 0.8 inner", "a part that is not in the tray yet")


def _at_the_cursor(here: Here, hand: _AtHand) -> Iterator[Example]:
    spot = here.spot
    owner = here.piece.owner(spot.owner) if spot else None
    if spot is None or owner is None or spot.path == WHOLE:
        return
    item = item_of(here.piece, spot)
    chain, ring = hand.name(Chain, usual="rolo"), hand.name(Ring, usual="ring 4")
    hung = hand.name(Dangle, Charm, usual="teal dangle")
    link = hand.name(BeadLink)
    mark = max(here.mark, 1)
    if isinstance(owner, DropRow):
        yield Example(f"replace drop 1 of {owner.name} by {hung}", "one drop otherwise")
        return
    yield Example(f"{ring}, 9 {chain}", "put in, outward of the cursor")
    if link:
        yield Example(f"2 x ({link}, {ring})", "a repeat, outward of the cursor")
    if isinstance(item, ChainItem):
        yield Example(f"drop {hung} with {ring} at link {mark}", "a drop")
        yield Example(f"drops every 4 links: {ring}, {hung}", "a row of drops")
        yield Example(f"swag 24 {chain} between links 4 10", "a swag, on both sides")
        yield Example(f"split at link {mark}", "the chain in two")
    elif isinstance(item, StrungItem):
        yield Example(f"drop {hung} with {ring} at bead {mark}", "a drop")
        yield Example(f"slide {ring}, {hung}", "it rides along the thread")
    elif isinstance(item, ConnectorItem):
        held = here.things.get(item.part)
        hole = held.holes[-1].name if isinstance(held, Connector) else "foot"
        yield Example(f"drop {ring}, {hung} at {hole}", "from one of its holes")
        yield Example("wind 24 turns of wire", "round its rim")
    elif isinstance(item, RingItem):
        yield Example(f"drop {hung}", "from the ring")
    elif isinstance(item, UnitItem):
        yield Example(f"drop {ring}, {hung} at far loop", "from a loop of it")
        unit = here.things.get(item.unit)
        if isinstance(unit, Unit):
            made = unit_told(unit, here.things).partition(", called ")[0]
            yield Example(f"replace {said(unit.name)} by {made}", "the unit made otherwise")
    if isinstance(owner, Run) and owner.kind == "strand":
        yield Example(f"{'free' if owner.lies in ('across', 'paired') else 'mirror'} {owner.name}",
                      "its two sides")  # fmt: skip


def _of_the_piece(here: Here, hand: _AtHand) -> Iterator[Example]:
    chain, ring = hand.name(Chain, usual="rolo"), hand.name(Ring, usual="ring 4")
    piece = here.piece
    earring = piece.sort == "earring"
    if not earring:
        clasp = hand.name(Clasp, usual="lobster")
        yield Example(f"close {clasp} into {ring}", "a clasp, and what it bites")
        yield Example(f"close on itself with {ring}", "without a clasp")
        yield Example(f"strand 45 cm {chain}", "below the first, from its last ring")
        yield Example(f"extender {ring}, 12 {chain}", "from the catch")
        yield Example("length 450 mm", "a wish: solved into whole links")
    if any(run.kind == "drop" for run in piece.runs):
        name = next(run.name for run in piece.runs if run.kind == "drop")
        yield Example(f"take out {said(name)}", "with what hangs from it")
    yield Example(f"replace {ring} by ring 5", "everywhere")
    yield Example("way Long: hooked at last ring of Extender", "another way to wear it")
    for other in here.tray.wearers:
        if other.role != piece.wearer.role:
            yield Example(f"for {other.role}", "another wearer")
            return
