"""The day: pieces that are to be made and how many of each, and what they take together."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import TYPE_CHECKING, NamedTuple, cast

from PySide6.QtCore import QObject, Signal

from maglia.app.jobs import Jobs, Ticket
from maglia.app.session.workshop import Workshop, now
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError, Value
from maglia.core.workshop.lying import NOTHING, Lying

if TYPE_CHECKING:
    from maglia.core.assembly.assembly import Assembly
    from maglia.core.cutting.day import Cutting, Making
    from maglia.core.joining.cost import Cost, Short
    from maglia.core.joining.left import Enough
    from maglia.core.joining.needs import Need
    from maglia.core.parts.parts import Part
    from maglia.core.values.rules import Rules

LANE, MOST_COPIES = "count", 1000


class Entry(Value, frozen=True):
    """A piece of the day, and how many of it."""

    piece: Piece
    copies: int = 1


class _Needs(NamedTuple):
    needs: tuple[Need, ...]
    making: tuple[Making, ...]
    short: tuple[Short, ...]


class _Priced(NamedTuple):
    cost: Cost
    short: tuple[Short, ...]


class Day(QObject):
    """Signals: `changed()` what is to be made is another · `found()` something more is known of
    it · `said(str)`."""

    changed = Signal()
    found = Signal()
    said = Signal(str)

    def __init__(self, workshop: Workshop, jobs: Jobs, parent: QObject) -> None:
        super().__init__(parent)
        self.workshop, self.jobs = workshop, jobs
        self.entries: tuple[Entry, ...] = ()
        self.making: tuple[Making, ...] = ()
        self.cuttings: dict[str, Cutting] = {}
        self.needs: tuple[Need, ...] = ()
        self.cost: Cost | None = None
        self.short: tuple[Short, ...] = ()
        self.enough: tuple[Enough, ...] = ()
        self.at_work = False
        self.fault = ""
        self._stock: object = None

    # --- what is to be made ---------------------------------------------------------------------

    def set(self, entries: tuple[Entry, ...]) -> None:
        """Other pieces, or others in number."""
        self.entries = entries
        self.changed.emit()
        self.plan()

    def add(self, piece: Piece) -> None:
        """One piece more; the same piece once more is one more of it."""
        for k, entry in enumerate(self.entries):
            if entry.piece == piece:
                self.more(k, 1)
                return
        self.set((*self.entries, Entry(piece)))

    def more(self, at: int, by: int) -> None:
        """So many more or fewer of a piece; at least one."""
        entry = self.entries[at]
        copies = min(max(entry.copies + by, 1), MOST_COPIES)
        self.set((*self.entries[:at], Entry(entry.piece, copies), *self.entries[at + 1 :]))

    def out(self, at: int) -> None:
        self.set((*self.entries[:at], *self.entries[at + 1 :]))

    # --- what it takes --------------------------------------------------------------------------

    def plan(self) -> None:
        """Work it out anew; better plans come until they are proved."""
        self.jobs.halt(LANE)
        self.cuttings, self.needs, self.making, self.fault = {}, (), (), ""
        self.cost, self.short, self.enough = None, (), ()
        self._stock = self._seen()
        self.at_work = bool(self.entries)
        self.found.emit()
        if self.entries:
            rules, parts = self.workshop.rules, self.workshop.tray.parts
            work = partial(_counted, self.entries, dict(self.workshop.lying), parts, rules)
            self.jobs.begin(LANE, work, self._told, self._failed)

    def stop(self) -> None:
        """What is found is enough."""
        if self.at_work:
            self.jobs.halt(LANE)
            self.at_work = False
            self.found.emit()

    def _seen(self) -> object:
        return dict(self.workshop.lying)

    @property
    def is_stale(self) -> bool:
        """Whether the stock is another than the plan was made by."""
        return bool(self.entries) and self._stock != self._seen()

    def _told(self, answer: object) -> None:
        if isinstance(answer, _Needs):
            self.needs, self.making, self.short = answer
        elif isinstance(answer, _Priced):
            self.cost, self.short = answer.cost, answer.short
        elif isinstance(answer, tuple):
            ref, cutting = answer
            self.cuttings[ref] = cutting
        else:
            self.at_work = False
        self.found.emit()

    def _failed(self, fault: Exception) -> None:
        self.at_work = False
        if not isinstance(fault, DomainError):
            raise fault
        self.fault = str(fault)
        self.found.emit()

    # --- what is left ---------------------------------------------------------------------------

    def look_for_more(self, pieces: tuple[Piece, ...]) -> None:
        """Which of these could be made of what the day leaves; `enough` has them as they come."""
        self.enough = ()
        lying = dict(self.workshop.lying)
        needs = () if self.laid_out else self.needs  # else it is off the bench already
        work = partial(_enough, pieces, self.making, needs, dict(self.cuttings), lying)
        self.jobs.begin(f"{LANE} left", work, self._told_enough, self._failed)

    def _told_enough(self, answer: object) -> None:
        if answer is not None:
            self.enough = (*self.enough, cast("Enough", answer))
        else:
            said = ", ".join(f"{one.name} × {one.copies}" for one in self.enough)
            self.said.emit(f"What is left would do for {said or 'none of the known pieces'}.")
        self.found.emit()

    # --- in the stock ---------------------------------------------------------------------------

    @property
    def name(self) -> str:
        """What the day is called in the stock."""
        from maglia.files.workshop.day_stock import day_name

        return day_name([(entry.piece.name, entry.copies) for entry in self.entries])

    def lay_out(self) -> None:
        """Reserve the lengths that are cut and the parts that are there, as one event. Raises
        DomainError, nothing reserved, if it is stale or laid out already."""
        from maglia.files.workshop import day_stock

        if self.workshop.store is None:
            raise DomainError("there is no workshop file to lay it out in")
        if not self.entries or self.at_work:
            raise DomainError("it is not worked out yet: Esc takes what is found")
        if self.laid_out:
            raise DomainError("this day is laid out already: G gives it up")
        if self.is_stale:
            raise DomainError("the stock is another than the plan was made by: R counts anew")
        there = self.workshop.lying
        lots = [(ref, lot) for ref, cutting in self.cuttings.items() if ref in there
                for lot in there[ref].lots
                if lot.name in {bar.lot for bar in cutting.bars}]  # fmt: skip
        parts = {need.thing.id: min(need.count, need.lies) for need in self.needs
                 if not need.is_made}  # fmt: skip
        day_stock.lay_out(self.workshop.store, self.name, parts, lots, now())
        self._seen_again()
        self.said.emit("Laid out: lengths and parts are reserved; G gives them up again.")

    @property
    def laid_out(self) -> bool:
        """Whether something is reserved for this day."""
        from maglia.files.workshop import day_stock

        store = self.workshop.store
        return store is not None and bool(self.entries and day_stock.laid_out(store, self.name))

    def give_up(self) -> None:
        """What is left of what was laid out lies on the bench again. Raises DomainError."""
        from maglia.files.workshop import day_stock

        if self.workshop.store is None or not self.entries:
            raise DomainError("this day is not laid out")
        day_stock.give_up(self.workshop.store, self.name, now())
        self._seen_again()
        self.said.emit("Given up: what was not used lies on the bench again.")

    def _seen_again(self) -> None:
        """What this day did to the stock makes its plan no older."""
        self.workshop.read()
        self._stock = self._seen()
        self.found.emit()


def _counted(
    entries: tuple[Entry, ...], lying: Mapping[str, Lying], held: tuple[Part, ...], rules: Rules,
    ticket: Ticket,
) -> object:  # fmt: skip
    """Needs first, then plan after plan."""
    from maglia.core.assembly.expand import expand
    from maglia.core.cutting.day import Making, cuttings, lengths_in, sold_in, wants_of
    from maglia.core.joining.cost import cost_of, to_buy
    from maglia.core.joining.needs import needs_of

    making = []
    for entry in entries:
        try:
            making.append(Making(expand(entry.piece), entry.copies))
        except DomainError as fault:
            raise DomainError(f"{entry.piece.name}: {fault}") from None
    parts, _ = wants_of(making)
    bags = {ref: own.bag for ref, own in lying.items()}
    needs = needs_of(making, bags)
    ticket.tell(_Needs(needs, tuple(making), to_buy(needs, {}, rules, held, bags)))
    lots = {ref: lengths_in(part, lying.get(ref, NOTHING)) for ref, part in parts.items()}
    best: dict[str, Cutting] = {}
    sold = sold_in(parts, {part.id: part for part in held})
    for ref, cutting in cuttings(making, lots, sold, stop=ticket.is_superseded):
        best[ref] = cutting
        ticket.tell((ref, cutting))
    short = to_buy(needs, best, rules, held, bags)
    ticket.tell(_Priced(cost_of(making, needs, best, rules), short))
    return None


def _enough(
    pieces: tuple[Piece, ...], making: tuple[Making, ...], needs: tuple[Need, ...],
    cuts: dict[str, Cutting], lying: Mapping[str, Lying], ticket: Ticket,
) -> object:  # fmt: skip
    from maglia.core.assembly.expand import expand
    from maglia.core.cutting.day import lengths_in, wants_of
    from maglia.core.joining.left import bags_left, enough_for, lengths_left

    candidates = [expand(piece) for piece in pieces]
    parts = {ref: part for one in (*(m.assembly for m in making), *candidates)
             for ref, part in wants_of([_one(one)])[0].items()}  # fmt: skip
    lots = {ref: lengths_in(part, lying.get(ref, NOTHING)) for ref, part in parts.items()}
    bags = {ref: own.bag for ref, own in lying.items()}
    left = lengths_left(lots, cuts)
    for enough in enough_for(candidates, bags_left(bags, needs), left, ticket.is_superseded):
        ticket.tell(enough)
    return None


def _one(assembly: Assembly) -> Making:
    from maglia.core.cutting.day import Making

    return Making(assembly)
