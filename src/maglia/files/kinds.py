"""What kind of file one is, by its name and, where that leaves it open, by what it says itself."""

from pathlib import Path
from typing import Literal

import msgspec

from maglia.core.values.record import DomainError
from maglia.files import disk

Kind = Literal["piece", "bundle", "set", "workshop", "list", "photograph", ""]
BUNDLE = ".maglia-bundle"
PIECES = (".maglia", ".json")
LISTS = (".csv", ".tsv", ".txt")
PHOTOGRAPHS = (".jpg", ".jpeg", ".png", ".webp", ".tif", ".tiff")
FORMATS: dict[str | None, Kind] = {
    "maglia-piece": "piece", "maglia-set": "set", "maglia-workshop": "workshop",
}  # fmt: skip


LARGEST = 400_000_000
"""Bytes: an exported workshop may be as large."""


class _Said(msgspec.Struct):
    """What a file says that it is; all else in it is passed over."""

    format: str = ""


def kind_of(path: Path) -> Kind:
    """Of a file that is handed to the window; empty for one that nothing here is made of."""
    suffix = path.suffix.lower()
    if suffix == BUNDLE:
        return "bundle"
    if suffix in LISTS:
        return "list"
    if suffix in PHOTOGRAPHS:
        return "photograph"
    if suffix in PIECES:
        return FORMATS.get(_format(path), "piece")  # as a piece, it says itself what is wrong
    return ""


def _format(path: Path) -> str | None:
    try:
        return msgspec.json.decode(disk.read_file(path, LARGEST), type=_Said).format
    except (msgspec.MsgspecError, UnicodeError, RecursionError, DomainError):
        return None
