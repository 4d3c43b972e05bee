"""Pieces hung one after the other in the background, to be shown small: one lane, nothing kept
waiting by it.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from maglia.app.jobs import Jobs, Ticket
from maglia.core.piece.piece import Form, Piece
from maglia.core.values.record import DomainError, Value

if TYPE_CHECKING:
    from maglia.core.report import Findings

Make = Callable[[], Piece]
"""Makes a piece; its wishes are solved before it is hung."""


class _Hung(Value, frozen=True):
    """One piece and what was found of it."""

    key: str
    findings: object


class Pictures(QObject):
    """Signal `hung(str, Findings)`: the piece of that key hangs. What is known is told at once."""

    hung = Signal(str, object)

    def __init__(self, jobs: Jobs, lane: str, parent: QObject, *, board: bool = True) -> None:
        super().__init__(parent)
        self.jobs, self.lane, self.board = jobs, lane, board
        """`board`: what cannot hang on its wearer hangs on the board."""
        self.known: dict[str, Findings] = {}

    def ask(self, pieces: Sequence[tuple[str, Make]]) -> None:
        """Hang every piece that is not known yet, in order."""
        left = tuple(one for one in pieces if one[0] not in self.known)
        for key, _ in pieces:
            if key in self.known:
                self.hung.emit(key, self.known[key])
        if left:
            self.jobs.begin(self.lane, partial(_hang, left, self.board), self._on_told, _on_failed)

    def stop(self) -> None:
        self.jobs.halt(self.lane)

    def _on_told(self, answer: object) -> None:
        if isinstance(answer, _Hung):
            self.known[answer.key] = answer.findings  # type: ignore[assignment]
            self.hung.emit(answer.key, answer.findings)


def _hang(pieces: Sequence[tuple[str, Make]], board: bool, ticket: Ticket) -> None:
    """What cannot be made has no picture, and keeps none of the others waiting."""
    from maglia.core.fit.look import Trials
    from maglia.core.fit.solve import solve
    from maglia.core.hang.solution import Cancelled
    from maglia.core.report import evaluate

    for key, make in pieces:
        if ticket.is_superseded():
            return
        try:
            piece = make()
            if piece.fits:
                piece = solve(piece, Trials(ticket.is_superseded)).piece
            found = evaluate(piece, ticket.is_superseded)
            if board and not _rests(found):
                found = evaluate(replace(piece, form=Form()), ticket.is_superseded)
        except DomainError:
            continue
        except Cancelled:
            return
        if not board or _rests(found):
            ticket.tell(_Hung(key, found))


def _rests(found: Findings) -> bool:
    return found.hung is not None and found.hung.solution.state == "converged"


def _on_failed(fault: Exception) -> None:
    raise fault
