"""The made-up workshop: the wardrobe of the Lantern House, an invented playhouse.

Pieces are ordinary piece files beside this module; wearers are roles. What was bought, cut, used
and spoilt there in a year stands in `history.json`, in the words a maker would say.
"""

from pathlib import Path
from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace

from maglia.core.piece.piece import Piece, Wearer
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray

if TYPE_CHECKING:
    from maglia.files.workshop.store import Workshop

PIECES = Path(__file__).parent / "pieces"
FIRST = "lamplighters-collar"


def demo_names() -> list[str]:
    """Names of the demo pieces, the first one first."""
    names = sorted(path.stem for path in PIECES.glob("*.json"))
    return sorted(names, key=lambda name: name != FIRST)


def demo_path(name: str | None = None) -> Path:
    """File of a demo piece, the first one by default. Raises DomainError for an unknown name."""
    chosen = name or FIRST
    if chosen not in demo_names():
        raise DomainError(f"there is no demo piece “{chosen}”; there are {', '.join(demo_names())}")
    return PIECES / f"{chosen}.json"


def demo_named(file: Path) -> Path | None:
    """The demo piece that is meant by a name; None for the path of a file that is there."""
    known = not file.exists() and str(file) in demo_names()
    return demo_path(str(file)) if known else None


def demo_tray() -> Tray:
    """The tray of the made-up workshop: its parts, units and wearers, and what lay there at
    first."""
    return msgspec.json.decode((PIECES.parent / "tray.json").read_bytes(), type=Tray)


def demo_wearers() -> tuple[Wearer, ...]:
    return demo_tray().wearers


def fill(workshop: "Workshop") -> None:
    """Make an empty workshop the Lantern House's: its tray, its year, its pieces."""
    from maglia.files.piece_json import read_piece
    from maglia.files.workshop import contents, stock
    from maglia.phrases.stock_phrases import read_stock

    tray = demo_tray()
    parts = {part.id: part for part in tray.parts}
    with workshop.changing():
        if not contents.is_empty(workshop):  # another window was first
            return
        records = (*tray.parts, *tray.units, *tray.wearers)
        contents.change(workshop, [contents.added(record) for record in records])
        for entry in msgspec.json.decode((PIECES.parent / "history.json").read_bytes()):
            part = parts[entry["part"]]
            for deed in read_stock(entry["said"], part):
                stock.do(workshop, part, deed, entry["at"])
        _log(workshop)
        for name in demo_names():
            piece = read_piece(demo_path(name))
            ids = (thing.id for thing in (*piece.parts, *piece.units))
            contents.note_piece(workshop, name, piece.name, ids)


def _log(workshop: "Workshop") -> None:
    """Two years of builds of the wardrobe."""
    from maglia.core.log.records import Measure, Spent
    from maglia.files.piece_json import read_piece
    from maglia.files.workshop import log

    people = {wearer.role: wearer for wearer in demo_wearers()}
    known: dict[str, Piece] = {}
    for entry in msgspec.json.decode((PIECES.parent / "builds.json").read_bytes()):
        name, at = entry["piece"], entry["at"]
        piece = known[name] = known.get(name) or read_piece(demo_path(name))
        wearer = people.get(entry.get("wearer", ""), piece.wearer)
        notes = [("changed", entry["changed"])] if "changed" in entry else []
        notes += [("note", entry["note"])] if "note" in entry else []
        notes += [("note", "given up")] if entry.get("given_up") else []
        log.entered(
            workshop, replace(piece, wearer=wearer), at, entry["minutes"],
            found=[Measure(at=at, what=what, about=about, planned_mm=planned, measured_mm=measured,
                           share=share) for what, about, planned, measured, share
                   in entry.get("measures", ())],
            took=[Spent(kind=kind, number=number, minutes=minutes)
                  for kind, number, minutes in entry["spent"]],
            notes=notes, metal_g=entry["metal_g"], cost=entry["cost"],
        )  # fmt: skip


def empty_file(path: Path) -> None:
    """Take the demo's copy away, so that it begins anew. Raises DomainError if that cannot be."""
    for side in ("", "-wal", "-shm"):
        try:
            path.with_name(path.name + side).unlink(missing_ok=True)
        except OSError as error:
            raise DomainError(f"{path.name} cannot be taken away: {error.strerror}") from None
