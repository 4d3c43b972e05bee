"""What belongs to the maker while a piece is open: the tray, her rules, and what lies on the bench.

Without a workshop file everything works and nothing is kept. The catalogue has an undo of its own;
stock is undone by a reversal, which is an event like any other.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping, Sequence
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from maglia.core.parts.parts import Part
from maglia.core.parts.units import Unit
from maglia.core.piece.corrections import Correction
from maglia.core.piece.piece import Form, Piece, Wearer
from maglia.core.values.record import DomainError, Value
from maglia.core.values.rules import Rules
from maglia.core.workshop.lying import NOTHING, Deed, Lying, amount_of_mm, by_length, length_mm
from maglia.core.workshop.lying import Lot as LyingLot
from maglia.core.workshop.tray import Tray

if TYPE_CHECKING:
    from maglia.files.workshop.contents import Change, Saved
    from maglia.files.workshop.stock import Event
    from maglia.files.workshop.store import Workshop as Store

Record = Part | Unit | Wearer
LOOK_MS = 1000
"""How often it is looked whether another window changed the file."""
AGAIN_MS, PATIENCE_S = 200, 20.0
"""How often, and for how long, what finds the file held by another is tried again."""


class Step(Value, frozen=True):
    """One change of the catalogue, to be taken back whole."""

    words: str
    changes: tuple[Change, ...]


class Workshop(QObject):
    """Signals: `opened()` a file is worked with · `changed()` what is kept, in stock or a rule is
    another · `said(str)`."""

    opened = Signal()
    changed = Signal()
    said = Signal(str)

    def __init__(self, tray: Tray, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.tray = tray
        self.rules = Rules()
        self.corrections: tuple[Correction, ...] = ()
        self.forms: dict[str, Form] = {}
        self.lying: Mapping[str, Lying] = _lying_in(tray)
        self.store: Store | None = None
        self.offered: dict[str, list[float]] = {}
        """The stock that was found in a piece file of version 1."""
        self.done: list[Step] = []
        self.undone: list[Step] = []
        self._version = 0
        self._held: list[tuple[float, Callable[[], object]]] = []
        self._again = QTimer(self)
        self._again.setInterval(AGAIN_MS)
        self._again.timeout.connect(self._try_again)
        self._look = QTimer(self)
        self._look.setInterval(LOOK_MS)
        self._look.timeout.connect(self.look)

    @property
    def is_empty(self) -> bool:
        return not (self.tray.parts or self.tray.units)

    def part(self, ref: str) -> Part | Unit | None:
        return next((t for t in (*self.tray.parts, *self.tray.units) if t.id == ref), None)

    def lying_of(self, ref: str) -> Lying:
        return self.lying.get(ref, NOTHING)

    def lying_for(self, piece_id: str) -> Mapping[str, Lying]:
        """What lies there for a piece: what is laid out for its day and its builds too, and what
        was cut for those."""
        store = self.store
        if store is None or not piece_id:
            return self.lying
        from maglia.files.workshop import build_stock, builds, day_stock, stock

        running, day = builds.running(store, piece_id), day_stock.day_with(store, piece_id)
        if not running and not day:
            return self.lying
        found = stock.lying(store, day, running)
        for build in running:
            for part, amount, phase in build_stock.cuts_of(store, build):
                own = found.get(part, NOTHING)
                lot = LyingLot(f"cut for build {build}", amount, phase)
                found[part] = replace(own, lots=(*own.lots, lot))
        return found

    # --- opening ------------------------------------------------------------------------------

    def open(self, store: Store) -> None:
        """Work with a workshop file from now on. Raises DomainError if it is not sound."""
        from maglia.files.workshop.store import WINDOW_WAIT_S

        before, self.store = self.store, store
        store.wait_no_longer_than(WINDOW_WAIT_S)
        try:
            self.read()
        except DomainError:
            self.store = before
            raise
        self.done.clear()
        self.undone.clear()
        self._look.start()
        self.opened.emit()

    def close(self) -> None:
        self._look.stop()
        if self.store is not None:
            self.store.close()
            self.store = None

    def read(self) -> None:
        """Take in what the file holds now."""
        from maglia.files.workshop import contents, log, stock  # not before the first picture

        assert self.store is not None
        parts = contents.kept(self.store, "part")
        units = contents.kept(self.store, "unit")
        wearers = contents.kept(self.store, "wearer")
        self.forms = contents.kept(self.store, "form")
        self.rules = contents.rules(self.store)
        self.corrections = log.corrections(self.store)
        self.lying = stock.lying(self.store)
        self._version = self.store.version()
        tray = Tray(
            parts=tuple(parts.values()),
            units=tuple(units.values()),
            wearers=tuple(wearers.values()),
        )
        self._show(tray)

    def look(self) -> None:
        """What another window has changed is taken in."""
        if self.store is None:
            return
        try:
            if self.store.is_replaced:
                self._open_anew()
            elif self.store.version() != self._version:
                self.read()
        except DomainError as fault:
            self._look.stop()
            self.said.emit(f"The workshop can no longer be read: {fault}.")

    def _open_anew(self) -> None:
        from maglia.files.workshop.store import open_workshop

        assert self.store is not None
        before, path = self.store, self.store.path
        self.open(open_workshop(path, make=False))
        before.close()
        self.said.emit("Another workshop was put in the place of this one: it is shown now.")

    def _show(self, tray: Tray) -> None:
        lots = {
            part.id: tuple(mm for lot in own.lots if (mm := length_mm(part, lot.amount)))
            for part in tray.parts
            if (own := self.lying.get(part.id)) and own.lots
        }
        bags = {ref: own.bag for ref, own in self.lying.items() if own.bag}
        self.tray = replace(tray, lots_mm=lots, bags=bags)
        self.changed.emit()

    # --- while another writes -----------------------------------------------------------------

    def when_free(self, command: Callable[[], object]) -> bool:
        """Do what may find the file held by another window: then it follows as soon as that is
        through, and the window goes on meanwhile. What is said of it belongs into the command.
        True if it is done now. Raises DomainError if it is refused at once."""
        from maglia.files.workshop.store import Held

        try:
            command()
        except Held:
            if not self._held:
                self.said.emit("Another window is writing to the workshop: this follows as soon "
                               "as it is through.")  # fmt: skip
            self._held.append((time.monotonic() + PATIENCE_S, command))
            self._again.start()
            return False
        return True

    def wait_for_others(self) -> None:
        """This file is left: what still waits for another's writing is done now, or said not to
        be; it belongs to no other file."""
        from maglia.files.workshop.store import WAIT_S

        if self.store is not None:
            self.store.wait_no_longer_than(WAIT_S)
        self._try_again()
        self._again.stop()
        if self._held:
            self.said.emit("Not done: another window is writing to the workshop.")
            self._held.clear()

    def _try_again(self) -> None:
        from maglia.files.workshop.store import Held

        while self._held:
            until, command = self._held[0]
            try:
                command()
            except Held as fault:
                if time.monotonic() < until:
                    return
                self.said.emit(f"Not done: {fault}.")
            except DomainError as fault:
                self.said.emit(f"Not done: {fault}.")
            self._held.pop(0)
        self._again.stop()

    # --- the catalogue ------------------------------------------------------------------------

    def keep(self, *records: Record, words: str = "", merged: bool = False) -> None:
        """Keep records, in the place of those of their ids, as one step that can be taken back; or
        merged with the step before, if that was of the same words.
        Raises DomainError if they cannot be written; they are there until the window closes all
        the same."""
        from maglia.files.workshop.contents import Change, id_of, sort_of

        known = self._known()
        changes = [
            Change(sort, ref, known.get((sort, ref)), record)
            for record in records
            for sort, ref in [(sort_of(record), id_of(record))]
            if known.get((sort, ref)) != record
        ]
        name = _called(records[0])
        more = f" and {len(records) - 1} more" if len(records) > 1 else ""
        self._step(words or f"{name}{more} kept", changes, merged=merged)

    def keep_all(
        self, records: Sequence[Record], lies: Sequence[tuple[Part, Deed]], words: str = ""
    ) -> None:
        """Keep records and what lies there of them, all or nothing. Raises DomainError."""
        before, done = self.tray, len(self.done)
        try:
            if self.store is None:
                self.keep(*records, words=words)
                return
            from maglia.files.workshop import stock

            with self.store.changing():
                self.keep(*records, words=words)
                stock.do_all(self.store, lies, now())
        except DomainError:
            del self.done[done:]
            self._show(before)
            raise
        self.read_stock()

    def forget(self, record: Record) -> None:
        """Take a record out of the tray; pieces keep their copies."""
        from maglia.files.workshop.contents import Change, id_of, sort_of

        if self.lying_of(id_of(record)).total:
            raise DomainError(
                f"“{_called(record)}” still lies on the bench: count it as 0, then take it out"
            )
        name = _called(record)
        self._step(f"{name} taken out", [Change(sort_of(record), id_of(record), record, None)])

    def keep_form(self, name: str, form: Form) -> None:
        from maglia.files.workshop.contents import Change

        self._step(f"form {name} kept", [Change("form", name, self.forms.get(name), form)])

    def _step(self, words: str, changes: list[Change], *, merged: bool = False) -> None:
        if not changes:
            return
        fault = self._write(changes)
        last = self.done[-1] if self.done and merged else None
        if last is not None and last.words == words and len(last.changes) == len(changes) == 1:
            self.done[-1] = Step(words, (replace(last.changes[0], after=changes[0].after),))
        else:
            self.done.append(Step(words, tuple(changes)))
        self.undone.clear()
        self._take_in(changes, fault)

    def step(self, by: int) -> str | None:
        """Take the last change of the catalogue back (−1), or do it again (+1): its words, or None
        if there is none. Raises DomainError if another window has changed it since."""
        source, target = (self.done, self.undone) if by < 0 else (self.undone, self.done)
        if not source:
            return None
        step = source[-1]
        changes = [one.back() for one in reversed(step.changes)] if by < 0 else [*step.changes]
        known = self._known() | {("form", name): form for name, form in self.forms.items()}
        for one in changes:
            if known.get((one.sort, one.id)) != one.before:
                name = _called(one.before or one.after) or one.id
                raise DomainError(f"“{name}” was changed since in another window")
        fault = self._write(changes)
        target.append(source.pop())
        self._take_in(changes, fault)
        return step.words

    def _known(self) -> dict[tuple[str, str], Record | Form]:
        tray = self.tray
        found: dict[tuple[str, str], Record | Form] = {("part", p.id): p for p in tray.parts}
        found |= {("unit", u.id): u for u in tray.units}
        return found | {("wearer", w.role): w for w in tray.wearers}

    def _write(self, changes: Sequence[Change]) -> DomainError | None:
        """Into the file, and what stands in the way there for good. Raises Held."""
        from maglia.files.workshop import contents
        from maglia.files.workshop.store import Held

        try:
            if self.store is not None:
                contents.change(self.store, changes, now())
        except Held:
            raise
        except DomainError as fault:
            return fault
        return None

    def _take_in(self, changes: Sequence[Change], fault: DomainError | None) -> None:
        known: dict[str, dict[str, Record | Form | None]] = {
            "part": {part.id: part for part in self.tray.parts},
            "unit": {unit.id: unit for unit in self.tray.units},
            "wearer": {wearer.role: wearer for wearer in self.tray.wearers},
            "form": dict(self.forms),
        }
        for one in changes:
            if one.after is None:
                known[one.sort].pop(one.id, None)
            else:
                known[one.sort][one.id] = one.after
        self.forms = known["form"]  # type: ignore[assignment]
        parts, units, wearers = (tuple(known[sort].values()) for sort in ("part", "unit", "wearer"))
        self._show(replace(self.tray, parts=parts, units=units, wearers=wearers))
        if fault is not None:
            raise fault
        if self.store is not None:
            self.read_stock()

    # --- stock --------------------------------------------------------------------------------

    def _writable(self) -> Store:
        if self.store is None:
            raise DomainError("there is no workshop file, so stock is not recorded")
        return self.store

    def do(self, part: Part, *deeds: Deed) -> None:
        """Record what the maker says of her stock of a part."""
        from maglia.files.workshop import stock

        store = self._writable()
        try:
            for deed in deeds:
                stock.do(store, part, deed, now())
        finally:
            self.read_stock()

    def take_back(self, event: int) -> None:
        from maglia.files.workshop import stock

        stock.reverse(self._writable(), event, now())
        self.read_stock()

    def name_lot(self, part: Part, lot: str, name: str) -> None:
        from maglia.files.workshop import stock

        stock.name_lot(self._writable(), part.id, lot, name)
        self.read_stock()

    def events_of(self, ref: str) -> tuple[Event, ...]:
        from maglia.files.workshop import stock

        return stock.events_of(self.store, ref) if self.store is not None else ()

    def read_stock(self) -> None:
        from maglia.files.workshop import stock

        assert self.store is not None
        self.lying = stock.lying(self.store)
        self._version = self.store.version()
        self._show(self.tray)

    # --- what builds have shown ---------------------------------------------------------------

    def correct(self, correction: Correction) -> None:
        """Compute with a correction from now on. Raises DomainError if it cannot be kept."""
        from maglia.files.workshop import log

        log.take(self._open_store(), correction, now())
        self.read()

    def uncorrect(self, what: str, about: str) -> bool:
        """Compute without it again. False if there was none."""
        from maglia.files.workshop import log

        done = log.take_back(self._open_store(), what, about)
        self.read()
        return done

    def _open_store(self) -> Store:
        if self.store is None:
            raise DomainError("there is no workshop file, so nothing can be kept")
        return self.store

    # --- rules and pieces ---------------------------------------------------------------------

    def set_rules(self, rules: Rules) -> None:
        """Work by other rules. Raises DomainError, nothing changed, if they cannot be written."""
        if self.store is not None:
            from maglia.files.workshop import contents

            contents.set_rules(self.store, rules)
            self._version = self.store.version()
        self.rules = rules
        self.changed.emit()

    def saved(self, place: str, piece: Piece) -> None:
        """Note where a piece was saved, and what it is made of."""
        if self.store is None or self.store.read_only:
            return
        from maglia.files.workshop import contents

        ids = (thing.id for thing in (*piece.parts, *piece.units))
        contents.note_piece(self.store, place, piece.name, ids, piece.id)
        self._version = self.store.version()

    def saved_elsewhere(self, piece_id: str, place: str) -> str:
        """Where another file lies that is this piece; empty if none is there any more."""
        from maglia.files.workshop import contents

        places = contents.places_of(self.store, piece_id) if self.store is not None else ()
        return next((own for own in places if own != place and Path(own).is_file()), "")

    def pieces_with(self, ref: str) -> tuple[Saved, ...]:
        """Saved pieces that a part or unit stands in."""
        if self.store is None:
            return ()
        from maglia.files.workshop import contents

        return tuple(own for own in contents.saved_pieces(self.store) if ref in own.things)


def _called(record: Record | Form | None) -> str:
    """What a record is called; a form has no name of its own."""
    if isinstance(record, Wearer):
        return record.role
    return record.name if isinstance(record, Part | Unit) else ""


def now() -> str:
    """The time of an event, to the second."""
    return datetime.now().isoformat(timespec="seconds")


def _lying_in(tray: Tray) -> dict[str, Lying]:
    """What a tray says that lies there, before a workshop file is open."""
    found = {ref: Lying(bag=count) for ref, count in tray.bags.items()}
    for part in tray.parts:
        if by_length(part) and part.id in tray.lots_mm:
            amounts = (amount_of_mm(part, mm) or 0 for mm in tray.lots_mm[part.id])
            lots = tuple(LyingLot(f"lot {k}", n) for k, n in enumerate(amounts, 1))
            found[part.id] = Lying(lots=lots)
    return found
