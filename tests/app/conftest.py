"""The real window, offscreen, on a piece of the demo."""

import pytest

from maglia.app.session.session import Session
from maglia.app.theme import load_fonts
from maglia.demo import demo_path, demo_tray
from windows import shell


class Bench:
    """Drives a window as a maker would: by keys. `room` is the Bench in it."""

    def __init__(self, qtbot, window):
        self.qtbot, self.window, self.session = qtbot, window, window.session
        self.room, self.desk = window.room, window.desk

    def press(self, *keys, modifier=None):
        from PySide6.QtCore import Qt

        for key in keys:
            target = self.window.focusWidget()
            self.qtbot.keyClick(target, key, modifier or Qt.KeyboardModifier.NoModifier)

    def type(self, text):
        for letter in text:
            self.qtbot.keyClicks(self.window.focusWidget(), letter)

    def insert(self, text):
        """Enter, a phrase, Enter; in the line that is open already what stands there is left."""
        from PySide6.QtCore import Qt

        if self.room.insert.isVisible():
            self.room.insert.line.clear()
        else:
            self.press(Qt.Key.Key_Return)
        self.type(text)
        self.press(Qt.Key.Key_Return)

    def settled(self):
        """Wait for the results of the piece as it is now."""
        self.qtbot.waitUntil(lambda: self.session.at_rest, timeout=15_000)
        return self.session.findings


@pytest.fixture
def bench(qtbot):
    load_fonts()
    session = Session(demo_tray())
    session.open(demo_path(), as_copy=True)
    window = shell(session)
    qtbot.addWidget(window)
    window.resize(1280, 800)
    window.show()
    qtbot.waitExposed(window)
    window.room.rule.setFocus()
    made = Bench(qtbot, window)
    made.settled()
    yield made
    session.finish()
