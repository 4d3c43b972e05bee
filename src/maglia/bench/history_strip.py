"""The history as a strip: every state by what was done. Arrows walk, Space lays a state as a ghost
over the present one, Enter goes back to it. Nothing is lost by looking.
"""

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QListView, QListWidget, QListWidgetItem

from maglia.bench.panel import Panel
from maglia.bench.session import Session

SHOWN = 400


class HistoryStrip(Panel):
    """Signals `compared(Piece)`: lay that state as a ghost."""

    compared = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.list = QListWidget()
        self.list.setFlow(QListView.Flow.LeftToRight)
        self.list.setWrapping(False)
        self.list.setFixedHeight(44)
        self.list.setSpacing(3)
        self.list.setAccessibleName("History")
        self.watch(self.list)
        self.hint = QLabel("← → walk · Space compare · Enter go back there · Esc leave")
        self.hint.setObjectName("quiet")
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 12, 6)
        row.addWidget(self.list, 1)
        row.addWidget(self.hint)
        session.changed.connect(self.refresh)
        self.list.itemActivated.connect(lambda _: self.go_there())

    def refresh(self) -> None:
        if self.isHidden():
            return
        states = self.session.states[-SHOWN:]
        self.list.clear()
        for k, state in enumerate(states):
            item = QListWidgetItem(f"{k + 1}  {state.words}")
            item.setToolTip(state.words)
            self.list.addItem(item)
        first = len(self.session.states) - len(states)
        self.list.setCurrentRow(self.session.now - first)

    def open(self) -> None:
        self.show()
        self.refresh()
        self.list.setFocus()

    def chosen(self) -> int:
        first = max(len(self.session.states) - SHOWN, 0)
        return first + max(self.list.currentRow(), 0)

    def go_there(self) -> None:
        self.session.step(self.chosen() - self.session.now, far=True)
        self.leave()

    def takes(self, watched: QObject, event: QKeyEvent) -> bool:
        if event.key() != Qt.Key.Key_Space:
            return False
        self.compared.emit(self.session.states[self.chosen()].piece)
        return True
