"""What is in the making, and what can be begun."""

from __future__ import annotations

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLabel, QListView, QSizePolicy

from maglia.app.lists import Rows
from maglia.app.panel import Panel
from maglia.app.session.session import Session
from maglia.core.values.record import Value


class Begun(Value, frozen=True):
    """A line of the list: its words, and the build it opens; None begins the open piece."""

    words: str
    build: int | None = None


class BuildsList(Panel):
    """Signals `begin_wanted()` · `open_wanted(int)`."""

    begin_wanted = Signal()
    open_wanted = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.title = QLabel("In the making")
        self.title.setObjectName("pieceName")
        self.rows: Rows[Begun] = Rows(lambda row: row.words)
        self.list = QListView()
        self.list.setModel(self.rows)
        self.list.setAccessibleName("In the making")
        self.list.setSpacing(2)
        self.list.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.hint = QLabel("↑ ↓ choose · Enter begins it, or goes on where it lies")
        self.hint.setObjectName("quiet")
        self.lay_out(self.title, self.list, self.hint)
        self.watch(self.list)
        self.list.activated.connect(lambda _: self.take())
        session.changed.connect(self.refresh)
        session.workshop.changed.connect(self.refresh)

    def refresh(self) -> None:
        if self.isHidden():
            return
        piece = self.session.piece
        rows = []
        if piece.owners:
            rows.append(Begun(f"Begin  {piece.name}"))
        for one in self.session.builds.listed():
            minutes = int(one.seconds // 60)
            state = "finished" if one.ended else f"{one.marks} done"
            day = one.begun[:16].replace("T", " ")
            rows.append(Begun(f"{one.name}  ·  {state}  ·  begun {day}  ·  "
                              f"{minutes // 60}:{minutes % 60:02d}", one.id))  # fmt: skip
        self.rows.show(rows)
        self.hint.setText("↑ ↓ choose · Enter begins it, or goes on where it lies" if rows else
                          "An empty bench: put a piece together there first (Ctrl+2).")  # fmt: skip
        self.list.setCurrentIndex(self.rows.index(0))

    def open(self) -> None:
        self.show()
        self.refresh()
        self.list.setFocus()

    def take(self) -> None:
        row = self.list.currentIndex().row()
        if not 0 <= row < self.rows.rowCount():
            return
        chosen = self.rows.rows[row]
        if chosen.build is None:
            self.begin_wanted.emit()
        else:
            self.open_wanted.emit(chosen.build)

    def takes(self, watched: QObject, event: QKeyEvent) -> bool:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.take()
            return True
        return False
