"""What is to be made: the pieces of the day with how many of each, and a line to find another."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLineEdit, QListView

from maglia.app.lists import Rows
from maglia.app.panel import Panel
from maglia.app.plain_text import Label
from maglia.app.session.day import Day, Entry, letter_of
from maglia.core.values.record import Value

MOST_SHOWN = 6


class Found(Value, frozen=True):
    """A piece that may be added: its name and where it lies."""

    name: str
    place: Path


class ToMake(Panel):
    """Keys on the list: + − Del. Signal `wanted(Path)`: a piece to add."""

    wanted = Signal(object)

    def __init__(self, day: Day) -> None:
        super().__init__()
        self.day = day
        self.found: tuple[Found, ...] = ()
        self.rows: Rows[Entry] = Rows(self._words)
        self.list = QListView()
        self.list.setModel(self.rows)
        self.list.setAccessibleName("To make")
        self.choices: Rows[Found] = Rows(lambda one: one.name)
        self.choose = QListView()
        self.choose.setModel(self.choices)
        self.choose.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.choose.setAccessibleName("Pieces")
        self.line = QLineEdit()
        self.line.setAccessibleName("Another piece")
        self.line.setPlaceholderText("letters narrow the list · ↑ ↓ · Enter adds it · Esc")
        self.title = Label("To make")
        self.title.setObjectName("pieceName")
        self.lay_out(self.title, self.list, self.line, self.choose)
        self.watch(self.list, self.line)
        self.line.textChanged.connect(self.narrow)
        self.choose.doubleClicked.connect(lambda _: self.take())
        day.changed.connect(self.refresh)
        day.found.connect(self.refresh_title)
        self.close_line()

    def _words(self, entry: Entry) -> str:
        at = next(k for k, one in enumerate(self.day.entries) if one.piece.id == entry.piece.id)
        words = f"{letter_of(at)}   {entry.piece.name}   × {entry.copies}"
        made = [f"{entry.begun} in the making"] if entry.begun else []
        made += [f"{entry.ended} made"] if entry.ended else []
        return "   ·   ".join([words, *made])

    def refresh(self) -> None:
        at = max(self.list.currentIndex().row(), 0)
        self.rows.show(self.day.entries)
        self.list.setCurrentIndex(self.rows.index(min(at, self.rows.rowCount() - 1)))
        shown = min(max(self.rows.rowCount(), 1), MOST_SHOWN)
        self.list.setFixedHeight(10 + shown * max(self.list.sizeHintForRow(0), 22))
        self.refresh_title()

    def refresh_title(self) -> None:
        day, state = self.day, []
        if day.laid_out:
            state.append("laid out")
        if day.others:
            also = "also " if day.laid_out else ""
            state.append(f"{day.others} other day{'s' if day.others > 1 else ''} {also}laid out: D")
        if day.is_old:
            state.append("! older than the piece or the stock: it is counted anew")
        self.title.setText(" · ".join(["To make", *state]))

    @property
    def at(self) -> int:
        return self.list.currentIndex().row()

    # --- another piece ----------------------------------------------------------------------------

    def open_line(self, found: tuple[Found, ...]) -> None:
        self.found = found
        self.line.clear()
        self.line.show()
        self.choose.show()
        self.choose.setFixedHeight(150)
        self.narrow()
        self.line.setFocus()

    def close_line(self) -> None:
        self.line.hide()
        self.choose.hide()

    def narrow(self) -> None:
        letters = self.line.text().lower().split()
        self.choices.show([one for one in self.found
                           if all(word in one.name.lower() for word in letters)])  # fmt: skip
        self.choose.setCurrentIndex(self.choices.index(0))

    def take(self) -> None:
        row = self.choose.currentIndex().row()
        if 0 <= row < self.choices.rowCount():
            self.wanted.emit(self.choices.rows[row].place)
            self.line.clear()

    def leave(self) -> None:
        if self.line.isVisible():
            self.close_line()
            self.list.setFocus()
        else:
            self.day.stop()

    def takes(self, watched: QObject, event: QKeyEvent) -> bool:
        key = event.key()
        five = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if watched is self.line:
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.take()
            elif key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
                row = self.choose.currentIndex().row() + (1 if key == Qt.Key.Key_Down else -1)
                row = min(max(row, 0), self.choices.rowCount() - 1)
                self.choose.setCurrentIndex(self.choices.index(row))
            else:
                return False
            return True
        if self.at < 0:
            return False
        if key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            do = partial(self.day.more, self.at, 5 if five and key == Qt.Key.Key_Plus else 1)
        elif key in (Qt.Key.Key_Minus, Qt.Key.Key_Underscore):
            do = partial(self.day.more, self.at, -5 if five else -1)
        else:
            return False
        do()
        return True
