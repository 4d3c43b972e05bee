"""Tied rows in one phrase: “rows 3 2 rose link, 1 foot link, joined by ring 5, hung by 2 3 ring 4,
at links 4 12 with ring 4”; “triangle 4 rose link” and “band 3 5 rose link” for the usual ones.
"""

import re
from functools import partial

from msgspec.structs import replace

from maglia.core.edits.edit import add_owner
from maglia.core.edits.spots import Edited, Spot, first_number
from maglia.core.parts.parts import Ring
from maglia.core.parts.units import BeadLink, Things
from maglia.core.piece.piece import Piece, RowHung, TiedRows
from maglia.core.values.record import DomainError, Value
from maglia.core.workshop.tray import Tray
from maglia.phrases.offers import Offer, best_match, hanging_ring, known_things, with_needed
from maglia.phrases.part_offers import refused

BEGINS = re.compile(r"^(rows|triangle|band)\b\s*(.*)$", re.IGNORECASE)
CARRIED = re.compile(r"^at\s+links?\s+([\d\s,]+?)(?:\s+with\s+(?:(\d+)\s+)?(.+))?$", re.IGNORECASE)
COUNTED = re.compile(r"^((?:\d+\s+)*)(.*)$")
HINT = "rows 3 2 rose link, 1 foot link, joined by ring 5, hung by 2 3 ring 4, at links 4 12"
TRIANGLE, BAND = 4, (3, 5)
"""What is tied if no number is said: links on top; rows of links."""


class _Said(Value, frozen=True):
    """Links of each row with their unit, and the rings."""

    rows: tuple[int, ...]
    units: tuple[BeadLink, ...]
    joint: Ring
    between: tuple[int, ...]
    hanger: Ring
    hang: tuple[int, ...]
    places: tuple[int, ...] = ()
    carrying: Ring | None = None
    rings: int = 1


def row_offers(text: str, piece: Piece, tray: Tray, spot: Spot | None) -> list[Offer]:
    """The tied rows that a text says; empty if it does not begin so."""
    begun = BEGINS.match(text.strip())
    if begun is None:
        return []
    things = known_things(piece, tray)
    try:
        said = _read(begun[1].lower(), begun[2], things)
    except DomainError as fault:
        return [replace(refused(str(fault)), hint=HINT)]
    words = f"Rows of {', '.join(map(str, said.rows))} {said.units[0].name}"
    return [Offer(words, None, said.units[0], partial(_tied, said, piece, things, spot))]


def _read(form: str, text: str, things: Things) -> _Said:
    """Raises DomainError naming the word that is not known."""
    rows: list[int] = []
    units: list[BeadLink] = []
    joint = hanger = carrying = None
    between: tuple[int, ...] = (1,)
    hang: tuple[int, ...] = (1,)
    places: tuple[int, ...] = ()
    rings = 1
    for part in re.split(r",(?!\s*\d+\s*(?:,|$))", text):
        part = part.strip()
        low = part.lower()
        if low.startswith("joined by "):
            between, joint = _rings(part[10:], things)
        elif low.startswith("hung by "):
            hang, hanger = _rings(part[8:], things)
        elif at := CARRIED.match(part):
            places = tuple(map(int, re.findall(r"\d+", at[1])))
            rings = int(at[2] or 1)
            carrying = _ring(at[3], things) if at[3] else None
        elif part:
            counts, unit = _counted(part, things)
            counts = counts or ((TRIANGLE,) if form == "triangle" else BAND)
            rows += _rows(form, counts)
            units += [unit] * (len(rows) - len(units))
    if not units:
        raise DomainError(f"say of which bead link, such as: {HINT}")
    link = units[0]
    return _Said(
        tuple(rows), tuple(units), joint or _joint_ring(link, things), between,
        hanger or hanging_ring(link, things), hang, places, carrying, rings,
    )  # fmt: skip


def _rows(form: str, counts: tuple[int, ...]) -> tuple[int, ...]:
    if form == "triangle":
        return tuple(range(counts[0], 0, -1))
    if form == "band":
        return (counts[0],) * (counts[1] if len(counts) > 1 else BAND[0])
    return counts


def _counted(part: str, things: Things) -> tuple[tuple[int, ...], BeadLink]:
    found = COUNTED.match(part)
    assert found is not None
    link = best_match(found[2], things.values(), BeadLink)
    if link is None:
        raise DomainError(f"no bead link is called “{found[2]}”")
    return tuple(map(int, found[1].split())), link


def _rings(text: str, things: Things) -> tuple[tuple[int, ...], Ring]:
    """“2 3 ring 4”: so many row by row, and of which ring."""
    found = COUNTED.match(text.strip())
    assert found is not None
    return tuple(map(int, found[1].split())) or (1,), _ring(found[2], things)


def _ring(name: str, things: Things) -> Ring:
    ring = best_match(name, things.values(), Ring) or best_match(
        re.sub(r"\brings\b", "ring", name), things.values(), Ring
    )
    if ring is None:
        raise DomainError(f"no ring is called “{name.strip()}”")
    return ring


def _joint_ring(link: BeadLink, things: Things) -> Ring:
    """The largest open ring up to 6 mm that passes the loops of a link."""
    fitting = [
        t
        for t in things.values()
        if isinstance(t, Ring) and t.closure == "open" and t.inner_mm
        and (t.wire_mm or 9) <= link.loop.inner_mm - 0.05
    ]  # fmt: skip
    if not fitting:
        raise DomainError(f"no open ring passes the loops of “{link.name}”: say joined by …")
    return max(fitting, key=lambda ring: min(ring.inner_mm or 0, 6.0))


def _tied(said: _Said, piece: Piece, things: Things, spot: Spot | None) -> Edited:
    for above, below in zip(said.units, said.units[1:], strict=False):
        if above.mid is None:
            raise DomainError(
                f"“{above.name}” is made without a mid ring, and a row of “{below.name}” is to "
                "hang from it: take one with a mid ring"
            )
    host = None
    if said.places:
        if spot is None or not spot.path:
            raise DomainError("put the cursor on the chain that is to carry the rows")
        host = RowHung(
            run=spot.owner, item=first_number(piece, spot), places=said.places,
            ring=(said.carrying or said.hanger).id, rings=said.rings,
        )  # fmt: skip
    elif piece.runs or piece.rows:
        raise DomainError(
            "tied rows are begun on an empty bench and their sides follow, or hang from a chain: "
            "say at which links, such as: at links 4 12"
        )
    for thing in (*said.units, said.joint, said.hanger, said.carrying):
        if thing is not None:
            piece = with_needed(piece, thing, things)
    ids = tuple(unit.id for unit in said.units)
    row = TiedRows(
        name="Rows", unit=ids[0], units=ids if len(set(ids)) > 1 else (), rows=said.rows,
        ring=said.joint.id, between=said.between, hang_ring=said.hanger.id, hang=said.hang,
        carried=host,
    )  # fmt: skip
    return add_owner(piece, row)
