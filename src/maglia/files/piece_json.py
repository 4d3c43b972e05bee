"""Pieces as JSON: read with every fault named, written whole or not at all.

Bounds and kinds are those of `maglia.core.piece`; the JSON Schema that ships is made from them.
"""

import json
import re
from codecs import BOM_UTF8
from functools import cache
from pathlib import Path
from typing import Any

import msgspec
from msgspec import field

from maglia.core.piece.piece import Piece
from maglia.core.values.record import NOT_PLAIN, DomainError, Record, Value
from maglia.files import disk
from maglia.files.migrations import VERSION, migrated


class Opened(Value, frozen=True):
    """What a file held: the piece, the version it was written in, and what it said of the bench:
    per part, lengths in mm, or how many there are."""

    piece: Piece
    version: int = VERSION
    stock: dict[str, list[float]] = field(default_factory=dict)


def read_piece(path: Path) -> Piece:
    """The piece in a file; see `read_file`."""
    return read_file(path).piece


def read_file(path: Path) -> Opened:
    """A piece file. Raises DomainError naming the file, the place in it and the remedy."""
    data = disk.read_file(path)
    try:
        return opened(data)
    except DomainError as fault:
        whole = disk.whole_of(path)
        more = f"; a whole one lies beside it: {disk.shown(whole)}" if whole.is_file() else ""
        raise DomainError(f"{disk.shown(path)}: {fault}{more}") from None


def piece_from(data: bytes | str) -> Piece:
    """The piece in JSON text; see `opened`."""
    return opened(data).piece


def opened(data: bytes | str) -> Opened:
    """A piece in JSON text of any version. Raises DomainError; nothing is half-loaded."""
    if not data.strip():
        raise DomainError("the file is empty; nothing was loaded")
    try:
        raw = data.encode() if isinstance(data, str) else data
        values = msgspec.json.decode(raw.removeprefix(BOM_UTF8))
    except (msgspec.DecodeError, UnicodeError, RecursionError) as error:
        raise DomainError(f"this is not a whole JSON file ({error}); nothing was loaded") from None
    if not isinstance(values, dict) or values.get("format") != "maglia-piece":
        raise DomainError('this is not a piece: it lacks "format": "maglia-piece"')
    now: Any = values
    try:
        now, stock = migrated(values)
        return Opened(msgspec.convert(now, Piece), values["version"], stock)
    except (msgspec.ValidationError, RecursionError) as error:
        raise DomainError(f"{_words(str(error), now)}; nothing was loaded") from None


def refuse_unwritable(piece: Piece) -> None:
    """Raise DomainError for a piece whose file would not open again: a size or count out of
    bounds. About 0.3 ms."""
    try:
        msgspec.json.decode(msgspec.json.encode(piece), type=Piece)
    except (msgspec.ValidationError, RecursionError) as error:
        raise DomainError(_words(str(error), msgspec.to_builtins(piece))) from None


_ALWAYS = ("format", "version", "name", "sort", "wearer", "parts", "units", "runs")


def piece_text(piece: Piece) -> str:
    """JSON text of a piece: fields at their default are left out, so that it stays readable; what
    every reader looks for always stands."""
    changed = plain(piece)
    values = {
        name: changed[name] if name in changed else plain(getattr(piece, name))
        for name in piece.__struct_fields__
        if name in changed or name in _ALWAYS
    }
    return json.dumps(values, indent=1, ensure_ascii=False) + "\n"


def plain(value: Any) -> Any:
    """A record as plain data, fields at their default left out."""
    if isinstance(value, tuple):
        return [plain(one) for one in value]
    if not isinstance(value, Record):
        return value
    tag = {"kind": value.__struct_config__.tag} if value.__struct_config__.tag else {}
    changed = {name: now for name, default in _defaults(type(value))
               if (now := getattr(value, name)) != default}  # fmt: skip
    return tag | {name: plain(now) for name, now in changed.items()}


@cache
def _defaults(record: type[Record]) -> tuple[tuple[str, object], ...]:
    """Every field of a kind of record with its default."""
    return tuple((field.name, field.default) for field in msgspec.structs.fields(record))


def kept_beside(path: Path, version: int) -> Path:
    """Where a file of an older version is kept before it is saved anew: NAME.v1.json."""
    return path.with_name(f"{path.stem}.v{version}{path.suffix}")


def keep_older(path: Path, version: int) -> Path:
    """Keep a file of an older version beside itself, once. Raises DomainError if it cannot be."""
    beside = kept_beside(path, version)
    if not beside.exists():
        disk.write_atomically(beside, disk.read_text(path))
    return beside


def write_piece(piece: Piece, path: Path) -> None:
    """Save atomically: the old file stays whole until the new one is complete on disk."""
    disk.write_atomically(path, piece_text(piece))


def schema() -> dict[str, Any]:
    """The JSON Schema of a piece file."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Maglia piece",
        **msgspec.json.schema(Piece),
    }


def _words(fault: str, values: Any) -> str:
    """What msgspec found wrong, with run and item: “run “Collar”, items 2, links is 0: …”."""
    what, _, at = fault.partition(" - at `")
    steps = [int(n) if n else name for name, n in re.findall(r"\.(\w+)|\[(\d+)\]", at)]
    where = _where(steps, values)
    if named := re.search(r"(missing required|unknown) field `(.*)`", what):
        verb = "is missing" if named[1] == "missing required" else "is not a field known here"
        return f"{where}: “{named[2]}” {verb}"
    if steps[-1:] == ["kind"] and what.startswith("Invalid value"):
        return f"{where}: there is no {_shown(_at(steps, values))}"
    if "matching regex" in what:
        return f"{where} {NOT_PLAIN}"
    return f"{where} is {_shown(_at(steps, values))}: {what[0].lower()}{what[1:]}"


def _at(steps: list[int | str], values: Any) -> Any:
    for step in steps:
        values = values[step]
    return values


def _shown(value: Any) -> str:
    if isinstance(value, list | dict) and len(value) > 20:
        return f"{len(value):,} entries"
    text = repr(value)
    return text if len(text) < 60 else text[:57] + "…"


def _where(steps: list[int | str], values: Any) -> str:
    """“runs “Collar”, items 2, links” from a path into the file."""
    words: list[str] = []
    here = values
    for step in steps:
        here = here[step]
        if isinstance(step, int):
            label = here.get("name") or here.get("id") if isinstance(here, dict) else None
            words[-1] = f"{words[-1]} “{label}”" if label else f"{words[-1]} {step + 1}"
        else:
            words.append(step)
    if len(words) > 8:
        words[4:-2] = ["…"]
    return ", ".join(words) or "the file"
