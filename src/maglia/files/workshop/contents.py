"""What a workshop knows: parts, units, wearers and forms as records, rules, minutes and rates as
named values; and the whole of it as JSON, out and in.
"""

import json
import sqlite3
from collections.abc import Iterable
from contextlib import suppress
from pathlib import Path
from typing import Annotated, Any, Literal

import msgspec
from msgspec import Meta, field

from maglia.core.parts.parts import Chain, Part
from maglia.core.parts.units import Unit
from maglia.core.piece.corrections import Correction
from maglia.core.piece.piece import Form, Piece, Wearer
from maglia.core.values.record import DomainError, Name, Record, Text, Value, in_words
from maglia.core.values.rules import Rules, changed_rules, rules_from
from maglia.files import disk
from maglia.files.piece_json import plain
from maglia.files.workshop import builds, day_stock, log, soundness, stock
from maglia.files.workshop.builds import Exported
from maglia.files.workshop.store import Workshop

Kept = Part | Unit | Wearer | Form
Sort = Literal["part", "unit", "wearer", "form"]
SORTS: dict[Sort, Any] = {"part": Part, "unit": Unit, "wearer": Wearer, "form": Form}
SETTINGS = ("about", "rule", "minutes", "rate")


class Change(Value, frozen=True):
    """What is kept under an id before and after; None where it is not kept."""

    sort: Sort
    id: str
    before: Kept | None
    after: Kept | None

    def back(self) -> "Change":
        return Change(self.sort, self.id, self.after, self.before)


def sort_of(record: Kept) -> Sort:
    """What sort of record it is."""
    if isinstance(record, Wearer):
        return "wearer"
    if isinstance(record, Form):
        return "form"
    return "unit" if isinstance(record, Unit) else "part"


def id_of(record: Part | Unit | Wearer) -> str:
    """What a record is kept under: a wearer under its role."""
    return record.role if isinstance(record, Wearer) else record.id


def is_empty(workshop: Workshop) -> bool:
    """Whether nothing was ever kept or recorded in it."""
    tables = ("kept", "setting", "event", "account", "piece", "build",
              "correction")  # fmt: skip
    return not any(
        workshop.database.execute(f"SELECT 1 FROM {table} LIMIT 1").fetchone() for table in tables
    )


def added(record: Part | Unit | Wearer) -> Change:
    """The change that keeps a new record."""
    return Change(sort_of(record), id_of(record), None, record)


def keep(workshop: Workshop, sort: Sort, name: str, record: Kept) -> None:
    """Keep a record under its id, or in the place of the one of that id."""
    change(workshop, [Change(sort, name, None, record)])


def change(workshop: Workshop, changes: Iterable[Change], at: str = "") -> None:
    """Keep and forget records, all or none. Chain whose pitch is known otherwise is measured anew:
    see `stock.measure_anew`."""
    with workshop.changing() as database:
        for one in changes:
            before, after = one.before, one.after
            if isinstance(before, Chain) and isinstance(after, Chain) and (
                    before.pitches_mm != after.pitches_mm):  # fmt: skip
                stock.measure_anew(workshop, before, after, at)
            if one.after is None:
                database.execute("DELETE FROM kept WHERE sort = ? AND id = ?", (one.sort, one.id))
            else:
                _keep(database, one.sort, one.id, one.after)


def _keep(database: sqlite3.Connection, sort: Sort, name: str, record: Kept) -> None:
    text = json.dumps(plain(record), ensure_ascii=False)
    database.execute(
        "INSERT INTO kept VALUES(?, ?, ?) ON CONFLICT DO UPDATE SET data = excluded.data",
        (sort, name, text),
    )


def kept(workshop: Workshop, sort: Sort) -> dict[str, Any]:
    """All records of a sort by their id, in the order in which they were first kept."""
    rows = workshop.database.execute(
        "SELECT id, data FROM kept WHERE sort = ? ORDER BY rowid", (sort,)
    )
    found = {}
    for name, data in rows:
        with suppress(msgspec.MsgspecError):  # a row that cannot be read costs itself: see faults
            found[name] = msgspec.json.decode(data, type=SORTS[sort])
    return found


