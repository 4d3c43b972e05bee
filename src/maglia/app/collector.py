"""Python's collector, kept in the interface thread.

Left to itself it runs in whatever thread is at work, and could end a Qt object in a worker's while
Qt still sends it events. So the window switches it off and collects here, between events.
"""

import gc

from PySide6.QtCore import QObject, QTimer

EVERY_MS = 1000
YOUNG = 50_000
"""New objects that are worth a look; pieces and assemblies are trees and go without one."""
ALL_EVERY = 60
"""Looks at the young ones after which everything is looked through once."""


class Collector(QObject):
    """Collects as long as it lives; there is one a window."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.disable()
        self._looks = 0
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.look)
        self._timer.start(EVERY_MS)

    def look(self) -> None:
        if gc.get_count()[0] < YOUNG:
            return
        self._looks += 1
        gc.collect(2 if self._looks % ALL_EVERY == 0 else 1)
