"""The results of the open piece: asked for at every change, answered by the worker.

A hang that was begun is finished and shown, while only the newest question waits; the fits of an
older one are left.
"""

from __future__ import annotations

import time
from collections.abc import Mapping
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from maglia.app.jobs import Jobs
from maglia.app.session.worker import Fits, Found, Looked, as_it_hung, evaluated
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError
from maglia.core.values.rules import Rules
from maglia.core.workshop.lying import Lying

if TYPE_CHECKING:
    from maglia.core.fit.found import Fitted
    from maglia.core.report import Findings

SLOW_SECONDS = 0.5
"""Work that takes longer says how far it is."""
LANE, GHOST = "piece", "ghost"


class Evaluation(QObject):
    """Signals: `found()` results have come · `solved(Solved)` the fits of the piece as it is now
    are solved · `compared(Findings)` an earlier state · `said(str)` a line for the maker."""

    found = Signal()
    solved = Signal(object)
    compared = Signal(object)
    said = Signal(str)

    def __init__(self, jobs: Jobs, parent: QObject) -> None:
        super().__init__(parent)
        self.jobs = jobs
        self.findings: Findings | None = None
        self.fitted: dict[str, Fitted] = {}
        self.piece: Piece | None = None
        """What was asked about last."""
        self._number = self._halted = self._awaited = 0
        self._began = 0.0

    @property
    def at_rest(self) -> bool:
        """Whether every answer for the piece as it is now has come."""
        return self._awaited <= 0

    @property
    def is_slow(self) -> bool:
        return time.monotonic() - self._began > SLOW_SECONDS

    def forget(self) -> None:
        """Another piece is opened: nothing that is known is about it."""
        self.jobs.halt(LANE)
        self.findings, self.fitted = None, {}

    def ask(self, piece: Piece, lying: Mapping[str, Lying], rules: Rules, *, fits: bool) -> None:
        """Evaluate a piece, and solve its fits if that is asked for."""
        self._number += 1
        number, before = self._number, self.findings
        self.piece = piece
        self._began, self._awaited = time.monotonic(), 2 if fits else 1
        self.jobs.begin(
            LANE,
            lambda ticket: evaluated(
                ticket,
                piece,
                before,
                lying,
                rules,
                fits=fits,
                halted=lambda: self._halted >= number,
            ),
            partial(self._on_told, number),
            partial(self._on_failed, number),
        )

    def compare(self, piece: Piece) -> None:
        """Hang an earlier state of the piece, to be laid over the present one."""

        def told(answer: object) -> None:
            if isinstance(answer, Found):
                self.compared.emit(answer.findings)

        def failed(fault: Exception) -> None:
            if not isinstance(fault, DomainError):
                raise fault
            self.said.emit(f"{fault}.")

        self.jobs.begin(GHOST, lambda ticket: as_it_hung(ticket, piece), told, failed)

    def stop_solving(self) -> bool:
        """Leave the fits as they are; True if they were being solved."""
        if self.findings is None or self.findings.assembly.piece is not self.piece:
            return False
        if self.at_rest:
            return False
        self._halted, self._awaited = self._number, 0
        self.found.emit()
        return True

    def _on_told(self, number: int, answer: object) -> None:
        newest = number == self._number
        if isinstance(answer, Found):
            self._awaited -= newest
            self.findings = answer.findings
            self.found.emit()
        elif isinstance(answer, Fits) and newest and self._halted < number:
            self._awaited -= 1
            self.fitted = {one.fit.name: one for one in answer.solved.fitted}
            self.solved.emit(answer.solved)
        elif isinstance(answer, Looked) and newest and self.is_slow and not self.at_rest:
            self.said.emit(f"Solving the fits: hung {answer.times} times. Esc stops.")

    def _on_failed(self, number: int, fault: Exception) -> None:
        if not isinstance(fault, DomainError):
            raise fault
        if number == self._number:
            self._awaited = 0
            self.said.emit(f"{fault}.")
