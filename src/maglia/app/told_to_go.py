"""Told to go by the machine (the maker logs out, a terminal closes, Ctrl+C): keep, then go."""

import signal
import socket
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from types import FrameType

from PySide6.QtCore import QSocketNotifier

SIGNALS = (signal.SIGTERM, signal.SIGHUP, signal.SIGINT)


@contextmanager
def told_to_go(go: Callable[[], None]) -> Iterator[None]:
    """Meanwhile calls `go` in the window's thread soon after a signal. Python's own handlers wait
    until some Python runs, and in a window at rest none does; so it is also a byte on a socket."""
    heard, ring = socket.socketpair()
    with heard, ring:
        for end in (heard, ring):
            end.setblocking(False)

        def on_heard() -> None:
            if set(heard.recv(4096)) & set(SIGNALS):
                go()

        notifier = QSocketNotifier(heard.fileno(), QSocketNotifier.Type.Read)
        notifier.activated.connect(on_heard)
        before = signal.set_wakeup_fd(ring.fileno(), warn_on_full_buffer=False)
        handlers = {number: signal.signal(number, _go_on) for number in SIGNALS}
        try:
            yield
        finally:
            for number, handler in handlers.items():
                signal.signal(number, handler)
            signal.set_wakeup_fd(before)
            notifier.setEnabled(False)


def _go_on(number: int, frame: FrameType | None) -> None:
    """The byte says it; nothing is to be done within whatever Python runs just now."""
