"""The piece in the making: what is done, what comes next, and what an edit on the mat undoes. Every
mark is in the workshop's file before the next picture is shown.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping, Sequence
from datetime import datetime
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from maglia.app.session.build_words import counted, short_words
from maglia.app.session.workshop import Workshop, now
from maglia.core.assembly.expand import expand
from maglia.core.joining.followed import followed, renamed
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.progress import (
    Mark,
    Turn,
    Undo,
    current,
    is_done,
    signs_of,
    to_undo,
    turns_of,
)
from maglia.core.joining.step import Step
from maglia.core.joining.steps import for_some
from maglia.core.joining.text import MakeSheet, make_sheet
from maglia.core.joining.waits import held_by, meanwhile, waits_over
from maglia.core.joining.ways import USUAL, Working
from maglia.core.parts.parts import Chain, Wire
from maglia.core.parts.units import BeadLink, Cluster, Dangle, Tassel
from maglia.core.piece.piece import Piece
from maglia.core.values.measures import LengthUnit
from maglia.core.values.record import DomainError

if TYPE_CHECKING:
    from maglia.files.workshop.builds import Build, Listed, Note, NoteSort
    from maglia.files.workshop.store import Workshop as Store

MOST_SECONDS = 15 * 60
"""A turn that took longer was left lying: it counts so much."""


class Builds(QObject):
    """Signals: `changed()` another turn is shown, or what is done is another · `said(str)`."""

    changed = Signal()
    said = Signal(str)

    def __init__(self, workshop: Workshop, parent: QObject) -> None:
        super().__init__(parent)
        self.workshop = workshop
        self.unit: LengthUnit = "mm"
        self.working = USUAL
        """How a build that is begun is worked."""
        self.build: Build | None = None
        self.sheet: MakeSheet | None = None
        self.turns: tuple[Turn, ...] = ()
        self.done: dict[str, Mark] = {}
        self.undos: tuple[Undo, ...] = ()
        """What must be undone first, after an edit."""
        self.at = 0
        self.seconds = 0.0
        self.since = time.monotonic()
        self._until: dict[int, datetime] = {}

    # --- which build --------------------------------------------------------------------------

    def _store(self) -> Store:
        if self.workshop.store is None:
            raise DomainError("there is no workshop file, so a build cannot be kept")
        return self.workshop.store

    def listed(self) -> tuple[Listed, ...]:
        from maglia.files.workshop import builds

        return builds.listed(self.workshop.store) if self.workshop.store is not None else ()

    def begin(self, piece: Piece) -> None:
        """Begin a build of a piece as it is, and lay its parts out. Raises DomainError."""
        from maglia.files.workshop import build_stock, builds

        store, assembly = self._store(), expand(piece)
        with store.changing():
            number = builds.begin(store, piece, self.working, now())
            short = build_stock.reserve(store, number, counted(assembly), now())
        self.open(number)
        if short:
            self.said.emit(f"Begun. Not on record in the stock: {short_words(assembly, short)}.")
        else:
            self.said.emit("Begun; its parts are laid out in the stock.")

    def open(self, number: int) -> None:
        """Go on with a build. Raises DomainError if it is not sound."""
        from maglia.files.workshop import builds

        store = self._store()
        self.build = builds.read(store, number)
        self.done = builds.marks(store, number)
        self.seconds = builds.seconds(store, number)
        self._renew()
        self._show(len(self.turns) if self.build.ended else self.next_turn())

    def leave(self) -> None:
        """Leave the build lying; it is kept."""
        self.build, self.sheet, self.turns, self.undos = None, None, (), ()
        self.changed.emit()

    def finish(self, *, given_up: bool = False) -> None:
        """The build is finished, or given up: its parts are used, or lie on the bench again."""
        from maglia.files.workshop import build_stock, builds

        store, build = self._store(), self._going()
        with store.changing():
            (build_stock.release if given_up else build_stock.use)(store, build.id, now())
            if given_up:
                builds.note(store, build.id, "", "note", builds.GIVEN_UP, now())
            builds.end(store, build.id, now())
            self._log(store, build.id)
        self.workshop.read()
        self.leave()
        self.said.emit("Given up; what was laid out is on the bench again." if given_up
                       else "Finished. It is kept among the builds.")  # fmt: skip

    def _log(self, store: Store, build: int) -> None:
        """What it took, for the log."""
        from maglia.core.log.came_to import came_to
        from maglia.core.log.records import spent_of
        from maglia.files.workshop import log

        assert self.sheet is not None
        rows = store.database.execute("SELECT place, seconds FROM mark WHERE build = ?", (build,))
        seconds = dict(rows.fetchall())
        metal, cost = came_to(self.sheet.assembly, self.workshop.rules)
        log.finished(store, build, sum(seconds.values()) / 60, spent_of(self.sheet, seconds), metal,
                     cost)  # fmt: skip

    def _build(self) -> Build:
        if self.build is None:
            raise DomainError("no build is open: begin one first")
        return self.build

    def _going(self) -> Build:
        """The open build, if it is not ended. Raises DomainError."""
        build = self._build()
        if build.ended:
            raise DomainError("this build is finished: it is kept as it was made")
        return build

    def _renew(self) -> None:
        build = self._build()
        assembly = expand(build.piece)
        self.sheet = make_sheet(
            assembly, joining_plan(assembly, build.working, signs_of(self.done)), self.unit
        )
        self.turns = turns_of(self.sheet)
        self.undos = to_undo(self.turns, self.done)
        self._find_waits()

    def reword(self, unit: LengthUnit) -> None:
        """Say lengths in another unit."""
        self.unit = unit
        if self.build is not None:
            self._renew()
            self.changed.emit()

    # --- where ---------------------------------------------------------------------------------

    @property
    def turn(self) -> Turn | None:
        return self.turns[self.at] if 0 <= self.at < len(self.turns) else None

    @property
    def step(self) -> Step | None:
        """The step that is shown, in the words of its turn."""
        turn, sheet = self.turn, self.sheet
        if turn is None or sheet is None:
            return None
        step = sheet.steps[turn.step]
        return for_some(sheet.assembly, sheet.plan, step, turn.closings, self.unit)

    def is_done(self, turn: Turn) -> bool:
        return is_done(turn, self.done)

    def next_turn(self) -> int:
        """The first turn that is not done and waits for nothing."""
        held = self.held()
        return next((k for k, turn in enumerate(self.turns)
                     if turn.step not in held and not self.is_done(turn)),
                    current(self.turns, self.done))  # fmt: skip

    def held(self) -> frozenset[int]:
        """Steps that wait for glue, and those that need them."""
        if self.sheet is None:
            return frozenset()
        waiting = frozenset(k for k, until in self._until.items() if until > datetime.now())
        return held_by(self.sheet, waiting)

    def until(self, number: int) -> datetime | None:
        """When a wait is over; None for what does not wait."""
        return self._until.get(number)

    def meanwhile(self) -> tuple[Step, ...]:
        """What can be done while the step that is shown waits."""
        if self.sheet is None or self.turn is None:
            return ()
        free = meanwhile(self.sheet, self.turns, self.done, self.turn.step)
        return tuple(self.sheet.steps[k] for k in free)

    def _find_waits(self) -> None:
        assert self.sheet is not None
        self._until = waits_over(self.sheet, self.turns, self.done, self._times())

    def _times(self) -> dict[str, datetime]:
        build = self._build()
        rows = self._store().database.execute(
            "SELECT place, at FROM mark WHERE build = ?", (build.id,)
        )
        return {place: datetime.fromisoformat(at) for place, at in rows}

    def pass_waits(self) -> None:
        """Every wait that is over is done, and the work goes on."""
        from maglia.files.workshop import builds

        over = [t for t in self.turns if (until := self._until.get(t.step)) is not None
                and until <= datetime.now() and not self.is_done(t)]  # fmt: skip
        marks = [mark for turn in over for mark in turn.marks]
        if marks:
            builds.mark(self._store(), self._build().id, marks, now(), 0.0)
            self.done.update((mark.place, mark) for mark in marks)
        self._show(self.next_turn())

    def go(self, at: int) -> None:
        """Look at another turn; nothing is done."""
        self._show(min(max(at, 0), len(self.turns)))

    def go_step(self, by: int) -> None:
        """To the first turn of the step before or after."""
        if not self.turns:
            return
        here = self.turns[min(self.at, len(self.turns) - 1)].step
        wanted = here + by if self.at < len(self.turns) else here
        self._show(next((k for k, t in enumerate(self.turns) if t.step >= wanted),
                        len(self.turns)))  # fmt: skip

    def _show(self, at: int) -> None:
        self.at = at
        self.since = time.monotonic()
        self.changed.emit()

    def pause(self) -> None:
        """The room is left: its clock stands."""
        self.since = time.monotonic()

    # --- doing ---------------------------------------------------------------------------------

    def do(self, *, whole_step: bool = False) -> None:
        """What is shown is done; with `whole_step` all that is left of its step."""
        from maglia.files.workshop import build_stock, builds

        build, turn = self._going(), self.turn
        if self.undos:
            self._undo(self.undo_now())
            return
        if turn is None:
            self.finish()
            return
        turns = [turn]
        if whole_step:
            turns = [t for t in self.turns[self.at :]
                     if t.step == turn.step and not self.is_done(t)]  # fmt: skip
        marks = [mark for one in turns for mark in one.marks]
        spent = min(time.monotonic() - self.since, MOST_SECONDS)
        store, said = self._store(), ""
        with store.changing():
            for mark in marks:
                for part, amount in self._takes(turn, mark):
                    told = build_stock.cut(store, build.id, part, amount, mark.place, now())
                    said = said or told
            builds.mark(store, build.id, marks, now(), spent)
        self.seconds += spent
        for mark in marks:
            self.done.pop(mark.place, None)
            self.done[mark.place] = mark
        self._find_waits()
        self._show(self.next_turn())
        if said:
            self.said.emit(f"{said[0].upper()}{said[1:]}.")

    def _takes(self, turn: Turn, mark: Mark) -> list[tuple[Chain | Wire, int]]:
        """What a mark cuts from lengths in the stock: a stretch, a thread, wire for a unit."""
        assert self.sheet is not None
        step, a = self.sheet.steps[turn.step], self.sheet.assembly
        sort, *rest = mark.place.split("#")[0].split("/")
        thing = a.things.get(step.things[0]) if step.things else None
        if sort == "cut" and isinstance(thing, Chain):
            return [(thing, int(rest[-1]))]
        if sort == "cut" and isinstance(thing, Wire):
            return [(thing, round(float(rest[-1]) * 1000))]
        if mark.sort == "make" and isinstance(thing, BeadLink | Dangle):
            from maglia.core.joining.making import wire_each_mm

            wire, each = a.things[thing.wire], wire_each_mm(a, thing, self.sheet.plan.working)
            if isinstance(wire, Wire) and each is not None:
                return [(wire, round(each * 1000))]
        return []

    def back(self) -> None:
        """The turn before is not done after all: it is shown, and its cut is taken back."""
        from maglia.files.workshop import build_stock, builds

        build = self._going()
        before = next((k for k in range(min(self.at, len(self.turns)) - 1, -1, -1)
                       if self.is_done(self.turns[k])), None)  # fmt: skip
        here = self.turn
        if here is not None and self.is_done(here):
            before = self.at
        if before is None:
            self.said.emit("This is the first step.")
            return
        places = [mark.place for mark in self.turns[before].marks]
        store = self._store()
        with store.changing():
            back = [build_stock.put_back(store, build.id, p, now()) for p in reversed(places)]
            builds.unmark(store, build.id, places)
        for place in places:
            self.done.pop(place, None)
        self._find_waits()
        self._show(before)
        if not all(back):
            self.said.emit("The stock keeps what was cut: it has been cut further since.")

    def undo_now(self) -> tuple[Undo, ...]:
        """What is undone first, all that is alike."""
        return tuple(one for one in self.undos if one.words == self.undos[0].words)

    def _undo(self, undos: Sequence[Undo]) -> None:
        from maglia.files.workshop import build_stock, builds

        build, store = self._going(), self._store()
        places = [undo.mark.place for undo in undos]
        with store.changing():
            for undo in undos:
                if undo.mark.sort == "cut":
                    build_stock.lay_aside(store, build.id, undo.mark.place, now())
            builds.unmark(store, build.id, places)
            times = f" × {len(undos)}" if len(undos) > 1 else ""
            builds.note(store, build.id, places[0], "undone", undos[0].words + times, now())
        for place in places:
            self.done.pop(place, None)
        self.undos = to_undo(self.turns, self.done)
        self._show(self.next_turn())

    # --- saying --------------------------------------------------------------------------------

    def note(self, words: str, value: float | None = None) -> None:
        """A note of this step, or what was measured after it."""
        from maglia.files.workshop import builds

        step = self.step
        sort: NoteSort = "note" if value is None else "measured"
        store, build = self._store(), self._build()
        with store.changing():
            builds.note(store, build.id, step.id if step else "", sort, words, now(), value)
            if value is not None and step is not None:
                self._measured(store, build.id, step, value)
        self.said.emit(f"Kept: {words}.")
        self.changed.emit()

    def note_named(self, text: str) -> None:
        """A measure that says what it is of, against the piece as it hangs. Raises DomainError."""
        from maglia.app.session.measure_words import read_measure
        from maglia.core.report import evaluate
        from maglia.files.workshop import builds, log

        step, store, build = self.step, self._store(), self._build()
        one = replace(read_measure(text, evaluate(build.piece), self.unit), at=now())
        with store.changing():
            builds.note(store, build.id, step.id if step else "", "measured", text, one.at,
                        one.measured_mm)  # fmt: skip
            log.measured(store, build.id, one)
        self.said.emit(f"Kept: {text}.")
        self.changed.emit()

    def _measured(self, store: Store, build: int, step: Step, value: float) -> None:
        """Held against what was planned there, if anything was."""
        from maglia.core.log.records import concern_of
        from maglia.files.workshop import log

        assert self.sheet is not None
        concern = concern_of(self.sheet, self.sheet.steps[self.turn.step] if self.turn else step)
        if concern is not None:
            log.measured(store, build, replace(concern, at=now(), measured_mm=value))

    def notes(self) -> tuple[Note, ...]:
        from maglia.files.workshop import builds

        return builds.notes(self._store(), self._build().id) if self.build is not None else ()

    def spoilt(self, ref: str) -> None:
        """One of a part is spoilt: gone from the stock, noted."""
        from maglia.files.workshop import build_stock, builds

        build, step = self._going(), self.step
        assert self.sheet is not None
        name = self.sheet.assembly.things[ref].name
        store = self._store()
        with store.changing():
            recorded = build_stock.spoil(store, build.id, ref, now())
            builds.note(store, build.id, step.id if step else "", "spoilt", name, now(), 1.0)
        self.workshop.read()
        rest = "" if recorded else " None is on record in the stock"
        self.said.emit(f"Spoilt: one {name}.{rest}")
        self.changed.emit()

    def in_hand(self) -> tuple[str, ...]:
        """Parts that may be spoilt in this step: those of what is in hand, units by what they are
        made of."""
        step, sheet = self.step, self.sheet
        if step is None or sheet is None:
            return ()
        a = sheet.assembly
        refs = [a.members[m].ref for m in step.in_hand] + list(step.things)
        if step.verb in ("look", "measure"):
            refs = []
        found: dict[str, None] = {}
        for ref in refs:
            thing = a.things[ref]
            parts = [ref]
            if isinstance(thing, BeadLink | Dangle):
                parts = [*thing.stack, thing.wire]
            elif isinstance(thing, Tassel):
                parts = [thing.ring]
            elif isinstance(thing, Cluster):
                parts = [thing.carrier]
            found.update(dict.fromkeys(
                p for p in parts if not isinstance(a.things[p], Chain | Wire)))  # fmt: skip
        return tuple(found)

    # --- changed on the mat --------------------------------------------------------------------

    def change(self, piece: Piece, words: str, moved: Mapping[str, str] | None = None) -> None:
        """The piece is another one from here on; what is finished and unchanged stays so, though
        its place may bear another name (`moved`: how it began, how it begins). Raises DomainError,
        nothing changed, if it cannot be built."""
        from maglia.files.workshop import build_stock, builds

        build, step, sheet = self._going(), self.step, self.sheet
        assert sheet is not None
        if piece == build.piece:
            raise DomainError(f"{words}: so it is already")
        after = expand(piece)
        stands = followed(sheet.assembly, after, moved or {})
        store = self._store()
        with store.changing():
            builds.change(store, build.id, piece, build.working)
            short = build_stock.reserve(store, build.id, counted(after), now())
            builds.move(store, build.id, renamed(self.done, stands))
            builds.note(store, build.id, step.id if step else "", "changed", words, now())
        self.build, self.done = build._replace(piece=piece), builds.marks(store, build.id)
        self._renew()
        self._show(self.next_turn())
        told = [words, "what is finished stays finished"]
        if self.undos:
            lost = sum(one.lost for one in self.undos)
            told[1] = f"{len(self.undos)} to undo first" + (f", {lost} lost" if lost else "")
        if short:
            told.append(f"not on record in the stock: {short_words(after, short)}")
        assert self.sheet is not None
        told += [f"! {one.says}" for one in self.sheet.culprits[:1]]
        self.said.emit(". ".join(one[0].upper() + one[1:] for one in told).rstrip(".") + ".")

    def work(self, change: Callable[[Working], Working]) -> None:
        """Work by another school or habit from here on."""
        from maglia.files.workshop import builds

        build = self._going()
        working = change(build.working)
        builds.change(self._store(), build.id, build.piece, working)
        self.build = build._replace(working=working)
        self._renew()
        self._show(self.next_turn())
