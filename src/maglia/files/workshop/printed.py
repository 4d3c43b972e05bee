"""What is on paper of a piece: when each sheet was last written or printed, of which state, and the
price that was given with it.
"""

from typing import NamedTuple

from maglia.files.workshop.store import Workshop


class Printed(NamedTuple):
    """A sheet of a piece: when, a fingerprint of the piece as it was, the price if it gave one."""

    sheet: str
    at: str
    state: str
    price: str = ""


def note(workshop: Workshop, piece_id: str, printed: Printed) -> None:
    """Keep it in the place of the one before."""
    with workshop.changing() as database:
        row = (piece_id, *printed)
        database.execute("INSERT OR REPLACE INTO printed VALUES(?, ?, ?, ?, ?)", row)


def printed_of(workshop: Workshop, piece_id: str) -> tuple[Printed, ...]:
    """The sheets there are of a piece, the latest first."""
    rows = workshop.database.execute(
        "SELECT sheet, at, state, price FROM printed WHERE piece_id = ? ORDER BY at DESC",
        (piece_id,),
    )
    return tuple(Printed(*row) for row in rows)
