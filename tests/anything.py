"""A window driven at random: keys, phrases, actions and the mouse, seeded."""

from PySide6.QtCore import QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QWidget

from faults import reworded
from maglia.demo import demo_names, demo_path

KEY = Qt.Key
KEYS = (
    *(KEY.Key_Left, KEY.Key_Right, KEY.Key_Up, KEY.Key_Down, KEY.Key_Home, KEY.Key_End) * 3,
    *(KEY.Key_Plus, KEY.Key_Minus) * 4,
    *(KEY.Key_Tab, KEY.Key_Backtab, KEY.Key_Return, KEY.Key_Escape, KEY.Key_Escape),
    *(KEY.Key_Delete, KEY.Key_Backspace, KEY.Key_Space, KEY.Key_PageDown, KEY.Key_F2),
    *(KEY(ord(letter)) for letter in "ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789"),
)
MODIFIERS = (Qt.KeyboardModifier.NoModifier,) * 6 + (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
)
PHRASES = (
    "rolo", "4 ring 4", "drop teal", "drops every 6 amber", "hem V 12", "new link amber + amber",
    "tiers first 40 gaps 25", "length to collar", "strand 60 rolo", "swag from 4 to 12", "clasp",
    "extender rolo 10", "fall of Tier 2 60", "12", "“", "-5", "", "rings", "charm", "nested 20",
)  # fmt: skip
NOT_DONE = {"leave", "open-beside", "make-printer", "count-printer"}
"""Actions that end the window, begin another or hand to a printer."""
ROOMS = ("tray", "bench", "bench", "bench", "count", "make", "make", "log", "settings")


class Anything:
    """Does one thing after another with a window whose dialogs are answered by themselves."""

    def __init__(self, window, random):
        self.window, self.random, self.done = window, random, []
        self._closer = QTimer(window)  # a menu that was opened waits for an answer
        self._closer.timeout.connect(close_menus)
        self._closer.start(50)

    def begin_again(self):
        self.done.clear()
        name = self.random.choice(demo_names())
        self.window.session.open(demo_path(name), as_copy=True)

    def one(self):
        act = self.random.choice(
            (self.press,) * 12 + (self.say, self.act, self.click, self.turn) * 2 + (self.walk,)
        )
        self.done.append(act.__name__)
        act()

    def press(self):
        key, modifier = self.random.choice(KEYS), self.random.choice(MODIFIERS)
        if modifier == Qt.KeyboardModifier.ControlModifier and key in (
            KEY.Key_Q, KEY.Key_O, KEY.Key_S, KEY.Key_E, KEY.Key_P,
        ):  # fmt: skip
            return
        self.done[-1] += f" {key.name} {modifier.name}"
        QTest.keyClick(self._focus(), key, modifier)

    def walk(self):
        room = self.random.choice(ROOMS)
        self.done[-1] += f" {room}"
        self.window.show_room(room)

    def say(self):
        phrase = reworded(self.random.choice(PHRASES), self.random)
        self.done[-1] += f" {phrase!r}"
        lines = [own for own in self.window.room.findChildren(QLineEdit)
                 if own.isVisible() and own.isEnabled()]  # fmt: skip
        if hasattr(self.window.room, "rule"):
            self.window.room.rule.setFocus()
            QTest.keyClick(self._focus(), KEY.Key_Return)
        elif lines:
            self.random.choice(lines).setFocus()
        QTest.keyClicks(self._focus(), phrase.encode("ascii", "replace").decode())
        QTest.keyClick(self._focus(), KEY.Key_Return)

    def act(self):
        known = [one for one in self.window._all_actions() if one[0].id not in NOT_DONE]
        action, where = self.random.choice(known)
        self.done[-1] += f" {action.id}"
        if action.enabled(where):
            self.window.do(action, where)

    def click(self):
        widget, at = self._somewhere()
        double = self.random.random() < 0.1
        (QTest.mouseDClick if double else QTest.mouseClick)(
            widget, Qt.MouseButton.LeftButton, pos=at
        )
        if self.random.random() < 0.3:
            QTest.mousePress(widget, Qt.MouseButton.LeftButton, pos=at)
            other = at + QPoint(self.random.randint(-60, 60), self.random.randint(-60, 60))
            QTest.mouseMove(widget, other)
            QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, pos=other)

    def turn(self):
        widget, at = self._somewhere()
        event = QWheelEvent(
            QPointF(at), QPointF(widget.mapToGlobal(at)), QPoint(),
            QPoint(0, 120 * self.random.choice((-3, -1, 1, 3))), Qt.MouseButton.NoButton,
            self.random.choice(MODIFIERS), Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(widget, event)

    def _somewhere(self):
        known = [self.window.room, *self.window.room.findChildren(QWidget)]
        widget = self.random.choice([own for own in known if own.isVisible()])
        size = widget.size()
        return widget, QPoint(
            self.random.randrange(max(size.width(), 1)),
            self.random.randrange(max(size.height(), 1)),
        )

    def _focus(self):
        """What has the focus; the guide and other windows are closed first."""
        for other in QApplication.topLevelWidgets():
            if other is not self.window and other.isVisible() and other.isWindow():
                other.close()
        return QApplication.focusWidget() or self.window.focusWidget() or self.window


def close_menus():
    if popup := QApplication.activePopupWidget():
        popup.close()


def back_to_the_start(session):
    """Undo all. Returns the piece there, and the one the history began with."""
    first = session.history.states[0].piece
    while session.history.can_step(-1):
        session.step(-1)
    return session.piece, first
