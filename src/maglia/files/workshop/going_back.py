"""Going back to a backup: nothing of what is there now is lost by it."""

import contextlib
import sqlite3
from pathlib import Path

from maglia.core.values.record import DomainError
from maglia.files import disk
from maglia.files.workshop.backups import write_copy
from maglia.files.workshop.store import (
    Held,
    Workshop,
    beside,
    connected,
    looked_at,
    open_workshop,
    private,
    said,
)


def put_back(path: Path, backup: Path) -> Path | None:
    """The workshop in a file as a backup has it. What was there is a file beside it: of a sound one
    a copy, NAME.before-going-back; one that cannot be read here itself with its write-ahead log,
    NAME.unreadable.
    Returns that, None if nothing was there. The backup is looked at first. Raises DomainError,
    nothing changed."""
    with said(backup), contextlib.closing(connected(backup, "ro&immutable=1")) as source:
        if not looked_at(backup, source):
            raise DomainError(f"{disk.shown(backup)} holds nothing")
        if not path.exists():
            _put_in_place(path, backup)
            return None
        if not _is_sound(path):
            return _instead_of_the_broken(path, backup)
        with contextlib.closing(open_workshop(path, make=False)) as now:
            return _over(now, source)


def _is_sound(path: Path) -> bool:
    """Looked at without touching it: to open a broken one would spoil its write-ahead log."""
    try:
        open_workshop(path, to_read=True).close()
    except Held:
        raise
    except DomainError:
        return False
    return True


def _over(now: Workshop, source: sqlite3.Connection) -> Path:
    """Over a sound one, as one change of it that other windows see."""
    if now.read_only:
        raise DomainError(f"the workshop {disk.shown(now.path)} can only be read")
    with said(now.path):
        aside = disk.free_aside(now.path, "before-going-back")
        write_copy(now.database, aside)
        source.backup(now.database)
    return aside


def _instead_of_the_broken(path: Path, backup: Path) -> Path:
    aside = disk.set_aside(path)
    if aside is None:
        raise DomainError(f"{disk.shown(path)} cannot be set aside")
    for side in ("-wal", "-shm"):
        if beside(path, side).exists():
            beside(path, side).rename(beside(aside, side))
    _put_in_place(path, backup)
    return aside


def _put_in_place(path: Path, backup: Path) -> None:
    disk.write_bytes(path, backup.read_bytes())
    private(path)
