"""What hangs by two places: “drop ring 4, rose link, oval by left and right at foot” on two legs
from one place, “swag ring 4, vee, ring 4 from link 4 on the left to link 4 on the right” across.
"""

import re
from functools import partial

from msgspec.structs import replace

from maglia.core.assembly.ports import GAP
from maglia.core.edits.edit import add_owner
from maglia.core.edits.rearrange import turned
from maglia.core.edits.spots import WHOLE, Edited, Spot, item_of
from maglia.core.parts.parts import Connector, hole_of
from maglia.core.parts.units import Things
from maglia.core.piece.items import ConnectorItem, Item
from maglia.core.piece.piece import Piece, Run
from maglia.core.values.record import DomainError
from maglia.core.values.references import things_named
from maglia.core.workshop.tray import Tray
from maglia.phrases.hanging_places import place_at, place_said
from maglia.phrases.item_phrases import items_said
from maglia.phrases.offers import Offer, best_match, known_things, with_needed
from maglia.phrases.part_offers import refused

BY_TWO = re.compile(r"^drop\s+(.+?)\s+by\s+([\w-]+)\s+and\s+([\w-]+)(\s+at\s+.+)?$", re.IGNORECASE)
ACROSS = re.compile(
    r"^(?:swag|tie)\s+(.+?)\s+from\s+(link|bead|gap)\s+(\d+)\s+on\s+the\s+left\s+"
    r"to\s+(link|bead|gap)\s+(\d+)\s+on\s+the\s+right$",
    re.IGNORECASE,
)
HINT = "drop ring 4, oval by left and right at foot"
HINT_ACROSS = "swag ring 4, vee, ring 4 from link 4 on the left to link 4 on the right"


def hanging_offers(
    text: str, piece: Piece, tray: Tray, spot: Spot | None, mark: int
) -> list[Offer]:
    """What a text hangs by two places; empty if it does not ask for that."""
    things = known_things(piece, tray)
    said = text.strip()
    try:
        if two := BY_TWO.match(said):
            *before, name = re.split(r",|\bthen\b", two[1], flags=re.IGNORECASE)
            leg = items_said(",".join(before), things)
            last = _held(name.strip(), two[2], two[3], things)
            words = f"Drop on two legs: {things[last.part].name} by {last.hole_in}"
            do = partial(_two_legs, leg, last, two[4] or "", piece, things, spot, mark)
            return [Offer(f"{words} and {last.hole_out}", None, things[last.part], do)]
        if over := ACROSS.match(said):
            items = items_said(over[1], things)
            do = partial(_across, items, over, piece, things, spot)
            return [Offer(f"Across the fold: {over[1]}", None, None, do)]
    except DomainError as fault:
        return [replace(refused(str(fault)), hint=HINT if BY_TWO.match(said) else HINT_ACROSS)]
    return []


def _held(said: str, one: str, other: str, things: Things) -> ConnectorItem:
    """A connector by two of its holes, the left one first."""
    connector = best_match(said, things.values(), Connector)
    if connector is None:
        raise DomainError(f"by two places hangs a connector, and none is called “{said}”")
    holes = [hole_of(connector, name.lower()) for name in (one, other)]
    names = ", ".join(hole.name for hole in connector.holes)
    for name, hole in zip((one, other), holes, strict=True):
        if hole is None:
            raise DomainError(f"“{connector.name}” has no hole “{name}”; it has {names}")
    if holes[0] == holes[1]:
        raise DomainError(f"“{connector.name}” hangs by two holes: say two of {names}")
    left, right = sorted((hole for hole in holes if hole), key=lambda hole: hole.x_mm)
    return ConnectorItem(part=connector.id, hole_in=left.name, hole_out=right.name)


def _two_legs(
    leg: list[Item], last: ConnectorItem, at: str, piece: Piece, things: Things,
    spot: Spot | None, mark: int,
) -> Edited:  # fmt: skip
    """From one place down both legs, left and right, to a connector's two holes."""
    if spot is None:
        raise DomainError("there is nothing to hang from yet: begin with what lies on the fold")
    if not leg:
        raise DomainError(f"say what each leg is made of, such as: {HINT}")
    if spot.path == WHOLE:
        raise DomainError(f"“{spot.owner}” is made by its rule; hang it from a run")
    left, said = place_said(at.lower())
    if left.strip():
        raise DomainError(f"“{at.strip()}” was not understood: say link 3, bead 3, gap 3 or a hole")
    number = mark if said.number is None else said.number
    place, lies = place_at(piece, spot, item_of(piece, spot), number, said.port)
    piece = _with_all(piece, [*leg, last], things)
    up = [turned(item) for item in reversed(leg)]
    run = Run(name="Drop", kind="swag", lies=lies, items=(*leg, last, *up), start=place, end=place)
    if lies == "fold":
        run = Run(name="Drop", kind="swag", lies="across", centre=last, items=tuple(up), end=place)
    return add_owner(piece, run)


def _across(
    items: list[Item], said: re.Match[str], piece: Piece, things: Things, spot: Spot | None
) -> Edited:
    """From a place on the left to one on the right: mirrored if it is the same from either side."""
    if spot is None or not spot.path:
        raise DomainError("put the cursor on the chain it hangs from")
    ends = []
    for kind, number in ((said[2], said[3]), (said[4], said[5])):
        wanted = GAP if kind.lower() == "gap" else None
        if int(number) == 0:
            raise DomainError(f"{kind} 0 lies on the fold: say one on the left and on the right")
        ends.append(place_at(piece, spot, item_of(piece, spot), int(number), wanted)[0])
    piece = _with_all(piece, items, things)
    half, odd = divmod(len(items), 2)
    outward = items[half + odd :]
    if ends[0] == ends[1] and odd and [turned(item) for item in reversed(outward)] == items[:half]:
        run = Run(name="Swag", kind="swag", centre=items[half], items=tuple(outward), end=ends[0])
        return add_owner(piece, run)
    left, right = replace(ends[0], side="left"), replace(ends[1], side="right")
    run = Run(name="Swag", kind="swag", lies="free", items=tuple(items), start=left, end=right)
    return add_owner(piece, run)


def _with_all(piece: Piece, items: list[Item], things: Things) -> Piece:
    for ref in sorted(things_named(tuple(items))):
        piece = with_needed(piece, things[ref], things)
    return piece
