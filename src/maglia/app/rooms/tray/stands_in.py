"""Where a part or unit stands: the open piece, and pieces that were saved. Enter opens one."""

from __future__ import annotations

from PySide6.QtCore import QRect, Qt, Signal
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QVBoxLayout, QWidget

from maglia.app.lists import RowDelegate, RowList
from maglia.app.plain_text import Label
from maglia.app.session.session import Session
from maglia.app.theme import Theme
from maglia.core.edits.take_over import difference_words
from maglia.core.piece.piece import Wearer, catalogue
from maglia.core.values.record import Value
from maglia.core.workshop.compartments import Kept

HIGH_PX = 22


class Standing(Value, frozen=True):
    """A piece: its words, and its place (none: the one that is open)."""

    words: str
    place: str = ""


class StandsIn(QWidget):
    """Signals: `wanted(str)` the piece of that place is to be opened."""

    wanted = Signal(str)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session = session
        heading = Label("STANDS IN")
        heading.setObjectName("heading")
        self.list: RowList[Standing] = RowList("Stands in", lambda row: row.words, theme)
        self.list.setItemDelegate(_Line(self.list, theme))
        self.list.empty = "No piece that was saved."
        self.list.chosen.connect(self._chosen)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 0)
        column.setSpacing(4)
        column.addWidget(heading)
        column.addWidget(self.list)

    def show_thing(self, thing: Kept) -> None:
        self.setVisible(not isinstance(thing, Wearer))
        if isinstance(thing, Wearer):
            return
        rows = []
        own = catalogue(self.session.piece).get(thing.id)
        if own is not None:
            pairs = (pair for pair in self.session.differing() if pair[0].id == thing.id)
            other = next((difference_words(*pair) for pair in pairs), "")
            words = f"{self.session.piece.name}, open on the bench"
            rows.append(Standing(f"{words}: {other}" if other else words))
        saved = self.session.workshop.pieces_with(thing.id)
        open_now = str(self.session.path.resolve()) if self.session.path else ""
        rows += [Standing(one.name, one.place) for one in saved if one.place != open_now]
        self.list.show_rows(rows)

    def _chosen(self, row: Standing) -> None:
        self.wanted.emit(row.place)

    def set_theme(self, theme: Theme) -> None:
        self.list.set_theme(theme)


class _Line(RowDelegate[Standing]):
    def height(self, row: Standing, width: int) -> int:
        return HIGH_PX

    def draw(self, painter: QPainter, row: Standing, box: QRect) -> None:
        painter.setPen(self.theme.colour("ink"))
        room = box.adjusted(6, 0, -6, 0)
        words = painter.fontMetrics().elidedText(
            row.words, Qt.TextElideMode.ElideRight, room.width()
        )
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter.value, words)
