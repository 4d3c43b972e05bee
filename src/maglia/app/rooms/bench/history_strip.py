"""The history as a strip: every state by what was done. Arrows walk, Space lays a state as a ghost
over the present one, Enter goes back to it. Nothing is lost by looking.
"""

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QListView

from maglia.app.lists import Rows
from maglia.app.panel import Panel
from maglia.app.plain_text import Label
from maglia.app.session.session import Session

SHOWN = 400
"""States in the strip at most; older ones are reached by undoing."""


class HistoryStrip(Panel):
    """Signals `compared(Piece)`: lay that state as a ghost."""

    compared = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.rows: Rows[tuple[int, str]] = Rows(lambda row: f"{row[0]}  {row[1]}")
        self.list = QListView()
        self.list.setModel(self.rows)
        self.list.setFlow(QListView.Flow.LeftToRight)
        self.list.setWrapping(False)
        self.list.setFixedHeight(44)
        self.list.setSpacing(3)
        self.list.setAccessibleName("History")
        self.watch(self.list)
        self.hint = Label("← → walk · Space compare · Enter go back there · Esc leave")
        self.hint.setObjectName("quiet")
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 12, 6)
        row.addWidget(self.list, 1)
        row.addWidget(self.hint)
        session.changed.connect(self.refresh)
        self.list.activated.connect(lambda _: self.go_there())

    def refresh(self) -> None:
        if self.isHidden():
            return
        history = self.session.history
        states = history.states[-SHOWN:]
        self.rows.show([(k, state.words) for k, state in enumerate(states, 1)])
        first = len(history.states) - len(states)
        self.list.setCurrentIndex(self.rows.index(history.now - first))

    def open(self) -> None:
        self.show()
        self.refresh()
        self.list.setFocus()

    def chosen(self) -> int:
        first = max(len(self.session.history.states) - SHOWN, 0)
        return first + max(self.list.currentIndex().row(), 0)

    def go_there(self) -> None:
        self.session.step(self.chosen() - self.session.history.now, far=True)
        self.leave()

    def takes(self, watched: QObject, event: QKeyEvent) -> bool:
        if event.key() != Qt.Key.Key_Space:
            return False
        self.compared.emit(self.session.history.states[self.chosen()].piece)
        return True
