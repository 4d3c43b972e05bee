"""The open piece: where history, cursor, evaluation and workshop come together. The one place every
edit goes through.

An edit is refused, with its reason, when the new piece cannot be built; otherwise the assembly is
there at once and the hang follows from a worker.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from maglia.app.jobs import Jobs
from maglia.app.session.build_words import differing
from maglia.app.session.builds import Builds
from maglia.app.session.cursor import Cursor
from maglia.app.session.day import Day
from maglia.app.session.delta import Delta
from maglia.app.session.evaluation import Evaluation
from maglia.app.session.history import History, State
from maglia.app.session.identity import id_of_file, new_id
from maglia.app.session.log_book import LogBook
from maglia.app.session.workshop import Record, Workshop
from maglia.core.assembly.assembly import Assembly, Member
from maglia.core.assembly.expand import expand
from maglia.core.edits.rearrange import Clip, copied, pasted, run_copied
from maglia.core.edits.spots import Edited, Spot, count_at, opening_spot, quantity_at, spot_of
from maglia.core.edits.take_over import differs, taken_over
from maglia.core.parts.parts import Part
from maglia.core.parts.units import Thing
from maglia.core.piece.piece import Form, Piece, catalogue
from maglia.core.sheets.wear import as_worn
from maglia.core.values.gauges import GaugeSystem
from maglia.core.values.measures import LengthUnit, format_length
from maglia.core.values.record import DomainError
from maglia.core.values.rules import Rules
from maglia.core.workshop.lying import Deed, Lying
from maglia.core.workshop.tray import Tray
from maglia.files import disk
from maglia.files.kept import Kept
from maglia.files.migrations import VERSION
from maglia.files.piece_json import keep_older, read_file, refuse_unwritable, write_piece

if TYPE_CHECKING:
    from maglia.core.fit.solve import Solved
    from maglia.core.report import Findings


UNTITLED = "Untitled"


class Session(QObject):
    """The piece on the bench.

    Signals: `changed()` the piece and its assembly are new · `said(str)` a line for the maker ·
    `reshown()` a display unit changed. `found` and `moved` are those of evaluation and cursor.
    """

    changed = Signal()
    said = Signal(str)
    reshown = Signal()

    def __init__(self, tray: Tray, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.jobs = Jobs(self)
        self.workshop = Workshop(tray, self)
        self.builds = Builds(self.workshop, self)
        self.day = Day(self.workshop, self.jobs, self)
        self.delta = Delta(self.workshop, self.day, self)
        self.log_book = LogBook(self.workshop, self)
        self.cursor = Cursor(self)
        self.evaluation = Evaluation(self.jobs, self)
        self.found, self.moved = self.evaluation.found, self.cursor.moved
        self.found.connect(self._on_found)
        self.evaluation.solved.connect(self._on_solved)
        self.evaluation.said.connect(self.said)
        self.workshop.said.connect(self.said)
        self.workshop.changed.connect(self.on_workshop)
        self.workshop.opened.connect(self._tell_apart)
        self.workshop.opened.connect(self.builds.leave)
        self.builds.changed_on_mat.connect(self._on_mat)
        self.changed.connect(self._follow)
        self.delta.said.connect(self.said)
        self.path: Path | None = None
        self.unit: LengthUnit = "mm"
        self.wire_unit: GaugeSystem = ""
        self.clip = Clip()
        self.way = 0
        self.print: str | None = None
        self._stale: tuple[tuple[Thing, Thing], ...] | None = None
        self._edit, self._fitted = 0, ""
        self._lies: tuple[str, Mapping[str, Lying]] | None = None
        self._worked_by: tuple[Mapping[str, Lying], Rules] | None = None
        """Fingerprint of the open file as it was read or written here."""
        self.older: int | None = None
        """The version that the open file is still in, if it is not today's."""
        self.by_spot: dict[Spot, list[Member]] = {}
        """The members that each spot became, in the order of the assembly."""
        self._reset(Piece(name=UNTITLED), None)

    # --- reading ------------------------------------------------------------------------------

    @property
    def piece(self) -> Piece:
        return self.history.piece

    @property
    def spot(self) -> Spot | None:
        return self.cursor.spot

    @property
    def findings(self) -> Findings | None:
        return self.evaluation.findings

    @property
    def tray(self) -> Tray:
        return self.workshop.tray

    @property
    def edited(self) -> bool:
        """Whether something would be lost: on an empty bench nothing is, as parts that are said
        there are in the tray."""
        there = self.path is not None or bool(self.piece.owners) or bool(self.piece.note)
        return there and self.history.edited

    @property
    def at_rest(self) -> bool:
        return self.evaluation.at_rest

    def length(self, mm: float | None) -> str:
        """A length in the display unit."""
        return "unknown" if mm is None else format_length(mm, self.unit, with_unit=True)

    def members_at(self, spot: Spot | None) -> list[Member]:
        """Every member that the item at a spot became; of a repeat, all that it writes out."""
        if spot is None or spot in self.by_spot:
            return self.by_spot.get(spot, []) if spot else []
        return [m for own, members in self.by_spot.items() if own.within(spot) for m in members]

    def fitted_spots(self) -> list[tuple[Spot, str]]:
        """Spots whose count a fit sets, with the fit's name."""
        from maglia.core.fit.solve import fitted_counts

        set_by = fitted_counts(self.piece)
        counted = [(spot, quantity_at(spot)) for spot in self.by_spot if spot.path]
        return [(spot, set_by[at]) for spot, at in counted if at in set_by]

    def pinned_spots(self) -> list[Spot]:
        return [s for s in self.by_spot if s.path and quantity_at(s) in self.piece.pinned]

    # --- opening and saving -------------------------------------------------------------------

    def open(self, path: Path, *, as_copy: bool = False) -> None:
        """Open a file; raises DomainError and keeps what is open if it cannot be."""
        opened = read_file(path)
        try:
            expand(opened.piece)
        except DomainError as fault:
            raise DomainError(f"{disk.shown(path)}: {fault}") from None
        own = new_id() if as_copy else opened.piece.id or id_of_file(path)
        self._reset(replace(opened.piece, id=own), None if as_copy else path)
        self.print = None if as_copy else disk.print_of(path)
        self.older = opened.version if opened.version < VERSION and not as_copy else None
        self.workshop.offered = opened.stock
        self._tell_apart()

    def _tell_apart(self) -> None:
        """A file that was copied by hand is a piece of its own, though the same id stands in it."""
        if self.path is None or len(self.history.states) > 1:
            return
        place = str(self.path.resolve())
        if other := self.workshop.saved_elsewhere(self.piece.id, place):
            kept = self.print, self.older
            self._reset(replace(self.piece, id=id_of_file(self.path)), self.path)
            self.print, self.older = kept
            self.said.emit(f"A copy of {disk.shown(Path(other))}: a piece of its own from here on.")

    def start_new(self, piece: Piece | None = None, words: str = "begun") -> None:
        """An empty bench, or a piece to begin with: not saved anywhere yet, its fits solved."""
        empty = Piece(name=UNTITLED, wearer=self.piece.wearer, form=Form(kind="bust"))
        saved = None if piece is None else empty
        begun = replace(piece or empty, id=new_id(), corrections=self.workshop.corrections)
        self._reset(begun, None, words, saved=saved, fits=piece is not None)

    def start_as_it_is(self, piece: Piece, words: str) -> None:
        """A piece exactly as it was kept, by the corrections of its time."""
        self._reset(piece, None, words)

    def take_up(self, kept: Kept) -> None:
        """Go on with work that was cut off: it is edited, and its file still the older one."""
        self._reset(kept.piece, kept.path, "taken up again", saved=Piece())
        self.print = kept.print
        with suppress(DomainError):
            version = read_file(kept.path).version if kept.path else VERSION
            self.older = version if version < VERSION else None

    def changed_by_others(self, path: Path) -> bool:
        """Whether the open file holds something else than when it was opened or saved here."""
        if self.path is None or path != self.path or self.print is None:
            return False
        return disk.print_of(path) not in (None, self.print)

    def save(self, path: Path) -> None:
        """Write the piece. A file of an older version is kept beside it first."""
        kept = ""
        if self.older is not None and self.path is not None and path == self.path:
            kept = f" The older file is kept as {keep_older(path, self.older).name}."
        if self.path is not None and path.resolve() != self.path.resolve():
            self.history.amend(replace(self.piece, id=new_id()))
            kept += " It is a piece of its own from here on."
        if self.piece.name == UNTITLED:
            self.history.amend(replace(self.piece, name=path.stem[:120] or UNTITLED))
        if self.assembly.piece != self.shown:
            self._renew(expand(self.piece))
        write_piece(self.piece, path)
        self.path, self.history.saved, self.older = path, self.piece, None
        self.note_saved(str(path.resolve()))
        self.print = disk.print_of(path)
        self.said.emit(f"Saved as {disk.shown(path)}.{kept}")
        self.changed.emit()

    def note_saved(self, place: str) -> None:
        """The workshop notes what a saved piece is made of; what stands in the way is said."""
        try:
            self.workshop.when_free(partial(self.workshop.saved, place, self.piece))
        except DomainError as fault:
            self.said.emit(f"Saved, but the workshop could not note it: {fault}.")

    def _reset(
        self,
        piece: Piece,
        path: Path | None,
        words: str = "opened",
        *,
        saved: Piece | None = None,
        fits: bool = False,
    ) -> None:
        if not piece.id:
            piece = replace(piece, id=new_id())
        assembly = expand(piece)  # what cannot be built changes nothing
        spot = opening_spot(piece)
        self.path, self.older, self.print, self.way = path, None, None, 0
        self.history = History(State(piece, spot, words), saved)
        self.evaluation.forget()
        self.delta.forget()
        self.cursor.put(spot)
        self._renew(assembly, fits=fits)

    # --- editing ------------------------------------------------------------------------------

    def apply(self, edited: Edited, *, fits: bool = True) -> bool:
        """Take over an edit. Returns False, saying why, if the new piece cannot be built. What
        a fit had set and the maker sets now is pinned; then the fits are solved again, unless
        it is to stay exactly as it is."""
        if self.piece.fits:
            from maglia.core.fit.hold import held

            changed = edited.about or edited.spot
            edited = replace(edited, piece=held(self.piece, edited.piece, changed))
        try:
            refuse_unwritable(edited.piece)
            assembly = expand(edited.piece)
        except DomainError as fault:
            self.said.emit(f"Not done: {fault}.")
            return False
        self._count_edit()
        cursor = self.cursor
        self.history.leave_at(cursor.spot, cursor.mark)
        cursor.put(edited.spot if edited.spot is not None else cursor.spot, cursor.mark)
        self.history.add(State(edited.piece, cursor.spot, edited.words, cursor.mark))
        self._renew(assembly, fits=fits)
        self.said.emit(f"{edited.words}.")
        return True

    def _on_mat(self, before: Piece, after: Piece, words: str) -> None:
        """A build was changed. The piece on the bench follows if it is the same one and stood so;
        else the day alone does, and where they differ is said."""
        if self.piece.id == before.id and not self.way and not differing(self.piece, before):
            made = replace(self.piece, parts=after.parts, units=after.units, runs=after.runs,
                           rows=after.rows, closure=after.closure)  # fmt: skip
            self.apply(Edited(made, f"on the mat: {words}"), fits=False)
        elif self.piece.id != before.id:
            self.day.follow(after)

    def _on_found(self) -> None:
        """What the last edit did, once its results are those of the whole piece as it is now."""
        found = self.findings
        if found is not None and not self.way and found.assembly.piece is self.piece:
            words = self.history.state.words
            fitted = f" · fitted: {self._fitted}" if self._fitted else ""
            self.delta.follow(found, self._edit, f"{words}{fitted}", self.length)

    def _follow(self) -> None:
        """Every room is a view of the piece: the day and the builds see what it is now."""
        self.builds.see(self.piece)
        self.day.follow(self.piece)

    def _count_edit(self) -> None:
        """Another edit, or the way back from one: what comes of it is told of it."""
        self._edit, self._fitted = self._edit + 1, ""

    def attempt(self, edit: Callable[[], Edited]) -> bool:
        """Apply an edit that may itself be refused."""
        try:
            edited = edit()
        except DomainError as fault:
            self.said.emit(f"Not done: {fault}.")
            return False
        return self.apply(edited)

    def keep_offered(
        self, records: Sequence[Record], lies: Sequence[tuple[Part, Deed]] = (), words: str = ""
    ) -> bool:
        """Keep parts, units or a wearer in the workshop, and what lies there of them; `words` are
        said once they are kept, else what stands in the way. True if they are kept now."""
        if not records:
            return True
        counted = bool(lies) and self.workshop.store is not None

        def keep() -> None:
            if counted:
                self.workshop.keep_all(records, lies)
            else:
                self.workshop.keep(*records)
            if words:
                self.said.emit(words)

        try:
            return self.workshop.when_free(keep)
        except DomainError as fault:
            why = "Not kept in the tray" if counted else "It is there until you leave, but not kept"
            self.said.emit(f"{why}: {fault}.")
            return False

    def step(self, by: int, *, far: bool = False) -> None:
        """Undo (−1) or redo (+1); or `far` to another state of the history."""
        if far and by == 0:
            return
        if not self.history.can_step(by):
            self.said.emit("Nothing to undo." if by < 0 else "Nothing to redo.")
            return
        self._count_edit()
        words = self.history.step(by)
        state = self.history.state
        self.cursor.put(state.spot, state.mark)
        self._renew(expand(self.piece))
        done = f"{'Undone' if by < 0 else 'Redone'}: {words}"
        self.said.emit(f"Back at: {state.words}." if far else f"{done}.")

    def go(self, spot: Spot | None, mark: int = 0, *, extend: bool = False) -> None:
        self.cursor.go(spot, mark, extend=extend)

    def go_to_member(self, member: Member) -> None:
        self.go(spot_of(self.assembly, member.run, member.item))

    def change_stretch(self, edit: Callable[[Piece, Spot, int], Edited]) -> bool:
        """Apply an edit of the selection, which is gone afterwards."""
        found = self.cursor.stretch()
        if found is None:
            self.said.emit("There is nothing under the cursor yet.")
            return False
        spot, count = found
        return self.attempt(lambda: edit(self.piece, spot, count))

    def copy(self, *, whole_run: bool = False) -> bool:
        """Keep the selection, or its whole run, to be pasted."""
        found = self.cursor.stretch()
        if found is None:
            self.said.emit("There is nothing under the cursor to copy.")
            return False
        spot, count = found
        self.clip = run_copied(self.piece, spot.owner) if whole_run else copied(
            self.piece, spot, count
        )  # fmt: skip
        what = spot.owner if whole_run else f"{count} item{'s' if count > 1 else ''}"
        self.said.emit(f"Copied: {what}. Ctrl+V puts it in after the cursor.")
        return True

    def paste(self) -> bool:
        return self.attempt(lambda: pasted(self.piece, self.spot, self.clip))

    def show_wire_in(self, system: GaugeSystem) -> None:
        """Say wires in a system of gauges too."""
        self.wire_unit = system
        self.reshown.emit()

    def show_in(self, unit: LengthUnit) -> None:
        self.unit = unit
        self.reshown.emit()

    # --- results ------------------------------------------------------------------------------

    @property
    def shown(self) -> Piece:
        """The piece as it is worn in the way that is shown; 0 is the whole piece."""
        ways = self.piece.ways
        return as_worn(self.piece, ways[self.way - 1]) if 0 < self.way <= len(ways) else self.piece

    def show_way(self, way: int) -> None:
        """Show another way to wear the piece; 0 shows all of it."""
        self.way = way
        names = ["the whole piece", *(w.name for w in self.piece.ways)]
        self._renew(expand(self.shown))
        self.said.emit(f"Shown: {names[way]}.")

    def _renew(self, assembly: Assembly, *, fits: bool = False) -> None:
        if self.way > len(self.piece.ways):
            self.way = 0
        shown = self.shown
        self.assembly = expand(shown) if self.way else assembly
        self.by_spot = members_by_spot(self.assembly)
        self._stale = None
        self._mend_cursor()
        fits = fits and not self.way and not all(fit.locked for fit in self.piece.fits)
        self.evaluation.ask(shown, self._lying(), self.workshop.rules, fits=fits)
        self.changed.emit()

    def _mend_cursor(self) -> None:
        try:
            if self.spot is not None:
                count_at(self.piece, self.spot)
        except DomainError:
            self.cursor.put(opening_spot(self.piece), self.cursor.mark)

    def _on_solved(self, solved: Solved) -> None:
        """What the fits changed becomes part of the edit that asked for it."""
        from maglia.core.fit.solve import differences

        words = self.history.state.words
        if solved.piece != self.piece:
            changed = "; ".join(differences(self.piece, solved.piece))
            self.history.amend(solved.piece)
            self._renew(expand(solved.piece))
            self.said.emit(f"{words} · fitted: {changed}.")
            self._fitted = changed
            return
        self.found.emit()
        hindered = [one for one in solved.fitted if one.hindrance and not one.fit.locked]
        if hindered:
            self.delta.beside("", f"{hindered[0].fit.name}: {hindered[0].hindrance}.")
            return
        unmet = [one.fit.name for one in solved.fitted if not one.met]
        rest = f"not met: {', '.join(unmet)}" if unmet else "the fits hold"
        if unmet or self.evaluation.is_slow:
            self.delta.beside(words, rest)

    def take_beside(self, name: str, *, longer: bool) -> None:
        """Take a fit's next longer or shorter answer instead of its best, and lock the fit."""
        fitted = self.evaluation.fitted.get(name)
        answer = (fitted.above if longer else fitted.below) if fitted else None
        if fitted is not None and fitted.others and answer is None:
            answer = fitted.others[0 if longer else -1]
        if answer is None:
            self.said.emit("There is no such answer yet: the fit is solved after an edit.")
            return
        from maglia.core.fit.hold import toggled_lock

        piece = toggled_lock(answer.piece, name)
        self.apply(Edited(piece, f"{name}: {'; '.join(answer.changed)}"))

    def stop_solving(self) -> bool:
        """Leave the fits as they are; True if they were being solved."""
        stopped = self.evaluation.stop_solving()
        if stopped:
            self.said.emit("Stopped: the fits stay as they were.")
        return stopped

    def finish(self) -> None:
        """Stop the worker and leave the workshop; called once, when the window closes."""
        self.jobs.finish()
        self.workshop.wait_for_others()
        self.day.keep()
        self.workshop.close()

    # --- the tray and the piece ---------------------------------------------------------------

    def on_workshop(self) -> None:
        """What the piece is checked and cut by may be another now."""
        self._stale = self._lies = None
        now = (self._lying(), self.workshop.rules)
        if self._worked_by not in (None, now):
            self.evaluation.ask(self.shown, *now, fits=False)
        self._worked_by = now

    def _lying(self) -> Mapping[str, Lying]:
        """What lies there for the piece, worked out once for each."""
        if self._lies is None or self._lies[0] != self.piece.id:
            self._lies = self.piece.id, self.workshop.lying_for(self.piece.id)
        return self._lies[1]

    def differing(self) -> tuple[tuple[Thing, Thing], ...]:
        """Parts and units of the piece that the tray holds otherwise: as in the piece, as there."""
        if self._stale is None:
            own = catalogue(self.piece)
            held = {t.id: t for t in (*self.tray.parts, *self.tray.units) if t.id in own}
            self._stale = tuple((own[ref], t) for ref, t in held.items() if differs(own[ref], t))
        return self._stale

    def take_over(self) -> bool:
        """Take the tray's parts over into the piece, as one edit; fits are solved again."""
        found = self.differing()
        if not found and not self.computed_otherwise:
            self.said.emit("Every part of the piece is as the tray has it.")
            return False
        things, corrections = tuple(new for _, new in found), self.workshop.corrections
        return self.attempt(lambda: taken_over(self.piece, things, corrections))

    @property
    def computed_otherwise(self) -> bool:
        """Whether the piece is computed with other corrections than the workshop's."""
        kept = self.workshop.store is not None
        return kept and self.piece.corrections != self.workshop.corrections


def members_by_spot(assembly: Assembly) -> dict[Spot, list[Member]]:
    """The members that each spot of a piece became."""
    found: dict[Spot, list[Member]] = {}
    known: dict[tuple[str, int], Spot | None] = {}
    for member in assembly.members:
        key = (member.run, member.item)
        if key not in known:
            known[key] = spot_of(assembly, *key)
        if (spot := known[key]) is not None:
            found.setdefault(spot, []).append(member)
    return found
