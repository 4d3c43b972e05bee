"""Making a unit there and then: “new link amber + spacer + amber on brass 0.6 wrapped 2”.

Beads are named by a few letters and joined by +; `on` names wire or pin; loops are simple, doubled
or wrapped (so many wraps), `loop 2.5` their inside. The unit is drawn and measured as it grows.
"""

import re
from functools import partial

from maglia.core.edits.spots import Edited, Spot
from maglia.core.parts.parts import Bead, End, Pin, Ring, Wire
from maglia.core.parts.units import (
    BeadLink,
    Dangle,
    HookLink,
    Loop,
    LoopStyle,
    Things,
    unit_span_mm,
)
from maglia.core.piece.needed import made_of
from maglia.core.piece.piece import Piece, UnitItem
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray
from maglia.phrases.offers import Offer, best_match, known_things, put_in, with_needed

BEGINS = re.compile(r"^new\s+(link|dangle|hook)\b\s*(.*)$", re.IGNORECASE)
HINT = "new link amber + spacer + amber on brass 0.6 wrapped 2 · new dangle teal on head pin"


def unit_offers(text: str, piece: Piece, tray: Tray, spot: Spot | None) -> list[Offer]:
    """The unit as far as it is written; empty if the text does not begin one."""
    begun = BEGINS.match(text.strip())
    if begun is None:
        return []
    things = known_things(piece, tray)
    try:
        unit = read_unit(begun[1].lower(), begun[2], things)
    except DomainError as fault:
        return [Offer(f"{fault}", None, None, partial(_refuse, str(fault)), HINT)]

    def make() -> Edited:
        known = {**things, unit.id: unit}
        changed = with_needed(piece, unit, known)
        return put_in(unit, UnitItem(unit=unit.id), changed, known, spot)

    words = f"Make and put in: {unit.name}"
    needed = made_of([unit.id], {**things, unit.id: unit})
    own = {t.id for t in (*tray.parts, *tray.units)}
    keeps = tuple(thing for thing in needed if thing.id not in own)
    return [Offer(words, unit_span_mm(unit, things), unit, make, keeps=keeps)]


def _refuse(words: str) -> Edited:
    raise DomainError(words)


def read_unit(kind: str, text: str, things: Things) -> BeadLink | Dangle:
    """The unit that a text describes. Raises DomainError naming what is missing."""
    text, mid = _taken(text, r"\bmid\s+(.+)$")
    text, loop_mm = _taken(text, r"\bloops?\s+(\d+(?:\.\d+)?)")
    text, wraps = _taken(text, r"\bwrapped\b\s*(\d*)", empty="2")
    text, doubled = _taken(text, r"\b(doubled)\b")
    text, _ = _taken(text, r"\b(simple)\b")
    text, wire_words = _taken(text, r"\bon\s+(.+)$")
    names = [part.strip() for part in text.split("+") if part.strip()]
    if not names:
        raise DomainError("name its beads, joined by +")
    beads = [_bead(name, things) for name in names]
    wire = _wire(kind, wire_words, things)
    style: LoopStyle = "wrapped" if wraps is not None else "doubled" if doubled else "simple"
    loop = Loop(style=style, inner_mm=float(loop_mm or 2.0), wraps=int(wraps or 0))
    short = " + ".join(bead.name for bead in beads)
    unit_id = _free_id(f"{kind}-{'-'.join(bead.id for bead in beads)}"[:100], things)
    stack = tuple(bead.id for bead in beads)
    if kind == "dangle":
        name = f"Dangle of {short}"[:120]
        return Dangle(id=unit_id, name=name, stack=stack, wire=wire.id, loop=loop)
    ring = best_match(mid, things.values(), Ring) if mid else None
    if mid and ring is None:
        raise DomainError(f"no ring is called “{mid}”")
    made = HookLink if kind == "hook" else BeadLink
    return made(
        id=unit_id,
        name=f"Link of {short}"[:120],
        stack=stack,
        wire=wire.id,
        loop=loop,
        mid=ring.id if ring else None,
    )


def _bead(name: str, things: Things) -> Bead | End | Ring:
    """What a name on a stack means: a bead before an end before a ring."""
    known = things.values()
    found = (
        best_match(name, known, Bead)
        or best_match(name, known, End)
        or best_match(name, known, Ring)
    )
    if found is None:
        raise DomainError(f"no bead is called “{name}”")
    return found


def _wire(kind: str, words: str | None, things: Things) -> Wire | Pin:
    """The wire or pin that is named, else head pin for a dangle and wire for a link."""
    if words:
        known = things.values()
        found = best_match(words, known, Wire) or best_match(words, known, Pin)
        if found is None:
            raise DomainError(f"no wire or pin is called “{words}”")
        return found
    pins = [t for t in things.values() if isinstance(t, Pin) and t.head == "head"]
    wires = [t for t in things.values() if isinstance(t, Wire) and t.sort == "wire"]
    order: list[Wire | Pin] = [*pins, *wires] if kind == "dangle" else [*wires, *pins]
    if not order:
        raise DomainError("there is no wire or pin in the tray: say on what it is made")
    return order[0]


def _taken(text: str, pattern: str, empty: str = "") -> tuple[str, str | None]:
    """The text without what a pattern matches, and what that says."""
    found = re.search(pattern, text, re.IGNORECASE)
    if found is None:
        return text, None
    return (text[: found.start()] + text[found.end() :]).strip(), found[1].strip() or empty


def _free_id(wanted: str, things: Things) -> str:
    name, k = wanted, 1
    while name in things:
        k += 1
        name = f"{wanted}-{k}"
    return name
