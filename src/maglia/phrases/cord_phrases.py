"""Cord, ribbon and strap by the length: “400 mm ribbon, ends clamp”, “45 cm cord braided, slip
knots”; and what slides on it or between two stops: “slide ring 6, leaf from bead 9 to bead 12”.
"""

import re
from functools import partial
from typing import Literal

from msgspec.structs import replace

from maglia.core.assembly.ports import RIDES
from maglia.core.edits.edit import add_owner, put
from maglia.core.edits.spots import CENTRE, Edited, Spot, item_of
from maglia.core.parts.parts import Bead, Wire
from maglia.core.parts.units import Things
from maglia.core.piece.items import ConnectorItem, Item, RingItem, StrungEnd, Winding
from maglia.core.piece.piece import Items, Piece, Place, Run
from maglia.core.values.measures import amount_at
from maglia.core.values.record import DomainError
from maglia.core.values.references import things_named
from maglia.core.workshop.tray import Tray
from maglia.phrases.hanging_places import place_at, sliding_ring, wide_at
from maglia.phrases.item_phrases import items_said
from maglia.phrases.offers import Offer, best_match, known_things, with_needed
from maglia.phrases.part_offers import refused
from maglia.phrases.string_phrases import Strung, bare, ends_said, ends_words, put_strung

HINT = "400 mm ribbon, ends clamp · 45 cm cord braided, slip knots"
WIND_HINT = "wind 24 turns of wire 0.4, 12 seed"
SLIDE_HINT = "slide ring 6, leaf from bead 9 to bead 12"
Made = Literal["plain", "folded", "braided"]
MADE: dict[str, Made] = {"folded": "folded", "braided": "braided"}
BRAIDED_OF = 3
"""Strands of a braid, unless more are said."""
SLIDE = re.compile(
    r"^slide\s+(.+?)\s+from\s+(?:link|bead|knot)\s+(\d+)(?:\s+on\s+the\s+left)?"
    r"\s+to\s+(?:link|bead|knot)\s+(\d+)(?:\s+on\s+the\s+right)?$",
    re.IGNORECASE,
)
WIND = re.compile(r"^wind\s+(\d+)\s+(?:turns\s+of\s+)?([^,]+)(?:,\s*(\d+)\s+(.+))?$", re.IGNORECASE)


def wind_offers(text: str, piece: Piece, tray: Tray, spot: Spot | None) -> list[Offer]:
    """“wind 24 turns of wire 0.4, 12 seed”: round the connector at the cursor."""
    said = WIND.match(text.strip())
    if said is None:
        return []
    things = known_things(piece, tray)
    wire = best_match(said[2].strip(), things.values(), Wire)
    bead = best_match(said[4].strip(), things.values(), Bead) if said[4] else None
    if wire is None or (said[4] and bead is None):
        name = said[2].strip() if wire is None else said[4].strip()
        return [replace(refused(f"no wire or bead is called “{name}”"), hint=WIND_HINT)]
    if not int(said[1]):
        return [replace(refused("wound no times: say how many turns"), hint=WIND_HINT)]
    winding = Winding(wire=wire.id, turns=int(said[1]), bead=bead.id if bead else None,
                      beads=int(said[3] or 0))  # fmt: skip

    def wound() -> Edited:
        host = item_of(piece, spot) if spot is not None and spot.path else None
        if spot is None or not isinstance(host, ConnectorItem):
            raise DomainError("put the cursor on the connector that is to be wound")
        changed = put(piece, spot, replace(host, wound=winding))
        for thing in (wire, bead):
            changed = with_needed(changed, thing, things) if thing else changed
        return Edited(changed, f"{spot.owner}: wound {winding.turns} times", spot)

    return [Offer(f"Wind {winding.turns} turns of {wire.name}", None, wire, wound)]


def cord_offers(text: str, piece: Piece, tray: Tray, spot: Spot | None) -> list[Offer]:
    """A length of cord, or what slides between two stops; empty if a text says neither."""
    things = known_things(piece, tray)
    if slides := SLIDE.match(text.strip()):
        numbers = (int(slides[2]), int(slides[3]))
        try:
            items = items_said(slides[1], things)
        except DomainError as fault:
            return [replace(refused(str(fault)), hint=SLIDE_HINT)]
        words = f"Slide {slides[1]} between number {numbers[0]} and {numbers[1]}"
        do = partial(_slid, items, numbers, piece, things, spot)
        return [Offer(words, None, None, do)]
    amount = amount_at(text.strip())
    if amount is None or amount[0].kind != "length":
        return []
    name, *rest = re.split(r",", text.strip()[amount[1] :])
    called = " ".join(word for word in name.split() if word.lower() not in (*MADE, "doubled"))
    cord = best_match(called, things.values(), Wire) if called else None
    if cord is None or cord.sort in ("wire", "memory coil"):
        return []
    said = [word.lower() for word in name.split() if word.lower() in (*MADE, "doubled")]
    try:
        read = _read(cord, amount[0].mm("mm"), said, rest, things)
    except DomainError as fault:
        return [replace(refused(str(fault)), hint=HINT)]
    made = f", {read.made}" if read.made != "plain" else ""
    words_of = f"{amount[0].text} of {cord.name}{made}, ends {ends_words(read, things)}"
    return [Offer(words_of, None, cord, partial(put_strung, read, piece, things, spot))]


def _read(cord: Wire, mm: float, said: list[str], rest: list[str], things: Things) -> Strung:
    ends = StrungEnd(finish="knotted"), StrungEnd(finish="knotted")
    for part in (part.strip() for part in rest if part.strip()):
        low = part.lower()
        if low in (*MADE, "doubled"):
            said.append(low)
        elif low in ("slip knots", "slip knot"):
            ends = StrungEnd(finish="slip knot"), StrungEnd(finish="slip knot")
        elif low.startswith("ends "):
            ends = ends_said(part[5:], things)
        else:
            raise DomainError(f"“{part}” was not understood; known here are ends, {', '.join(MADE)}"
                              ", doubled, slip knots")  # fmt: skip
    made: Made = next((MADE[word] for word in said if word in MADE), "plain")
    if made == "braided" and "doubled" in said:
        raise DomainError("a braid is of three strands: say braided, or doubled")
    strands = BRAIDED_OF if made == "braided" else 2 if "doubled" in said else 1
    return Strung(tuple(bare(mm)), cord, strands, ends, made)


def _slid(
    items: list[Item], between: tuple[int, int], piece: Piece, things: Things, spot: Spot | None
) -> Edited:
    """What rides on the chain or thread at the cursor between two of its links or beads: on the
    fold from one on the left to one on the right, else on both sides."""
    if spot is None or not spot.path:
        raise DomainError("put the cursor on the chain or thread it slides on")
    host = item_of(piece, spot)
    place, lies = place_at(piece, spot, host, 0, RIDES)
    hung: Items = tuple(items)
    if not isinstance(items[0], RingItem):
        ring = sliding_ring(things, wide_at(piece, spot, things))
        piece, hung = with_needed(piece, ring, things), (RingItem(part=ring.id), *hung)
    for ref in sorted(things_named(tuple(items))):
        piece = with_needed(piece, things[ref], things)
    start: Place = replace(place, at=between[0], until=between[1])
    lies = "fold" if spot.path == (CENTRE,) else lies
    return add_owner(piece, Run(name="Slide", kind="drop", lies=lies, items=hung, start=start))
