"""Sets: pieces that belong together, a necklace and its earrings, or a day; carried whole."""

import json
from pathlib import Path
from typing import Any, NamedTuple

import msgspec

from maglia.core.piece.piece import Piece
from maglia.core.values.record import NOT_PLAIN, DomainError, as_plain
from maglia.files import disk
from maglia.files.piece_json import piece_from, piece_text

FORMAT, VERSION, MOST_PIECES, MOST_COPIES = "maglia-set", 1, 200, 1000


class Entry(NamedTuple):
    """A piece of a set, and how many of it."""

    piece: Piece
    copies: int


class Set(NamedTuple):
    """A set: what it is called, and its pieces."""

    name: str
    entries: tuple[Entry, ...]


def is_set(path: Path) -> bool:
    """Whether a file says that it is a set."""
    try:
        values = msgspec.json.decode(disk.read_file(path))
    except (msgspec.DecodeError, UnicodeError, RecursionError, DomainError):
        return False
    return isinstance(values, dict) and values.get("format") == FORMAT


def read_set(path: Path) -> Set:
    """A set file; its pieces may be of any version. Raises DomainError naming the file and the
    place in it."""
    where = disk.shown(path)
    try:
        values = msgspec.json.decode(disk.read_file(path))
    except (msgspec.DecodeError, UnicodeError, RecursionError) as fault:
        raise DomainError(f"{where}: this is not a whole JSON file ({fault})") from None
    if not isinstance(values, dict) or values.get("format") != FORMAT:
        raise DomainError(f'{where}: this is not a set: it lacks "format": "{FORMAT}"')
    if values.get("version") != VERSION:
        raise DomainError(f"{where}: a set of version {values.get('version')} is not known here; "
                          f"this program reads version {VERSION}")  # fmt: skip
    unknown = set(values) - {"format", "version", "name", "pieces"}
    if unknown:
        raise DomainError(f"{where}: unknown field `{sorted(unknown)[0]}`")
    pieces = values.get("pieces")
    if not isinstance(pieces, list) or not 0 < len(pieces) <= MOST_PIECES:
        raise DomainError(f"{where}: `pieces` must hold 1 to {MOST_PIECES} pieces")
    name = values.get("name")
    if not isinstance(name, str) or not name:
        raise DomainError(f"{where}: a set needs its `name`")
    if as_plain(name) != name.strip():
        raise DomainError(f"{where}: its name {NOT_PLAIN}")
    return Set(name, tuple(_entry(where, k, one) for k, one in enumerate(pieces, 1)))


def _entry(where: str, number: int, values: Any) -> Entry:
    place = f"{where}: piece {number}"
    if not isinstance(values, dict) or set(values) - {"copies", "piece"} or "piece" not in values:
        raise DomainError(f"{place}: write {{copies, piece}}")
    copies = values.get("copies", 1)
    if not isinstance(copies, int) or isinstance(copies, bool) or not 1 <= copies <= MOST_COPIES:
        raise DomainError(f"{place}: `copies` must be a whole number from 1 to {MOST_COPIES}")
    try:
        return Entry(piece_from(msgspec.json.encode(values["piece"])), copies)
    except DomainError as fault:
        raise DomainError(f"{place}: {fault}") from None


def set_text(made: Set) -> str:
    """JSON text of a set."""
    pieces = [{"copies": entry.copies, "piece": json.loads(piece_text(entry.piece))}
              for entry in made.entries]  # fmt: skip
    values = {"format": FORMAT, "version": VERSION, "name": made.name, "pieces": pieces}
    return json.dumps(values, indent=1, ensure_ascii=False) + "\n"


def write_set(made: Set, path: Path) -> None:
    """Save a set, whole or not at all."""
    disk.write_atomically(path, set_text(made))
