"""The made-up workshop: the wardrobe of the Lantern House, an invented playhouse.

Pieces are ordinary piece files beside this module; wearers are roles.
"""

from pathlib import Path

import msgspec

from maglia.core.piece.piece import Wearer
from maglia.core.values.record import DomainError
from maglia.core.workshop.tray import Tray

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
    """The tray of the made-up workshop: its parts, units and wearers."""
    return msgspec.json.decode((PIECES.parent / "tray.json").read_bytes(), type=Tray)


def demo_wearers() -> tuple[Wearer, ...]:
    return demo_tray().wearers