def faults(workshop: Workshop) -> list[str]:
    """What of the records cannot be read any more, and is left out."""
    found = soundness.set_aside(workshop.database)
    for sort, name, data in workshop.database.execute("SELECT sort, id, data FROM kept"):
        try:
            msgspec.json.decode(data, type=SORTS[sort])
        except msgspec.MsgspecError as fault:
            found.append(f"the {sort} “{name}” is not sound ({in_words(fault)})")
    return found


def set_value(workshop: Workshop, sort: str, name: str, value: object) -> None:
    """Set a rule, a figure of minutes, a rate, or what is said about the workshop."""
    with workshop.changing() as database:
        _set(database, sort, name, value)


def _set(database: sqlite3.Connection, sort: str, name: str, value: object) -> None:
    database.execute(
        "INSERT INTO setting VALUES(?, ?, ?) ON CONFLICT DO UPDATE SET value = excluded.value",
        (sort, name, json.dumps(value, ensure_ascii=False)),
    )


def values(workshop: Workshop, sort: str) -> dict[str, Any]:
    """All values of a sort by name."""
    rows = workshop.database.execute(
        "SELECT name, value FROM setting WHERE sort = ? ORDER BY name", (sort,)
    )
    found = {}
    for name, value in rows:
        with suppress(ValueError):
            found[name] = json.loads(value)
    return found


def rules(workshop: Workshop) -> Rules:
    """The maker's rules; what she has not set is as usual."""
    return rules_from(values(workshop, "rule"))


def set_rules(workshop: Workshop, new: Rules) -> None:
    """Keep what of the rules is not as usual."""
    with workshop.changing() as database:
        database.execute("DELETE FROM setting WHERE sort = 'rule'")
        for name, value in changed_rules(new).items():
            _set(database, "rule", name, value)


NOTE_PIECE = "INSERT OR REPLACE INTO piece(place, name, things, piece_id) VALUES(?, ?, ?, ?)"


def note_piece(
    workshop: Workshop, place: str, name: str, things: Iterable[str], piece_id: str = ""
) -> None:
    """Note what a saved piece is made of, for “stands in”, and which one it is."""
    row = (place, name, json.dumps(sorted(things), ensure_ascii=False), piece_id)
    with workshop.changing() as database:
        database.execute(NOTE_PIECE, row)


def places_of(workshop: Workshop, piece_id: str) -> tuple[str, ...]:
    """Where a piece was saved."""
    rows = workshop.database.execute("SELECT place FROM piece WHERE piece_id = ?", (piece_id,))
    return tuple(place for (place,) in rows) if piece_id else ()


class Saved(Value, frozen=True):
    """A piece that was saved: its file (or the name of a demo piece), its name, what it is of."""

    place: str
    name: str
    things: frozenset[str]
    piece_id: str = ""


def saved_pieces(workshop: Workshop) -> tuple[Saved, ...]:
    rows = workshop.database.execute(
        "SELECT place, name, things, piece_id FROM piece ORDER BY name, place"
    )
    return tuple(Saved(place, name, _ids(ids), own) for place, name, ids, own in rows)


def _ids(text: str) -> frozenset[str]:
    try:
        return msgspec.json.decode(text, type=frozenset[str])
    except msgspec.MsgspecError:
        return frozenset()


# --- the whole as JSON ----------------------------------------------------------------------------

EVENT = "id, at, sort, plan, reverses, note, measured_um"
Whole = Annotated[int, Meta(ge=1, le=2**53)]
Scalar = str | int | float | bool | None


