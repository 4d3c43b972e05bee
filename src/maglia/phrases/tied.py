"""Tied rows in one phrase: “rows 3 2 rose link, 1 foot link, joined by ring 5, hung by 2 3 ring 4,
at links 4 12 with ring 4”; “triangle 4 rose link” and “band 3 5 rose link” for the usual ones.
"""

from functools import partial
from typing import NamedTuple

from maglia.core.edits.edit import add_owner
from maglia.core.edits.spots import Edited
from maglia.core.parts.parts import Ring
from maglia.core.parts.units import BeadLink
from maglia.core.piece.piece import Place, RowHung, TiedRows
from maglia.core.values.record import DomainError
from maglia.phrases.here import Here, Offer
from maglia.phrases.hung_by import hanging_ring
from maglia.phrases.places import place, places
from maglia.phrases.words import Misread, Words, at_commas, joined, unknown

BAND = (3, 5)
"""What is tied if no number is said: rows of links."""
TRIANGLE = 4


class _Rows(NamedTuple):
    """Links of each row with their unit, and the rings."""

    rows: tuple[int, ...]
    units: tuple[BeadLink, ...]
    joint: Ring
    between: tuple[int, ...]
    hanger: Ring
    hang: tuple[int, ...]
    carried: RowHung | None = None
    end: Place | None = None


def rows_offer(words: Words, here: Here, called: str) -> Offer:
    """The tied rows that words say. Raises Misread naming the word."""
    form = words[0].low
    said = _read(form, words[1:], here)
    counts = ", ".join(f"{count} {unit.name}" for count, unit in
                       zip(said.rows, _spread(said), strict=True))  # fmt: skip
    label = f"Rows of {counts}, joined by {said.joint.name}, hung by {said.hanger.name}"
    return Offer(label, partial(_tied, said, here, called), said.units[0])


def _spread(said: _Rows) -> list[BeadLink]:
    return [said.units[min(k, len(said.units) - 1)] for k in range(len(said.rows))]


def _parts(words: Words) -> list[Words]:
    """At commas; numbers that a comma stands between belong together."""
    found: list[Words] = []
    for part in at_commas(words):
        after_at = bool(found) and found[-1][0].low == "at" and part[0].whole is not None
        if after_at:
            found[-1] = (*found[-1], *part)
        else:
            found.append(part)
    return found


def _read(form: str, words: Words, here: Here) -> _Rows:
    rows: list[int] = []
    units: list[BeadLink] = []
    joint: tuple[tuple[int, ...], Ring] | None = None
    hung: tuple[tuple[int, ...], Ring] | None = None
    at: Words = ()
    for part in _parts(words):
        first = part[0].low
        if first == "joined" and len(part) > 2 and part[1].low == "by":
            joint = _rings(part[2:], here)
        elif first == "hung" and len(part) > 2 and part[1].low == "by":
            hung = _rings(part[2:], here)
        elif first == "at":
            at = part
        else:
            head, joins = joined(part, ("at",))
            counts, unit = _counted(head, here)
            if joins:
                at = (joins[0].join, *joins[0].words)
            rows += _rows(form, counts, part, here)
            units += [unit] * (len(rows) - len(units))
    if not units:
        raise Misread("say of which bead link, such as: rows 3 2 rose link, 1 foot link, joined by "
                      "ring 5, hung by ring 4")  # fmt: skip
    link = units[0]
    if joint is None:
        ring = _joint_ring(link, here)
        here.add(f"joined by {ring.name}", "the largest that passes its loops", words=words)
        joint = ((1,), ring)
    if hung is None:
        ring = hanging_ring(link, here.things)
        here.add(f"hung by {ring.name}", "the nearest to 3 mm that passes", words=words)
        hung = ((1,), ring)
    carried, end = _carried(at, hung[1], here) if at else (None, None)
    return _Rows(tuple(rows), tuple(units), joint[1], joint[0], hung[1], hung[0], carried, end)


