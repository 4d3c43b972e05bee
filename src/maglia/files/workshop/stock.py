"""Stock by double entry: every movement takes a whole amount from one account to another, so that
nothing appears or vanishes. Amounts are pieces, links (chain) or µm (wire and thread).
"""

import sqlite3
from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from typing import Literal, NamedTuple

from maglia.core.parts.parts import Chain, Part
from maglia.core.values.record import DomainError, as_plain
from maglia.core.workshop.lying import (
    MOST,
    Deed,
    Lot,
    Lying,
    amount_of_mm,
    amount_words,
    by_length,
)
from maglia.files.workshop.store import Workshop

AccountSort = Literal["outside", "bench", "lot", "plan", "build", "lost"]
EventSort = Literal[
    "bought", "counted", "reserve", "release", "cut", "use", "return", "spoilt", "reversal"
]


class Account(NamedTuple):
    """Where an amount lies. A lot is one length, of one part, under a name of its own; what is laid
    out is so for a `day` or a `build`, and if it is a length it was or will be the lot `lot`. Chain
    that was entered as a length keeps that (`measured_um`), less the links that are off it since.
    """

    sort: AccountSort
    part: str = ""
    name: str = ""
    first_phase: int = 0
    day: str = ""
    build: int = 0
    lot: str = ""
    measured_um: int = 0
    links_off: int = 0


OUTSIDE, BENCH, LOST = Account("outside"), Account("bench"), Account("lost")
BY_HAND = Account("build", name="by hand")
COLUMNS = ", ".join(Account._fields)


def _columns(alias: str) -> str:
    return ", ".join(f"{alias}.{name}" for name in Account._fields)


def made_in(build: int) -> Account:
    """What was cut for a build, and when it is finished all that it took."""
    return Account("build", name=f"build {build}", build=build)


class Movement(NamedTuple):
    """An amount of a part from one account to another. From or to outside, of a length: what it was
    measured to be, 0 if it was counted in links."""

    part: str
    amount: int
    source: Account
    target: Account
    measured_um: int | None = None


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
    measures = (_measured(database, one) for one in movements if one.measured_um is not None)
    measured_um = next(measures, 0)
    event = database.execute(
        "INSERT INTO event(at, sort, plan, reverses, note, measured_um) VALUES(?, ?, ?, ?, ?, ?)",
        (at, sort, plan, reverses, note, measured_um),
    ).lastrowid
    assert event is not None
    for one in movements:
        _move(database, event, one)
    return event


def _move(database: sqlite3.Connection, event: int, one: Movement) -> None:
    part, amount, source, target, measured_um = one
    within = OUTSIDE not in (source, target)
    ends = (_account(database, source), _account(database, target, amount if within else 0))
    try:
        row = (event, part, amount, *ends)
        database.execute("INSERT INTO movement VALUES(?, ?, ?, ?, ?)", row)
    except sqlite3.IntegrityError as fault:
        if "overdraft" not in str(fault):
            raise
        has = _amount(database, ends[0], part)
        where = source.name or source.sort
        name = name_of(database, part)
        raise DomainError(f"{where} has {has} of “{name}”, and {amount} are wanted") from None
    if within:
        off = "UPDATE account SET links_off = links_off + ? WHERE id = ? AND measured_um <> 0"
        database.executemany(off, ((amount, ends[0]), (-amount, ends[1])))
    elif measured_um is not None:
        new = ("UPDATE account SET measured_um = ?, links_off = links_off * ? "
               "WHERE id IN (?, ?) AND sort = 'lot'")  # fmt: skip
        database.execute(new, (measured_um, measured_um == 0, *ends))


def name_of(database: sqlite3.Connection, part: str) -> str:
    """What the tray calls a part; its id if it has none of it."""
    row = database.execute("SELECT json_extract(data, '$.name') FROM kept WHERE sort = 'part' "
                           "AND id = ?", (part,)).fetchone()  # fmt: skip
    return str(row[0]) if row else part


def _measured(database: sqlite3.Connection, one: Movement) -> int:
    """What an event keeps of a measure: the new one, or the one that a count in links replaces,
    below zero."""
    if one.measured_um:
        return one.measured_um
    lot = one.target if one.source == OUTSIDE else one.source
    row = database.execute("SELECT measured_um FROM account WHERE sort = ? AND part = ? "
                           "AND name = ?", lot[:3]).fetchone()  # fmt: skip
    return -int(row[0]) if row else 0


def _account(database: sqlite3.Connection, account: Account, comes: int = 0) -> int:
    """The number of an account, made if it is new; `comes` is what moves into it at once."""
    found = database.execute(
        "SELECT id FROM account WHERE sort = ? AND part = ? AND name = ?", account[:3]
    ).fetchone()
    if found is not None:
        return int(found[0])
    holes = ", ".join("?" * len(account))
    if account.measured_um:
        account = account._replace(links_off=account.links_off + comes)
    made = database.execute(f"INSERT INTO account({COLUMNS}) VALUES({holes})", account)
    assert made.lastrowid is not None
    return made.lastrowid


