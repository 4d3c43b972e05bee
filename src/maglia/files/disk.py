"""Files read with a limit and written whole: the old file stays until the new one is on disk.

A write goes through a symbolic link, keeps mode and hard links, and respects what is read-only.
What a killed writer left beside is swept away by the next write in that folder.
"""

import contextlib
import csv
import io
import os
import re
import stat
from collections.abc import Iterable
from pathlib import Path

from maglia.core.values.record import DomainError

LARGEST = 20_000_000
"""Bytes; no file that is read here comes near it."""
UNFINISHED = re.compile(r"\.maglia-(\d+)-\w+\.tmp")

BREAKS = str.maketrans("\t\r\n", "   ")


def read_file(path: Path, largest: int = LARGEST) -> bytes:
    """All of a regular file. Raises DomainError for anything else, and for one that is larger."""
    name = shown(path)
    try:
        # not waiting: a pipe nobody writes into would never open
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        with open(handle, "rb") as file:
            about = os.fstat(handle)
            if stat.S_ISDIR(about.st_mode):
                raise DomainError(f"{name} cannot be read: it is a folder")
            if not stat.S_ISREG(about.st_mode):
                raise DomainError(f"{name} cannot be read: it is not a plain file")
            data = file.read(largest + 1) if about.st_size <= largest else b"0" * (largest + 1)
    except OSError as error:
        raise DomainError(f"{name} cannot be read: {error.strerror}") from None
    except ValueError as error:
        if isinstance(error, DomainError):
            raise
        raise DomainError(f"{name} cannot be read: no file can have that name") from None
    if len(data) > largest:
        most = largest // 1_000_000
        raise DomainError(f"{name} is larger than {most} MB: it is not a file of this kind")
    return data


def read_text(path: Path, largest: int = LARGEST) -> str:
    """The same as text, UTF-8 with or without its mark."""
    try:
        return read_file(path, largest).decode("utf-8-sig")
    except UnicodeDecodeError:
        raise DomainError(f"{shown(path)} cannot be read: it is not text") from None


def shown(path: Path) -> str:
    """A file's name for a message, whatever bytes it is made of."""
    return os.fsencode(path.name or str(path)).decode("utf-8", "replace")


def print_of(path: Path) -> str | None:
    """The fingerprint of what a file holds now; None if it is gone or cannot be read."""
    import hashlib  # not before a file is opened: it is slow to load

    try:
        return hashlib.sha256(read_file(path)).hexdigest()
    except DomainError:
        return None


def free_name(path: Path, word: str) -> Path:
    """A name beside a file's that is not taken: NAME-word.json, NAME-word-2.json …"""
    for k in range(1, 1000):
        beside = path.with_name(f"{path.stem}-{word}{f'-{k}' if k > 1 else ''}{path.suffix}")
        if not os.path.lexists(beside):
            return beside
    raise DomainError(f"there are too many files called {shown(path)} and a number already")


def write_atomically(path: Path, text: str) -> None:
    """Write text to a file so that it is either the old or the new one. Raises DomainError."""
    try:
        data = text.encode()
    except UnicodeEncodeError:
        raise DomainError(f"{shown(path)} cannot be saved: a name holds half a character") from None
    write_bytes(path, data)


def write_bytes(path: Path, data: bytes) -> None:
    """The same for what is no text."""
    try:
        _write(Path(os.path.realpath(path)), data)
    except OSError as error:
        why = error.strerror or str(error)
        raise DomainError(f"{shown(path)} cannot be saved: {why}; choose another place") from None
    except ValueError:
        raise DomainError(f"{shown(path)} cannot be saved: no file can have that name") from None


def harmless(cell: object) -> object:
    """A cell that a spreadsheet would take for a formula is written as the text that it is, and
    what would break the line as a space."""
    if not isinstance(cell, str):
        return cell
    text = cell.translate(BREAKS)
    return f"'{text}" if text[:1] in ("=", "+", "-", "@") and not _is_figure(text) else text


def _is_figure(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True


def write_table(path: Path, rows: Iterable[Iterable[object]]) -> None:
    """Write rows as CSV, with the sign by which spreadsheets know it for Unicode. Raises
    DomainError."""
    table = io.StringIO(newline="")
    csv.writer(table).writerows([harmless(cell) for cell in row] for row in rows)
    write_atomically(path, "\ufeff" + table.getvalue())


def _write(target: Path, data: bytes) -> None:
    import tempfile  # not before something is written: it is slow to load

    before = _status(target)
    if before is not None and not stat.S_ISREG(before.st_mode):
        raise OSError(0, "it is not a plain file")
    if before is not None and not (before.st_mode & 0o222 and os.access(target, os.W_OK)):
        raise OSError(0, "it is read-only")
    sweep(target.parent)
    handle, name = tempfile.mkstemp(".tmp", f".maglia-{os.getpid()}-", target.parent)
    try:
        with open(handle, "wb") as out:
            out.write(data)
            out.flush()
            os.fchmod(handle, stat.S_IMODE(before.st_mode) if before else 0o666 & ~_umask())
            if before is not None:
                with contextlib.suppress(OSError):  # whose it is stays, where that is allowed
                    os.fchown(handle, before.st_uid, before.st_gid)
            os.fsync(handle)
        if before is not None and before.st_nlink > 1:
            os.replace(name, whole_of(target))
            _settle(target.parent)
            _pour(data, target)  # the other names of the same file get it too
            os.unlink(whole_of(target))
        else:
            os.replace(name, target)
        _settle(target.parent)
    finally:
        with contextlib.suppress(OSError):
            os.unlink(name)


def _status(target: Path) -> os.stat_result | None:
    try:
        return target.stat()
    except FileNotFoundError:
        return None


def whole_of(target: Path) -> Path:
    """Where a whole copy lies while a file of several names is written in place."""
    return target.with_name(f"{target.stem}.whole{target.suffix}")


def _pour(data: bytes, target: Path) -> None:
    """Write into a file as it stands."""
    with target.open("r+b") as out:
        out.write(data)
        out.truncate()
        out.flush()
        os.fsync(out.fileno())


def _settle(folder: Path) -> None:
    """A new name is on disk only when its folder is; not every file system can be asked."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def _umask() -> int:
    now = os.umask(0o077)
    os.umask(now)
    return now


def sweep(folder: Path) -> None:
    """Take away what writers that were killed left unfinished in a folder."""
    with contextlib.suppress(OSError), os.scandir(folder) as entries:
        for entry in entries:
            found = UNFINISHED.fullmatch(entry.name)
            if found and not _is_alive(int(found[1])):
                with contextlib.suppress(OSError):
                    os.unlink(entry.path)


def _is_alive(process: int) -> bool:
    try:
        os.kill(process, 0)
    except (ProcessLookupError, OverflowError):
        return False
    except OSError:
        return True
    return True


def set_aside(path: Path) -> Path | None:
    """Give a file that cannot be read another name, so that it is there but in nobody's way.
    Returns the new one, or None if it could not be moved."""
    try:
        aside = free_aside(path, "unreadable")
        path.rename(aside)
    except (OSError, DomainError):
        return None
    return aside


def free_aside(path: Path, word: str) -> Path:
    """A name for what was in a file: NAME.json.WORD, NAME.json.WORD-1 … Raises DomainError."""
    for k in range(100):
        aside = path.with_name(f"{path.name}.{word}{f'-{k}' if k else ''}")
        if not os.path.lexists(aside):
            return aside
    raise DomainError(f"there are too many files called {shown(path)}.{word} already")
