"""What belongs to the maker while a piece is open: the tray, and what lies on the bench; what she
adds is kept in her workshop file.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace

from maglia.core.parts.parts import Part
from maglia.core.piece.piece import Wearer
from maglia.core.sheets.cutting import Lots
from maglia.core.workshop.tray import Tray

if TYPE_CHECKING:
    from maglia.files.workshop.store import Workshop as Store


class Workshop:
    """The tray with its lots, and with what is kept in a workshop file once there is one. `offered`
    is the stock that was found in a piece file of version 1."""

    def __init__(self, tray: Tray) -> None:
        self.tray = tray
        self.store: Store | None = None
        self.offered: dict[str, list[float]] = {}

    @property
    def lots(self) -> Lots:
        return self.tray.lots_mm

    def open(self, store: Store) -> None:
        """Work with a workshop file from now on. Raises DomainError if it is not sound."""
        from maglia.files.workshop import contents  # not before the first picture

        found = (*contents.kept(store, "part").values(), *contents.kept(store, "wearer").values())
        for record in found:
            self._add(record)
        self.store = store

    def keep(self, record: Part | Wearer) -> None:
        """Keep a part or wearer, in the place of the one of its id or role. Raises DomainError if
        it cannot be written; it is there until the window closes all the same."""
        self._add(record)
        if self.store is not None:
            from maglia.files.workshop import contents

            if isinstance(record, Wearer):
                contents.keep(self.store, "wearer", record.role, record)
            else:
                contents.keep(self.store, "part", record.id, record)

    def _add(self, record: Part | Wearer) -> None:
        tray = self.tray
        if isinstance(record, Wearer):
            others = tuple(own for own in tray.wearers if own.role != record.role)
            self.tray = replace(tray, wearers=(*others, record))
        else:
            parts = tuple(own for own in tray.parts if own.id != record.id)
            self.tray = replace(tray, parts=(*parts, record))
