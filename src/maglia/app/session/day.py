"""The day: pieces that are to be made and how many of each, and what they take together. Each piece
is known by its id: what is changed of it anywhere is changed here, and the plan is made anew.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import TYPE_CHECKING, NamedTuple, cast

from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from maglia.app.jobs import Jobs, Ticket
from maglia.app.session.identity import new_id
from maglia.app.session.workshop import Workshop, now
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError, Value
from maglia.core.workshop.lying import NOTHING, Lying

if TYPE_CHECKING:
    from maglia.core.assembly.assembly import Assembly
    from maglia.core.cutting.day import Cutting, Making, Stretch
    from maglia.core.joining.cost import Cost, Short
    from maglia.core.joining.left import Enough
    from maglia.core.joining.needs import Need
    from maglia.core.parts.parts import Part
    from maglia.core.values.rules import Rules

LANE, MOST_COPIES = "count", 1000
PAUSE_MS = 60
"""After the last change, before it is planned anew."""


class Entry(Value, frozen=True):
    """A piece of the day, how many of it; how many are in the making, and how many are ended."""

    piece: Piece
    copies: int = 1
    begun: int = 0
    ended: int = 0

    @property
    def left(self) -> int:
        """How many are still to be finished."""
        return max(self.copies - self.ended, 0)


class Stock(Value, frozen=True):
    """What the day can use: what lies on the bench or is laid out for it or for its builds, what
    those builds hold of counted parts, and what was cut for them."""

    lying: Mapping[str, Lying]
    held: Mapping[str, int]
    cut: tuple[tuple[str, int, int], ...]


class Wanted(NamedTuple):
    """What a plan is made from."""

    entries: tuple[Entry, ...]
    stock: Stock
    rules: Rules
    parts: tuple[Part, ...]


class _Counted(NamedTuple):
    needs: tuple[Need, ...]
    making: tuple[Making, ...]
    short: tuple[Short, ...]
    cuttings: dict[str, Cutting]
    cost: Cost | None


class Day(QObject):
    """Signals: `changed()` what is to be made is another · `found()` something more is known of
    it · `planned()` a plan of what is to be made now has come · `said(str)`."""

    changed = Signal()
    found = Signal()
    planned = Signal()
    said = Signal(str)

    def __init__(self, workshop: Workshop, jobs: Jobs, parent: QObject) -> None:
        super().__init__(parent)
        self.workshop, self.jobs = workshop, jobs
        self.id = new_id()
        self.entries: tuple[Entry, ...] = ()
        self.laid_out = False
        """Whether something is reserved for this day."""
        self.others = 0
        """How many other days are laid out."""
        self.stock = Stock(workshop.lying, {}, ())
        self.making: tuple[Making, ...] = ()
        self.cuttings: dict[str, Cutting] = {}
        self.needs: tuple[Need, ...] = ()
        self.cost: Cost | None = None
        self.short: tuple[Short, ...] = ()
        self.enough: tuple[Enough, ...] = ()
        self.at_work = False
        self.fault = ""
        self._unkept = False
        self._asked: Wanted | None = None
        self._planned: Wanted | None = None
        self._soon = QTimer(self, singleShot=True, interval=PAUSE_MS)
        self._soon.timeout.connect(self._on_pause)
        workshop.changed.connect(self._on_workshop)
        workshop.opened.connect(self._take_up)

    # --- what is to be made ---------------------------------------------------------------------

    def set(self, entries: tuple[Entry, ...]) -> None:
        """Other pieces, or others in number."""
        entries = _each_its_own(entries)
        if entries == self.entries:
            return
        self.entries, self._unkept = entries, True
        self._look()
        self.changed.emit()
        if not self.entries:
            self.plan()
        self._soon.start()

    def add(self, piece: Piece) -> None:
        """One piece more; the same piece once more is one more of it, as it is now."""
        for k, entry in enumerate(self.entries):
            if piece.id and entry.piece.id == piece.id:
                self._put(k, replace(entry, piece=piece, copies=min(entry.copies + 1, MOST_COPIES)))
                return
        self.set((*self.entries, Entry(piece)))

    def more(self, at: int, by: int) -> None:
        """So many more or fewer of a piece; at least one, and those that are begun or made."""
        entry = self.entries[at]
        least = max(entry.ended + entry.begun, 1)
        self._put(at, replace(entry, copies=min(max(entry.copies + by, least), MOST_COPIES)))

    def out(self, at: int) -> None:
        self.set((*self.entries[:at], *self.entries[at + 1 :]))

    def follow(self, piece: Piece) -> None:
        """A piece is another now, wherever it was changed."""
        for k, entry in enumerate(self.entries):
            if piece.id and entry.piece.id == piece.id and entry.piece != piece:
                self._put(k, replace(entry, piece=piece))

    def _put(self, at: int, entry: Entry) -> None:
        """Another state or number of what is there already."""
        if entry == self.entries[at]:
            return
        self.entries = (*self.entries[:at], entry, *self.entries[at + 1 :])
        self._unkept = True
        self.changed.emit()
        self._soon.start()

    def has(self, piece: Piece) -> bool:
        return any(entry.piece.id == piece.id for entry in self.entries)

    # --- what it takes --------------------------------------------------------------------------

    @property
    def wanted(self) -> Wanted:
        """What a plan of today's entries is made from."""
        rules, parts = self.workshop.rules, self.workshop.tray.parts
        return Wanted(self.entries, self.stock, rules, parts)

    @property
    def is_old(self) -> bool:
        """Whether what is shown is of other pieces or another stock than there are now."""
        return bool(self.entries) and self._planned != self.wanted

    def _on_pause(self) -> None:
        self.keep()
        if self.is_old and self._asked != self.wanted:
            self.plan()

    def plan(self) -> None:
        """Work it out anew; better plans come until they are proved. What is shown is the old one
        until the new one is there."""
        self.jobs.halt(LANE)
        self._asked = self.wanted
        self.fault = ""
        self.at_work = bool(self.entries)
        if self.entries:
            self.jobs.begin(LANE, partial(_counted, self._asked), self._told, self._failed)
        else:
            self._forget()
        self.found.emit()

    def _forget(self) -> None:
        self.cuttings, self.needs, self.making, self.cost = {}, (), (), None
        self.short, self.enough, self._planned = (), (), None

    def stop(self) -> None:
        """What is found is enough."""
        if self.at_work:
            self.jobs.halt(LANE)
            self.at_work = False
            self.found.emit()

    def _told(self, answer: object) -> None:
        if isinstance(answer, _Counted):
            self.needs, self.making, self.short, self.cuttings, self.cost = answer
            self.enough, self._planned = (), self._asked
            self.planned.emit()
        elif isinstance(answer, _Priced):
            self.cost, self.short = answer
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
        self._forget()
        self.fault, self._planned = str(fault), self._asked
        self.found.emit()

    # --- what is left ---------------------------------------------------------------------------

    def look_for_more(self, pieces: tuple[Piece, ...]) -> None:
        """Which of these could be made of what the day leaves; `enough` has them as they come."""
        self.enough = ()
        work = partial(_enough, pieces, self.making, self.needs, dict(self.cuttings),
                       self.stock.lying)  # fmt: skip
        self.jobs.begin(f"{LANE} left", work, self._told_enough, self._failed)

    def _told_enough(self, answer: object) -> None:
        if answer is not None:
            self.enough = (*self.enough, cast("Enough", answer))
        else:
            said = ", ".join(f"{one.name} × {one.copies}" for one in self.enough)
            self.said.emit(f"What is left would do for {said or 'none of the known pieces'}.")
        self.found.emit()

    # --- in the stock ---------------------------------------------------------------------------

    def lay_out(self) -> None:
        """Reserve the lengths that are cut and the parts that are there, as one event; what was
        laid out before is given back. Raises DomainError, nothing reserved, if it is old."""
        from maglia.files.workshop import day_stock, stock

        store = self.workshop.store
        if store is None:
            raise DomainError("there is no workshop file to lay it out in")
        if not self.entries or self.at_work:
            raise DomainError("it is not worked out yet: Esc takes what is found")
        if self.is_old:
            raise DomainError("what is shown is older than the piece or the stock: R counts anew")
        held, bags = self.stock.held, stock.lying(store, self.id)
        parts = {need.thing.id: min(max(need.count - held.get(need.thing.id, 0), 0),
                                    bags.get(need.thing.id, NOTHING).bag)
                 for need in self.needs if not need.is_made}  # fmt: skip
        touched = {(ref, bar.lot) for ref, cutting in self.cuttings.items() for bar in cutting.bars
                   if not bar.new}  # fmt: skip
        lots = [(ref, lot.name, lot.amount) for ref, own in bags.items() for lot in own.lots
                if (ref, lot.name) in touched]  # fmt: skip
        again = self.laid_out
        day_stock.lay_out(store, self.id, self._pieces(), parts, lots, now())
        self._done_to_stock()
        how = "Laid out anew" if again else "Laid out"
        self.said.emit(f"{how}: lengths and parts are reserved; G gives them up again.")

    def _pieces(self) -> list[tuple[Piece, int]]:
        return [(entry.piece, entry.copies) for entry in self.entries]

    def give_up(self) -> None:
        """What is left of what was laid out lies on the bench again. Raises DomainError."""
        from maglia.files.workshop import day_stock

        if self.workshop.store is None:
            raise DomainError("this day is not laid out")
        day_stock.give_up(self.workshop.store, self.id, now())
        self._done_to_stock()
        self.said.emit("Given up: what was not used lies on the bench again.")

    def _done_to_stock(self) -> None:
        """What this day did to the stock makes its plan no older."""
        was_new = not self.is_old
        self.workshop.read_stock()
        if was_new:
            self._planned = self._asked = self.wanted
        self.found.emit()

    def show_next(self) -> None:
        """Another day that is laid out takes the place of this one. Raises DomainError."""
        from maglia.files.workshop import day_stock

        store = self.workshop.store
        days = day_stock.open_days(store) if store is not None else ()
        others = [day for day in days if day != self.id]
        if not others or store is None:
            raise DomainError("no other day is laid out")
        at = days.index(self.id) if self.id in days else -1
        self._show(days[(at + 1) % len(days)])
        self.said.emit(f"Laid out {day_stock.read_day(store, self.id).at.replace('T', ' ')}.")

    def _show(self, day: str) -> None:
        from maglia.files.workshop import day_stock

        assert self.workshop.store is not None
        found = day_stock.read_day(self.workshop.store, day)
        self.id = day
        self.entries = tuple(Entry(*one) for one in found.pieces)
        self._look()
        self.changed.emit()
        self._soon.start()

    def _take_up(self) -> None:
        """The day that lies laid out since another time."""
        from maglia.files.workshop import day_stock

        store = self.workshop.store
        days = day_stock.open_days(store) if store is not None else ()
        if days and not self.entries:
            try:
                self._show(days[0])
            except DomainError as fault:
                self.said.emit(f"The day that is laid out cannot be read: {fault}.")

    def keep(self) -> None:
        """A day that is laid out is in the workshop's file as it is now."""
        from maglia.files.workshop import day_stock

        store, unkept = self.workshop.store, self._unkept
        self._unkept = False
        if not unkept or store is None or not self.laid_out or store.read_only:
            return
        keep = partial(day_stock.keep_day, store, self.id, self._pieces(), now())
        self.workshop.when_free(keep)
        if self.id not in day_stock.open_days(store):  # all that was left is made
            self.workshop.read_stock()

    def _on_workshop(self) -> None:
        """The stock, a rule, a build or what is laid out may be another now."""
        before = (self.laid_out, self.stock, self.entries)
        settled = self._look()
        if settled and self.entries and not any(entry.left for entry in self.entries):
            self.id, self.entries = new_id(), ()
            self._look()
            self.plan()
            self.said.emit("The day is made: what was left of it lies on the bench again.")
        if before != (self.laid_out, self.stock, self.entries):
            self.changed.emit()
        if self.is_old:
            self.found.emit()
            self._soon.start()

    def _look(self) -> bool:
        """See in the file what is laid out, in the making and made of this day. True if it was laid
        out and is not any more."""
        store, was = self.workshop.store, self.laid_out
        if store is None:
            self.stock = Stock(self.workshop.lying, {}, ())
            return False
        from maglia.files.workshop import build_stock, builds, day_stock, stock

        days = day_stock.open_days(store)
        self.laid_out = self.id in days
        self.others = len(days) - self.laid_out
        running: list[int] = []
        entries = []
        for entry in self.entries:
            own = builds.running(store, entry.piece.id, (self.id, ""))
            running += own
            ended = builds.ended_of(store, entry.piece.id, self.id)
            entries.append(replace(entry, begun=len(own), ended=ended,
                                   copies=max(entry.copies, len(own) + ended)))  # fmt: skip
        self.entries = tuple(entries)
        held: dict[str, int] = {}
        for build in running:
            for part, n in build_stock.laid_out(store, build).items():
                held[part] = held.get(part, 0) + n
        cut = tuple(one for build in running for one in build_stock.cuts_of(store, build))
        plain = not running and not self.laid_out
        lying = self.workshop.lying if plain else stock.lying(store, self.id, running)
        self.stock = Stock(lying, held, cut)
        return was and not self.laid_out


