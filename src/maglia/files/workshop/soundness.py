"""Whether a workshop file is built as it should be, and every cell of it what its column is.

What the stock is reckoned from must be whole: a backup mends that. Elsewhere a cell that is no such
thing is set aside, where it can be looked at, and a plain one takes its place: it costs itself, and
no room.
"""

import sqlite3
from collections.abc import Iterator
from datetime import datetime
from functools import cache

from maglia.files.workshop.schema import MIGRATIONS

STOCK = frozenset(("account", "event", "movement", "balance"))
KINDS = {"TEXT": ("text",), "INTEGER": ("integer",), "REAL": ("real", "integer")}
PLAIN = {"TEXT": "", "INTEGER": 0, "REAL": 0.0}
Column = tuple[str, str, bool]
"""Its name, what it holds, and whether it must hold something."""


@cache
def _columns() -> dict[str, tuple[Column, ...]]:
    """Every table of today's version."""
    with sqlite3.connect(":memory:") as database:
        database.executescript(";".join(MIGRATIONS))
        names = database.execute("SELECT name FROM sqlite_schema WHERE type = 'table'").fetchall()
        return {name: _columns_of(database, name) for (name,) in names}


def _columns_of(database: sqlite3.Connection, table: str) -> tuple[Column, ...]:
    rows = database.execute(f"PRAGMA table_info({table})").fetchall()
    return tuple((name, kind, bool(needed or key)) for _, name, kind, needed, _, key in rows)


def refuse_unsound(database: sqlite3.Connection, *, read_only: bool) -> None:
    """Look at a file of today's version. Raises sqlite3.DatabaseError if it is damaged."""
    for table, columns in _columns().items():
        if {name for name, _, _ in columns} - {name for name, *_ in _columns_of(database, table)}:
            raise sqlite3.DatabaseError(f"its table {table} is not what it should be")
    wrong = list(_wrong(database))
    if not wrong:
        return
    beyond = [one for one in wrong if read_only or one[0] in STOCK or not _has_rows(one[0])]
    if beyond:
        table, field, number, _, _ = beyond[0]
        raise sqlite3.DatabaseError(
            f"{field} of row {number} of its table {table} is no such thing"
        )
    at = datetime.now().isoformat(timespec="seconds")
    database.execute("BEGIN IMMEDIATE")
    for table, field, number, kind, value in wrong:
        row = (at, table, number, field, value)
        database.execute("INSERT INTO set_aside VALUES(?, ?, ?, ?, ?)", row)
        database.execute(f"UPDATE {table} SET {field} = ? WHERE rowid = ?", (PLAIN[kind], number))
    database.execute("COMMIT")


def _wrong(database: sqlite3.Connection) -> Iterator[tuple[str, str, int, str, str]]:
    """Cells that are not what their column is: table, field, row, kind, what stands there."""
    for table, columns in _columns().items():
        row = "rowid" if _has_rows(table) else "0"
        for name, kind, needed in columns:
            kinds = (*KINDS[kind], *(() if needed else ("null",)))
            holes = ", ".join("?" * len(kinds))
            found = database.execute(
                f"SELECT {row}, quote({name}) FROM {table} WHERE typeof({name}) NOT IN ({holes})",
                kinds,
            ).fetchall()
            yield from ((table, name, number, kind, value) for number, value in found)


@cache
def _has_rows(table: str) -> bool:
    """Whether its rows have numbers; those that have none are refused, not mended."""
    with sqlite3.connect(":memory:") as database:
        database.executescript(";".join(MIGRATIONS))
        row = database.execute("SELECT sql FROM sqlite_schema WHERE name = ?", (table,)).fetchone()
    return "WITHOUT ROWID" not in row[0]


def set_aside(database: sqlite3.Connection) -> list[str]:
    """What was set aside, in words."""
    rows = database.execute("SELECT relation, number, field, value, at FROM set_aside")
    return [f"{field} of row {number} of {table} was {value} and is set aside ({at[:10]})"
            for table, number, field, value, at in rows]  # fmt: skip
