"""All background work: a pure function in, values or an error out.

Each lane has one thread. In a lane the newest question waits and older waiting ones are dropped;
one that was begun may finish, and what it tells is delivered. A worker touches no Qt object, so
none can end its days in a worker's thread: what it has to tell goes into a queue, and one byte into
a pipe that the interface thread listens to.
"""

from __future__ import annotations

import os
from collections import deque
from collections.abc import Callable
from contextlib import suppress
from typing import TYPE_CHECKING

from msgspec import Struct, field
from PySide6.QtCore import QObject, QSocketNotifier, QTimer

if TYPE_CHECKING:
    from concurrent.futures import Future, ThreadPoolExecutor

Told = Callable[[object], None]


class Ticket(Struct, eq=False):
    """What a worker is given: whether it should go on, and where to tell what it finds."""

    _tell: Callable[[Ticket, object, Exception | None, bool], None]
    superseded: bool = False
    """A newer question waits in its lane."""
    halted: bool = False
    """Nobody wants the answer any more."""

    def is_superseded(self) -> bool:
        return self.superseded or self.halted

    def is_halted(self) -> bool:
        return self.halted

    def tell(self, value: object) -> None:
        """One answer of several; what the work returns is the last."""
        self._tell(self, value, None, False)


Work = Callable[[Ticket], object]


class _Job(Struct, eq=False):
    ticket: Ticket
    work: Work
    told: Told
    failed: Callable[[Exception], None]
    ended: Callable[[], None]


class _Lane(Struct, eq=False):
    running: _Job | None = None
    waiting: _Job | None = None
    pool: ThreadPoolExecutor | None = None
    future: Future[None] | None = None


class _Answers(Struct, eq=False):
    """What workers told and nobody has read yet. Workers know this and nothing else."""

    queue: deque[tuple[Ticket, object, Exception | None, bool]] = field(default_factory=deque)
    pipe: tuple[int, int] = field(default_factory=os.pipe)
    listened: bool = True

    def put(self, ticket: Ticket, value: object, fault: Exception | None, last: bool) -> None:
        if self.listened:
            self.queue.append((ticket, value, fault, last))
            os.write(self.pipe[1], b".")

    def close_when(self, futures: list[Future[None]]) -> None:
        """Close the pipe once no worker can write into it any more: its number may be given to
        another file afterwards."""
        left = [future for future in futures if not future.done()]

        def close(done: Future[None] | None) -> None:
            if done in left:
                left.remove(done)
            if not left:
                with suppress(OSError):
                    for end in self.pipe:
                        os.close(end)

        for future in tuple(left):
            future.add_done_callback(close)
        if not left:
            close(None)


class Jobs(QObject):
    """Runs work in lanes and delivers what it tells in the interface thread."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._lanes: dict[str, _Lane] = {}
        self._answers = _Answers()
        self._ended = False
        self._bell = QSocketNotifier(self._answers.pipe[0], QSocketNotifier.Type.Read, self)
        self._bell.activated.connect(self.deliver)

    def begin(
        self,
        lane: str,
        work: Work,
        told: Told,
        failed: Callable[[Exception], None],
        ended: Callable[[], None] = lambda: None,
    ) -> Ticket:
        """Ask a question in a lane. `told` gets every answer, `failed` the error; `ended` is called
        last, also when the question is dropped before it was begun."""
        own = self._lanes.setdefault(lane, _Lane())
        job = _Job(Ticket(self._answers.put), work, told, failed, ended)
        if own.waiting is not None:
            own.waiting.ticket.halted = True
            own.waiting.ended()
        own.waiting = job
        if own.running is not None:
            own.running.ticket.superseded = True
        else:  # begun once what is on the screen is drawn
            QTimer.singleShot(0, self, lambda: self._start(own))
        return job.ticket

    def halt(self, lane: str) -> None:
        """Nobody wants the answers of a lane any more."""
        own = self._lanes.get(lane, _Lane())
        for job in (own.running, own.waiting):
            if job is not None:
                job.ticket.halted = True
        if own.waiting is not None:
            own.waiting.ended()
        own.waiting = None

    def is_idle(self, lane: str) -> bool:
        own = self._lanes.get(lane, _Lane())
        return own.running is None and own.waiting is None

    def finish(self) -> None:
        """Stop all work; called once, when the window closes."""
        if self._ended:
            return
        self._ended = True
        self._bell.setEnabled(False)
        self._answers.listened = False
        for lane, own in self._lanes.items():
            self.halt(lane)
            if own.pool is not None:
                own.pool.shutdown(wait=False, cancel_futures=True)
        self._answers.close_when(
            [own.future for own in self._lanes.values() if own.future is not None]
        )

    def _start(self, lane: _Lane) -> None:
        if lane.running is not None or lane.waiting is None or self._ended:
            return
        if lane.pool is None:
            from concurrent.futures import ThreadPoolExecutor

            lane.pool = ThreadPoolExecutor(1, "maglia")
        lane.running, lane.waiting = lane.waiting, None
        lane.future = lane.pool.submit(_run, lane.running.work, lane.running.ticket, self._answers)

    def deliver(self) -> None:
        """Hand out what workers have told so far."""
        os.read(self._answers.pipe[0], 4096)
        while self._answers.queue and not self._ended:
            ticket, value, fault, last = self._answers.queue.popleft()
            lane = next((own for own in self._lanes.values() if _holds(own, ticket)), None)
            if lane is None or lane.running is None:
                continue
            job = lane.running
            if last:
                lane.running = None
            try:
                if fault is not None and not ticket.halted:
                    job.failed(fault)
                elif fault is None and not ticket.halted:
                    job.told(value)
            finally:  # whatever comes of it, the next question is begun
                if last:
                    job.ended()
                    self._start(lane)


def _holds(lane: _Lane, ticket: Ticket) -> bool:
    return lane.running is not None and lane.running.ticket is ticket


def _run(work: Work, ticket: Ticket, answers: _Answers) -> None:
    try:
        answers.put(ticket, work(ticket), None, True)
    except Exception as fault:  # noqa: BLE001  # handed to the interface thread, which says it
        answers.put(ticket, None, fault, True)
