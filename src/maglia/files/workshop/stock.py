"""Stock by double entry: every movement takes a whole amount from one account to another, so that
nothing appears or vanishes. Amounts are pieces, links (chain) or µm (wire and thread).
"""

import sqlite3
from collections import Counter
from collections.abc import Sequence
from typing import Literal, NamedTuple

from maglia.core.parts.parts import Chain, Part
from maglia.core.values.record import DomainError
from maglia.core.workshop.lying import MOST, Deed, Lot, Lying, amount_words, by_length
from maglia.files.workshop.store import Workshop

AccountSort = Literal["outside", "bench", "lot", "plan", "build", "lost"]
EventSort = Literal[
    "bought", "counted", "reserve", "release", "cut", "use", "return", "spoilt", "reversal"
]


class Account(NamedTuple):
    """Where an amount lies. A lot is one length, of one part, under a name of its own."""

    sort: AccountSort
    part: str = ""
    name: str = ""
    first_phase: int = 0


OUTSIDE, BENCH, LOST = Account("outside"), Account("bench"), Account("lost")
BY_HAND = Account("build", name="by hand")


class Movement(NamedTuple):
    """An amount of a part from one account to another."""

    part: str
    amount: int
    source: Account
    target: Account


def record(
    workshop: Workshop,
    sort: EventSort,
    movements: Sequence[Movement],
    at: str,
    *,
    plan: str = "",
    note: str = "",
) -> int:
    """Put one event into the log, whole or not at all. Returns its number. Raises DomainError
    naming the part that there is not enough of."""
    if not movements:
        raise DomainError("nothing of it lies on the bench: the Tray (B) says what does")
    with workshop.changing() as database:
        return _insert(database, sort, movements, at, plan, note)


def _insert(
    database: sqlite3.Connection,
    sort: EventSort,
    movements: Sequence[Movement],
    at: str,
    plan: str = "",
    note: str = "",
    reverses: int | None = None,
) -> int:
    event = database.execute(
        "INSERT INTO event(at, sort, plan, reverses, note) VALUES(?, ?, ?, ?, ?)",
        (at, sort, plan, reverses, note),
    ).lastrowid
    assert event is not None
    for part, amount, source, target in movements:
        ends = (_account(database, source), _account(database, target))
        try:
            row = (event, part, amount, *ends)
            database.execute("INSERT INTO movement VALUES(?, ?, ?, ?, ?)", row)
        except sqlite3.IntegrityError as fault:
            if "overdraft" not in str(fault):
                raise
            has = _amount(database, ends[0], part)
            where = source.name or source.sort
            raise DomainError(f"{where} has {has} of “{part}”, and {amount} are wanted") from None
    return event


def _account(database: sqlite3.Connection, account: Account) -> int:
    found = database.execute(
        "SELECT id FROM account WHERE sort = ? AND part = ? AND name = ?", account[:3]
    ).fetchone()
    if found is None:
        made = database.execute(
            "INSERT INTO account(sort, part, name, first_phase) VALUES(?, ?, ?, ?)", account
        )
        assert made.lastrowid is not None
        return made.lastrowid
    return int(found[0])


def _amount(database: sqlite3.Connection, account: int, part: str) -> int:
    found = database.execute(
        "SELECT amount FROM balance WHERE account = ? AND part = ?", (account, part)
    ).fetchone()
    return int(found[0]) if found else 0


def reverse(workshop: Workshop, event: int, at: str, note: str = "") -> int:
    """Take an event back by another one, once. Raises DomainError naming the later event that has
    used what it brought."""
    with workshop.changing() as database:
        known = database.execute("SELECT sort FROM event WHERE id = ?", (event,)).fetchone()
        if known is None:
            raise DomainError(f"there is no event {event}")
        if known[0] == "reversal":
            raise DomainError(f"event {event} is itself a reversal: record what is so instead")
        if database.execute("SELECT 1 FROM event WHERE reverses = ?", (event,)).fetchone():
            raise DomainError(f"event {event} is reversed already")
        back = [
            Movement(part, amount, target, source)
            for part, amount, source, target in _movements(database, event)
        ]
        try:
            return _insert(database, "reversal", back[::-1], at, note=note, reverses=event)
        except DomainError as fault:
            later = database.execute(
                "SELECT e.id, e.sort, e.plan FROM event e JOIN movement m ON m.event = e.id "
                "JOIN movement own ON own.event = ? AND own.part = m.part "
                "AND own.target = m.source "
                "WHERE e.id > ? ORDER BY e.id LIMIT 1",
                (event, event),
            ).fetchone()
            name = f"event {later[0]} ({later[2] or later[1]})" if later else "a later event"
            raise DomainError(f"{name} has used what event {event} brought: {fault}") from None


