"""A day laid out in the stock: counted parts and whole lengths, reserved for it by its id, so that
a build of one of its pieces finds them, and what is not used comes back as it was.
"""

import sqlite3
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError
from maglia.files.piece_json import piece_from, piece_text
from maglia.files.workshop import stock
from maglia.files.workshop.stock import BENCH, Account, Movement
from maglia.files.workshop.store import Workshop


class DayPiece(NamedTuple):
    """A piece of a day and how many of it; how many of those are in the making, and how many were
    ended."""

    piece: Piece
    copies: int
    begun: int = 0
    ended: int = 0


class Day(NamedTuple):
    """A day that is laid out: its id, when that was, its pieces."""

    id: str
    at: str
    pieces: tuple[DayPiece, ...]


# --- which days -----------------------------------------------------------------------------------


def open_days(workshop: Workshop) -> tuple[str, ...]:
    """The days that are laid out, the latest first."""
    rows = workshop.database.execute(
        "SELECT id FROM day WHERE ended = '' ORDER BY at DESC, id DESC"
    )
    return tuple(day for (day,) in rows)


def read_day(workshop: Workshop, day: str) -> Day:
    """A day with its pieces. Raises DomainError if it is not there or not sound."""
    row = workshop.database.execute("SELECT at FROM day WHERE id = ?", (day,)).fetchone()
    if row is None:
        raise DomainError(f"there is no day {day}")
    ended = _builds(workshop, day, "ended <> ''")
    begun = _builds(workshop, day, "ended = ''")
    rows = workshop.database.execute(
        "SELECT piece, copies, piece_id FROM day_piece WHERE day = ? ORDER BY number", (day,)
    ).fetchall()
    return Day(day, row[0], tuple(
        DayPiece(piece_from(text), copies, begun.get(ref, 0), ended.get(ref, 0))
        for text, copies, ref in rows
    ))  # fmt: skip


def _builds(workshop: Workshop, day: str, which: str) -> dict[str, int]:
    """How many builds there are of each piece of a day."""
    rows = workshop.database.execute(
        f"SELECT piece_id, count(*) FROM build WHERE day = ? AND {which} GROUP BY piece_id", (day,)
    )
    return dict(rows.fetchall())


def builds_of(workshop: Workshop, day: str) -> tuple[int, ...]:
    """The builds of a day that are in the making."""
    rows = workshop.database.execute(
        "SELECT id FROM build WHERE day = ? AND day <> '' AND ended = '' ORDER BY id", (day,)
    )
    return tuple(number for (number,) in rows)


def day_for(workshop: Workshop, piece_id: str) -> str:
    """The day, the oldest first, that a further copy of a piece is laid out for; else none."""
    row = workshop.database.execute(
        "SELECT d.id FROM day d JOIN day_piece p ON p.day = d.id "
        "WHERE d.ended = '' AND p.piece_id = ? AND ? <> '' AND p.copies > "
        "(SELECT count(*) FROM build b WHERE b.day = d.id AND b.piece_id = p.piece_id) "
        "ORDER BY d.at, d.id LIMIT 1", (piece_id, piece_id),
    ).fetchone()  # fmt: skip
    return str(row[0]) if row else ""


def day_with(workshop: Workshop, piece_id: str) -> str:
    """The day, the oldest first, that is laid out for a piece; else none."""
    row = workshop.database.execute(
        "SELECT d.id FROM day d JOIN day_piece p ON p.day = d.id "
        "WHERE d.ended = '' AND p.piece_id = ? ORDER BY d.at, d.id LIMIT 1", (piece_id,),
    ).fetchone()  # fmt: skip
    return str(row[0]) if row else ""


def keep_day(workshop: Workshop, day: str, pieces: Sequence[tuple[Piece, int]], at: str) -> None:
    """What a laid-out day is to make, as it is now. Its end is seen to: see `settle`."""
    with workshop.changing() as database:
        row = database.execute("SELECT 1 FROM day WHERE id = ?", (day,)).fetchone()
        if row is None:
            raise DomainError(f"there is no day {day}")
        database.execute("DELETE FROM day_piece WHERE day = ?", (day,))
        put_pieces(database, day, pieces)
        settle(workshop, day, at)


def put_pieces(database: sqlite3.Connection, day: str, pieces: Sequence[tuple[Piece, int]]) -> None:
    """The pieces of a day that has none yet."""
    database.executemany(
        "INSERT INTO day_piece VALUES(?, ?, ?, ?, ?)",
        [(day, number, piece.id, copies, piece_text(piece))
         for number, (piece, copies) in enumerate(pieces, 1)],
    )  # fmt: skip


# --- laying out and giving up ---------------------------------------------------------------------


