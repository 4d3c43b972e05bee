"""Work that is not saved yet, kept on disk: a file for each window, held by a lock while it lives.

A kept file whose lock nobody holds was cut off. Whoever finds it holds the lock in turn, so that it
is offered once, and it goes only when somebody says so or has a copy of it.
"""

import contextlib
import errno
import fcntl
import json
import os
import time
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError, Value
from maglia.files import disk
from maglia.files.piece_json import piece_from, piece_text

LARGEST = 4 * disk.LARGEST
"""Bytes: a piece as a text within a text."""
BEFORE_LOCKS = "kept-work.json"
"""Where the one kept file of an earlier version lay, beside the folder."""


class Kept(Value, frozen=True):
    """A piece, its own file if it has one, the fingerprint of what that file held when it was
    opened, and when it was kept (seconds since 1970, by a clock that may be wrong)."""

    piece: Piece
    path: Path | None = None
    print: str | None = None
    when: float = 0.0

    @property
    def clock(self) -> str:
        try:
            return time.strftime("%H:%M on %d %B", time.localtime(self.when))
        except (OverflowError, ValueError, OSError):
            return "an unknown time"


class KeptFile:
    """One kept file and its lock. Both are made by the first `write`, and go with `forget`."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._lock: int | None = None

    @classmethod
    def within(cls, folder: Path) -> "KeptFile":
        """A new one, in a folder that need not be there yet."""
        return cls(folder / f"{time.time_ns()}-{os.getpid()}-{os.urandom(4).hex()}.json")

    def hold(self) -> bool:
        """Take the lock; False if somebody holds it."""
        if self._lock is not None:
            return True
        handle = os.open(self._lock_path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            os.close(handle)
            if error.errno in (errno.EWOULDBLOCK, errno.EACCES):
                return False
            raise
        self._lock = handle
        return True

    def release(self) -> None:
        """Let the lock go and leave the file: it is found at the next start."""
        if self._lock is not None:
            os.close(self._lock)
            self._lock = None

    def write(self, kept: Kept) -> None:
        """Keep a piece. Raises DomainError if it cannot be written."""
        try:
            self.path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
            if not _own(self.path.parent):
                raise DomainError(f"{self.path.parent} is another user's")
            self.hold()
        except OSError as error:
            raise DomainError(f"{self.path.parent} cannot be written: {error.strerror}") from None
        own = str(kept.path) if kept.path else ""
        data = {"path": own, "print": kept.print, "when": kept.when}
        disk.write_atomically(self.path, json.dumps({**data, "piece": piece_text(kept.piece)}))

    def read(self) -> Kept:
        """What is kept. Raises DomainError if that cannot be read."""
        try:
            found = json.loads(disk.read_text(self.path, LARGEST))
            return _kept(found)
        except DomainError:
            raise
        except (ValueError, KeyError, TypeError, AttributeError, ArithmeticError, RecursionError):
            raise DomainError(f"{self.path.name} holds no kept work") from None

    def forget(self) -> None:
        """It is saved, or given up: the file goes first, then its lock."""
        for path in (self.path, self._lock_path):
            with contextlib.suppress(OSError):
                path.unlink(missing_ok=True)
        self.release()

    @property
    def _lock_path(self) -> Path:
        return self.path.with_suffix(".lock")


def _kept(found: dict[str, Any]) -> Kept:
    when, mark = found["when"], found.get("print")
    sound = isinstance(when, int | float) and not isinstance(when, bool) and abs(when) < 1e12
    return Kept(
        piece_from(str(found["piece"])),
        _path(found["path"]),
        mark if isinstance(mark, str) else None,
        float(when) if sound else 0.0,
    )


def _path(text: Any) -> Path | None:
    """A path that a file can have, or None."""
    if not isinstance(text, str) or not text or "\0" in text:
        return None
    try:
        os.fsencode(text)
    except UnicodeEncodeError:  # half a character
        return None
    return Path(text)


def _own(folder: Path) -> bool:
    """Whether a folder is the user's own: one in a place that all can write may be anybody's."""
    with contextlib.suppress(OSError):
        return {folder.lstat().st_uid, folder.stat().st_uid} == {os.getuid()}
    return False


def cut_off(folders: Sequence[Path]) -> tuple[list[tuple[KeptFile, Kept]], list[str]]:
    """All kept work that nobody holds, newest first, held from now on; and what could not be read
    and was set aside."""
    found: list[tuple[KeptFile, Kept]] = []
    troubles: list[str] = []
    for file in _files(folders):
        try:
            if not file.hold():
                continue
        except OSError:
            continue  # a folder in which nothing can be held: nothing of ours
        if not os.path.lexists(file.path):  # forgotten just now by its window
            file.forget()
            continue
        try:
            found.append((file, file.read()))
        except DomainError as fault:
            aside = disk.set_aside(file.path)
            where = f"set aside as {aside.name}" if aside else "left where it is"
            troubles.append(f"Kept work could not be read ({fault}); it is {where}.")
            (file.forget if aside else file.release)()
    return sorted(found, key=lambda one: -one[1].when), troubles


def _files(folders: Sequence[Path]) -> Iterator[KeptFile]:
    for folder in folders:
        if _own(folder):
            disk.sweep(folder)
            with contextlib.suppress(OSError):
                for path in sorted(folder.glob("*.json")):
                    yield KeptFile(path)
        if _own(folder.parent) and os.path.lexists(folder.parent / BEFORE_LOCKS):
            yield KeptFile(folder.parent / BEFORE_LOCKS)
