"""Photographs by what they hold, not by what they are called."""

from pathlib import Path

from maglia.core.values.record import DomainError
from maglia.files import disk

LARGEST = 60_000_000
KINDS = ((b"\x89PNG\r\n\x1a\n", 0), (b"\xff\xd8\xff", 0), (b"WEBP", 8))
"""How the pictures that are taken begin, and where in them that stands."""


def is_image(data: bytes) -> bool:
    """Whether it is a PNG, JPEG or WebP picture."""
    return any(data[at : at + len(sign)] == sign for sign, at in KINDS)


def photographs_of(workshop: Path) -> Path:
    """Where copies of photographs lie, beside a workshop's file."""
    return workshop.parent / "photographs"


def kept_photo(folder: Path, name: str, data: bytes) -> Path:
    """A photograph in the folder of copies, under a name that is free. Raises DomainError."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as fault:
        raise DomainError(f"{disk.shown(folder)} cannot be made ({fault.strerror})") from None
    target = disk.free_name(folder / name, "copy")
    disk.write_bytes(target, data)
    return target


def read_image(path: Path) -> bytes:
    """A photograph. No link is followed. Raises DomainError if it is none."""
    if path.is_symlink():
        raise DomainError(f"{disk.shown(path)} is a link: name the picture itself")
    data = disk.read_file(path, LARGEST)
    if not is_image(data):
        raise DomainError(f"{disk.shown(path)} is no photograph: a PNG, JPEG or WebP picture is")
    return data
