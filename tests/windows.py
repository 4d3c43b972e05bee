"""A real window for tests, on whatever session they give it."""

from maglia.app.desk import Desk
from maglia.app.settings import Settings
from maglia.app.shell import Shell
from maglia.app.theme import THEMES


def shell(session, keeper=None):
    """A window that asks nothing when it closes."""
    desk = Desk(session, THEMES["felt"], Settings(), keeper)
    desk.may_leave = lambda save: True
    return Shell(desk)
