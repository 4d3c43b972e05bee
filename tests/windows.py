"""A real window for tests, on whatever session they give it."""

from maglia.app.desk import Desk
from maglia.app.settings import Settings
from maglia.app.shell import Shell
from maglia.app.theme import THEMES, load_fonts


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
