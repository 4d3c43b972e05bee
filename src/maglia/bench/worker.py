"""The worker: one piece evaluated and its fits solved off the interface thread.

A pure function of what it is given; it tells each answer as soon as it has it. The numerics are
imported here, when they are first wanted, so that the first picture does not wait for them.
"""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal, SignalInstance

from maglia.core.piece import Piece

if TYPE_CHECKING:
    from maglia.core.report import Findings


class Answer(QObject):
    """What the worker tells, each with the number of the question.

    Signals: `found(int, Findings)` · `solved(int, Solved)` · `failed(int, Exception)` ·
    `looked(int, int)` how often it has hung the piece so far.
    """

    found = Signal(int, object)
    solved = Signal(int, object)
    failed = Signal(int, object)
    looked = Signal(int, int)


class Work:
    """Evaluates one piece off the interface thread, then solves its fits if that is asked for.
    A pure function of its arguments."""

    def __init__(
        self,
        piece: Piece,
        number: int,
        latest: Callable[[], int],
        before: Findings | None,
        out: Answer,
        *,
        fits: bool,
        halted: Callable[[], bool],
    ) -> None:
        self.halted = halted
        self.piece, self.number, self.latest, self.out = piece, number, latest, out
        self.before, self.fits = before, fits

    def run(self) -> None:
        from maglia.core.fit.look import Trials
        from maglia.core.fit.solve import solve
        from maglia.core.hang.solve import Cancelled
        from maglia.core.report import evaluate

        try:
            found = evaluate(self.piece, self._stale, self.before)
            self._tell(self.out.found, found)
            if self.fits:
                last = (found.assembly, found.hung) if found.hung else None
                trials = Trials(lambda: self._stale() or self.halted(), self._looked, last)
                self._tell(self.out.solved, solve(self.piece, trials))
        except Cancelled:
            return
        except Exception as error:  # noqa: BLE001  # handed to the interface thread, which raises it
            self._tell(self.out.failed, error)

    def _tell(self, signal: SignalInstance, told: object) -> None:
        with suppress(RuntimeError):  # the window has gone meanwhile
            signal.emit(self.number, told)

    def _stale(self) -> bool:
        return self.latest() != self.number

    def _looked(self, looks: int) -> None:
        self._tell(self.out.looked, looks)
