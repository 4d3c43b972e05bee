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
FORMATS: dict[object, Kind] = {
    "maglia-piece": "piece", "maglia-set": "set", "maglia-workshop": "workshop",
}  # fmt: skip


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


def _format(path: Path) -> object:
    try:
        values = msgspec.json.decode(disk.read_file(path))
    except (msgspec.DecodeError, UnicodeError, RecursionError, DomainError):
        return None
    return values.get("format") if isinstance(values, dict) else None
