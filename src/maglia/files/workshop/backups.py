"""Backups of a workshop, beside its file: one a day, and one before each newer version; as many as
a year needs are kept.
"""

import contextlib
import os
import sqlite3
import tempfile
import time
from datetime import date, timedelta
from pathlib import Path

KEPT_DAYS, KEPT_WEEKS, KEPT_MONTHS, MOST_BYTES = 7, 4, 12, 2_000_000_000
UNFINISHED, LONG_AGO_S = ".unfinished", 86_400


def back_up(path: Path, database: sqlite3.Connection, *, before: int | None = None) -> Path | None:
    """A copy of the file: once a day, and before it is brought to a newer version. Written by
    SQLite into a file of its own, looked at, and only then called a backup. None if today's is
    there, or another window made it meanwhile."""
    word = date.today().isoformat() + (f"-before-{before}" if before else "")
    copy = path.with_name(f"{path.stem}.backup-{word}{path.suffix}")
    _sweep(path)
    if copy.exists():
        return None
    write_copy(database, copy)
    for old in _not_kept(path):
        old.unlink(missing_ok=True)
    return copy


def _sweep(path: Path) -> None:
    """Take away copies that were never finished."""
    for own in path.parent.glob(f"{path.stem}.*{UNFINISHED}"):
        with contextlib.suppress(OSError):
            if time.time() - own.stat().st_mtime > LONG_AGO_S:
                own.unlink()


def write_copy(database: sqlite3.Connection, copy: Path) -> None:
    """All that a database holds in another file, by SQLite, whole or not at all."""
    handle, name = tempfile.mkstemp(UNFINISHED, f"{copy.stem}.", copy.parent)
    os.close(handle)
    unfinished = Path(name)
    try:
        with contextlib.closing(sqlite3.connect(unfinished)) as target:
            database.backup(target)
            if target.execute("PRAGMA quick_check(1)").fetchone() != ("ok",):
                raise sqlite3.OperationalError("the backup that was written is not whole")
        unfinished.replace(copy)
    finally:
        unfinished.unlink(missing_ok=True)


def _not_kept(path: Path) -> list[Path]:
    """Backups that go: kept is the newest of each of seven days, four weeks and twelve months, and
    those before a new version, as far as all of them are not too large."""
    newest_first = backups_of(path)[::-1]
    kept = [one for one in newest_first if "-before-" in one.name]
    for length, most in ((10, KEPT_DAYS), (0, KEPT_WEEKS), (7, KEPT_MONTHS)):
        seen: set[str] = set()
        for one in newest_first:
            day = day_of(one)
            period = day[:length] if length else "-".join(map(str, date.fromisoformat(day)
                                                              .isocalendar()[:2]))  # fmt: skip
            if period not in seen and len(seen) < most:
                seen.add(period)
                kept.append(one)
    room, going = MOST_BYTES, []
    for one in newest_first:
        room -= one.stat().st_size
        if one not in kept or (room < 0 and one is not newest_first[0]):
            going.append(one)
    return going


def day_of(backup: Path) -> str:
    """The day of a backup, as “2026-03-01”."""
    return backup.name.partition(".backup-")[2][:10]


def weekday_of(backup: Path) -> str:
    """The day of the week it was made on, as “Tuesday”."""
    return f"{date.fromisoformat(day_of(backup)):%A}"


def backups_of(path: Path) -> list[Path]:
    """The backups of a workshop file, the oldest first. One of a day to come was made by a wrong
    clock: it is not the last, but stands before all others."""
    tomorrow = (date.today() + timedelta(days=1)).isoformat()
    found = [one for one in path.parent.glob(f"{path.stem}.backup-*{path.suffix}") if _is_day(one)]
    return sorted(found, key=lambda one: (day_of(one) <= tomorrow, one.name))


def _is_day(backup: Path) -> bool:
    try:
        date.fromisoformat(day_of(backup))
    except ValueError:
        return False
    return True
