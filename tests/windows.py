"""A real window for tests, on whatever session they give it, and hands that work it by keys."""

from PySide6.QtCore import Qt

from maglia.app.desk import Desk
from maglia.app.own_workshop import open_own
from maglia.app.session.session import Session
from maglia.app.settings import Settings
from maglia.app.shell import Shell
from maglia.app.theme import THEMES, load_fonts
from maglia.demo import demo_path, demo_tray


class Hands:
    """A window on the workshop of a file, with one demo piece on the bench, worked by keys."""

    def __init__(self, qtbot, path, name, *, demo=True):
        self.qtbot, self.name = qtbot, name
        self.session = Session(demo_tray())
        self.session.open(demo_path(name), as_copy=True)
        self.window = in_front(qtbot, self.session)
        open_own(self.session, path, self.window.banner, demo=demo)
        self.said = []
        self.session.said.connect(self.said.append)

    @property
    def store(self):
        return self.session.workshop.store

    def press(self, *keys, modifier=Qt.KeyboardModifier.NoModifier):
        for key in keys:
            self.qtbot.keyClick(self.window.focusWidget(), key, modifier)

    def type(self, text):
        self.qtbot.keyClicks(self.window.focusWidget(), text)


def in_front(qtbot, session):
    """A window that has the keyboard, so that shortcuts reach it."""
    load_fonts()
    window = shell(session)
    qtbot.addWidget(window)
    window.resize(1280, 800)
    window.show()
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    return window


def shell(session, keeper=None):
    """A window whose questions are all answered with the second answer: edits are given up."""
    desk = Desk(session, THEMES["felt"], Settings(), keeper)
    desk.ask = lambda words, *answers: 1
    return Shell(desk)
