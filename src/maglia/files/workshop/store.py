"""Opening a workshop file: made when it is not there, brought to today's version, backed up.

Every fault of SQLite becomes a DomainError that says what to do; a broken file is never written.
"""

import contextlib
import os
import shutil
import sqlite3
from collections.abc import Iterator
from datetime import date
from pathlib import Path

from maglia.core.values.record import DomainError
from maglia.files import disk
from maglia.files.workshop.schema import APPLICATION, MIGRATIONS, VERSION

KEPT_BACKUPS = 7
WAIT_S = 5.0
"""How long another window's writing is waited for."""


class Workshop:
    """An open workshop. `changing()` is one change, whole or not at all."""

    def __init__(self, path: Path, database: sqlite3.Connection, *, read_only: bool) -> None:
        self.path, self.database, self.read_only = path, database, read_only

    @contextlib.contextmanager
    def changing(self) -> Iterator[sqlite3.Connection]:
        """A transaction. Raises DomainError, nothing changed, if it cannot be written. Within a
        larger change it is a part that is whole or not at all, too."""
        if self.read_only:
            raise DomainError(f"the workshop {disk.shown(self.path)} can only be read here")
        within = self.database.in_transaction
        begin, end, back = (
            ("SAVEPOINT part", "RELEASE part", "ROLLBACK TO part") if within
            else ("BEGIN IMMEDIATE", "COMMIT", "ROLLBACK")
        )  # fmt: skip
        with said(self.path):
            self.database.execute(begin)
            try:
                yield self.database
            except BaseException:
                if self.database.in_transaction:
                    self.database.execute(back)
                    if within:
                        self.database.execute(end)
                raise
            self.database.execute(end)

    def version(self) -> int:
        """Another number after another window has written. Raises DomainError."""
        with said(self.path):
            (number,) = self.database.execute("PRAGMA data_version").fetchone()
        return int(number)

    def close(self) -> None:
        self.database.close()


@contextlib.contextmanager
def said(path: Path) -> Iterator[None]:
    """Turns what SQLite says into what a maker can do."""
    try:
        yield
    except sqlite3.OperationalError as fault:
        words = str(fault)
        if "locked" in words or "busy" in words:
            words = "another window is writing to it: try again"
        elif "full" in words:
            words = "the disk is full: make room, nothing was changed"
        elif "readonly" in words:
            words = "it can only be read"
        raise DomainError(f"the workshop {disk.shown(path)}: {words}") from None
    except sqlite3.DatabaseError as fault:
        backups = backups_of(path)
        way = f"; the last backup is {backups[-1].name}" if backups else ""
        raise DomainError(f"{disk.shown(path)} is no whole workshop ({fault}){way}") from None


def open_workshop(path: Path, *, make: bool = True, to_read: bool = False) -> Workshop:
    """The workshop in a file; `to_read` only to look at it, as is done where it cannot be written.
    Raises DomainError for what is none, is broken, or is of a newer version."""
    if not path.exists():
        if not make:
            raise DomainError(f"{disk.shown(path)} does not exist")
        try:
            path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        except OSError as error:
            raise DomainError(f"{path.parent} cannot be written: {error.strerror}") from None
    elif not path.is_file():
        raise DomainError(f"{disk.shown(path)} is no file")
    writable = os.access(path, os.W_OK) and os.access(path.parent, os.W_OK)
    read_only = to_read or (path.exists() and not writable)
    with said(path):
        mode = "ro&immutable=1" if read_only else "rwc"
        place = f"{path.resolve().as_uri()}?mode={mode}"
        database = sqlite3.connect(
            place, uri=True, timeout=WAIT_S, isolation_level=None, check_same_thread=False
        )
    try:
        with said(path):
            _prepare(path, database, read_only=read_only)
    except DomainError:
        database.close()
        raise
    return Workshop(path, database, read_only=read_only)


def _prepare(path: Path, database: sqlite3.Connection, *, read_only: bool) -> None:
    (version,) = database.execute("PRAGMA user_version").fetchone()
    (application,) = database.execute("PRAGMA application_id").fetchone()
    (tables,) = database.execute("SELECT count(*) FROM sqlite_schema").fetchone()
    fresh = (application, version, tables) == (0, 0, 0)
    if not fresh and (application != APPLICATION or not version):
        raise DomainError(f"{disk.shown(path)} is no workshop: another program made it")
    if version > VERSION:
        raise DomainError(
            f"the workshop {disk.shown(path)} is of version {version}, and this program knows "
            f"versions 1 to {VERSION}: open it with a newer Maglia"
        )
    if database.execute("PRAGMA quick_check(1)").fetchone() != ("ok",):
        raise sqlite3.DatabaseError("it is damaged")
    database.execute("PRAGMA foreign_keys = ON")
    if read_only:
        if version < VERSION:
            raise DomainError(f"{disk.shown(path)} is of an older version and cannot be written")
        return
    database.execute("PRAGMA journal_mode = WAL")
    database.execute("PRAGMA synchronous = FULL")
    if version:
        back_up(path, database, before=VERSION if version < VERSION else None)
    for number, script in enumerate(MIGRATIONS[version:], version + 1):
        database.executescript(
            f"BEGIN IMMEDIATE; {script}; PRAGMA application_id = {APPLICATION}; "
            f"PRAGMA user_version = {number}; COMMIT;"
        )


def back_up(path: Path, database: sqlite3.Connection, *, before: int | None = None) -> Path | None:
    """A copy of the file: once a day, and before it is brought to a newer version. The newest
    seven are kept. None if today's is there."""
    word = date.today().isoformat() + (f"-before-{before}" if before else "")
    copy = path.with_name(f"{path.stem}.backup-{word}{path.suffix}")
    if copy.exists():
        return None
    unfinished = copy.with_suffix(".unfinished")
    with contextlib.closing(sqlite3.connect(unfinished)) as target:
        database.backup(target)
    unfinished.replace(copy)
    for old in backups_of(path)[:-KEPT_BACKUPS]:
        old.unlink(missing_ok=True)
    return copy


def backups_of(path: Path) -> list[Path]:
    """The backups of a workshop file, the oldest first."""
    return sorted(path.parent.glob(f"{path.stem}.backup-*{path.suffix}"))


def put_back(path: Path, backup: Path) -> None:
    """A backup in the place of a broken file, which is set aside. Raises DomainError."""
    for side in ("-wal", "-shm"):
        path.with_name(path.name + side).unlink(missing_ok=True)
    if path.exists() and disk.set_aside(path) is None:
        raise DomainError(f"{disk.shown(path)} cannot be set aside")
    try:
        shutil.copyfile(backup, path)
    except OSError as error:
        raise DomainError(f"{disk.shown(path)} cannot be written: {error.strerror}") from None