def lay_out(
    workshop: Workshop, day: str, pieces: Sequence[tuple[Piece, int]], parts: Mapping[str, int],
    lots: Sequence[tuple[str, str, int]], at: str,
) -> None:  # fmt: skip
    """Reserve counted parts and whole lengths (part, name, amount), as one event; what was reserved
    for the day before is given back first. Raises DomainError, nothing changed, if something is not
    there any more."""
    with workshop.changing() as database:
        if laid_out(workshop, day):
            _give_back(workshop, day, at)
        database.execute("INSERT INTO day(id, at) VALUES(?, ?) ON CONFLICT DO UPDATE SET "
                         "at = excluded.at, ended = ''", (day, at))  # fmt: skip
        plan = Account("plan", name=f"day {day}", day=day)
        moves = [Movement(part, n, BENCH, plan) for part, n in parts.items() if n]
        number = _accounts(database, day)
        for part, name, amount in lots:
            there = stock.lots_of(workshop, part)
            lot = next((own for own, n in there.items() if (own.name, n) == (name, amount)), None)
            if lot is None:
                what = stock.name_of(database, part)
                raise DomainError(f"“{name}” of {what} is not what it was: R counts anew")
            number += 1
            aside = lot._replace(sort="plan", name=f"day {day} {number}", day=day, lot=name)
            moves.append(Movement(part, amount, lot, aside))
        stock.record(workshop, "reserve", moves, at, plan=day, note=_named(pieces))
        keep_day(workshop, day, pieces, at)


def _accounts(database: sqlite3.Connection, day: str) -> int:
    """How many accounts there are of a day: the next one gets another name."""
    row = database.execute("SELECT count(*) FROM account WHERE day = ?", (day,)).fetchone()
    return int(row[0])


def rest_of(workshop: Workshop, length: Account, lot: str) -> Account:
    """The account of what is left of a length that is laid out: it comes back as `lot`."""
    number = _accounts(workshop.database, length.day) + 1
    return length._replace(name=f"day {length.day} {number}", lot=lot)


def _named(pieces: Sequence[tuple[Piece, int]]) -> str:
    return "for " + ", ".join(f"{copies} × {piece.name}" if copies > 1 else piece.name
                              for piece, copies in pieces)  # fmt: skip


def laid_out(workshop: Workshop, day: str) -> dict[tuple[Account, str], int]:
    """What is still reserved for a day."""
    return {(account, part): n for (account, part), n in stock.balances(workshop).items()
            if account.sort == "plan" and account.day == day and day}  # fmt: skip


def give_up(workshop: Workshop, day: str, at: str) -> None:
    """What is left of a day lies on the bench again. Raises DomainError if it is not laid out."""
    if day not in open_days(workshop):
        raise DomainError("this day is not laid out")
    with workshop.changing():
        _end(workshop, day, at)


def settle(workshop: Workshop, day: str, at: str) -> bool:
    """Once every copy of a day was made or given up, what is left of it lies on the bench again.
    True if it did."""
    if not day or day not in open_days(workshop):
        return False
    left = workshop.database.execute(
        "SELECT 1 FROM day_piece p WHERE p.day = ? AND p.copies > (SELECT count(*) FROM build b "
        "WHERE b.day = p.day AND b.piece_id = p.piece_id AND b.ended <> '')", (day,),
    ).fetchone()  # fmt: skip
    if left is None and not builds_of(workshop, day):
        _end(workshop, day, at)
        return True
    return False


def _end(workshop: Workshop, day: str, at: str) -> None:
    if laid_out(workshop, day):
        _give_back(workshop, day, at)
    workshop.database.execute("UPDATE day SET ended = ? WHERE id = ?", (at, day))


def _give_back(workshop: Workshop, day: str, at: str) -> None:
    there = laid_out(workshop, day)
    lying = {(account.part, account.name) for account, _ in stock.balances(workshop)
             if account.sort == "lot"}  # fmt: skip
    moves = []
    for (account, part), n in there.items():
        if not account.lot:
            moves.append(Movement(part, n, account, BENCH))
            continue
        name = account.lot
        if (part, name) in lying:  # another length bears that name by now
            name = stock.free_lot(workshop, part, name)
        lying.add((part, name))
        to = account._replace(sort="lot", part=part, name=name, day="", lot="")
        moves.append(Movement(part, n, account, to))
    stock.record(workshop, "release", moves, at, plan=day)


def lengths_for(workshop: Workshop, day: str, part: str) -> dict[Account, int]:
    """The lengths of a part that are laid out for a day."""
    return {account: n for (account, ref), n in laid_out(workshop, day).items()
            if ref == part and account.lot}  # fmt: skip