class _Priced(NamedTuple):
    cost: Cost
    short: tuple[Short, ...]


def _each_its_own(entries: tuple[Entry, ...]) -> tuple[Entry, ...]:
    """Each piece with an id that no other of them has: two of a set may be copies of one file."""
    found: dict[str, Entry] = {}
    for entry in entries:
        own = entry.piece.id
        if not own or own in found:
            own = new_id()
            entry = replace(entry, piece=replace(entry.piece, id=own))
        found[own] = entry
    return tuple(found.values())


def letter_of(number: int) -> str:
    """What the pieces of a day are called by: A to Z, then AA and so on."""
    more, last = divmod(number, 26)
    return (letter_of(more - 1) if more else "") + chr(ord("A") + last)


def _counted(wanted: Wanted, ticket: Ticket) -> object:
    """A first plan of all, then better ones."""
    from maglia.core.assembly.expand import expand
    from maglia.core.cutting.day import (
        Making,
        cuttings,
        first_cuttings,
        lengths_in,
        sold_in,
        wants_of,
    )
    from maglia.core.joining.cost import cost_of, to_buy
    from maglia.core.joining.needs import needs_of

    lying, rules, held = wanted.stock.lying, wanted.rules, wanted.parts
    making = []
    for entry in wanted.entries:
        try:
            made = expand(entry.piece)
        except DomainError as fault:
            raise DomainError(f"{entry.piece.name}: {fault}") from None
        making.append(Making(made, entry.left))
    parts, _ = wants_of(making)
    bags = {ref: own.bag for ref, own in lying.items()}
    needs = needs_of(making, bags)
    lots = {ref: lengths_in(part, lying.get(ref, NOTHING)) for ref, part in parts.items()}
    sold = sold_in(parts, {part.id: part for part in held})
    already = _already(wanted.stock, parts)
    best = first_cuttings(making, lots, sold, already)
    short = to_buy(needs, best, rules, held, bags)
    cost = cost_of(making, needs, best, rules)
    ticket.tell(_Counted(needs, tuple(making), short, dict(best), cost))
    for ref, cutting in cuttings(making, lots, sold, stop=ticket.is_superseded, already=already):
        best[ref] = cutting
        ticket.tell((ref, cutting))
    short = to_buy(needs, best, rules, held, bags)
    ticket.tell(_Priced(cost_of(making, needs, best, rules), short))
    return None


def _already(stock: Stock, parts: Mapping[str, Part]) -> dict[str, list[Stretch]]:
    """What was cut, as it is planned."""
    from maglia.core.cutting.day import Stretch, amount_in
    from maglia.core.workshop.lying import Lot

    found: dict[str, list[Stretch]] = {}
    for ref, amount, phase in stock.cut:
        if ref in parts:
            links = amount_in(parts[ref], Lot("", amount))
            found.setdefault(ref, []).append(Stretch(links, phase))
    return found


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
