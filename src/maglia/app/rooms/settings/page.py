"""Settings: everything that can be set, on one page, narrowed while one types. What is set acts at
once and can be taken back; what it was and what is usual stand beside it.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any, NamedTuple

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QGridLayout, QLabel, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from maglia.app.desk import Desk
from maglia.app.own_keys import Choice
from maglia.app.plain_text import Label, tip
from maglia.app.rooms.room import Offered, RoomWidget
from maglia.app.rooms.settings.rows import Row, rows_of
from maglia.app.size_box import SizeBox
from maglia.app.theme import scaled
from maglia.app.trade_words import explained
from maglia.core.values.record import DomainError

BOX = 196


class Change(NamedTuple):
    """One thing set otherwise."""

    row: Row
    before: Any
    after: Any


class _Shown(NamedTuple):
    """A row on the page: what it is set by, what it was, and all its widgets."""

    row: Row
    control: SizeBox | Choice
    was: QLabel
    widgets: tuple[QWidget, ...]


class SettingsRoom(RoomWidget):
    """It has a history of its own: undo and redo are of what is set."""

    def __init__(self, desk: Desk, offers: Callable[[str], list[Offered]]) -> None:
        super().__init__(desk)
        del offers
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.done: list[Change] = []
        self.undone: list[Change] = []
        self.shown: dict[str, _Shown] = {}
        self.headings: list[tuple[QLabel, str]] = []
        self.line = QLineEdit()
        self.line.setPlaceholderText("narrow: rings, minutes, text, glue …")
        self.line.setAccessibleName("Narrow the settings")
        self.line.textChanged.connect(self.narrow)
        self.none = Label("Nothing here is called that. Clear the line to see all of it again.")
        self.none.setObjectName("quiet")
        self.none.hide()
        inner = QWidget()
        inner.setObjectName("panel")
        self.grid = QGridLayout(inner)
        self.grid.setContentsMargins(0, 0, 8, 0)
        self.grid.setHorizontalSpacing(12)
        self.grid.setVerticalSpacing(4)
        self._fill()
        self.grid.setColumnStretch(0, 1)
        self.grid.setColumnMinimumWidth(4, scaled(70))
        self.grid.setRowStretch(self.grid.rowCount(), 1)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setWidget(inner)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        title = Label("Settings")
        title.setObjectName("pieceName")
        hint = Label(
            "Everything acts at once, and Ctrl+Z takes it back. Cleared, a figure is the usual one "
            "again. A check names the custom it goes by; geometry is nobody's to change."
        )
        hint.setObjectName("quiet")
        hint.setWordWrap(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 12, 8)
        column.setSpacing(8)
        for widget in (title, hint, self.line, self.none, self.area):
            column.addWidget(widget, 1 if widget is self.area else 0)
        self.line.installEventFilter(self)
        desk.session.workshop.changed.connect(self.refresh)
        desk.settled.connect(lambda _: self.refresh())

    def _fill(self) -> None:
        group = ""
        for row in rows_of(self.desk):
            if row.group != group:
                group = row.group
                heading = Label(group.upper())
                heading.setObjectName("heading")
                heading.setContentsMargins(0, 8 if self.headings else 0, 0, 0)
                self.grid.addWidget(heading, self.grid.rowCount(), 0, 1, 5)
                self.headings.append((heading, group))
            self._add(row)

    def _add(self, row: Row) -> None:
        at = self.grid.rowCount()
        control = self._choice(row) if row.choices is not None else self._box(row)
        control.installEventFilter(self)
        words, unit, was = Label(row.words), Label(row.unit), Label()
        words.setWordWrap(True)
        words.setBuddy(control)
        usual = Label(f"usual: {row.said(row.usual)}")
        reason = Label(f"{row.reason} · {row.ground}" if row.ground else row.reason)
        reason.setWordWrap(True)
        for quiet in (unit, was, usual, reason):
            quiet.setObjectName("quiet")
        said = QWidget()
        said.setToolTip(tip(explained(f"{row.words} {row.reason}")))
        below = QVBoxLayout(said)
        below.setContentsMargins(0, 2, 0, 4)
        below.setSpacing(0)
        below.addWidget(words)
        below.addWidget(reason)
        made = (said, control, unit, usual, was)
        for column, widget in enumerate(made):
            self.grid.addWidget(widget, at, column)
        self.shown[row.id] = _Shown(row, control, was, made)

    def _box(self, row: Row) -> SizeBox:
        box = SizeBox(f"{row.group}: {row.words}", partial(self._take, row))
        box.setFixedWidth(scaled(BOX))
        box.refused.connect(self.desk.say)
        box.setAccessibleDescription(row.reason)
        return box

    def _choice(self, row: Row) -> Choice:
        choice = Choice()
        choice.setObjectName("size")
        choice.setFixedWidth(scaled(BOX))
        choice.setAccessibleName(f"{row.group}: {row.words}")
        choice.setAccessibleDescription(row.reason)
        assert row.choices is not None
        for value, words in row.choices.items():
            choice.addItem(words, value)
        choice.activated.connect(lambda _: self.set(row, choice.currentData()))
        return choice

    # --- setting ------------------------------------------------------------------------------

    def _take(self, row: Row, text: str) -> None:
        self.set(row, row.usual if not text else row.parsed(text))

    def set(self, row: Row, value: Any) -> None:
        """Set a row otherwise; nothing happens if it is so already. Raises DomainError."""
        before = row.read()
        if value == before:
            return
        row.write(value)
        self.done.append(Change(row, before, row.read()))
        self.undone.clear()
        self.refresh()
        self.desk.say(f"{row.group}: {row.words} {row.said(value)}; it was {row.said(before)}.")

    def can_step(self, by: int) -> bool:
        return bool(self.done if by < 0 else self.undone)

    def step(self, by: int) -> None:
        source, target = (self.done, self.undone) if by < 0 else (self.undone, self.done)
        if not source:
            raise DomainError("nothing was set here that could be taken back" if by < 0
                              else "nothing was taken back here")  # fmt: skip
        change = source[-1]
        value = change.before if by < 0 else change.after
        change.row.write(value)  # what is refused stays to be taken back later
        target.append(source.pop())
        self.refresh()
        self.desk.say(f"{change.row.words}: {change.row.said(value)} again.")

    # --- showing ------------------------------------------------------------------------------

    def enter(self) -> None:
        self.refresh()
        self.line.setFocus()
        self.line.selectAll()

    @property
    def greeting(self) -> str:
        return "Type to narrow · ↓ to the first · ← → choose · Enter sets · Esc leaves"

    def refresh(self) -> None:
        latest = {change.row.id: change for change in self.done}
        for name, (row, control, was, _) in self.shown.items():
            value = row.read()
            if isinstance(control, Choice):
                control.setCurrentIndex(max(control.findData(value), 0))
            else:
                control.show_figure(row.shown(value))
            was.setText(f"was {row.said(latest[name].before)}" if name in latest else "")
            control.setAccessibleDescription(f"{row.reason}. {was.text()}".strip())

    def narrow(self, text: str) -> None:
        words = text.lower().split()
        groups = set()
        for row, _, _, widgets in self.shown.values():
            fits = all(word in row.hay for word in words)
            if fits:
                groups.add(row.group)
            for widget in widgets:
                widget.setVisible(fits)
        for heading, group in self.headings:
            heading.setVisible(group in groups)
        self.none.setVisible(not groups)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.KeyPress:
            return False
        key = event.key()
        in_line = watched is self.line
        if key == Qt.Key.Key_Escape and in_line and self.line.text():
            self.line.clear()
            return True
        if isinstance(watched, Choice) and key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            by = 1 if key == Qt.Key.Key_Right else -1
            watched.setCurrentIndex((watched.currentIndex() + by) % watched.count())
            watched.activated.emit(watched.currentIndex())
            return True
        steps = key in (Qt.Key.Key_Down, Qt.Key.Key_Up) and not event.modifiers()
        if steps or (in_line and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter)):
            self.focusNextPrevChild(key != Qt.Key.Key_Up)
            if isinstance(focused := self.focusWidget(), QWidget):
                self.area.ensureWidgetVisible(focused, 0, 40)
            return True
        return False

    def escape(self) -> None:
        self.desk.room_wanted.emit("")

    def leave_line(self) -> None:
        self.line.clear()
