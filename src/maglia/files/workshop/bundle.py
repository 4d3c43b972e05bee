"""A piece handed on whole: its file with all its parts, its builds and their photographs in one
archive (ZIP), opened elsewhere as it was.

Inside: `bundle.json` says what it is, `piece.maglia` is the piece, `builds.json` its builds as the
workshop exports them, `photographs/` their files.
"""

from __future__ import annotations

import io
import json
import zipfile
import zlib
from pathlib import Path, PurePosixPath
from typing import NamedTuple

import msgspec
from msgspec.structs import replace

from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError, in_words
from maglia.files import disk
from maglia.files.images import is_image, kept_photo, photographs_of, read_image
from maglia.files.piece_json import piece_from, piece_text, plain
from maglia.files.workshop import builds
from maglia.files.workshop.builds import Exported
from maglia.files.workshop.store import Workshop

ABOUT, PIECE, BUILDS, PHOTOGRAPHS = "bundle.json", "piece.maglia", "builds.json", "photographs/"
FORMAT, VERSION = "maglia-bundle", 1
LARGEST, LARGEST_PHOTO, LARGEST_WHOLE, MOST_MEMBERS = 20_000_000, 60_000_000, 300_000_000, 500
"""Bytes of a text in it, of one photograph, of all of it."""
EPOCH = (1980, 1, 1, 0, 0, 0)
"""Of every member: the same piece makes the same bundle."""


class Bundle(NamedTuple):
    """A piece, its builds (their photographs by names within), the photographs, and the files of
    those that could not be read."""

    piece: Piece
    builds: tuple[Exported, ...]
    photographs: dict[str, bytes]
    missing: tuple[str, ...] = ()


def gathered(piece: Piece, workshop: Workshop | None) -> Bundle:
    """A piece with its builds, and their photographs as far as they can be read."""
    found: list[Exported] = []
    photographs: dict[str, bytes] = {}
    missing: list[str] = []
    for own in builds.exported(workshop, piece) if workshop is not None else ():
        inside = []
        for file, words in own.photos:
            try:
                data = read_image(Path(file))
            except DomainError:
                missing.append(file)
                continue
            name = f"{PHOTOGRAPHS}{len(photographs) + 1}-{Path(file).name}"
            photographs[name] = data
            inside.append((name, words))
        found.append(replace(own, photos=tuple(inside), cuts=(), day=""))
    return Bundle(piece, tuple(found), photographs, tuple(missing))


def write_bundle(path: Path, bundle: Bundle) -> None:
    """Write it whole or not at all. Raises DomainError."""
    about = {"format": FORMAT, "version": VERSION, "name": bundle.piece.name}
    listed = json.dumps([plain(own) for own in bundle.builds], indent=1, ensure_ascii=False)
    members = {
        ABOUT: json.dumps(about, ensure_ascii=False).encode(),
        PIECE: piece_text(bundle.piece).encode(),
        BUILDS: listed.encode(),
        **bundle.photographs,
    }
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, data in members.items():
            about_it = zipfile.ZipInfo(name, EPOCH)
            squeezed = zipfile.ZIP_STORED if name in bundle.photographs else zipfile.ZIP_DEFLATED
            archive.writestr(about_it, data, squeezed)
    disk.write_bytes(path, out.getvalue())


def read_bundle(path: Path) -> Bundle:
    """A bundle. Raises DomainError naming the file, what is wrong in it and where."""
    where = disk.shown(path)
    try:
        with zipfile.ZipFile(io.BytesIO(disk.read_file(path, LARGEST_WHOLE))) as archive:
            listed = archive.infolist()
            sizes = {info.filename: info.file_size for info in listed}
            if len(listed) > MOST_MEMBERS or sum(sizes.values()) > LARGEST_WHOLE:
                raise DomainError(f"{where}: it holds more than a bundle may")
            about = json.loads(_member(archive, sizes, ABOUT, LARGEST))
            if not isinstance(about, dict) or about.get("format") != FORMAT:
                raise DomainError(f"{where}: this is no bundle of a piece")
            if about.get("version") != VERSION:
                raise DomainError(
                    f"{where}: a bundle of version {about.get('version')} is not known here; this "
                    f"program reads version {VERSION}"
                )
            piece = piece_from(_member(archive, sizes, PIECE, LARGEST))
            made = msgspec.json.decode(
                _member(archive, sizes, BUILDS, LARGEST), type=tuple[Exported, ...]
            )
            for own in made:
                builds.refuse_unsound(own)
            # of the stock that they came from they say nothing here
            made = tuple(replace(own, cuts=(), day="") for own in made)
            photographs = {name: _photograph(archive, sizes, name)
                           for own in made for name, _ in own.photos}  # fmt: skip
    except RecursionError:
        raise DomainError(f"{where}: it is nested too deep") from None
    except (zipfile.BadZipFile, zlib.error, EOFError, OSError, RuntimeError) as fault:
        raise DomainError(f"{where}: this is no whole bundle ({fault})") from None
    except (ValueError, msgspec.MsgspecError) as fault:
        said = in_words(fault)
        raise DomainError(said if said.startswith(where) else f"{where}: {said}") from None
    return Bundle(piece, made, photographs)


def _photograph(archive: zipfile.ZipFile, sizes: dict[str, int], name: str) -> bytes:
    data = _member(archive, sizes, name, LARGEST_PHOTO)
    if not name.startswith(PHOTOGRAPHS) or not is_image(data):
        raise DomainError(f"“{name}” in it is no photograph")
    return data


def _member(archive: zipfile.ZipFile, sizes: dict[str, int], name: str, most: int) -> bytes:
    if name not in sizes:
        raise DomainError(f"“{name}” is missing in it")
    if sizes[name] > most:
        raise DomainError(f"“{name}” in it is larger than {most // 1_000_000} MB")
    with archive.open(name) as member:
        data = member.read(most + 1)  # what it says of its size need not be true
    if len(data) > most:
        raise DomainError(f"“{name}” in it is larger than {most // 1_000_000} MB")
    return data


def take_in(workshop: Workshop, bundle: Bundle) -> int:
    """Keep its builds, but those that are known already, with their photographs beside the
    workshop. Returns how many are new. Raises DomainError; then none is kept."""
    known = {(own.name, own.begun) for own in builds.listed(workshop)}
    new = [own for own in bundle.builds if (own.name, own.begun) not in known]
    folder = photographs_of(workshop.path)
    kept = []
    for own in new:
        photos = []
        for name, words in own.photos:
            plain_name = PurePosixPath(name).name.replace("\\", "-")
            target = kept_photo(folder, plain_name, bundle.photographs[name])
            photos.append((str(target), words))
        kept.append(replace(own, photos=tuple(photos)))
    if kept:
        with workshop.changing():
            builds.imported(workshop, kept, theirs=True)
    return len(kept)
