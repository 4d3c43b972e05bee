"""Calling things otherwise: what the cursor stands on can be a run, a part or a unit; arrows choose
which, the line holds its name, Enter takes the new one.
"""

from collections.abc import Callable

from PySide6.QtCore import QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLineEdit, QListView

from maglia.app.lists import Rows
from maglia.app.panel import Panel
from maglia.app.plain_text import Label
from maglia.app.session.session import Session
from maglia.core.edits.rename import piece_renamed, run_renamed, thing_renamed
from maglia.core.edits.spots import Edited, Spot
from maglia.core.values.record import DomainError, Value


class Named(Value, frozen=True):
    """Something that has a name: what it is, the name, and the edit that gives it another."""

    what: str
    name: str
    renamed: Callable[[str], Edited]


class NameLine(Panel):
    """A line under the form, with what can be called otherwise above it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.rows: Rows[Named] = Rows(lambda row: f"{row.what}  {row.name}")
        self.list = QListView()
        self.list.setModel(self.rows)
        self.list.setAccessibleName("What to call otherwise")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.setMaximumHeight(96)
        self.line = QLineEdit()
        self.line.setAccessibleName("Its new name")
        self.line.setMaxLength(120)
        hint = Label("↑ ↓ choose what · write its name · Enter takes it, everything follows · Esc")
        hint.setObjectName("quiet")
        self.lay_out(self.list, self.line, hint)
        self.watch(self.line)
        self.list.clicked.connect(lambda _: self.on_chosen())

    def open_at_cursor(self) -> None:
        """The run under the cursor, and the part or unit that stands there."""
        spot = self.session.spot
        if spot is None:
            raise DomainError("there is nothing under the cursor yet; Shift+F2 names the piece")
        self._open([*self._things(spot), self._run(spot)])

    def open_for_piece(self) -> None:
        piece = self.session.piece
        self._open([Named("the piece", piece.name, lambda text: piece_renamed(piece, text))])

    def _run(self, spot: Spot) -> Named:
        piece = self.session.piece

        def renamed(text: str) -> Edited:
            done = run_renamed(piece, spot.owner, text)
            return Edited(done.piece, done.words, Spot(" ".join(text.split()), spot.path))

        kind = "run" if piece.run(spot.owner) else "row"
        return Named(f"the {kind}", spot.owner, renamed)

    def _things(self, spot: Spot) -> list[Named]:
        piece, things = self.session.piece, self.session.assembly.things
        refs: dict[str, None] = {}
        for member in self.session.members_at(spot):
            refs |= dict.fromkeys(ref for ref in (member.made_in, member.ref) if ref)

        def renamer(ref: str) -> Callable[[str], Edited]:
            return lambda text: thing_renamed(piece, ref, text)

        return [Named(f"the {things[r].kind}", things[r].name, renamer(r)) for r in refs]

    def _open(self, rows: list[Named]) -> None:
        self.rows.show(rows)
        self.list.setVisible(len(rows) > 1)
        self.show()
        self.choose(0)
        self.line.setFocus()

    def choose(self, row: int) -> None:
        self.list.setCurrentIndex(self.rows.index(min(max(row, 0), self.rows.rowCount() - 1)))
        self.on_chosen()

    def on_chosen(self) -> None:
        self.line.setText(self.current().name)
        self.line.selectAll()

    def current(self) -> Named:
        return self.rows.rows[max(self.list.currentIndex().row(), 0)]

    def takes(self, watched: QObject, event: QKeyEvent) -> bool:
        key = event.key()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.take()
        elif key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            self.choose(self.list.currentIndex().row() + (1 if key == Qt.Key.Key_Down else -1))
        else:
            return False
        return True

    def take(self) -> None:
        named, text = self.current(), self.line.text()
        if text.strip() == named.name or self.session.attempt(lambda: named.renamed(text)):
            self.leave()
        else:
            self.line.selectAll()
