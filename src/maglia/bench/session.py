"""The open piece: its history, its file, its results. The one place every edit goes through.

An edit is refused, with its reason, when the new piece cannot be built; otherwise the assembly is
there at once and the hang follows from a worker. Answers to older questions are dropped.
"""

import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from maglia.core.assembly import Assembly, Member
from maglia.core.edit import Edited, Spot, count_at, opening_spot, quantity_at, spot_of
from maglia.core.expand import expand
from maglia.core.fit.found import Fitted
from maglia.core.fit.hold import held, live, toggled_lock
from maglia.core.fit.lever import where
from maglia.core.fit.look import Trials
from maglia.core.fit.solve import Solved, differences, fitted_counts, solve
from maglia.core.hang.solve import Cancelled
from maglia.core.measures import LengthUnit, format_length
from maglia.core.piece import Piece
from maglia.core.record import DomainError
from maglia.core.report import Findings, evaluate
from maglia.core.tray import Tray
from maglia.files.piece_json import read_piece, write_piece

SLOW_SECONDS = 0.5
"""Work that takes longer says how far it is."""


@dataclass(frozen=True)
class State:
    """One moment of the history: the piece, the cursor, and what was done to get here."""

    piece: Piece
    spot: Spot | None
    words: str
    mark: int = 0


class _Answer(QObject):
    ready = Signal(int, object)
    looked = Signal(int, int)


