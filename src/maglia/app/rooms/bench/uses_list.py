"""What uses a part or unit: every place of the piece that names it. Enter goes there."""

from PySide6.QtCore import QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QListView

from maglia.app.lists import Rows
from maglia.app.panel import Panel
from maglia.app.plain_text import Label
from maglia.app.session.session import Session
from maglia.core.edits.spots import Spot
from maglia.core.piece.needed import Use, uses_of


class UsesList(Panel):
    """A list under the form."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.title = Label()
        self.rows: Rows[Use] = Rows(lambda use: use.words)
        self.list = QListView()
        self.list.setModel(self.rows)
        self.list.setAccessibleName("What uses it")
        self.list.setMaximumHeight(140)
        hint = Label("↑ ↓ walk · Enter goes there · Esc leaves")
        hint.setObjectName("quiet")
        self.lay_out(self.title, self.list, hint)
        self.watch(self.list)
        self.list.doubleClicked.connect(lambda _: self.go_there())

    def open_for(self, ref: str) -> None:
        """Every use of a part or unit of the piece."""
        uses = uses_of(self.session.piece, ref)
        count = f"{len(uses)} place{'' if len(uses) == 1 else 's'}"
        self.title.setText(f"{self.session.assembly.things[ref].name} is used in {count}")
        self.rows.show(uses)
        self.list.setCurrentIndex(self.rows.index(0))
        self.show()
        self.list.setFocus()

    def go_there(self) -> None:
        use = self.rows.rows[max(self.list.currentIndex().row(), 0)]
        if use.owner is None:
            self.session.said.emit(f"{use.words}: it stands in no run of its own.")
            return
        self.session.go(Spot(use.owner, use.path))
        self.leave()

    def takes(self, watched: QObject, event: QKeyEvent) -> bool:
        if event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            return False
        self.go_there()
        return True