def _rows(form: str, counts: tuple[int, ...], words: Words, here: Here) -> tuple[int, ...]:
    if not counts:
        if form == "rows":
            raise unknown(words, "says no number of links: rows 3 2 1 rose link")
        counts = (TRIANGLE,) if form == "triangle" else BAND
        here.add(f"{' '.join(map(str, counts))}", "since no number is said", words=words)
    if form == "triangle":
        if len(counts) > 1 or counts[0] > 60:
            raise unknown(words, "is no triangle: say how many links are on top, up to 60")
        return tuple(range(counts[0], 0, -1))
    if form == "band":
        if len(counts) > 2 or max(counts) > 60:
            raise unknown(words, "is no band: say rows of how many links, such as band 3 5")
        return (counts[0],) * (counts[1] if len(counts) > 1 else BAND[0])
    return counts


def _counts(words: Words) -> tuple[tuple[int, ...], Words]:
    k = 0
    while k < len(words) - 1 and words[k].whole:
        k += 1
    return tuple(word.whole or 0 for word in words[:k]), words[k:]


def _counted(words: Words, here: Here) -> tuple[tuple[int, ...], BeadLink]:
    counts, name = _counts(words)
    link = here.names.find(name, (BeadLink,), what="rows are tied of bead links")
    assert isinstance(link, BeadLink)
    return counts, link


def _rings(words: Words, here: Here) -> tuple[tuple[int, ...], Ring]:
    """“2 3 ring 4”: so many row by row, and of which ring."""
    counts, name = _counts(words)
    ring = here.names.find(name, (Ring,), what="rows are joined and hung by rings")
    assert isinstance(ring, Ring)
    return counts or (1,), ring


def _joint_ring(link: BeadLink, here: Here) -> Ring:
    """The largest open ring up to 6 mm that passes the loops of a link."""
    fitting = [
        t
        for t in here.things.values()
        if isinstance(t, Ring) and t.closure == "open" and t.inner_mm
        and (t.wire_mm or 9) <= link.loop.inner_mm - 0.05
    ]  # fmt: skip
    if not fitting:
        raise DomainError(f"no open ring passes the loops of “{link.name}”: say joined by …")
    return max(fitting, key=lambda ring: min(ring.inner_mm or 0, 6.0))


def _carried(at: Words, hanger: Ring, here: Here) -> tuple[RowHung | None, Place | None]:
    """“at links 4 12 with 2 ring 4”: what carries the top row; one place for both its ends."""
    head, joins = joined(at[1:], ("with",))
    found = places(head, here)
    if len(found) == 1 and not joins:
        return None, place(head, here).place
    hosts = {(one.place.run, one.place.item) for one in found}
    if len(hosts) > 1 or found[0].place.side is not None:
        raise unknown(head, "lie on several things: the top row hangs from one chain, both sides")
    rings, ring = (1, hanger)
    if joins:
        counts, ring = _rings(joins[0].words, here)
        rings = counts[0]
    host = found[0].place
    return RowHung(run=host.run, item=host.item, places=tuple(one.place.at for one in found),
                   ring=ring.id, rings=rings), None  # fmt: skip


def _tied(said: _Rows, here: Here, called: str) -> Edited:
    piece = here.piece
    for above, below in zip(said.units, said.units[1:], strict=False):
        if above.mid is None:
            raise DomainError(
                f"“{above.name}” is made without a mid ring, and a row of “{below.name}” is to "
                "hang from it: take one with a mid ring"
            )
    if said.carried is None and said.end is None and (piece.runs or piece.rows):
        raise DomainError(
            "tied rows are begun on an empty bench and their sides follow, or hang from a chain: "
            "say at which links, such as: at links 4 12"
        )
    ids = tuple(unit.id for unit in said.units)
    row = TiedRows(
        name=called or "Rows", unit=ids[0], units=ids if len(set(ids)) > 1 else (), rows=said.rows,
        ring=said.joint.id, between=said.between, hang_ring=said.hanger.id, hang=said.hang,
        carried=said.carried, end=said.end,
    )  # fmt: skip
    edited = add_owner(here.with_all(piece, (row,)), row)
    first = here.spot is None
    return edited if first else Edited(edited.piece, edited.words, here.spot)
