"""Told to go by the machine (the maker logs out, a terminal closes, Ctrl+C): keep, then go."""

import signal
import socket
from collections.abc import Callable
from contextlib import suppress
from types import FrameType

from PySide6.QtCore import QObject, QSocketNotifier

SIGNALS = (signal.SIGTERM, signal.SIGHUP, signal.SIGINT)


class ToldToGo(QObject):
    """Calls `go` in the window's thread soon after a signal. Python's own handlers wait until some
    Python runs, and in a window at rest none does; so the signal is also a byte on a socket."""

    def __init__(self, parent: QObject, go: Callable[[], None]) -> None:
        super().__init__(parent)
        self._go = go
        self._heard, self._ring = socket.socketpair()
        for end in (self._heard, self._ring):
            end.setblocking(False)
        self._notifier = QSocketNotifier(self._heard.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._on_heard)
        signal.set_wakeup_fd(self._ring.fileno(), warn_on_full_buffer=False)
        for number in SIGNALS:
            signal.signal(number, _go_on)

    def _on_heard(self) -> None:
        with suppress(BlockingIOError):
            numbers = self._heard.recv(4096)
            if set(numbers) & set(SIGNALS):
                self._go()


def _go_on(number: int, frame: FrameType | None) -> None:
    """The byte says it; nothing is to be done within whatever Python runs just now."""