class _Work(QRunnable):
    """Evaluates one piece off the interface thread, then solves its fits if that is asked for.
    A pure function of its arguments."""

    def __init__(
        self,
        piece: Piece,
        number: int,
        latest: Callable[[], int],
        before: Findings | None,
        out: _Answer,
        *,
        fits: bool,
    ) -> None:
        super().__init__()
        self.piece, self.number, self.latest, self.out = piece, number, latest, out
        self.before, self.fits = before, fits

    def run(self) -> None:
        try:
            found = evaluate(self.piece, self._stale, self.before)
            self.out.ready.emit(self.number, found)
            if self.fits and live(self.piece):
                last = (found.assembly, found.hung) if found.hung else None
                trials = Trials(self._stale, self._looked, last)
                self.out.ready.emit(self.number, solve(self.piece, trials))
        except Cancelled:
            return
        except RuntimeError:
            return  # the window has gone meanwhile
        except Exception as error:  # noqa: BLE001  # handed to the interface thread, which raises it
            self.out.ready.emit(self.number, error)

    def _stale(self) -> bool:
        return self.latest() != self.number

    def _looked(self, looks: int) -> None:
        self.out.looked.emit(self.number, looks)


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
        self._answer = _Answer()
        self._answer.ready.connect(self._on_answer)
        self._answer.looked.connect(self._on_looked)
        self.fitted: dict[str, Fitted] = {}
        self._began = 0.0
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
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

    def length(self, mm: float | None) -> str:
        """A length in the display unit."""
        return "unknown" if mm is None else format_length(mm, self.unit, with_unit=True)

    def members_at(self, spot: Spot | None) -> list[Member]:
        """Every member that the item at a spot became."""
        return self._by_spot.get(spot, []) if spot else []

    def fitted_spots(self) -> list[tuple[Spot, str]]:
        """Spots whose count a fit sets, with the fit's name."""
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

    def start_new(self) -> None:
        self._reset(Piece(name="Untitled", wearer=self.piece.wearer), None)

    def save(self, path: Path) -> None:
        write_piece(self.piece, path)
        self.path, self.saved = path, self.piece
        self.said.emit(f"Saved as {path.name}.")
        self.changed.emit()

    def _reset(self, piece: Piece, path: Path | None) -> None:
        spot = opening_spot(piece)
        self.path, self.saved = path, piece
        self.states, self.now = [State(piece, spot, "opened")], 0
        self.findings = None
        self._spot, self.mark = spot, 0
        self._renew(expand(piece))

    # --- editing ------------------------------------------------------------------------------

    def apply(self, edited: Edited) -> bool:
        """Take over an edit. Returns False, saying why, if the new piece cannot be built. What
        a fit had set and the maker sets now is pinned; then the fits are solved again."""
        edited = replace(edited, piece=held(self.piece, edited.piece, edited.spot))
        try:
            assembly = expand(edited.piece)
        except DomainError as fault:
            self.said.emit(f"Not done: {fault}.")
            return False
        del self.states[self.now + 1 :]
        self.states[self.now] = replace(self.states[self.now], spot=self._spot, mark=self.mark)
        self._spot = edited.spot if edited.spot is not None else self._spot
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

    def step(self, by: int) -> None:
        """Undo (−1) or redo (+1)."""
        target = self.now + by
        if not 0 <= target < len(self.states):
            self.said.emit("Nothing to undo." if by < 0 else "Nothing to redo.")
            return
        words = self.states[max(self.now, target)].words
        self.now = target
        self._spot, self.mark = self.states[target].spot, self.states[target].mark
        self._renew(expand(self.piece))
        self.said.emit(f"{'Undone' if by < 0 else 'Redone'}: {words}.")

    def go(self, spot: Spot | None, mark: int = 0) -> None:
        """Move the cursor."""
        if spot != self._spot or mark != self.mark:
            self._spot, self.mark = spot, mark
            self.moved.emit()

    def go_to_member(self, member: Member) -> None:
        self.go(spot_of(self.piece, member.run, member.item))

    def show_in(self, unit: LengthUnit) -> None:
        self.unit = unit
        self.reshown.emit()

    # --- results ------------------------------------------------------------------------------

    def _renew(self, assembly: Assembly, *, fits: bool = False) -> None:
        self.assembly = assembly
        self._by_spot: dict[Spot, list[Member]] = {}
        known: dict[tuple[str, int], Spot | None] = {}
        for member in assembly.members:
            key = (member.run, member.item)
            if key not in known:
                known[key] = spot_of(self.piece, *key)
            if (spot := known[key]) is not None:
                self._by_spot.setdefault(spot, []).append(member)
        self._mend_cursor()
        self.number += 1
        number = self.number
        self._pool.clear()
        self._began = time.monotonic()
        self._pool.start(
            _Work(self.piece, number, self._latest, self.findings, self._answer, fits=fits)
        )
        self.changed.emit()

    def _latest(self) -> int:
        return self.number

    def _mend_cursor(self) -> None:
        try:
            if self._spot is not None:
                count_at(self.piece, self._spot)
        except DomainError:
            self._spot = opening_spot(self.piece)

    def _on_answer(self, number: int, found: object) -> None:
        if number != self.number:
            return
        if isinstance(found, DomainError):
            self.said.emit(f"{found}.")
        elif isinstance(found, Exception):
            raise found
        elif isinstance(found, Findings):
            self.findings = found
            self.found.emit()
        elif isinstance(found, Solved):
            self._take_solved(found)

    def _take_solved(self, solved: Solved) -> None:
        """What the fits changed becomes part of the edit that asked for it."""
        self.fitted = {one.fit.name: one for one in solved.fitted}
        if solved.piece == self.piece:
            self.found.emit()
            if time.monotonic() - self._began > SLOW_SECONDS:
                self.said.emit(f"{self.states[self.now].words} · the fits hold.")
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
        piece = toggled_lock(answer.piece, name)
        self.apply(Edited(piece, f"{name}: {'; '.join(answer.changed)}"))

    def _on_looked(self, number: int, looks: int) -> None:
        if number == self.number and time.monotonic() - self._began > SLOW_SECONDS:
            self.said.emit(f"Solving the fits: hung {looks} times. Esc stops.")

    def stop_solving(self) -> bool:
        """Leave the fits as they are; True if they were being solved."""
        if self.findings is None or self.findings.assembly is not self.assembly:
            return False
        if not self._pool.activeThreadCount():
            return False
        self.number += 1
        self._pool.clear()
        self.said.emit("Stopped: the fits stay as they were.")
        return True

    def finish(self) -> None:
        """Stop the worker; called once, when the window closes."""
        self.number += 1
        self._pool.clear()
        self._pool.waitForDone()