def return_cut(workshop: Workshop, event: int, at: str) -> int:
    """What an event cut from a length comes back as a length of its own, in the phase that it was
    cut at. Returns the number of the event that says so."""
    with workshop.changing() as database:
        part, amount, source, used = _movements(database, event)[0]
        name = _free_name("off-cut", _taken(workshop, part))
        lot = Account("lot", part, name, source.first_phase)
        return _insert(database, "return", [Movement(part, amount, used, lot)], at)


def _movements(database: sqlite3.Connection, event: int) -> list[Movement]:
    rows = database.execute(
        "SELECT m.part, m.amount, s.sort, s.part, s.name, s.first_phase, "
        "t.sort, t.part, t.name, t.first_phase FROM movement m JOIN account s ON s.id = m.source "
        "JOIN account t ON t.id = m.target WHERE m.event = ? ORDER BY m.rowid",
        (event,),
    )
    return [Movement(row[0], row[1], Account(*row[2:6]), Account(*row[6:])) for row in rows]


def balances(workshop: Workshop) -> dict[tuple[Account, str], int]:
    """What lies where, accounts that are empty left out."""
    rows = workshop.database.execute(
        "SELECT a.sort, a.part, a.name, a.first_phase, b.part, b.amount FROM balance b "
        "JOIN account a ON a.id = b.account WHERE b.amount <> 0 ORDER BY a.id, b.part"
    )
    return {(Account(*row[:4]), row[4]): row[5] for row in rows}


def lying(workshop: Workshop) -> dict[str, Lying]:
    """What lies on the bench, by part."""
    database = workshop.database
    accounts = {
        number: (sort, name, phase)
        for number, sort, name, phase in database.execute(
            "SELECT id, sort, name, first_phase FROM account WHERE sort IN ('bench', 'plan', 'lot')"
        )
    }
    held = "SELECT part, amount FROM balance WHERE account = ? AND amount <> 0"
    found: dict[str, Lying] = {}
    for number, (sort, name, phase) in sorted(accounts.items(), key=lambda own: own[1][0]):
        if sort == "bench":  # the first, and by far the most
            found = {part: Lying(amount) for part, amount in database.execute(held, (number,))}
            continue
        for part, amount in database.execute(held, (number,)):
            own = found.get(part, Lying())
            lots = (*own.lots, Lot(name, amount, phase)) if sort == "lot" else own.lots
            found[part] = Lying(own.bag, lots, own.laid_out + amount * (sort == "plan"))
    return found


def do(workshop: Workshop, part: Part, deed: Deed, at: str) -> int:
    """Record a deed as one event. Raises DomainError naming what cannot be."""
    there = lying(workshop).get(part.id, Lying())
    moves = _moves(part, deed, there, _taken(workshop, part.id))
    if not moves:
        raise DomainError(f"that is what is on record already: {amount_words(part, deed.amount)}")
    return record(workshop, deed.sort, moves, at, note=deed.note)


def do_all(workshop: Workshop, deeds: Sequence[tuple[Part, Deed]], at: str) -> None:
    """Record many deeds as one event, all or none; what is on record already is passed over."""
    there = lying(workshop)
    moves: list[Movement] = []
    sorts: set[EventSort] = set()
    for part, deed in deeds:
        taken = _taken(workshop, part.id) if by_length(part) else frozenset()
        moves += _moves(part, deed, there.get(part.id, Lying()), taken)
        sorts.add(deed.sort)
    if moves:
        record(workshop, sorts.pop() if len(sorts) == 1 else "counted", moves, at)


def _moves(part: Part, deed: Deed, there: Lying, taken: frozenset[str]) -> list[Movement]:
    ref, amount = part.id, deed.amount
    if not amount and deed.sort != "counted":
        raise DomainError("say how many, above zero")
    if amount > MOST:
        raise DomainError(f"{amount_words(part, amount)} are more than any bench holds")
    if deed.sort == "bought":
        name = _free_name(deed.called or deed.lot, taken)
        to = Account("lot", ref, name, deed.first_phase) if by_length(part) else BENCH
        return [Movement(ref, amount, OUTSIDE, to)]
    place, has = _place(part, deed, there, taken)
    if deed.sort == "counted":
        ends = (OUTSIDE, place) if amount > has else (place, OUTSIDE)
        return [Movement(ref, abs(amount - has), *ends)] if amount != has else []
    if amount > has:
        where = f"“{place.name}”" if place.name else "the bag"
        raise DomainError(
            f"{where} holds {amount_words(part, has)}, and {amount_words(part, amount)} are wanted"
        )
    if deed.sort != "cut":
        return [Movement(ref, amount, place, LOST if deed.sort == "spoilt" else BY_HAND)]
    lost = int(isinstance(part, Chain) and not part.openable and amount < has)
    rest = has - amount - lost
    moves = [Movement(ref, amount, place, BY_HAND)]
    moves += [Movement(ref, lost, place, LOST)] if lost else []
    if rest:
        pattern = len(part.pitches_mm or (0,)) if isinstance(part, Chain) else 1
        phase = (place.first_phase + amount + lost) % pattern
        name = _free_name(deed.called or "off-cut", taken)
        moves.append(Movement(ref, rest, place, Account("lot", ref, name, phase)))
    return moves