class _Account(Record, frozen=True, kw_only=True):
    id: Whole
    sort: Literal["outside", "bench", "lot", "plan", "build", "lost"]
    part: Text = ""
    name: Text = ""
    first_phase: Annotated[int, Meta(ge=0, le=1000)] = 0
    day: Text = ""
    build: Annotated[int, Meta(ge=0, le=2**53)] = 0
    lot: Text = ""
    measured_um: Annotated[int, Meta(ge=0, le=2**53)] = 0
    links_off: Annotated[int, Meta(ge=0, le=2**53)] = 0


class _Movement(Record, frozen=True, kw_only=True):
    part: Text
    amount: Whole
    source: Whole
    target: Whole


class _Event(Record, frozen=True, kw_only=True):
    id: Whole
    at: Text
    sort: Literal[
        "bought", "counted", "reserve", "release", "cut", "use", "return", "spoilt", "reversal"
    ]
    plan: Text = ""
    reverses: Whole | None = None
    note: Text = ""
    measured_um: Annotated[int, Meta(ge=-(2**53), le=2**53)] = 0
    movements: tuple[_Movement, ...]


class _Named(Record, frozen=True, kw_only=True):
    id: Name
    form: Form


class _Piece(Record, frozen=True, kw_only=True):
    place: Text
    name: Text
    things: tuple[Text, ...] = ()
    piece_id: Text = ""


class _DayPiece(Record, frozen=True, kw_only=True):
    copies: Annotated[int, Meta(ge=1, le=1000)] = 1
    piece: Piece


class _Day(Record, frozen=True, kw_only=True):
    id: Text
    at: Text
    ended: Text = ""
    pieces: tuple[_DayPiece, ...] = ()


class WholeWorkshop(Record, frozen=True, kw_only=True):
    """A workshop as a file of its own. Version 2 has days, and says of accounts whose they are."""

    format: Literal["maglia-workshop"]
    version: Literal[1, 2]
    parts: tuple[Part, ...] = ()
    units: tuple[Unit, ...] = ()
    wearers: tuple[Wearer, ...] = ()
    forms: tuple[_Named, ...] = ()
    pieces: tuple[_Piece, ...] = ()
    settings: dict[Literal["about", "rule", "minutes", "rate"], dict[str, Scalar]] = field(
        default_factory=dict
    )
    accounts: tuple[_Account, ...] = ()
    events: tuple[_Event, ...] = ()
    builds: tuple[Exported, ...] = ()
    corrections: tuple[Correction, ...] = ()
    days: tuple[_Day, ...] = ()


def exported(workshop: Workshop) -> str:
    """The whole workshop as JSON text; what was imported gives the same text."""
    database = workshop.database
    accounts = database.execute(f"SELECT id, {stock.COLUMNS} FROM account ORDER BY id")
    events = database.execute(f"SELECT {EVENT} FROM event ORDER BY id").fetchall()
    moved: dict[int, list[_Movement]] = {}
    for event, part, amount, source, target in database.execute(
        "SELECT event, part, amount, source, target FROM movement ORDER BY rowid"
    ):
        moved.setdefault(event, []).append(
            _Movement(part=part, amount=amount, source=source, target=target)
        )
    whole = WholeWorkshop(
        format="maglia-workshop",
        version=2,
        parts=tuple(kept(workshop, "part").values()),
        units=tuple(kept(workshop, "unit").values()),
        wearers=tuple(kept(workshop, "wearer").values()),
        forms=tuple(_Named(id=name, form=form) for name, form in kept(workshop, "form").items()),
        pieces=tuple(
            _Piece(place=own.place, name=own.name, things=tuple(sorted(own.things)),
                   piece_id=own.piece_id)
            for own in saved_pieces(workshop)
        ),
        settings={sort: found for sort in SETTINGS if (found := values(workshop, sort))},  # type: ignore[misc]
        accounts=tuple(_Account(id=own, **stock.Account(*row)._asdict())
                       for own, *row in accounts),
        events=tuple(
            _Event(**dict(zip(EVENT.split(", "), row, strict=True)),
                   movements=tuple(moved.get(row[0], ())))
            for row in events
        ),
        builds=builds.exported(workshop),
        corrections=log.corrections(workshop),
        days=tuple(_exported_day(workshop, *row) for row in database.execute(
            "SELECT id, at, ended FROM day ORDER BY at, id").fetchall()),
    )  # fmt: skip
    return json.dumps(plain(whole), indent=1, ensure_ascii=False) + "\n"


