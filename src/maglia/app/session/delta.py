"""What an edit does, followed to its end and said in one line: to readings, to what it takes, to
the stock, to the day, to a build in hand, to a price that was given, to a sheet that is on paper.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from hashlib import blake2b
from typing import TYPE_CHECKING

import msgspec
from PySide6.QtCore import QObject, Signal

from maglia.app.session.build_words import made_from
from maglia.app.session.day import Day
from maglia.app.session.workshop import Workshop, now
from maglia.core.parts.parts import Chain, Wire
from maglia.core.parts.units import Thing
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError

if TYPE_CHECKING:
    from maglia.core.cutting.day import Cutting, Stretch
    from maglia.core.delta import Length
    from maglia.core.report import Findings
    from maglia.files.workshop.printed import Printed
    from maglia.files.workshop.store import Workshop as Store

STOCK, MOST_SHEETS = "short-in-stock", 2


class Delta(QObject):
    """Signal: `said(str)` the line, whole, as more of it is known."""

    said = Signal(str)

    def __init__(self, workshop: Workshop, day: Day, parent: QObject) -> None:
        super().__init__(parent)
        self.workshop, self.day = workshop, day
        self._before: Findings | None = None
        self._now: Findings | None = None
        self._edit = 0
        self._head = ""
        self._parts: dict[str, str] = {}
        self._cuts: dict[str, Cutting] = {}
        self._price = ""
        self._printed: tuple[str, tuple[Printed, ...]] | None = None
        day.planned.connect(self._on_planned)

    def forget(self) -> None:
        """Another piece is on the bench."""
        self._before, self._now, self._printed, self._parts = None, None, None, {}

    def follow(self, found: Findings, edit: int, words: str, length: Length) -> None:
        """Results of the piece as it is now have come: what is another than before its last edit
        (a number that each one has of its own; what fits do belongs to the edit that asked)."""
        from maglia.core.delta import reading_words, taken_words

        if edit != self._edit:
            self._before, self._edit, self._parts = self._now, edit, {}
        self._now, before, piece = found, self._before, found.assembly.piece
        if before is None or before.assembly.piece.id != piece.id:
            return
        if made_from(before.assembly.piece) == made_from(piece):
            self._parts = {}
            return
        self._head = words
        self._parts = {
            "readings": ", ".join(reading_words(before, found, length)),
            "takes": _after("takes ", taken_words(before.assembly, found.assembly)),
            "stock": _stock(before, found),
            "build": self._builds(found),
            "paper": self._on_paper(piece),
        }
        self._say()

    def beside(self, words: str, fits: str) -> None:
        """What came of the wishes, in the same line if there is one."""
        if self._parts:
            self._parts["fits"] = fits.rstrip(".")
            self._say()
        else:
            self.said.emit(f"{words} · {fits.rstrip('.')}." if words else fits)

    def _say(self) -> None:
        said = [part for part in self._parts.values() if part]
        if said:
            said = [f"{part[0].upper()}{part[1:]}" for part in said]
            self.said.emit(f"{self._head}. {'. '.join(said)}.")

    def _on_planned(self) -> None:
        """The day's cuts are planned anew: what became of them."""
        from maglia.core.delta import day_words
        from maglia.core.joining.cost import money

        before, self._cuts = self._cuts, dict(self.day.cuttings)
        cost = self.day.cost
        price, self._price = self._price, money(cost.price, cost.currency) if cost else ""
        if not self._parts or self._now is None or not self.day.has(self._now.assembly.piece):
            return
        said = day_words(before, self._cuts) if before else []
        if price and price != self._price:
            said.append(f"price {price} → {self._price}")
        self._parts["day"] = _after("the day: ", said)
        self._say()

    def _builds(self, found: Findings) -> str:
        """Builds of the piece that go on: what was cut for them is wanted otherwise."""
        from maglia.core.delta import cut_already_words
        from maglia.files.workshop import builds

        store, assembly = self.workshop.store, found.assembly
        said = []
        for build in builds.running(store, assembly.piece.id) if store is not None else ():
            assert store is not None
            words = cut_already_words(assembly, _cuts(store, build, assembly.things))
            if words:
                said.append(f"build {build}: {', '.join(words)}")
        return "; ".join(said)

    # --- on paper -------------------------------------------------------------------------------

    def note_printed(self, piece: Piece, sheet: str, price: str = "") -> None:
        """A sheet of a piece was written or printed as the piece is now."""
        from maglia.files.workshop import printed

        store = self.workshop.store
        if store is None or store.read_only or not piece.id:
            return
        try:
            on_paper = printed.Printed(sheet, now(), state_of(piece), price)
            self.workshop.when_free(partial(printed.note, store, piece.id, on_paper))
        except DomainError as fault:
            self.said.emit(f"It is on paper, but that could not be noted: {fault}.")
        self._printed = None

    def _on_paper(self, piece: Piece) -> str:
        """The sheets that show another state of the piece."""
        from maglia.files.workshop import printed

        store = self.workshop.store
        if store is None:
            return ""
        if self._printed is None or self._printed[0] != piece.id:
            self._printed = piece.id, printed.printed_of(store, piece.id)
        state = state_of(piece)
        old = [one for one in self._printed[1] if one.state != state]
        said = [_sheet_words(one) for one in old[:MOST_SHEETS]]
        if len(old) > MOST_SHEETS:
            said.append(f"{len(old) - MOST_SHEETS} more sheets")
        return f"{' and '.join(said)}: differs since" if said else ""


def state_of(piece: Piece) -> str:
    """A fingerprint of all of a piece that says how it is made and for whom."""
    made = msgspec.json.encode((*made_from(piece), piece.name, piece.wearer, piece.corrections))
    return blake2b(made, digest_size=8).hexdigest()


def _cuts(store: Store, build: int, things: Mapping[str, Thing]) -> list[tuple[str, Stretch]]:
    """What was cut for a build, as it is planned."""
    from maglia.core.cutting.day import Stretch, amount_in
    from maglia.core.workshop.lying import Lot
    from maglia.files.workshop import build_stock

    found = []
    for ref, amount, phase in build_stock.cuts_of(store, build):
        part = things.get(ref)
        if isinstance(part, Chain | Wire):
            found.append((ref, Stretch(amount_in(part, Lot("", amount)), phase)))
    return found


def _sheet_words(one: Printed) -> str:
    price = f" with the price {one.price}" if one.price else ""
    return f"{one.sheet}, printed {one.at[:16].replace('T', ' ')}{price}"


def _after(head: str, said: list[str]) -> str:
    return head + ", ".join(said) if said else ""


def _stock(before: Findings, after: Findings) -> str:
    """What the bench lacks, if that is another now."""
    one, other = (next((c.message for c in found.checks if c.code == STOCK), "")
                  for found in (before, after))  # fmt: skip
    if one == other:
        return ""
    return other.rstrip(".") if other else "everything lies on the bench now"
