"""What is in the making, and what can be begun, each with its picture and where it stands."""

from __future__ import annotations

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QListView, QVBoxLayout, QWidget

from maglia.app.hung_picture import HungPicture
from maglia.app.lists import Rows
from maglia.app.panel import Panel
from maglia.app.plain_text import Label
from maglia.app.session.build_words import how_far, what_it_takes
from maglia.app.session.session import Session
from maglia.app.theme import Theme
from maglia.core.piece.piece import Piece
from maglia.core.values.record import DomainError, Value

HINT = "↑ ↓ choose · Enter begins it, or goes on where it lies · all that is made: Ctrl+5"
EMPTY = "Nothing is in the making, and the bench is empty: put a piece together there (Ctrl+2)."
LIST_WIDTH = 520
LATEST = 6  # of those that are made; the log has all of them


class Begun(Value, frozen=True):
    """A line of the list: its words, and the build it opens; None begins the open piece."""

    words: str
    build: int | None = None


class BuildsList(Panel):
    """Signals `begin_wanted()` · `open_wanted(int)`."""

    begin_wanted = Signal()
    open_wanted = Signal(int)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session = session
        self.rows: Rows[Begun] = Rows(lambda row: row.words)
        self.list = QListView()
        self.list.setModel(self.rows)
        self.list.setAccessibleName("In the making")
        self.list.setSpacing(3)
        self.picture = HungPicture(session.jobs, "builds", theme)
        self.facts = Label()
        self.facts.setWordWrap(True)
        self.facts.setAccessibleName("How far it is")
        self.hint = Label(HINT)
        self.hint.setObjectName("quiet")
        self.hint.setWordWrap(True)
        self._bench = ""
        """The piece for which one was chosen."""
        self.last: int | None = None
        """The build that was chosen or opened last; None for one that is begun anew."""
        self._compose()
        self.watch(self.list)
        self.list.activated.connect(lambda _: self.take())
        self.list.selectionModel().currentChanged.connect(lambda *_: self.on_row())
        session.changed.connect(self.refresh)
        session.workshop.changed.connect(self.refresh)

    def _compose(self) -> None:
        title = Label("In the making")
        title.setObjectName("pieceName")
        self.side = QWidget()
        self.side.setFixedWidth(LIST_WIDTH)
        column = QVBoxLayout(self.side)
        column.setContentsMargins(16, 14, 16, 10)
        column.setSpacing(10)
        for widget in (title, self.list, self.facts, self.hint):
            column.addWidget(widget, 1 if widget is self.list else 0)
        across = QHBoxLayout(self)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(0)
        across.addWidget(self.picture, 1)
        across.addWidget(self.side)

    def set_theme(self, theme: Theme) -> None:
        self.picture.set_theme(theme)

    def refresh(self) -> None:
        if self.isHidden():
            return
        piece = self.session.piece
        rows = [Begun(f"Begin {piece.name}")] if piece.owners else []
        made = self.session.builds.listed()
        own = [b for b in made if not b.ended and b.piece_id == piece.id]
        others = [b for b in made if not b.ended and b.piece_id != piece.id]
        for one in [*own, *others, *[b for b in made if b.ended][:LATEST]]:
            how = "given up" if one.given_up else "finished" if one.ended else "begun"
            state = f"{how} {_day(one.ended or one.begun)}"
            bench = "on the bench · " if one in own else ""
            words = f"{one.name} · build {one.id} · {bench}{state} · {_clock(one.seconds)}"
            rows.append(Begun(words, one.id))
        if self._bench != piece.id:  # another piece: what goes on of it, else it is begun
            self._bench, self.last = piece.id, own[0].id if own else None
        at = next((k for k, row in enumerate(rows) if row.build == self.last), 0)
        self.rows.show(rows)
        self.hint.setText(HINT if rows else EMPTY)
        self.list.setCurrentIndex(self.rows.index(at))
        self.on_row()

    def open(self) -> None:
        self.show()
        self.refresh()
        self.list.setFocus()

    @property
    def chosen(self) -> Begun | None:
        row = self.list.currentIndex().row()
        return self.rows.rows[row] if 0 <= row < self.rows.rowCount() else None

    def on_row(self) -> None:
        """The chosen one is shown as it hangs, and said how far it is."""
        chosen = self.chosen
        self.last = chosen.build if chosen else self.last
        self.facts.setText("")
        if chosen is None:
            self.picture.show_piece(None)
            return
        try:
            piece, words = self._piece_of(chosen)
        except DomainError as fault:
            self.facts.setText(f"{str(fault)[0].upper()}{str(fault)[1:]}.")
            self.picture.show_piece(None)
            return
        self.facts.setText(words)
        self.picture.show_piece(piece)

    def _piece_of(self, chosen: Begun) -> tuple[Piece, str]:
        builds, piece = self.session.builds, self.session.piece
        store = builds.workshop.store
        if chosen.build is None or store is None:
            return piece, what_it_takes(piece, builds.working, builds.unit, store)
        return how_far(store, chosen.build, builds.unit)

    def take(self) -> None:
        chosen = self.chosen
        if chosen is None:
            return
        if chosen.build is None:
            self.begin_wanted.emit()
        else:
            self.open_wanted.emit(chosen.build)

    def takes(self, watched: QObject, event: QKeyEvent) -> bool:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.take()
            return True
        return False

    def leave(self) -> None:
        """There is nothing behind it: Escape leaves it as it is."""


def _day(at: str) -> str:
    return at[:16].replace("T", " ")


def _clock(seconds: float) -> str:
    minutes = int(seconds // 60)
    return f"{minutes // 60}:{minutes % 60:02d}"