def _amount(database: sqlite3.Connection, account: int, part: str) -> int:
    found = database.execute(
        "SELECT amount FROM balance WHERE account = ? AND part = ?", (account, part)
    ).fetchone()
    return int(found[0]) if found else 0


def reverse(
    workshop: Workshop, event: int, at: str, note: str = "", *, build: int | None = None
) -> int:
    """Take an event back by another one, once; what a day or a build did only for that `build`.
    Raises DomainError naming the later event that has used what it brought."""
    with workshop.changing() as database:
        known = database.execute(
            "SELECT sort, measured_um FROM event WHERE id = ?", (event,)
        ).fetchone()
        if known is None:
            raise DomainError(f"there is no event {event}")
        if known[0] == "reversal":
            raise DomainError(f"event {event} is itself a reversal: record what is so instead")
        if database.execute("SELECT 1 FROM event WHERE reverses = ?", (event,)).fetchone():
            raise DomainError(f"event {event} is reversed already")
        moved = movements(database, event)
        _refuse_others(moved, build)
        before = None if not known[1] else max(-known[1], 0)  # the measure that it replaced
        back = [_back(database, event, one, before) for one in reversed(moved)]
        try:
            number = _insert(database, "reversal", back, at, note=note, reverses=event)
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
        _join_again(database, moved)
        return number


def _refuse_others(moved: Sequence[Movement], build: int | None) -> None:
    """What is of a day or a build is taken back there, where all that goes with it is."""
    for one in moved:
        for account in (one.source, one.target):
            if account.day and build is None:
                raise DomainError("it was laid out for a day: G in Count gives it up")
            if account.build and account.build != build:
                raise DomainError(f"it is of build {account.build}: Make takes it back there")


def _back(database: sqlite3.Connection, event: int, one: Movement, before: int | None) -> Movement:
    """A movement the other way. Of a length that was entered as such, and that nothing was taken
    from, all goes back, as its links may be counted by another pitch since."""
    outside, amount = OUTSIDE in (one.source, one.target), one.amount
    if one.target.measured_um and not outside:
        number = _account(database, one.target)
        taken = database.execute(
            "SELECT 1 FROM movement m JOIN event e ON e.id = m.event "
            "JOIN account t ON t.id = m.target WHERE m.source = ? AND e.id > ? "
            "AND t.sort <> 'outside' AND e.reverses IS NULL "
            "AND NOT EXISTS(SELECT 1 FROM event r WHERE r.reverses = e.id)", (number, event),
        ).fetchone()  # fmt: skip
        amount = amount if taken else _amount(database, number, one.part) or amount
    return Movement(one.part, amount, one.target, one.source, before if outside else None)


def _join_again(database: sqlite3.Connection, moved: Sequence[Movement]) -> None:
    """A length that was entered as such and is whole again lacks what it lacked before it was cut:
    what its rest lacks, less the piece and the link of the cut."""
    for rest in moved:
        if rest.target.measured_um and rest.source.measured_um:
            gone = sum(one.amount for one in moved if one.source == rest.source and one != rest)
            row = (rest.target.links_off - gone, _account(database, rest.source))
            database.execute("UPDATE account SET links_off = ? WHERE id = ?", row)


def return_cut(workshop: Workshop, event: int, at: str) -> int:
    """What an event cut from a length comes back as a length of its own, in the phase that it was
    cut at. Returns the number of the event that says so."""
    with workshop.changing() as database:
        part, amount, source, used, _ = movements(database, event)[0]
        lot = Account("lot", part, free_lot(workshop, part, "off-cut"), source.first_phase)
        return _insert(database, "return", [Movement(part, amount, used, lot)], at)


def movements(database: sqlite3.Connection, event: int) -> list[Movement]:
    """What an event moved, in order."""
    rows = database.execute(
        f"SELECT m.part, m.amount, {_columns('s')}, {_columns('t')} "
        "FROM movement m JOIN account s ON s.id = m.source "
        "JOIN account t ON t.id = m.target WHERE m.event = ? ORDER BY m.rowid",
        (event,),
    )
    ends = 2 + len(Account._fields)
    return [Movement(row[0], row[1], Account(*row[2:ends]), Account(*row[ends:])) for row in rows]


def balances(workshop: Workshop) -> dict[tuple[Account, str], int]:
    """What lies where, accounts that are empty left out."""
    rows = workshop.database.execute(
        f"SELECT {_columns('a')}, b.part, b.amount FROM balance b "
        "JOIN account a ON a.id = b.account WHERE b.amount <> 0 ORDER BY a.id, b.part"
    )
    return {(Account(*row[:-2]), row[-2]): row[-1] for row in rows}


