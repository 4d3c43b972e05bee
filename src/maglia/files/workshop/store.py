"""Opening a workshop file: made when it is not there, brought to today's version, backed up.

Every fault of SQLite becomes a DomainError that says what to do; a broken file is never written.
"""

import contextlib
import os
import shutil
import sqlite3
import tempfile
from collections.abc import Callable, Iterator
from datetime import date, timedelta
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from maglia.core.values.record import DomainError
from maglia.files import disk
from maglia.files.workshop.schema import APPLICATION, MIGRATIONS, VERSION
from maglia.files.workshop.soundness import refuse_unsound

KEPT_DAYS, KEPT_WEEKS, KEPT_MONTHS, MOST_BYTES = 7, 4, 12, 2_000_000_000
WAIT_S = 5.0
"""How long another window's writing is waited for."""


class Damaged(DomainError):
    """The file itself is broken: a backup may take its place. Nothing else is mended by one."""


class Workshop:
    """An open workshop. `changing()` is one change, whole or not at all."""

    def __init__(self, path: Path, database: sqlite3.Connection, *, read_only: bool) -> None:
        self.path, self.database, self.read_only = path, database, read_only
        self.copy: TemporaryDirectory[str] | None = None
        """Where it lies if it is a copy that is looked at."""

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
        if self.copy is not None:
            self.copy.cleanup()


@contextlib.contextmanager
def said(path: Path) -> Iterator[None]:
    """Turns what SQLite says into what a maker can do."""
    try:
        yield
    except (sqlite3.DatabaseError, UnicodeDecodeError) as fault:
        raise _told(path, fault) from None


def _told(path: Path, fault: sqlite3.DatabaseError | UnicodeDecodeError) -> DomainError:
    words = str(fault) if isinstance(fault, sqlite3.Error) else "what it says is no text"
    if not isinstance(fault, sqlite3.OperationalError):
        backups = backups_of(path)
        way = f"; the last backup is {backups[-1].name}" if backups else ""
        return Damaged(f"{disk.shown(path)} is no whole workshop ({words}){way}")
    if "locked" in words or "busy" in words:
        words = "another window is writing to it: try again"
    elif "full" in words:
        words = "the disk is full: make room, nothing was changed"
    elif "readonly" in words:
        words = "it can only be read"
    return DomainError(f"the workshop {disk.shown(path)}: {words}")


class _Cursor(sqlite3.Cursor):
    """Says in a maker's words what cannot be read, whenever that shows. What a statement itself
    refuses is left to who asked."""

    connection: "_Connection"

    def _mind(self, do: Callable[..., Any], *arguments: Any) -> Any:
        try:
            return do(*arguments)
        except (sqlite3.IntegrityError, sqlite3.ProgrammingError):
            raise
        except (sqlite3.DatabaseError, UnicodeDecodeError) as fault:
            raise _told(self.connection.where, fault) from None

    def execute(self, *arguments: Any) -> "_Cursor":
        self._mind(super().execute, *arguments)
        return self

    def fetchone(self) -> Any:
        return self._mind(super().fetchone)

    def fetchall(self) -> list[Any]:
        found: list[Any] = self._mind(super().fetchall)
        return found

    def __next__(self) -> Any:
        return self._mind(super().__next__)


class _Connection(sqlite3.Connection):
    where = Path()

    def cursor(self, factory: Any = _Cursor) -> Any:
        return super().cursor(factory)


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
    if read_only:
        return _opened_to_read(path)
    with said(path):
        _private(path)
        database = _connected(path, "rwc")
    try:
        with said(path):
            _prepare(path, database, read_only=False)
    except DomainError:
        database.close()
        raise
    return Workshop(path, database, read_only=False)


def _connected(path: Path, mode: str) -> sqlite3.Connection:
    place = f"{path.resolve().as_uri()}?mode={mode}"
    database = sqlite3.connect(
        place, WAIT_S, isolation_level=None, check_same_thread=False, factory=_Connection, uri=True
    )
    database.where = path
    database.text_factory = _text
    return database


def _text(data: bytes) -> str:
    """Text as it stands; what is none is seen as such, and is refused by whoever reads it."""
    return data.decode(errors="replace")


def _private(path: Path) -> None:
    """A workshop is its maker's alone: others can neither read nor write it."""
    try:
        os.close(os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600))
        if path.stat().st_uid == os.getuid():
            path.chmod(0o600)
    except OSError as error:
        raise DomainError(f"{disk.shown(path)} cannot be written: {error.strerror}") from None


def _opened_to_read(path: Path) -> Workshop:
    """To look at it only. What stands in its write-ahead log is seen as well: then it is a copy of
    both that is looked at, which goes with the window."""
    log = _beside(path, "-wal")
    with said(path):
        if not (log.exists() and log.stat().st_size):
            database = _connected(path, "ro&immutable=1")
            folder = None
        else:
            folder = TemporaryDirectory(prefix="maglia-")
            copy = Path(folder.name) / path.name
            for part in (path, log):
                shutil.copyfile(part, copy.with_name(part.name))
            database = _connected(copy, "rw")
            database.execute("PRAGMA query_only = ON")
    try:
        with said(path):
            _prepare(path, database, read_only=True)
    except DomainError:
        database.close()
        raise
    found = Workshop(path, database, read_only=True)
    found.copy = folder
    return found


def _beside(path: Path, side: str) -> Path:
    return path.with_name(path.name + side)


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
    if database.execute("PRAGMA integrity_check(1)").fetchone() != ("ok",):
        raise sqlite3.DatabaseError("it is damaged")
    database.execute("PRAGMA foreign_keys = ON")
    if read_only:
        if version < VERSION:
            raise DomainError(f"{disk.shown(path)} is of an older version and cannot be written")
        refuse_unsound(database, read_only=True)
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
    refuse_unsound(database, read_only=False)


def back_up(path: Path, database: sqlite3.Connection, *, before: int | None = None) -> Path | None:
    """A copy of the file: once a day, and before it is brought to a newer version. Written by
    SQLite into a file of its own, looked at, and only then called a backup. None if today's is
    there, or another window made it meanwhile."""
    word = date.today().isoformat() + (f"-before-{before}" if before else "")
    copy = path.with_name(f"{path.stem}.backup-{word}{path.suffix}")
    if copy.exists():
        return None
    handle, name = tempfile.mkstemp(".unfinished", f"{path.stem}.", path.parent)
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
    for old in _not_kept(path):
        old.unlink(missing_ok=True)
    return copy


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


def put_back(path: Path, backup: Path) -> None:
    """A backup in the place of a broken file, which is set aside with its write-ahead log, so that
    nothing is lost. The backup is looked at first. Raises DomainError, nothing changed."""
    with contextlib.closing(open_workshop(backup, to_read=True)):
        pass
    if path.exists() and (aside := disk.set_aside(path)) is not None:
        for side in ("-wal", "-shm"):
            if _beside(path, side).exists():
                _beside(path, side).rename(_beside(aside, side))
    elif path.exists():
        raise DomainError(f"{disk.shown(path)} cannot be set aside")
    disk.write_bytes(path, backup.read_bytes())
    _private(path)
