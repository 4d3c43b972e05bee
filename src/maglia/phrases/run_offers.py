"""Whole runs from the insert line: “strand cable 4”, “swag rolo at 4 10”, “extender rolo 10”,
“close over the head”. No widgets.

Counts stand before the name as everywhere; numbers after `at` are places on the chain.
"""

import re
from collections.abc import Callable
from functools import partial

from msgspec.structs import replace

from maglia.core.assembly.kinds import count_of
from maglia.core.assembly.rows import item_at
from maglia.core.edits.edit import add_owner
from maglia.core.edits.spots import CENTRE, Edited, Spot, first_number, item_of, owner_of
from maglia.core.parts.parts import Chain, Ring
from maglia.core.parts.units import BeadLink, Thing, Things
from maglia.core.piece.items import ChainItem, RingItem
from maglia.core.piece.piece import Closure, ClosureKind, Piece, Place, Run, SwagRow
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.phrases.offers import Offer, best_match, known_things, with_needed

STARTS = {
    "strand": "strand below the first, joined to its last ring",
    "tier": "strand below the first, joined to its last ring",
    "swag": "swag between places: swag rolo at 4 10",
    "extender": "chain that lengthens, from the catch: extender rolo 10",
    "close": "over the head, over the hand, continuous, open",
}
CLOSURES: tuple[ClosureKind, ...] = ("over the head", "over the hand", "continuous", "open")

PLACES = re.compile(r"\b(?:at|from|between)((?:\s|,|links?\b|to\b|and\b|–|-|\d+(?![.\d]))+)$")
"""“at 4 10”, “from 4 to 10”, “between links 4 and 10”, at the end of a text."""


def run_offers(text: str, piece: Piece, tray: Tray, spot: Spot | None) -> list[Offer]:
    """What a text asks for as a whole run; empty if it does not begin like one."""
    words = text.lower().split()
    if not words or words[0] not in STARTS:
        return []
    things = known_things(piece, tray)
    if words[0] == "close":
        return [
            Offer(f"Close {kind}" if kind != "open" else "Leave it open", None, None,
                  partial(_close, piece, kind, things))
            for kind in CLOSURES
            if all(w in kind for w in words[1:])
        ]  # fmt: skip
    build = _BUILDERS[words[0]]
    rest = " ".join(words[1:])
    said = f"{words[0].capitalize()}: {rest or STARTS[words[0]]}"
    return [Offer(said, None, _shown(rest, things), partial(build, piece, rest, things, spot))]


def _shown(text: str, things: Things) -> Thing | None:
    name = _name(text)
    return best_match(name, things.values(), Chain) or best_match(name, things.values(), BeadLink)


def _name(text: str) -> str:
    """The words of a text that name a part: no counts before it, no places after it."""
    return re.sub(r"^(?:\d+\s+)+", "", re.sub(r"\s+at\b.*$", "", PLACES.sub(" ", text))).strip()


def _chain(text: str, things: Things, usual: int) -> tuple[Chain, int]:
    """The chain a text names and the links it says, before the name or after it."""
    count = re.match(r"^(\d+)\s+(?=\D)", text)
    chain = best_match(_name(text), things.values(), Chain)
    if chain is None and (count := re.search(r"\s(\d+)(?:\s+links?)?$", text)):
        chain = best_match(_name(text[: count.start()]), things.values(), Chain)
    if chain is None:
        raise DomainError(f"no chain is called “{text}”: name one of the tray")
    return chain, int(count[1]) if count else usual


def _small_ring(things: Things, chain: Chain) -> Ring:
    """The open ring nearest 3 mm that passes the chain's links."""
    room = (chain.inner_width_mm or 99.0) - 0.05
    rings = [
        t
        for t in things.values()
        if isinstance(t, Ring) and t.closure == "open" and t.inner_mm and (t.wire_mm or 99) <= room
    ]
    if not rings:
        raise DomainError(f"no open ring of the tray passes the links of “{chain.name}”")
    return min(rings, key=lambda r: abs((r.inner_mm or 0) - 3.0))


