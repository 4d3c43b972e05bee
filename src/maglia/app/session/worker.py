"""What the worker does: one piece evaluated, then its fits solved.

Pure functions of what they are given. The numerics are imported here, when they are first wanted,
so that the first picture does not wait for them.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from maglia.app.jobs import Ticket
from maglia.core.piece.piece import Piece
from maglia.core.values.record import Value
from maglia.core.values.rules import Rules
from maglia.core.workshop.lying import Lying

if TYPE_CHECKING:
    from maglia.core.fit.solve import Solved
    from maglia.core.report import Findings


class Found(Value, frozen=True):
    """The findings of one piece."""

    findings: Findings


class Fits(Value, frozen=True):
    """Its fits, solved."""

    solved: Solved


class Looked(Value, frozen=True):
    """How often the piece has been hung so far while its fits are solved."""

    times: int


class Stopped(Value, frozen=True):
    """There is no more to tell: it is done, something newer waits, or nobody wants it."""


def evaluated(
    ticket: Ticket,
    piece: Piece,
    before: Findings | None,
    lying: Mapping[str, Lying],
    rules: Rules,
    *,
    fits: bool,
    halted: Callable[[], bool],
) -> Fits | Stopped:
    """Tells the findings as soon as they are there, whatever waits meanwhile; then solves the fits
    if that is asked for and nothing newer waits."""
    from maglia.core.fit.look import Trials
    from maglia.core.fit.solve import solve
    from maglia.core.hang.solution import Cancelled
    from maglia.core.report import evaluate

    try:
        found = evaluate(piece, ticket.is_halted, before, lying, rules)
        ticket.tell(Found(found))
        if not fits:
            return Stopped()
        last = (found.assembly, found.hung) if found.hung else None

        def looked(times: int) -> None:
            ticket.tell(Looked(times))

        trials = Trials(lambda: ticket.is_superseded() or halted(), looked, last)
        if trials.cancelled():
            return Stopped()
        return Fits(solve(piece, trials))
    except Cancelled:
        return Stopped()


def as_it_hung(ticket: Ticket, piece: Piece) -> Found | Stopped:
    """An earlier state of the piece, to be laid over the present one."""
    from maglia.core.hang.solution import Cancelled
    from maglia.core.report import evaluate

    try:
        return Found(evaluate(piece, ticket.is_superseded))
    except Cancelled:
        return Stopped()