def lying(workshop: Workshop, day: str = "", builds: Collection[int] = ()) -> dict[str, Lying]:
    """What lies on the bench, by part. What is laid out for a day or for builds lies there for who
    makes them."""
    bags: Counter[str] = Counter()
    laid_out: Counter[str] = Counter()
    lots: dict[str, list[Lot]] = {}
    for (account, part), amount in balances(workshop).items():
        ours = account.build in builds or (account.day == day and day != "")
        if account.sort == "lot":
            lots.setdefault(part, []).append(Lot(account.name, amount, account.first_phase))
        elif account.sort == "plan" and ours and account.lot:
            lots.setdefault(part, []).append(Lot(account.lot, amount, account.first_phase))
        elif account.sort == "bench" or (account.sort == "plan" and ours):
            bags[part] += amount
        elif account.sort == "plan":
            laid_out[part] += amount
    return {
        part: Lying(bags[part], tuple(lots.get(part, ())), laid_out[part])
        for part in dict.fromkeys((*bags, *lots, *laid_out))
    }


def do(workshop: Workshop, part: Part, deed: Deed, at: str) -> int:
    """Record a deed as one event. Raises DomainError naming what cannot be."""
    there = lots_of(workshop, part.id) if by_length(part) else {BENCH: bag_of(workshop, part.id)}
    moves = _moves(part, deed, there, _taken(workshop, part.id))
    if not moves:
        raise DomainError(f"that is what is on record already: {amount_words(part, deed.amount)}")
    return record(workshop, deed.sort, moves, at, note=as_plain(deed.note))


def do_all(workshop: Workshop, deeds: Sequence[tuple[Part, Deed]], at: str) -> None:
    """Record many deeds as one event, all or none; what is on record already is passed over."""
    moves: list[Movement] = []
    sorts: set[EventSort] = set()
    for part, deed in deeds:
        long = by_length(part)
        there = lots_of(workshop, part.id) if long else {BENCH: bag_of(workshop, part.id)}
        moves += _moves(part, deed, there, _taken(workshop, part.id) if long else frozenset())
        sorts.add(deed.sort)
    if moves:
        record(workshop, sorts.pop() if len(sorts) == 1 else "counted", moves, at)


def bag_of(workshop: Workshop, part: str) -> int:
    """How many of a part lie loose."""
    return sum(_held(workshop, part, "bench").values())


def lots_of(workshop: Workshop, part: str) -> dict[Account, int]:
    """The lengths of a part that lie on the bench."""
    return _held(workshop, part, "lot")


def _held(workshop: Workshop, part: str, sort: AccountSort) -> dict[Account, int]:
    rows = workshop.database.execute(
        f"SELECT {_columns('a')}, b.amount FROM account a JOIN balance b ON b.account = a.id "
        "WHERE b.part = ? AND b.amount <> 0 AND a.sort = ? ORDER BY a.id", (part, sort),
    )  # fmt: skip
    return {Account(*row[:-1]): row[-1] for row in rows}


def _moves(
    part: Part, deed: Deed, there: Mapping[Account, int], taken: frozenset[str]
) -> list[Movement]:
    ref, amount = part.id, deed.amount
    if not amount and deed.sort != "counted":
        raise DomainError("say how many, above zero")
    if amount > MOST:
        raise DomainError(f"{amount_words(part, amount)} are more than any bench holds")
    if deed.sort == "bought":
        name = _free_name(deed.called or deed.lot, taken)
        to = Account("lot", ref, name, deed.first_phase) if by_length(part) else BENCH
        return [Movement(ref, amount, OUTSIDE, to, deed.measured_um)]
    place, has = _place(part, deed, there, taken)
    if deed.sort == "counted":
        ends = (OUTSIDE, place) if amount > has else (place, OUTSIDE)
        moved = Movement(ref, abs(amount - has), *ends, deed.measured_um)
        return [moved] if amount != has else []
    if amount > has:
        where = f"“{place.name}”" if place.name else "the bag"
        raise DomainError(
            f"{where} holds {amount_words(part, has)}, and {amount_words(part, amount)} are wanted"
        )
    if deed.sort != "cut":
        return [Movement(ref, amount, place, LOST if deed.sort == "spoilt" else BY_HAND)]
    rest = Account("lot", ref, _free_name(deed.called or "off-cut", taken))
    return cut_moves(part, amount, place, has, BY_HAND, rest)


