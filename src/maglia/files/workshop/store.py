"""Opening a workshop file: made when it is not there, brought to today's version, backed up.

Every fault of SQLite becomes a DomainError that says what to do; a broken file is never written.
"""

import contextlib
import os
import shutil
import sqlite3
from collections.abc import Callable, Iterator
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from maglia.core.values.record import DomainError
from maglia.files import disk
from maglia.files.workshop.backups import back_up, backups_of
from maglia.files.workshop.schema import APPLICATION, MIGRATIONS, VERSION
from maglia.files.workshop.soundness import refuse_unsound

WAIT_S, WINDOW_WAIT_S = 5.0, 0.1
"""How long another's writing is waited for; and in a window, which stands still meanwhile."""


class Damaged(DomainError):
    """The file itself is broken: a backup may take its place. Nothing else is mended by one."""


class Held(DomainError):
    """Another is writing to the file just now: nothing was changed, and it can be tried again."""


class Workshop:
    """An open workshop. `changing()` is one change, whole or not at all."""

    def __init__(self, path: Path, database: sqlite3.Connection, *, read_only: bool) -> None:
        self.path, self.database, self.read_only = path, database, read_only
        self.file = _file_at(path)
        self.copy: TemporaryDirectory[str] | None = None
        """Where it lies if it is a copy that is looked at."""

    @contextlib.contextmanager
    def changing(self) -> Iterator[sqlite3.Connection]:
        """A transaction. Raises DomainError, nothing changed, if it cannot be written. Within a
        larger change it is a part that is whole or not at all, too."""
        if self.read_only:
            raise DomainError(f"the workshop {disk.shown(self.path)} can only be read here")
        if self.is_replaced:
            raise DomainError(
                f"another file has taken the place of the workshop {disk.shown(self.path)}: it is "
                "opened anew, do it again then"
            )
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

    @property
    def is_replaced(self) -> bool:
        """Whether the file that is open lies here no more: a backup was put in its place."""
        return self.copy is None and _file_at(self.path) != self.file

    def wait_no_longer_than(self, seconds: float) -> None:
        """How long a change waits for another's writing from now on."""
        self.database.execute(f"PRAGMA busy_timeout = {seconds * 1000:.0f}")

    def version(self) -> int:
        """Another number after another window has written. Raises DomainError."""
        with said(self.path):
            (number,) = self.database.execute("PRAGMA data_version").fetchone()
        return int(number)

    def close(self) -> None:
        self.database.close()
        if self.copy is not None:
            self.copy.cleanup()


def _file_at(path: Path) -> tuple[int, int] | None:
    """Which file lies there, whatever it holds."""
    try:
        about = path.stat()
    except OSError:
        return None
    return about.st_dev, about.st_ino


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
        return Held(f"another window is writing to the workshop {disk.shown(path)}: try again")
    if "full" in words:
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


def open_workshop(
    path: Path, *, make: bool = True, to_read: bool = False, anew: bool = False
) -> Workshop:
    """The workshop in a file; `to_read` only to look at it, as is done where it cannot be written.
    One that is gone though backups of it lie there is not begun again unawares, but `anew`.
    Raises DomainError for what is none, is broken, or is of a newer version."""
    if not path.exists():
        if backups_of(path) and not anew:
            raise Damaged(f"the workshop {disk.shown(path)} is gone, and backups of it are there")
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
        private(path)
        database = connected(path, "rwc")
    try:
        with said(path):
            _prepare(path, database, read_only=False)
    except DomainError:
        database.close()
        raise
    return Workshop(path, database, read_only=False)


def connected(path: Path, mode: str) -> sqlite3.Connection:
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


def private(path: Path) -> None:
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
    log = beside(path, "-wal")
    with said(path):
        if not (log.exists() and log.stat().st_size):
            database = connected(path, "ro&immutable=1")
            folder = None
        else:
            folder = TemporaryDirectory(prefix="maglia-")
            copy = Path(folder.name) / path.name
            for part in (path, log):
                shutil.copyfile(part, copy.with_name(part.name))
            database = connected(copy, "rw")
            database.execute("PRAGMA query_only = ON")
    try:
        with said(path):
            _prepare(path, database, read_only=True)
    except DomainError:
        database.close()
        if folder is not None:
            folder.cleanup()
        raise
    found = Workshop(path, database, read_only=True)
    found.copy = folder
    return found


def beside(path: Path, side: str) -> Path:
    return path.with_name(path.name + side)


def looked_at(path: Path, database: sqlite3.Connection) -> int:
    """The version of a workshop file, 0 for a new one. Raises DomainError for what is none, is of a
    newer version or damaged."""
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
    return int(version)


def _prepare(path: Path, database: sqlite3.Connection, *, read_only: bool) -> None:
    version = looked_at(path, database)
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
