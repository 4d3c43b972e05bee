"""Stock by double entry: every movement takes a whole amount from one account to another, so that
nothing appears or vanishes. Amounts are pieces, links (chain) or µm (wire and thread).
"""

import sqlite3
from collections import Counter
from collections.abc import Sequence
from typing import Literal, NamedTuple

from maglia.core.parts.parts import Chain, Part, Wire
from maglia.core.values.record import DomainError
from maglia.files.workshop.store import Workshop

AccountSort = Literal["outside", "bench", "lot", "plan", "build", "lost"]
EventSort = Literal[
    "bought", "counted", "reserve", "release", "cut", "use", "return", "spoilt", "reversal"
]


def counted_in(part: Part) -> str:
    """What a part is counted in."""
    return "links" if isinstance(part, Chain) else "µm" if isinstance(part, Wire) else "pieces"


class Account(NamedTuple):
    """Where an amount lies. A lot is one length, of one part, under a name of its own."""

    sort: AccountSort
    part: str = ""
    name: str = ""
    first_phase: int = 0


OUTSIDE, BENCH, LOST = Account("outside"), Account("bench"), Account("lost")


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
        raise DomainError("nothing is moved")
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