def cut_moves(
    part: Part, amount: int, source: Account, has: int, to: Account, rest: Account
) -> list[Movement]:
    """What a cut moves: the piece, the link that goes with it if something is left of a chain that
    does not open, and the rest under an account like `rest`, in its phase."""
    lost = int(isinstance(part, Chain) and not part.openable and amount < has)
    left = has - amount - lost
    found = [Movement(part.id, amount, source, to)]
    found += [Movement(part.id, lost, source, LOST)] if lost else []
    if left:
        pattern = len(part.pitches_mm or (0,)) if isinstance(part, Chain) else 1
        rest = rest._replace(
            first_phase=(source.first_phase + amount + lost) % pattern,
            measured_um=source.measured_um,
            links_off=source.links_off + amount + lost if source.measured_um else 0,
        )
        found.append(Movement(part.id, left, source, rest))
    return found


def gives(part: Part, has: int, amount: int) -> bool:
    """Whether a length gives a piece: whole, or with the link that a cut costs."""
    lost = int(isinstance(part, Chain) and not part.openable)
    return has == amount or has >= amount + lost


def measure_anew(workshop: Workshop, before: Chain, after: Chain, at: str) -> None:
    """Lengths that were entered as such have other numbers of links once the pitch of their chain
    is known otherwise; what was counted in links stays."""
    out: list[Movement] = []
    for (account, ref), amount in balances(workshop).items():
        if ref != after.id or not account.measured_um:
            continue
        whole = amount_of_mm(after, account.measured_um / 1000)
        links = amount if whole is None else max(whole - account.links_off, 0)
        if links > amount:
            out.append(Movement(ref, links - amount, OUTSIDE, account))
        elif links < amount:
            out.append(Movement(ref, amount - links, account, OUTSIDE))
    if out:
        note = f"as measured, by a pitch of {_pitch(after)} for {_pitch(before)} mm"
        record(workshop, "counted", out, at, note=note)


def _pitch(chain: Chain) -> str:
    return " ".join(f"{mm:.4g}" for mm in chain.pitches_mm or ()) or "?"


def _place(
    part: Part, deed: Deed, there: Mapping[Account, int], taken: frozenset[str]
) -> tuple[Account, int]:
    """The bag, or the lot that is meant: by name, or the only one."""
    if not by_length(part):
        return BENCH, there.get(BENCH, 0)
    named = [own for own in there.items()
             if not deed.lot or own[0].name.lower() == deed.lot.lower()]  # fmt: skip
    if len(named) == 1:
        return named[0]
    if deed.sort == "counted" and (deed.lot or not there):
        return Account("lot", part.id, _free_name(deed.lot, taken), deed.first_phase), 0
    names = ", ".join(f"“{lot.name}”" for lot in there) or "none"
    raise DomainError(f"say which length: there is {names}")


def _taken(workshop: Workshop, part: str) -> frozenset[str]:
    """Names that lengths of a part bear or bore, those that are laid out too."""
    rows = workshop.database.execute(
        "SELECT name FROM account WHERE sort = 'lot' AND part = ? UNION "
        "SELECT lot FROM account WHERE sort = 'plan' AND part = ? AND lot <> ''", (part, part),
    )  # fmt: skip
    return frozenset(name.lower() for (name,) in rows)


def _free_name(wanted: str, taken: frozenset[str]) -> str:
    """A name no length of the part bears yet: as wanted, else lot 1, lot 2 and so on."""
    wanted = as_plain(wanted)[:120]
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
    name = as_plain(name)[:120]
    if name.lower() in _taken(workshop, part):
        raise DomainError(f"a length of it is or was called “{name}” already")
    with workshop.changing() as database:
        row = (name, part, lot)
        database.execute("UPDATE account SET name = ? WHERE sort = 'lot' AND part = ? AND name = ?",
                         row)  # fmt: skip


class Event(NamedTuple):
    """What happened to one part: the event's number, time, sort and note; what came to the maker's
    accounts of it (less what left them); the length it was entered as, if it was one; whether it
    was taken back."""

    id: int
    at: str
    sort: EventSort
    note: str
    amount: int
    measured_um: int
    reversed: bool


def events_of(workshop: Workshop, part: str, most: int = 50) -> tuple[Event, ...]:
    """The latest events of a part, newest first."""
    rows = workshop.database.execute(
        "SELECT e.id, e.at, e.sort, e.note, "
        "sum(m.amount * ((t.sort IN ('bench', 'lot')) - (s.sort IN ('bench', 'lot')))), "
        "e.measured_um, EXISTS(SELECT 1 FROM event r WHERE r.reverses = e.id) "
        "FROM movement m JOIN event e ON e.id = m.event JOIN account s ON s.id = m.source "
        "JOIN account t ON t.id = m.target WHERE m.part = ? "
        "GROUP BY e.id ORDER BY e.id DESC LIMIT ?",
        (part, most),
    )
    return tuple(Event._make((*row[:-1], bool(row[-1]))) for row in rows)


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