def _place(part: Part, deed: Deed, there: Lying, taken: frozenset[str]) -> tuple[Account, int]:
    """The bag, or the lot that is meant: by name, or the only one."""
    if not by_length(part):
        return BENCH, there.bag
    named = [lot for lot in there.lots if not deed.lot or lot.name.lower() == deed.lot.lower()]
    if len(named) == 1:
        return Account("lot", part.id, named[0].name, named[0].first_phase), named[0].amount
    if deed.sort == "counted" and (deed.lot or not there.lots):
        return Account("lot", part.id, _free_name(deed.lot, taken), deed.first_phase), 0
    names = ", ".join(f"“{lot.name}”" for lot in there.lots) or "none"
    raise DomainError(f"say which length: there is {names}")


def _taken(workshop: Workshop, part: str) -> frozenset[str]:
    """Names that lengths of a part bear or bore."""
    rows = workshop.database.execute(
        "SELECT name FROM account WHERE sort = 'lot' AND part = ?", (part,)
    )
    return frozenset(name.lower() for (name,) in rows)


def _free_name(wanted: str, taken: frozenset[str]) -> str:
    """A name no length of the part bears yet: as wanted, else lot 1, lot 2 and so on."""
    if wanted and wanted.lower() not in taken:
        return wanted
    stem = wanted or "lot"
    numbers = range(2 if wanted else 1, len(taken) + 3)
    return next(f"{stem} {k}" for k in numbers if f"{stem} {k}".lower() not in taken)


def free_lot(workshop: Workshop, part: str, wanted: str) -> str:
    """A name that no length of a part bears or bore: as wanted, else numbered."""
    return _free_name(wanted, _taken(workshop, part))


def name_lot(workshop: Workshop, part: str, lot: str, name: str) -> None:
    """Call a length otherwise; its events stay its own. Raises DomainError if one is called so."""
    if name.lower() in _taken(workshop, part):
        raise DomainError(f"a length of it is or was called “{name}” already")
    with workshop.changing() as database:
        row = (name, part, lot)
        database.execute("UPDATE account SET name = ? WHERE sort = 'lot' AND part = ? AND name = ?",
                         row)  # fmt: skip


class Event(NamedTuple):
    """What happened to one part: the event's number, time, sort and note; what came to the maker's
    accounts of it (less what left them); whether it was taken back."""

    id: int
    at: str
    sort: EventSort
    note: str
    amount: int
    reversed: bool


def events_of(workshop: Workshop, part: str, most: int = 50) -> tuple[Event, ...]:
    """The latest events of a part, newest first."""
    rows = workshop.database.execute(
        "SELECT e.id, e.at, e.sort, e.note, "
        "sum(m.amount * ((t.sort IN ('bench', 'lot')) - (s.sort IN ('bench', 'lot')))), "
        "EXISTS(SELECT 1 FROM event r WHERE r.reverses = e.id) "
        "FROM movement m JOIN event e ON e.id = m.event JOIN account s ON s.id = m.source "
        "JOIN account t ON t.id = m.target WHERE m.part = ? "
        "GROUP BY e.id ORDER BY e.id DESC LIMIT ?",
        (part, most),
    )
    return tuple(Event(i, at, sort, note, n, bool(back)) for i, at, sort, note, n, back in rows)


def replayed(workshop: Workshop) -> dict[tuple[int, str], int]:
    """Balances worked out anew from all movements, by account number and part."""
    found: Counter[tuple[int, str]] = Counter()
    rows = workshop.database.execute("SELECT part, amount, source, target FROM movement")
    for part, amount, source, target in rows:
        found[(source, part)] -= amount
        found[(target, part)] += amount
    return {key: amount for key, amount in found.items() if amount}


def faults(workshop: Workshop) -> list[str]:
    """Where the kept balances are not what the movements say."""
    rows = workshop.database.execute("SELECT account, part, amount FROM balance WHERE amount <> 0")
    kept = {(account, part): amount for account, part, amount in rows}
    true = replayed(workshop)
    return [
        f"account {account}: “{part}” is kept as {kept.get((account, part), 0)} and is "
        f"{true.get((account, part), 0)}"
        for account, part in sorted(kept.keys() | true.keys())
        if kept.get((account, part), 0) != true.get((account, part), 0)
    ]
