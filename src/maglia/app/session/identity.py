"""Which piece, which day: an id that nothing else has, whatever it is called."""

from pathlib import Path
from uuid import NAMESPACE_URL, uuid4, uuid5


def new_id() -> str:
    return uuid4().hex


def id_of_file(path: Path) -> str:
    """Of the piece of a file that was written before pieces had ids: the same each time."""
    return uuid5(NAMESPACE_URL, path.resolve().as_uri()).hex