def _strand(piece: Piece, text: str, things: Things, spot: Spot | None) -> Edited:
    """A strand below the first: its ends on the outermost ring of the first one."""
    chain, links = _chain(text, things, 0)
    ring = _small_ring(things, chain)
    piece = with_needed(with_needed(piece, chain, things), ring, things)
    first = next((r for r in piece.runs if r.kind == "strand" and r.start is None), None)
    pitch = sum(chain.pitches_mm or (4.0,)) / len(chain.pitches_mm or (1,))
    if first is None:
        started = Run(name="Strand", centre=ChainItem(part=chain.id, links=links or 101))
        return add_owner(piece, started)
    if not first.items:
        changed = replace(first, items=(RingItem(part=ring.id),))
        piece, first = piece.replaced(first, changed), changed
    number = sum(1 for r in piece.runs if r.kind == "strand") + 1
    usual = links or _odd((420 + 55 * number) / pitch)
    last = first_number(piece, Spot(first.name, (len(first.items) - 1,)))
    host = item_at(first, last)
    at = count_of(host) if isinstance(host, ChainItem | RingItem) else 1
    end = Place(run=first.name, item=last, at=at)
    run = Run(
        name=f"Strand {number}", centre=ChainItem(part=chain.id, links=usual),
        items=(RingItem(part=ring.id),), end=end,
    )  # fmt: skip
    return add_owner(piece, run)


def _odd(value: float) -> int:
    return 2 * round((value - 1) / 2) + 1


def _swag(piece: Piece, text: str, things: Things, spot: Spot | None) -> Edited:
    after = PLACES.search(text)
    places = tuple(int(n) for n in re.findall(r"\d+", after[0])) if after else ()
    chain, links = _chain(PLACES.sub(" ", text).strip(), things, 0)
    if spot is None or not spot.path:
        raise DomainError("put the cursor on the chain or ring the swag begins at")
    host, owner = item_of(piece, spot), owner_of(piece, spot.owner)
    piece = with_needed(piece, chain, things)
    pitch = sum(chain.pitches_mm or (2.0,)) / len(chain.pitches_mm or (1,))
    if isinstance(host, ChainItem):
        if len(places) < 2:
            raise DomainError("say between which links: swag rolo at 4 10")
        beside = _pitch_of(things, host) * (places[1] - places[0])
        count = links or max(round(1.25 * beside / pitch), 2)
        row = SwagRow(
            name="Swags", run=owner.name, item=first_number(piece, spot), places=places,
            items=(ChainItem(part=chain.id, links=count),),
        )  # fmt: skip
        return add_owner(piece, row)
    if places:
        raise DomainError("“at” counts links: put the cursor on the chain the swag hangs from")
    items = owner.own_items
    rings = [k for k, i in enumerate(items) if isinstance(i, RingItem) and k >= spot.path[0]]
    if spot.path == (CENTRE,) or len(rings) < 2:
        raise DomainError("a swag runs from a ring to the next one outward: go to the first ring")
    run = Run(
        name="Swag", kind="swag", lies="paired",
        items=(ChainItem(part=chain.id, links=links or max(round(36 / pitch), 2)),),
        start=Place(run=owner.name, item=first_number(piece, Spot(owner.name, (rings[0],)))),
        end=Place(run=owner.name, item=first_number(piece, Spot(owner.name, (rings[1],)))),
    )  # fmt: skip
    return add_owner(piece, run)


def _pitch_of(things: Things, item: ChainItem) -> float:
    chain = things.get(item.part)
    pitches = (chain.pitches_mm if isinstance(chain, Chain) else None) or (3.0,)
    return sum(pitches) / len(pitches)


def _extender(piece: Piece, text: str, things: Things, spot: Spot | None) -> Edited:
    chain, links = _chain(text, things, 12)
    piece = with_needed(piece, chain, things)
    run = Run(
        name="Extender", kind="extender", lies="free",
        items=(ChainItem(part=chain.id, links=links),), start=Place(run="closure"),
    )  # fmt: skip
    return add_owner(piece, run)


def _close(piece: Piece, kind: ClosureKind, things: Things) -> Edited:
    """Without a clasp a joining ring closes it."""
    if kind == "open":
        return Edited(replace(piece, closure=Closure()), "left open")
    rings = [t for t in things.values() if isinstance(t, Ring) and t.closure == "open"]
    if not rings:
        raise DomainError("there is no open ring in the tray to close it with")
    own = things.get(piece.closure.catch or "")
    ring = own if isinstance(own, Ring) else min(rings, key=lambda r: abs((r.inner_mm or 0) - 4))
    closure = Closure(kind=kind, catch=ring.id)
    changed = replace(with_needed(piece, ring, things), closure=closure)
    return Edited(changed, f"closed {kind}")


_BUILDERS: dict[str, Callable[..., Edited]] = {
    "strand": _strand,
    "tier": _strand,
    "swag": _swag,
    "extender": _extender,
}