def _exported_day(workshop: Workshop, day: str, at: str, ended: str) -> _Day:
    pieces = day_stock.read_day(workshop, day).pieces
    return _Day(id=day, at=at, ended=ended, pieces=tuple(
        _DayPiece(copies=one.copies, piece=one.piece) for one in pieces))  # fmt: skip


LARGEST = 400_000_000
"""Bytes of an exported workshop: tens of thousands of builds."""


def write_whole(workshop: Workshop, path: Path) -> None:
    """Export into a file, and read that again: what is kept safe can be read back. Raises
    DomainError."""
    disk.write_atomically(path, exported(workshop))
    read_whole(path)


def read_whole(path: Path) -> WholeWorkshop:
    """An exported workshop. Raises DomainError naming what is wrong in it."""
    try:
        return msgspec.json.decode(disk.read_file(path, LARGEST), type=WholeWorkshop)
    except (msgspec.MsgspecError, UnicodeError, RecursionError) as fault:
        raise DomainError(
            f"{disk.shown(path)} is no exported workshop: {in_words(fault)}"
        ) from None


def import_whole(workshop: Workshop, whole: WholeWorkshop) -> None:
    """Fill an empty workshop. Raises DomainError, nothing imported, if it holds anything."""
    with workshop.changing() as database:
        if not is_empty(workshop):
            raise DomainError(
                f"the workshop {disk.shown(workshop.path)} is not empty: import into a new one"
            )
        records: tuple[tuple[Sort, str, Kept], ...] = (
            *(("part", part.id, part) for part in whole.parts),
            *(("unit", unit.id, unit) for unit in whole.units),
            *(("wearer", wearer.role, wearer) for wearer in whole.wearers),
            *(("form", named.id, named.form) for named in whole.forms),
        )
        seen: set[tuple[str, str]] = set()
        for sort, name, record in records:
            if (sort, name) in seen:
                raise DomainError(f"two {sort}s are called “{name}”: rename one")
            seen.add((sort, name))
            _keep(database, sort, name, record)
        for kind, own in whole.settings.items():
            for name, value in own.items():
                _set(database, kind, name, value)
        database.executemany(
            NOTE_PIECE,
            [
                (p.place, p.name, json.dumps(p.things, ensure_ascii=False), p.piece_id)
                for p in whole.pieces
            ],
        )
        _import_stock(database, whole)
        for day in whole.days:
            database.execute("INSERT INTO day VALUES(?, ?, ?)", (day.id, day.at, day.ended))
            day_stock.put_pieces(database, day.id, [(one.piece, one.copies) for one in day.pieces])
        builds.imported(workshop, whole.builds)
        for correction in whole.corrections:
            log.take(workshop, correction, "")


def _import_stock(database: sqlite3.Connection, whole: WholeWorkshop) -> None:
    try:
        fields = ("id", *stock.Account._fields)
        for account in whole.accounts:
            row = [getattr(account, name) for name in fields]
            database.execute(f"INSERT INTO account({', '.join(fields)}) "
                             f"VALUES({', '.join('?' * len(row))})", row)  # fmt: skip
        for event in whole.events:
            head = [getattr(event, name) for name in EVENT.split(", ")]
            database.execute(f"INSERT INTO event({EVENT}) VALUES({', '.join('?' * len(head))})",
                             head)  # fmt: skip
            for move in event.movements:
                moved = (event.id, move.part, move.amount, move.source, move.target)
                database.execute("INSERT INTO movement VALUES(?, ?, ?, ?, ?)", moved)
    except sqlite3.IntegrityError as fault:
        raise DomainError(f"its stock does not add up ({fault}); nothing was imported") from None
