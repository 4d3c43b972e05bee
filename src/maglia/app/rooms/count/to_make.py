"""What is to be made: the pieces of the day with how many of each, and a line to find another."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QIcon, QKeyEvent, QShowEvent
from PySide6.QtWidgets import QLineEdit, QListView

from maglia.app.jobs import Jobs
from maglia.app.lists import Rows
from maglia.app.painting.small import draw_small
from maglia.app.panel import Panel, drawn_icon
from maglia.app.pictures import Pictures
from maglia.app.plain_text import Label
from maglia.app.session.day import Day, Entry, letter_of
from maglia.core.piece.piece import Piece
from maglia.core.report import Findings
from maglia.core.values.record import Value

MOST_SHOWN = 4
ICON = QSize(44, 30)


class Found(Value, frozen=True):
    """A piece that may be added: its name and where it lies."""

    name: str
    place: Path


class ToMake(Panel):
    """Keys on the list: + − Del. Signal `wanted(Path)`: a piece to add."""

    wanted = Signal(object)

    def __init__(self, day: Day, jobs: Jobs) -> None:
        super().__init__()
        self.day = day
        self.pictures = Pictures(jobs, "day", self)
        self.pictures.hung.connect(self.on_hung)
        self.icons: dict[str, QIcon] = {}
        blank = drawn_icon(ICON, 1.0, lambda _: None)  # keeps the room of what is still to be drawn
        self.found: tuple[Found, ...] = ()
        self.rows: Rows[Entry] = Rows(self._words, lambda entry: self.icons.get(_key(entry), blank))
        self.list = QListView()
        self.list.setModel(self.rows)
        self.list.setIconSize(ICON)
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
        at = self.day.entries.index(entry)
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
        if self.isVisible():
            self._ask_pictures()

    # --- how the pieces look ----------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._ask_pictures()

    def _ask_pictures(self) -> None:
        pieces = {_key(entry): entry.piece for entry in self.day.entries}
        self.icons = {key: icon for key, icon in self.icons.items() if key in pieces}
        self.pictures.known = {key: found for key, found in self.pictures.known.items()
                               if key in pieces}  # fmt: skip
        self.pictures.ask([(key, partial(_as_it_is, piece)) for key, piece in pieces.items()
                           if key not in self.icons])  # fmt: skip

    def on_hung(self, key: str, found: Findings) -> None:
        box = QRectF(1, 1, ICON.width() - 2, ICON.height() - 2)
        self.icons[key] = drawn_icon(ICON, self.devicePixelRatioF(),
                                     lambda painter: draw_small(painter, found, box))  # fmt: skip
        self.list.viewport().update()

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


def _key(entry: Entry) -> str:
    """Of a piece as it stands: when it is edited it is drawn anew."""
    return f"{entry.piece.id} {hash(entry.piece)}"


def _as_it_is(piece: Piece) -> Piece:
    return piece
