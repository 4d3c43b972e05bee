"""The open piece: its history, its file, its results. The one place every edit goes through.

An edit is refused, with its reason, when the new piece cannot be built; otherwise the assembly is
there at once and the hang follows from a worker. Answers to older questions are dropped.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from maglia.bench.worker import Answer, Work
from maglia.core.assembly import Assembly, Member
from maglia.core.edit import Edited, Spot, count_at, opening_spot, quantity_at, spot_of
from maglia.core.expand import expand
from maglia.core.measures import LengthUnit, format_length
from maglia.core.piece import Form, Piece
from maglia.core.rearrange import Clip, copied, pasted, run_copied
from maglia.core.record import DomainError, Value
from maglia.core.tray import Tray
from maglia.core.wear import as_worn
from maglia.files.piece_json import read_piece, write_piece

if TYPE_CHECKING:
    from concurrent.futures import Future, ThreadPoolExecutor

    from maglia.core.fit.found import Fitted
    from maglia.core.fit.solve import Solved
    from maglia.core.report import Findings

SLOW_SECONDS = 0.5
"""Work that takes longer says how far it is."""


class State(Value, frozen=True):
    """One moment of the history: the piece, the cursor, and what was done to get here."""

    piece: Piece
    spot: Spot | None
    words: str
    mark: int = 0


class Session(QObject):
    """The piece on the bench.

    Signals: `changed()` the piece and its assembly are new · `found()` its results have come ·
    `moved()` the cursor stands elsewhere · `said(str)` a line for the maker · `reshown()` the
    display unit changed.
    """

    changed = Signal()
    found = Signal()
    moved = Signal()
    said = Signal(str)
    reshown = Signal()

    def __init__(self, tray: Tray, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.tray = tray
        self.path: Path | None = None
        self.unit: LengthUnit = "mm"
        self.findings: Findings | None = None
        self.number = 0
        self._answer = Answer(self)
        self._answer.found.connect(self._on_found)
        self._answer.solved.connect(self._on_solved)
        self._answer.failed.connect(self._on_failed)
        self._answer.looked.connect(self._on_looked)
        self.fitted: dict[str, Fitted] = {}
        self.anchor: Spot | None = None
        self.clip = Clip()
        self.way = 0
        self._began = 0.0
        self._halted = self._awaited = 0
        self._waiting: Work | None = None
        self._pool: ThreadPoolExecutor | None = None
        self._running: Future[None] | None = None
        self._reset(Piece(name="Untitled"), None)

    # --- reading ------------------------------------------------------------------------------

    @property
    def piece(self) -> Piece:
        return self.states[self.now].piece

    @property
    def spot(self) -> Spot | None:
        return self._spot

    @property
    def edited(self) -> bool:
        return self.states[self.now].piece is not self.saved

    @property
    def at_rest(self) -> bool:
        """Whether every answer for the piece as it is now has come."""
        return self._awaited <= 0

    def length(self, mm: float | None) -> str:
        """A length in the display unit."""
        return "unknown" if mm is None else format_length(mm, self.unit, with_unit=True)

    def members_at(self, spot: Spot | None) -> list[Member]:
        """Every member that the item at a spot became."""
        return self._by_spot.get(spot, []) if spot else []

    def fitted_spots(self) -> list[tuple[Spot, str]]:
        """Spots whose count a fit sets, with the fit's name."""
        from maglia.core.fit.lever import where
        from maglia.core.fit.solve import fitted_counts

        set_by = fitted_counts(self.piece)
        return [
            (spot, set_by[where(spot)])
            for spot in self._by_spot
            if spot.path and where(spot) in set_by
        ]

    def pinned_spots(self) -> list[Spot]:
        return [s for s in self._by_spot if s.path and quantity_at(s) in self.piece.pinned]

    # --- opening and saving -------------------------------------------------------------------

    def open(self, path: Path, *, as_copy: bool = False) -> None:
        """Open a file; raises DomainError and keeps what is open if it cannot be."""
        piece = read_piece(path)
        try:
            expand(piece)
        except DomainError as fault:
            raise DomainError(f"{path.name}: {fault}") from None
        self._reset(piece, None if as_copy else path)

    def start_new(self, piece: Piece | None = None, words: str = "begun") -> None:
        """An empty bench, or a piece to begin with: not saved anywhere yet, its fits solved."""
        empty = Piece(name="Untitled", wearer=self.piece.wearer, form=Form(kind="bust"))
        self._reset(piece or empty, None, words, fits=piece is not None)
        if piece is not None:
            self.saved = empty
            self.changed.emit()

    def take_up(self, piece: Piece, path: Path | None) -> None:
        """Go on with work that was cut off: it is edited, and its file still the older one."""
        self._reset(piece, path, "taken up again")
        self.saved = Piece()
        self.changed.emit()

    def save(self, path: Path) -> None:
        write_piece(self.piece, path)
        self.path, self.saved = path, self.piece
        self.said.emit(f"Saved as {path.name}.")
        self.changed.emit()

    def _reset(
        self, piece: Piece, path: Path | None, words: str = "opened", *, fits: bool = False
    ) -> None:
        spot = opening_spot(piece)
        self.path, self.saved = path, piece
        self.states, self.now = [State(piece, spot, words)], 0
        self.findings, self.fitted = None, {}
        self._spot, self.mark, self.anchor, self.way = spot, 0, None, 0
        self._renew(expand(piece), fits=fits)

    # --- editing ------------------------------------------------------------------------------

    def apply(self, edited: Edited) -> bool:
        """Take over an edit. Returns False, saying why, if the new piece cannot be built. What
        a fit had set and the maker sets now is pinned; then the fits are solved again."""
        if self.piece.fits:
            from maglia.core.fit.hold import held

            edited = replace(edited, piece=held(self.piece, edited.piece, edited.spot))
        try:
            assembly = expand(edited.piece)
        except DomainError as fault:
            self.said.emit(f"Not done: {fault}.")
            return False
        del self.states[self.now + 1 :]
        self.states[self.now] = replace(self.states[self.now], spot=self._spot, mark=self.mark)
        self._spot = edited.spot if edited.spot is not None else self._spot
        self.anchor = None
        self.states.append(State(edited.piece, self._spot, edited.words, self.mark))
        self.now += 1
        self._renew(assembly, fits=True)
        self.said.emit(f"{edited.words}.")
        return True

    def attempt(self, edit: Callable[[], Edited]) -> bool:
        """Apply an edit that may itself be refused."""
        try:
            edited = edit()
        except DomainError as fault:
            self.said.emit(f"Not done: {fault}.")
            return False
        return self.apply(edited)

    def step(self, by: int, *, far: bool = False) -> None:
        """Undo (−1) or redo (+1); or `far` to another state of the history."""
        if far and by == 0:
            return
        target = self.now + by
        if not 0 <= target < len(self.states):
            self.said.emit("Nothing to undo." if by < 0 else "Nothing to redo.")
            return
        words = self.states[max(self.now, target)].words
        self.now = target
        self._spot, self.mark = self.states[target].spot, self.states[target].mark
        self._renew(expand(self.piece))
        done = f"Back at: {self.states[target].words}" if far else (
            f"{'Undone' if by < 0 else 'Redone'}: {words}"
        )  # fmt: skip
        self.said.emit(f"{done}.")

    def go(self, spot: Spot | None, mark: int = 0, *, extend: bool = False) -> None:
        """Move the cursor; `extend` keeps the other end of the selection where it was."""
        anchor = (self.anchor or self._spot) if extend else None
        if spot != self._spot or mark != self.mark or anchor != self.anchor:
            self._spot, self.mark, self.anchor = spot, mark, anchor
            self.moved.emit()

    def stretch(self) -> tuple[Spot, int] | None:
        """The inner end of what is selected, and how many items: one without a selection."""
        spot, anchor = self._spot, self.anchor
        if spot is None:
            return None
        same = anchor is not None and anchor.owner == spot.owner and anchor.path and spot.path
        if not same or anchor is None or anchor.path[:-1] != spot.path[:-1]:
            return spot, 1
        low, high = sorted((anchor.path[-1], spot.path[-1]))
        return Spot(spot.owner, (*spot.path[:-1], low)), high - low + 1

    def selected_spots(self) -> list[Spot]:
        """Every spot of the selection, in order outward."""
        found = self.stretch()
        if found is None:
            return []
        spot, count = found
        if not spot.path:
            return [spot]
        return [Spot(spot.owner, (*spot.path[:-1], spot.path[-1] + k)) for k in range(count)]

    def change_stretch(self, edit: Callable[[Piece, Spot, int], Edited]) -> bool:
        """Apply an edit of the selection, which is gone afterwards."""
        found = self.stretch()
        if found is None:
            self.said.emit("There is nothing under the cursor yet.")
            return False
        spot, count = found
        self.anchor = None
        return self.attempt(lambda: edit(self.piece, spot, count))

    def copy(self, *, whole_run: bool = False) -> bool:
        """Keep the selection, or its whole run, to be pasted."""
        found = self.stretch()
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
        return self.attempt(lambda: pasted(self.piece, self._spot, self.clip))

    def go_to_member(self, member: Member) -> None:
        self.go(spot_of(self.piece, member.run, member.item))

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
        self.assembly = expand(self.shown) if self.way else assembly
        self._by_spot: dict[Spot, list[Member]] = {}
        known: dict[tuple[str, int], Spot | None] = {}
        for member in self.assembly.members:
            key = (member.run, member.item)
            if key not in known:
                known[key] = spot_of(self.piece, *key)
            if (spot := known[key]) is not None:
                self._by_spot.setdefault(spot, []).append(member)
        self._mend_cursor()
        self.number += 1
        number = self.number
        self._began = time.monotonic()
        fits = fits and not self.way and not all(fit.locked for fit in self.piece.fits)
        self._awaited = 2 if fits else 1
        work = Work(
            self.shown,
            number,
            self._latest,
            self.findings,
            self._answer,
            fits=fits,
            halted=lambda: self._halted == number,
        )
        self._waiting = work  # only the newest is ever begun
        QTimer.singleShot(0, self, self._begin)
        self.changed.emit()

    def _begin(self) -> None:
        """Hand the newest question to the worker, once what is on the screen is drawn."""
        work, self._waiting = self._waiting, None
        if self._pool is None:
            from concurrent.futures import ThreadPoolExecutor

            self._pool = ThreadPoolExecutor(1, "hang")
        if work is not None:
            if self._running is not None:
                self._running.cancel()
            self._running = self._pool.submit(work.run)

    def _latest(self) -> int:
        return self.number

    def _mend_cursor(self) -> None:
        try:
            if self._spot is not None:
                count_at(self.piece, self._spot)
        except DomainError:
            self._spot = opening_spot(self.piece)

    def _on_found(self, number: int, found: Findings) -> None:
        if number == self.number:
            self._awaited -= 1
            self.findings = found
            self.found.emit()

    def _on_failed(self, number: int, fault: Exception) -> None:
        if number != self.number:
            return
        self._awaited = 0
        if not isinstance(fault, DomainError):
            raise fault
        self.said.emit(f"{fault}.")

    def _on_solved(self, number: int, solved: Solved) -> None:
        """What the fits changed becomes part of the edit that asked for it."""
        if number != self.number:
            return
        self._awaited -= 1
        from maglia.core.fit.solve import differences

        self.fitted = {one.fit.name: one for one in solved.fitted}
        hindered = [one for one in solved.fitted if one.hindrance and not one.fit.locked]
        if solved.piece == self.piece:
            self.found.emit()
            if hindered:
                first = hindered[0]
                self.said.emit(f"{first.fit.name}: {first.hindrance}.")
                return
            unmet = [one.fit.name for one in solved.fitted if not one.met]
            rest = f"not met: {', '.join(unmet)}" if unmet else "the fits hold"
            if unmet or time.monotonic() - self._began > SLOW_SECONDS:
                self.said.emit(f"{self.states[self.now].words} · {rest}.")
            return
        changed = "; ".join(differences(self.piece, solved.piece))
        state = self.states[self.now]
        self.states[self.now] = replace(state, piece=solved.piece)
        self._renew(expand(solved.piece))
        self.said.emit(f"{state.words} · fitted: {changed}.")

    def take_beside(self, name: str, *, longer: bool) -> None:
        """Take a fit's next longer or shorter answer instead of its best, and lock the fit."""
        fitted = self.fitted.get(name)
        answer = (fitted.above if longer else fitted.below) if fitted else None
        if fitted is not None and fitted.others and answer is None:
            answer = fitted.others[0 if longer else -1]
        if answer is None:
            self.said.emit("There is no such answer yet: the fit is solved after an edit.")
            return
        from maglia.core.fit.hold import toggled_lock

        piece = toggled_lock(answer.piece, name)
        self.apply(Edited(piece, f"{name}: {'; '.join(answer.changed)}"))

    def _on_looked(self, number: int, looks: int) -> None:
        if number == self.number and time.monotonic() - self._began > SLOW_SECONDS:
            self.said.emit(f"Solving the fits: hung {looks} times. Esc stops.")

    def stop_solving(self) -> bool:
        """Leave the fits as they are; True if they were being solved."""
        if self.findings is None or self.findings.assembly.piece is not self.shown:
            return False
        if self.at_rest:
            return False
        self._halted, self._awaited = self.number, 0
        self.said.emit("Stopped: the fits stay as they were.")
        return True

    def finish(self) -> None:
        """Stop the worker; called once, when the window closes."""
        self.number += 1
        self._waiting = None
        if self._pool is not None:
            self._pool.shutdown(cancel_futures=True)
