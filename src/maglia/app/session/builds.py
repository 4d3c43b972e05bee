"""The piece in the making: what is done, what comes next, and what an edit on the mat undoes. Every
mark is in the workshop's file before the next picture is shown.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from datetime import datetime
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from maglia.app.session.build_words import counted, differing, short_words
from maglia.app.session.workshop import Workshop, now
from maglia.core.assembly.expand import expand
from maglia.core.cutting.day import amount_of
from maglia.core.joining.followed import followed, renamed, renamed_took
from maglia.core.joining.marked import Mark
from maglia.core.joining.plan import joining_plan
from maglia.core.joining.progress import (
    Turn,
    Undo,
    current,
    is_done,
    to_undo,
    turns_of,
)
from maglia.core.joining.step import Step
from maglia.core.joining.steps import for_some
from maglia.core.joining.takes import Taken, taken_besides, taken_by
from maglia.core.joining.text import MakeSheet, make_sheet
from maglia.core.joining.waits import held_by, meanwhile, waits_over
from maglia.core.joining.ways import USUAL, Working
from maglia.core.parts.parts import Chain, Wire
from maglia.core.parts.units import BeadLink, Cluster, Dangle, Tassel
from maglia.core.piece.piece import Piece
from maglia.core.values.measures import LengthUnit
from maglia.core.values.record import DomainError

if TYPE_CHECKING:
    from maglia.core.log.records import Measure
    from maglia.files.workshop.builds import Build, Listed, Note, NoteSort
    from maglia.files.workshop.store import Workshop as Store


class _Elsewhere(DomainError):
    """Another window has changed what is shown here."""


MOST_SECONDS = 15 * 60
"""A turn that took longer was left lying: it counts so much."""


class Builds(QObject):
    """Signals: `changed()` another turn is shown, or what is done is another ·
    `changed_on_mat(Piece, Piece, str)` the piece of a build, before and after, and what was done ·
    `said(str)`."""

    changed_on_mat = Signal(object, object, str)
    changed = Signal()
    said = Signal(str)

    def __init__(self, workshop: Workshop, parent: QObject) -> None:
        super().__init__(parent)
        self.workshop = workshop
        self.unit: LengthUnit = "mm"
        self.working = USUAL
        """How a build that is begun is worked."""
        self.bench: Piece = Piece()
        """The piece on the bench."""
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
        from maglia.files.workshop import build_stock, builds, day_stock

        store, assembly = self._store(), expand(piece)
        with store.changing():
            day = day_stock.day_for(store, piece.id)
            number = builds.begin(store, piece, self.working, now(), day)
            short = build_stock.reserve(store, number, counted(assembly), now())
        self.workshop.read_stock()
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

    def see(self, piece: Piece) -> None:
        """The piece on the bench is another one, or another state of it: a build of another piece
        is left lying, as its keys would be pressed for this one."""
        before, self.bench = self.bench, piece
        if self.build is None:
            return
        if before.id != piece.id and self.build.piece.id != piece.id:
            self.leave()
        elif before.id == piece.id == self.build.piece.id and before != piece:
            self.changed.emit()

    @property
    def bench_differs(self) -> tuple[str, ...]:
        """What the piece on the bench has otherwise than the build of it that is open."""
        build = self.build
        if build is None or build.ended or self.bench.id != build.piece.id:
            return ()
        return differing(build.piece, self.bench)

    def take_from_bench(self) -> None:
        """The build goes on as the piece is on the bench now. Raises DomainError."""
        build = self._going()
        if self.bench.id != build.piece.id:
            raise DomainError("another piece is on the bench")
        said = self.bench_differs
        if not said:
            raise DomainError("the bench has it as it is made")
        self.change(self.bench, f"as on the bench: {'; '.join(said)}")

    def leave(self) -> None:
        """Leave the build lying; it is kept."""
        self.build, self.sheet, self.turns, self.undos = None, None, (), ()
        self.changed.emit()

    def finish(self, *, given_up: bool = False) -> None:
        """The build is finished, or given up: its parts are used, or lie on the bench again."""
        from maglia.files.workshop import build_stock, builds, day_stock

        build, said = self._going(), ""
        with self._changing(build) as store:
            if given_up:
                chains = [part.id for part in build.piece.parts if isinstance(part, Chain)]
                build_stock.release(store, build.id, now(), chains)
                builds.note(store, build.id, "", "note", builds.GIVEN_UP, now())
            else:
                said = self._cut(store, build.id, "", taken_besides(self._sheet()))
                build_stock.use(store, build.id, now())
            builds.end(store, build.id, now())
            settled = day_stock.settle(store, build.day, now())
            self._log(store, build.id)
        self.workshop.read_stock()
        self.leave()
        words = ["Given up; what was laid out is on the bench again" if given_up
                 else "Finished. It is kept among the builds"]  # fmt: skip
        if settled:
            words.append("Its day is made: what was left of it lies on the bench again")
        self.said.emit(". ".join(filter(None, (*words, said))) + ".")

    @contextmanager
    def _changing(self, build: Build) -> Iterator[Store]:
        """A change of a build in the file, made only if that holds it as it is shown here: another
        window may have gone on with it. Raises DomainError, nothing changed; then it is shown as it
        is there."""
        from maglia.files.workshop import builds

        store = self._store()
        try:
            with store.changing():
                if not builds.is_as(store, build, self.done):
                    raise _Elsewhere("this build was gone on with in another window: it is shown "
                                     "as it is now")  # fmt: skip
                yield store
        except _Elsewhere:
            self.open(build.id)
            self.workshop.read_stock()
            raise

    def _sheet(self) -> MakeSheet:
        assert self.sheet is not None
        return self.sheet

    def _cut(self, store: Store, build: int, place: str, taken: Iterable[Taken]) -> str:
        """Cut from the stock; the first thing that there is to say of it."""
        from maglia.files.workshop import build_stock

        things, said = self._sheet().assembly.things, ""
        for ref, stretch in taken:
            part = things[ref]
            assert isinstance(part, Chain | Wire)
            amount = amount_of(part, stretch)
            told = build_stock.cut(store, build, part, amount, place, now())
            said = said or told
        return said

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
            assembly, joining_plan(assembly, build.working, self.done), self.unit
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
        from maglia.files.workshop import log

        build = self._build()
        rows = self._store().database.execute(
            "SELECT place, at FROM mark WHERE build = ?", (build.id,)
        )
        return {place: at for place, text in rows if (at := log.moment(text)) is not None}

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
        from maglia.files.workshop import builds

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
        said = ""
        new = [mark for mark in marks if mark.place not in self.done]
        taken = {mark.place: taken_by(self._sheet(), turn, mark) for mark in new}
        with self._changing(build) as store:
            for place, cuts in taken.items():
                told = self._cut(store, build.id, place, cuts)
                said = said or told
            builds.mark(store, build.id, marks, now(), spent)
        if any(taken.values()):
            self.workshop.read_stock()
        self.seconds += spent
        for mark in marks:
            self.done.pop(mark.place, None)
            self.done[mark.place] = mark
        self._find_waits()
        self._show(self.next_turn())
        if said:
            self.said.emit(f"{said[0].upper()}{said[1:]}.")

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
        with self._changing(build) as store:
            back = [build_stock.put_back(store, build.id, p, now()) for p in reversed(places)]
            builds.unmark(store, build.id, places)
        for place in places:
            self.done.pop(place, None)
        self._find_waits()
        self._show(before)
        if any(mark.sort in ("cut", "make") for mark in self.turns[before].marks):
            self.workshop.read_stock()
        if not all(back):
            self.said.emit("The stock keeps what was cut: it has been cut further since.")

    def undo_now(self) -> tuple[Undo, ...]:
        """What is undone first, all that is alike."""
        return tuple(one for one in self.undos if one.words == self.undos[0].words)

    def _undo(self, undos: Sequence[Undo]) -> None:
        from maglia.files.workshop import build_stock, builds

        build = self._going()
        places = [undo.mark.place for undo in undos]
        with self._changing(build) as store:
            for undo in undos:
                if undo.mark.sort in ("cut", "make"):
                    whole = undo.mark.sort == "cut"
                    build_stock.lay_aside(store, build.id, undo.mark.place, now(), whole=whole)
            builds.unmark(store, build.id, places)
            times = f" × {len(undos)}" if len(undos) > 1 else ""
            builds.note(store, build.id, places[0], "undone", undos[0].words + times, now())
        for place in places:
            self.done.pop(place, None)
        if any(undo.mark.sort == "cut" for undo in undos):
            self.workshop.read_stock()
        self.undos = to_undo(self.turns, self.done)
        self._show(self.next_turn())

    # --- saying --------------------------------------------------------------------------------

    def note(self, words: str, value: float | None = None) -> None:
        """A note of this step, or what was measured after it. A measure that nothing is planned for
        is a note."""
        from maglia.files.workshop import builds, log

        step = self.step
        sort: NoteSort = "note" if value is None else "measured"
        store, build = self._store(), self._build()
        planned = self._planned(step) if value is not None else None
        with store.changing():
            builds.note(store, build.id, step.id if step else "", sort, words, now(), value)
            if value is not None and planned is not None:
                log.measured(store, build.id, replace(planned, at=now(), measured_mm=value))
        against = "It is held against nothing here: say what it is of, as closed length 413"
        alone = f" {against}." if value is not None and planned is None else ""
        self.said.emit(f"Kept: {words}.{alone}")
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

    def _planned(self, step: Step | None) -> Measure | None:
        """What a bare length is held against: what is planned at the step, at the end the closed
        length; None if nothing is."""
        from maglia.core.log.records import Measure, concern_of
        from maglia.core.sheets.lengths import closed_length_mm

        sheet = self._sheet()
        if step is not None:
            return concern_of(sheet, sheet.steps[self.turn.step] if self.turn else step)
        mm = closed_length_mm(sheet.assembly)
        if not mm:
            return None
        return Measure(at="", what="closed length", planned_mm=mm, measured_mm=0.0)

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
        self.workshop.read_stock()
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
        before, after = build.piece, expand(piece)
        stands = followed(sheet.assembly, after, moved or {})
        took = renamed_took({m.place: m.took for m in self.done.values() if m.took}, stands)
        with self._changing(build) as store:
            builds.change(store, build.id, piece, build.working)
            short = build_stock.reserve(store, build.id, counted(after), now())
            builds.move(store, build.id, renamed(self.done, stands), took)
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
        self.workshop.read_stock()
        self.changed_on_mat.emit(before, piece, words)
        self.said.emit(". ".join(one[0].upper() + one[1:] for one in told).rstrip(".") + ".")

    def work(self, change: Callable[[Working], Working]) -> None:
        """Work by another school or habit from here on."""
        from maglia.files.workshop import builds

        build = self._going()
        working = change(build.working)
        with self._changing(build) as store:
            builds.change(store, build.id, build.piece, working)
        self.build = build._replace(working=working)
        self._renew()
        self._show(self.next_turn())
