"""Pieces as JSON: read with every fault named, written whole or not at all.

Bounds and kinds are those of `maglia.core.piece`; the JSON Schema that ships is made from them.
"""

import json
import os
import tempfile
from functools import cache
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter, ValidationError
from pydantic_core import from_json

from maglia.core.piece import Piece
from maglia.core.record import DomainError

LARGEST_FILE = 20_000_000
VERSION = 1


@cache
def _adapter() -> TypeAdapter[Piece]:
    return TypeAdapter(Piece)


def read_piece(path: Path) -> Piece:
    """The piece in a file. Raises DomainError naming the file, the place in it and the remedy."""
    try:
        if path.stat().st_size > LARGEST_FILE:
            raise DomainError(f"{path.name} is larger than 20 MB: this is not a piece file")
        data = path.read_bytes()
    except OSError as error:
        raise DomainError(f"{path.name} cannot be read: {error.strerror}") from None
    try:
        return piece_from(data)
    except DomainError as fault:
        raise DomainError(f"{path.name}: {fault}") from None


def piece_from(data: bytes | str) -> Piece:
    """The piece in JSON text. Raises DomainError; nothing is half-loaded."""
    if not data.strip():
        raise DomainError("the file is empty; nothing was loaded")
    try:
        values = from_json(data, allow_inf_nan=False)
    except ValueError as error:
        raise DomainError(f"this is not a whole JSON file ({error}); nothing was loaded") from None
    if not isinstance(values, dict) or values.get("format") != "maglia-piece":
        raise DomainError('this is not a piece: it lacks "format": "maglia-piece"')
    version = values.get("version")
    if not isinstance(version, int) or version > VERSION:
        raise DomainError(
            f"it is of version {version}, and this program knows versions up to {VERSION}: "
            "open it with a newer Maglia"
        )
    try:
        return _adapter().validate_python(values)
    except ValidationError as error:
        raise DomainError(_words(error, values)) from None


def piece_text(piece: Piece) -> str:
    """JSON text of a piece: fields at their default are left out, so that it stays readable."""
    values = _adapter().dump_python(piece, mode="json", exclude_defaults=True)
    kinds = _adapter().dump_python(piece, mode="json")
    merged = _with_kinds(values, kinds)
    head = {"format": piece.format, "version": piece.version}
    return json.dumps({**head, **merged}, indent=1, ensure_ascii=False) + "\n"


def _with_kinds(short: Any, full: Any) -> Any:
    """Put back the `kind` that tells variants apart, which is a default and so was left out."""
    if isinstance(short, dict):
        kind = {"kind": full["kind"]} if "kind" in full else {}
        return {**kind, **{k: _with_kinds(v, full[k]) for k, v in short.items()}}
    if isinstance(short, list):
        return [_with_kinds(a, b) for a, b in zip(short, full, strict=True)]
    return short


def write_piece(piece: Piece, path: Path) -> None:
    """Save atomically: the old file stays whole until the new one is complete on disk."""
    write_atomically(path, piece_text(piece))


def write_atomically(path: Path, text: str) -> None:
    """Write text to a file so that it is either the old or the new one. Raises DomainError."""
    try:
        handle, temporary = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
        try:
            with os.fdopen(handle, "w", encoding="utf-8") as out:
                out.write(text)
                out.flush()
                os.fsync(out.fileno())
            Path(temporary).replace(path)
        except OSError:
            Path(temporary).unlink(missing_ok=True)
            raise
    except OSError as error:
        raise DomainError(f"{path} cannot be saved: {error.strerror}; choose another place") from (
            None
        )


def schema() -> dict[str, Any]:
    """The JSON Schema of a piece file."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Maglia piece",
        **_adapter().json_schema(),
    }


def _words(error: ValidationError, values: dict[str, Any]) -> str:
    """The first fault in words, with run and item, and how many more there are."""
    faults = error.errors(include_url=False, include_context=False)
    first = faults[0]
    where = _where(first["loc"], values)
    shown = repr(first.get("input"))
    shown = shown if len(shown) < 60 else shown[:57] + "…"
    if first["type"] == "missing":
        text = f"{where}: “{first['loc'][-1]}” is missing"
    elif first["type"] in ("extra_forbidden", "unexpected_keyword_argument"):
        text = f"{where}: “{first['loc'][-1]}” is not a field known here"
    elif first["type"].startswith("union_tag"):
        text = f"{where}: its kind is missing or unknown ({first['msg']})"
    else:
        text = f"{where} is {shown}: {first['msg'][0].lower()}{first['msg'][1:]}"
    more = f" (and {len(faults) - 1} more)" if len(faults) > 1 else ""
    return f"{text}{more}; nothing was loaded"


def _where(location: tuple[int | str, ...], values: Any) -> str:
    """“run “Collar”, items 2, links” from a path into the file."""
    words: list[str] = []
    here = values
    for step in location:
        inside = _inside(here, step)
        if inside is None and words:
            continue  # the name of a variant, not of a field
        if isinstance(step, int):
            label = inside.get("name") or inside.get("id") if isinstance(inside, dict) else None
            words[-1:] = [f"{words[-1]} “{label}”" if label else f"{words[-1]} {step + 1}"]
        else:
            words.append(str(step))
        here = inside
    return ", ".join(words) or "the file"


def _inside(here: Any, step: int | str) -> Any:
    if isinstance(here, dict):
        return here.get(step)
    if isinstance(here, list) and isinstance(step, int) and step < len(here):
        return here[step]
    return None
